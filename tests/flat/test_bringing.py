"""Layered drawings brought: they look as they were drawn, hang together as named, and nothing outside of them is read."""

from __future__ import annotations

import gzip
import io
from pathlib import Path

import numpy as np
import pytest
import resvg_py
from PIL import Image
from tests.flat.drawn import box, front, group, profile, random_drawing, wrapped, written

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.figure.flat.layers import Facing
from bovrin.formats.bringing import DRAWINGS
from bovrin.formats.flat.figure import _readers, read_layers
from bovrin.picture.item import items_at
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import View
from bovrin.shot import Figure, Shot

WIDE, HIGH = 640, 800


def brought(folder: Path, text: str) -> Shot:
    return bv.bring(str(written(folder, text)))


def parents(figure: Figure) -> dict[str, str]:
    joints = figure.rig.joints
    return {j.name: joints[j.parent].name if j.parent >= 0 else "" for j in joints}


def by_resvg(text: str, wide: int, high: int) -> np.ndarray:
    """The whole drawing, colours multiplied by alpha (H, W, 4)."""
    png = resvg_py.svg_to_bytes(svg_string=text, width=wide, height=high, skip_system_fonts=True)
    with Image.open(io.BytesIO(png)) as opened:
        return np.asarray(opened.convert("RGBa"), float)


def by_us(shot: Shot) -> np.ndarray:
    """The drawing's page as the renderer draws it (H, W, 4)."""
    figure = shot.cast[0]
    metres = figure.model.metres
    box_ = _page_in_metres(shot)
    half = box_[3] / 2
    view = View(target=(box_[0] + box_[2] / 2, box_[1] + half, 0.0), yaw=0.0, pitch=0.0, flat=True)
    view = View(view.target, view.distance * half / view.half_height(), 0.0, 0.0, flat=True)
    style = PictureStyle(backdrop=None, shadow=False, line=0.0)
    assert metres > 0
    return shared_renderer().draw(items_at(shot, shot.first), view, (WIDE, HIGH), style).astype(float)


def _page_in_metres(shot: Shot) -> tuple[float, float, float, float]:
    """Left, low, wide, high of the page in the scene: from a part's picture, whose box in the drawing is known."""
    figure = shot.cast[0]
    layers, _ = read_layers(Path(figure.source.removesuffix("#changed")))
    part = layers[0].drawings[0]
    piece = next(p for p in figure.model.pieces if p.cut and p.cut.drawing == part.name)
    places = piece.positions.astype(float)
    turned = places[:, 0] if np.ptp(places[:, 0]) > 0 else places[:, 2] * (1 if piece.normals[0, 0] < 0 else -1)
    scale = figure.model.metres
    left = turned.min() - part.box[0] * scale
    top = places[:, 1].max() + part.box[1] * scale
    return float(left), float(top - 500 * scale), 400 * scale, 500 * scale


@pytest.mark.parametrize("seed", range(10))
def test_a_brought_drawing_looks_as_it_was_drawn(tmp_path: Path, seed: int) -> None:
    text = random_drawing(seed)
    ours, theirs = by_us(brought(tmp_path, text)), by_resvg(text, WIDE, HIGH)
    apart = np.abs(ours - theirs).max(-1)
    smooth = np.ones(apart.shape, bool)
    for axis in (0, 1):  # edges, where two ways of sampling differ, and what is next to them
        step = np.abs(np.diff(theirs, axis=axis)).max(-1) > 12
        for shift in (-2, -1, 0, 1, 2):
            moved = np.roll(step, shift, axis)
            smooth[(slice(moved.shape[0]), slice(moved.shape[1]))] &= ~moved
    assert smooth.mean() > 0.6
    assert apart[smooth].mean() < 0.2
    assert apart.mean() < 1.0
    assert theirs[..., 3].mean() > 2.0


