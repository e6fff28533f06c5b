"""Another drawing of the same parts as a key pose: known moves, turns, sizes, leans and sides are found again."""

from __future__ import annotations

import random
import re
from pathlib import Path

import numpy as np
import pytest
from tests.flat.drawn import profile, written

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.figure.flat.assembling import as_drawn
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.formats.flat.outlines import outlines
from bovrin.shot import Shot

P = "puppet"


def moved(text: str, seed: int) -> tuple[str, dict[str, np.ndarray]]:
    """The drawing with every group moved, turned, sized, leaned and perhaps mirrored, and how (2, 3)."""
    dice = random.Random(seed)
    ways: dict[str, np.ndarray] = {}

    def change(found: re.Match[str]) -> str:
        name, rest = found[1], found[2]
        turn, lean = np.radians(dice.uniform(-170, 170)), np.tan(np.radians(dice.uniform(-30, 30)))
        wide, high = dice.uniform(0.5, 1.6) * dice.choice((1, 1, -1)), dice.uniform(0.5, 1.6)
        cos, sin = np.cos(turn), np.sin(turn)
        linear = np.array([[cos, -sin], [sin, cos]]) @ np.array([[1, lean], [0, 1]]) @ np.diag([wide, high])
        shift = np.array([dice.uniform(100, 300), dice.uniform(100, 400)]) - linear @ [200, 250]
        ways[name] = np.column_stack([linear, shift])
        a, b, c, d = linear[0, 0], linear[1, 0], linear[0, 1], linear[1, 1]
        return f'<g id="{name}" transform="matrix({a} {b} {c} {d} {shift[0]} {shift[1]})"{rest}>'

    return re.sub(r'<g id="([a-z_0-9]+)"([^>]*)>', change, text), ways


@pytest.fixture
def shot(tmp_path: Path) -> Shot:
    return bv.key_pose(bv.bring(str(written(tmp_path, profile()))), P, 101)


def pieces(shot: Shot, frame: float) -> dict[tuple[str, str], np.ndarray]:
    """Where the vertices of each drawing are in the figure's own plane (V, 2), metres as drawn."""
    figure = shot.figure(P)
    world = staged(shot, P, np.array([frame])).world[0]
    back = np.linalg.inv(world[0])
    spots = as_drawn(figure, skinned(figure, world) @ back[:3, :3].T + back[:3, 3])
    found, start = {}, 0
    for piece in figure.model.pieces:
        assert piece.cut is not None
        found[piece.cut.control, piece.cut.drawing] = spots[start : start + len(piece.positions)]
        start += len(piece.positions)
    return found


@pytest.mark.parametrize("seed", range(8))
def test_known_poses_are_found_again(shot: Shot, tmp_path: Path, seed: int) -> None:
    text, ways = moved(profile(), seed)
    made = bv.bring_pose(shot, P, str(written(tmp_path, text, "pose.svg")), 120)
    drawn, metres = shot.figure(P).model.drawn, shot.figure(P).model.metres
    assert drawn is not None
    nought = np.array([drawn.middle, drawn.ground])
    figure = shot.figure(P)
    rest = {
        (p.cut.control, p.cut.drawing): as_drawn(figure, p.positions.astype(float))
        for p in figure.model.pieces
        if p.cut
    }
    there = pieces(made, 120)
    for (part, drawing), spots in rest.items():
        if drawing != "1":
            continue
        way = ways[part.replace(" ", "_")]
        wanted = ((spots / metres + nought) @ way[:, :2].T + way[:, 2] - nought) * metres
        assert np.abs(there[part, drawing] - wanted).max() < 1e-3, part
    for before, after in zip(pieces(shot, 101).values(), pieces(made, 101).values(), strict=True):
        assert np.allclose(before, after, atol=1e-12)


def test_drawings_and_order_are_taken_over(shot: Shot, tmp_path: Path) -> None:
    text = (
        profile()
        .replace('<g id="near_hand" >', '<g id="near_hand" display="none">')
        .replace('style="display:none" data-name="near hand:fist"', 'data-name="near hand:fist"')
    )
    groups = re.findall(r'<g id="[a-z_0-9]+".*?</g>', text)
    text = text[: text.index("<g ")] + "".join([*groups[5:], *groups[:5]]) + "</svg>"
    made = bv.bring_pose(shot, P, str(written(tmp_path, text, "pose.svg")), 120)
    assert bv.drawing(made, P, "near hand", 120) == "fist" and bv.drawing(made, P, "near hand", 110) == "1"
    names = bv.stacking(shot, P, 101)[::-1]
    assert bv.stacking(made, P, 120)[::-1] == [*names[5:], *names[:5]]


def test_another_shape_stays_and_a_missing_file_is_told(shot: Shot, tmp_path: Path) -> None:
    head = '<circle cx="205" cy="110" r="50" fill="#eca"/>'
    other = profile().replace(head, '<path d="M150,60 L260,70 L200,160 Z" fill="#eca"/>')
    made = bv.bring_pose(shot, P, str(written(tmp_path, other, "pose.svg")), 120)
    before, after = (bv.values(s, P, 120) for s in (shot, made))
    assert {n: v for n, v in after.items() if n.startswith("head/")} == {
        n: v for n, v in before.items() if n.startswith("head/")
    }
    with pytest.raises(BovrinError):
        bv.bring_pose(shot, P, str(tmp_path / "none.svg"), 120)
    (tmp_path / "puppet.svg").unlink()
    with pytest.raises(BovrinError):
        bv.bring_pose(shot, P, str(tmp_path / "pose.svg"), 120)


def test_paths_in_every_spelling_are_the_same_points(tmp_path: Path) -> None:
    spelled = (
        "M10,10 L60,10 H90 V50 C90,70 70,90 50,90 S20,80 10,60 Q0,40 10,30 T12,20 A5,5 0 0 1 10,10 Z",
        "m10 10l50 0h30v40c0,20-20 40-40 40s-30-10-40-30q-10-20 0-30t2-10a5 5 0 0 1-2-10z",
    )
    found = []
    for d in spelled:
        text = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><g id="body"><path d="{d}"/></g></svg>'
        found.append(outlines(written(tmp_path, text))[0][0].points)
    assert len(found[0]) > 10 and np.allclose(found[0], found[1])
