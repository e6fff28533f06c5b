"""What is seen of a flat figure: its outline on the light table is a line, and what is picked is what is seen on top."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from bovrin import script as bv
from bovrin.picture.item import Ghost, items_at
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Shot

SIZE = (400, 400)


@cache
def heron() -> Shot:
    shot = bv.add_figure(Shot("The heron"), "cast:heron")
    return bv.swap(bv.key_pose(shot, "heron", 101), "heron", "near wing", 110, "spread")


def alpha(ghosts: tuple[Ghost, ...], view: str) -> np.ndarray:
    style = PictureStyle(backdrop=None, shadow=False, fine=False)
    items = [] if ghosts else items_at(heron(), 110)
    return shared_renderer().draw(items, VIEWS[view], SIZE, style, ghosts)[..., 3] > 128


@pytest.mark.parametrize("view", ["front", "three-quarter"])
def test_a_ghost_is_an_outline(view: str) -> None:
    inside = alpha((), view)
    ghost = alpha((Ghost(items_at(heron(), 110)[0], (0.2, 0.3, 0.8), 1.0),), view)
    assert ghost.any() and (ghost & inside).sum() < 0.06 * inside.sum()
    near = inside.copy()
    for axis in (0, 1):
        for shift in range(-4, 5):
            near |= np.roll(inside, shift, axis)
    assert (ghost & ~near).sum() < 0.05 * ghost.sum(), "the line lies along the figure"


def test_what_is_seen_on_top_is_picked() -> None:
    shot = heron()
    items = items_at(shot, 110)
    figure = shot.figure("heron")
    whole = shared_renderer().pick(items, VIEWS["front"], SIZE)
    order = bv.stacking(shot, "heron", 110)[::-1]
    top = np.full(SIZE[::-1], -1)
    for n, part in enumerate(order):  # each part alone, the rearmost first
        joint = figure.rig.controls[figure.rig.control(part)].joint
        back = bv.stack(shot, "heron", part, 110, "front")
        alone = shared_renderer().pick(items_at(back, 110), VIEWS["front"], SIZE)
        bones = {joint} | {j for j, one in enumerate(figure.rig.joints) if one.name.startswith(f"{part} bend")}
        numbers = alone.pixels[..., 0].astype(int) + 256 * alone.pixels[..., 1].astype(int)
        top[np.isin(numbers, list(bones)) & (alone.pixels[..., 2] > 0)] = n
    seen = whole.pixels[..., 0].astype(int) + 256 * whole.pixels[..., 1].astype(int)
    part_of = np.full(len(figure.rig.joints), -1)
    for n, part in enumerate(order):
        for j, one in enumerate(figure.rig.joints):
            if one.name == part or one.name.startswith(f"{part} bend"):
                part_of[j] = n
    picked = np.where(whole.pixels[..., 2] > 0, part_of[seen], -1)
    assert (picked != top).mean() < 1e-3 and (picked >= 0).sum() > 1000