def test_a_profile_hangs_together_by_its_names(tmp_path: Path) -> None:
    figure = brought(tmp_path, profile()).cast[0]
    found = parents(figure)
    assert found["near foot"] == "near lower leg" and found["near lower leg"] == "near upper leg"
    assert found["near upper leg"] == "body" and found["hat"] == "head" and found["near hand"] == "near forearm"
    assert bv.drawings(brought(tmp_path, profile()), "puppet", "near hand") == ["1", "fist"]
    assert {limb.name for limb in figure.rig.limbs} >= {"near leg", "far leg"}
    assert ("far foot goal", "near foot goal") in {tuple(sorted(pair)) for pair in figure.rig.pairs}
    lowest = min(float(p.positions[:, 1].min()) for p in figure.model.pieces)
    assert abs(lowest) < 0.03  # it stands on the ground


def test_pivots_lie_where_parts_overlap_or_where_they_are_marked(tmp_path: Path) -> None:
    marked = '<circle id="pivot" cx="190" cy="400" r="4"/>'
    text = wrapped(
        group("body", box(150, 100, 100, 200)),
        group("tail", box(140, 280, 40, 140)),
        group("leg", box(175, 290, 30, 150), marked),
    )
    shot = brought(tmp_path, text)
    figure = shot.cast[0]
    metres = figure.model.metres
    ground = 440 + 1.5
    at = {j.name: np.array(j.translation) for j in figure.rig.joints}
    body = at["body"]
    tail, leg = body + at["tail"], body + at["leg"]
    assert np.isclose(tail[1], (ground - 290) * metres, atol=6 * metres)  # the middle of what both cover, 280 to 300
    assert np.isclose(leg[1], (ground - 400) * metres, atol=6 * metres)
    assert not any("pivot" in (p.cut.control if p.cut else "") for p in figure.model.pieces)


def test_which_way_it_faces(tmp_path: Path) -> None:
    mirrored = profile().replace('height="500">', 'height="500"><g transform="translate(400 0) scale(-1 1)">', 1)
    ways = {}
    for name, text in (("right", profile()), ("left", mirrored.replace("</svg>", "</g></svg>")), ("front", front())):
        figure = brought(tmp_path, text).cast[0]
        turn = figure.rig.channels[figure.rig.channel("whole figure/turn")].default
        ways[name] = Facing.FRONT if turn == 0 else Facing.RIGHT if turn > 0 else Facing.LEFT
        assert np.linalg.norm(figure.model.pieces[0].normals[0]) == pytest.approx(1.0)
    assert ways == {"right": "right", "left": "left", "front": "front"}


def test_further_drawings_of_a_part(tmp_path: Path) -> None:
    mouths = "".join(
        f'<path id="m{n}" data-name="{word}" d="M190,120 h{20 + 5 * n} v{4 + 6 * n} h-20 z" {"" if n == 1 else HIDDEN}/>'
        for n, word in enumerate(("shut", "open", "wide"))
    )
    marked = '<circle id="pivot" cx="190" cy="120" r="4"/>'
    text = wrapped(
        group("body", box(150, 170, 100, 180)), group("head", box(160, 60, 90, 110)), group("mouth", marked, mouths)
    )
    shot = brought(tmp_path, text)
    assert bv.drawings(shot, "puppet", "mouth") == ["open", "shut", "wide"]
    assert bv.drawing(shot, "puppet", "mouth", 101) == "open"
    assert parents(shot.cast[0])["mouth"] == "head"


HIDDEN = 'display="none"'


def test_names_of_programs_and_loose_shapes_are_no_parts(tmp_path: Path) -> None:
    text = wrapped(
        box(0, 0, 40, 40), '<g id="g12"><rect width="30" height="30"/></g>', group("body", box(90, 90, 50, 90))
    )
    names = [part.name for part in read_layers(written(tmp_path, text))[0]]
    assert names == ["rest", "body"]


def test_what_lies_in_one_group_alone_is_looked_into(tmp_path: Path) -> None:
    text = wrapped(group("Layer_1", group("body", box(90, 90, 50, 90)), group("head", box(90, 40, 50, 50))))
    assert [part.name for part in read_layers(written(tmp_path, text))[0]] == ["body", "head"]


def test_two_parts_of_one_name(tmp_path: Path) -> None:
    text = wrapped(group("body", box(90, 90, 50, 90)), group("body", box(90, 40, 50, 50), more='data-name="body"'))
    assert [part.name for part in read_layers(written(tmp_path, text))[0]] == ["body", "body 2"]


def test_every_ending_that_is_offered_has_its_reader() -> None:
    assert {*DRAWINGS, ""} == set(_readers())


def test_packed_drawings_and_files_without_a_page(tmp_path: Path) -> None:
    packed = tmp_path / "puppet.svgz"
    packed.write_bytes(gzip.compress(profile().encode()))
    assert len(bv.bring(str(packed)).cast[0].rig.joints) == len(brought(tmp_path, profile()).cast[0].rig.joints)
    bare = (
        profile().replace('viewBox="0 0 400 500"', "").replace('width="400" height="500"', 'width="10cm" height="15cm"')
    )
    assert bv.bring(str(written(tmp_path, bare))).cast[0].model.is_flat


def test_nothing_outside_the_file_is_read(tmp_path: Path) -> None:
    secret = tmp_path / "secret.png"
    Image.new("RGBA", (30, 30), (255, 0, 0, 255)).save(secret)
    link = f'<image xlink:href="{secret.as_uri()}" x="100" y="100" width="90" height="90"/>'
    link += f'<image href="{secret.name}" x="100" y="100" width="90" height="90"/>'
    text = wrapped(group("body", box(90, 300, 50, 90, "#00f"), link))
    drawn = read_layers(written(tmp_path, text))[0][0].drawings[0]
    with Image.open(io.BytesIO(drawn.png)) as opened:
        pixels = np.asarray(opened.convert("RGBA"))
    assert not ((pixels[..., 0] > 200) & (pixels[..., 2] < 50) & (pixels[..., 3] > 200)).any()


BOMB = (
    '<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
    '<svg xmlns="http://www.w3.org/2000/svg"><g id="body"><text>&b;</text></g></svg>'
)
BAD = {
    "nothing": "",
    "no drawing": "<html></html>",
    "cut off": profile()[:400],
    "empty": wrapped(),
    "invisible": wrapped(group("body", '<rect width="0" height="0"/>')),
    "entities": BOMB,
    "a file": BOMB.replace('"aaaaaaaaaa"', 'SYSTEM "file:///etc/passwd"'),
    "too deep": wrapped("<g>" * 5000 + box(1, 1, 9, 9) + "</g>" * 5000),
    "too many": wrapped(*(group(f"part{chr(97 + n % 26)}{n}z", box(n, 1, 9, 9)) for n in range(500))),
    "no size": profile().replace('viewBox="0 0 400 500"', 'viewBox="0 0 0 0"'),
    "huge": profile().replace('viewBox="0 0 400 500"', 'viewBox="0 0 1e9 1e9"'),
    "itself": wrapped(group("body", '<use href="#body"/>')),
}


@pytest.mark.parametrize("what", BAD)
def test_bad_drawings_get_a_sentence(tmp_path: Path, what: str) -> None:
    with pytest.raises(BovrinError) as told:
        brought(tmp_path, BAD[what])
    assert "puppet.svg" in str(told.value) and "\n" not in str(told.value)


def test_a_project_keeps_drawings_and_order(tmp_path: Path) -> None:
    shot = brought(tmp_path, profile())
    shot = bv.swap(shot, "puppet", "hat", 110, "2")
    shot = bv.stack(shot, "puppet", "near hand", 112, "back")
    bv.save(shot, str(tmp_path / "a.bovrin.json"))
    (tmp_path / "puppet.svg").unlink()  # the project keeps its own
    again = bv.load(str(tmp_path / "a.bovrin.json"))
    assert [bv.drawing(again, "puppet", "hat", f) for f in (109, 110)] == ["1", "2"]
    assert bv.stacking(again, "puppet", 112) == bv.stacking(shot, "puppet", 112)
    one, other = (np.asarray(bv.picture(s, 112, view="front", size=(200, 200))) for s in (shot, again))
    assert np.abs(one.astype(int) - other).max() <= 1
