"""Another setup for a flat figure, other kinds of layered pictures, and parts that bend."""

from __future__ import annotations

import io
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw
from tests.flat.drawn import profile, written

from bovrin import script as bv
from bovrin.craft.flat.new_setup import with_flat_setup
from bovrin.errors import BadFigure, BovrinError
from bovrin.figure.flat.assembling import setup_now
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.formats.flat.kept_flat import keep_flat
from bovrin.shot import Shot

P = "puppet"


@pytest.fixture
def shot(tmp_path: Path) -> Shot:
    made = bv.bring(str(written(tmp_path, profile())))
    return bv.key_pose(bv.key_pose(made, P, 101), P, 110)


def skin(shot: Shot, frame: float) -> np.ndarray:
    figure = shot.figure(P)
    return skinned(figure, staged(shot, P, np.array([frame])).world[0])


def with_pivot(shot: Shot, part: str, by: tuple[float, float]) -> Shot:
    setup = setup_now(shot.figure(P))
    pivots = tuple((n, (x + by[0], y + by[1]) if n == part else (x, y)) for n, (x, y) in setup.pivots)
    return with_flat_setup(shot, P, replace(setup, pivots=pivots))


def test_the_setup_that_is_there_changes_nothing(shot: Shot) -> None:
    shot = bv.set_values(shot, P, 110, {"near forearm/tilt": 30, "head/skew": 10, "near foot goal/up": 0.1})
    shot = bv.swap(shot, P, "hat", 105, "2")
    again = with_flat_setup(shot, P, setup_now(shot.figure(P)))
    assert np.allclose(skin(again, 110), skin(shot, 110), atol=1e-6)
    assert again.figure(P).rig.channel_names == shot.figure(P).rig.channel_names
    assert bv.drawing(again, P, "hat", 106) == "2"


def test_a_part_turns_about_its_new_pivot_and_lies_where_it_lay(shot: Shot) -> None:
    made = with_pivot(shot, "near forearm", (0.03, -0.05))
    assert np.allclose(skin(made, 101), skin(shot, 101), atol=1e-6)
    turned = bv.set_values(made, P, 110, {"near forearm/tilt": 90})
    spot = staged(turned, P, np.array([110.0])).world[0, made.figure(P).rig.joint("near forearm"), :3, 3]
    before = staged(shot, P, np.array([110.0])).world[0, shot.figure(P).rig.joint("near forearm"), :3, 3]
    assert np.allclose(spot - before, [0.03, 0.05, 0.0], atol=1e-9)


def test_hung_elsewhere_it_goes_along_there(shot: Shot) -> None:
    setup = setup_now(shot.figure(P))
    parents = tuple((n, "near hand" if n == "hat" else p) for n, p in setup.parents)
    made = with_flat_setup(shot, P, replace(setup, parents=parents))
    rig = made.figure(P).rig
    assert rig.joints[rig.joints[rig.joint("hat")].parent].name == "near hand"
    assert np.allclose(skin(made, 101), skin(shot, 101), atol=1e-6)


def test_a_size_and_what_cannot_be(shot: Shot) -> None:
    setup = setup_now(shot.figure(P))
    twice = with_flat_setup(shot, P, replace(setup, size=2.0))
    assert np.allclose(skin(twice, 101), 2 * skin(shot, 101), atol=1e-5)
    loop = tuple((n, {"body": "head", "head": "body"}.get(n, p)) for n, p in setup.parents)
    two = tuple((n, "" if n == "head" else p) for n, p in setup.parents)
    for bad in (replace(setup, parents=loop), replace(setup, parents=two), replace(setup, size=0.0)):
        with pytest.raises(BadFigure) as told:
            with_flat_setup(shot, P, bad)
        assert told.value.advice


def test_a_setup_is_known_again_for_the_same_parts(shot: Shot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    made = with_pivot(shot, "hat", (0.1, 0.02))
    box = (-0.5, -1.0, 0.5, 0.0)
    keep_flat(setup_now(made.figure(P)), box)
    again = bv.bring(str(written(tmp_path, profile())))
    assert dict(setup_now(again.figure(P)).parents) == dict(setup_now(made.figure(P)).parents)
    (tmp_path / "data" / "bovrin" / "setups" / next((tmp_path / "data/bovrin/setups").iterdir()).name).write_text("{")
    assert bv.bring(str(written(tmp_path, profile()))).figure(P).model.is_flat  # a damaged one counts as none


# -- parts that bend ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("points", [3, 5, 8])
def test_a_bent_part_lies_as_it_lay_and_bends_without_cracks(shot: Shot, points: int) -> None:
    made = bv.bend_along(shot, P, "near upper arm", points)
    figure = made.figure(P)
    names = [c.name for c in figure.rig.controls if c.name.startswith("near upper arm bend")]
    assert len(names) == points - 1
    rest = skin(made, 101)
    lows = [s.min(0) for s in (rest, skin(shot, 101))]
    assert np.allclose(lows[0], lows[1], atol=1e-6)
    turned = bv.set_values(made, P, 110, {f"{n}/tilt": 60 / len(names) for n in names})
    start = 0
    for piece in figure.model.pieces:
        own = slice(start, start + len(piece.positions))
        start += len(piece.positions)
        if piece.cut is not None and piece.cut.control == "near upper arm":
            a, b = rest[own][piece.triangles], skin(turned, 110)[own][piece.triangles]
            before, after = (np.linalg.norm(np.roll(t, 1, 1) - t, axis=-1) for t in (a, b))
            assert (after < 2.2 * before).all() and (after > 0.2 * before).all()
    hand = figure.rig.joint("near forearm")
    way = staged(turned, P, np.array([110.0])).world[0, hand, :3, :3]
    straight = staged(made, P, np.array([110.0])).world[0, hand, :3, :3]
    cos = (np.trace(straight.T @ way) - 1) / 2
    assert np.degrees(np.arccos(np.clip(cos, -1, 1))) == pytest.approx(
        60, abs=1e-6
    )  # what hangs on it is turned by all of it


def test_bends_survive_a_project_and_another_setup(shot: Shot, tmp_path: Path) -> None:
    made = bv.bend_along(shot, P, "near upper arm", 4)
    made = bv.set_values(made, P, 110, {"near upper arm bend 2/tilt": 40})
    bv.save(made, str(tmp_path / "bent.bovrin.json"))
    again = bv.load(str(tmp_path / "bent.bovrin.json"))
    assert np.allclose(skin(again, 110), skin(made, 110), atol=1e-5)
    setup = with_flat_setup(again, P, setup_now(again.figure(P)))
    assert np.allclose(skin(setup, 110), skin(made, 110), atol=2e-3)


def test_what_cannot_bend_is_told(shot: Shot) -> None:
    twice = bv.bend_along(shot, P, "hat", 3)
    for call in (lambda: bv.bend_along(twice, P, "hat", 3), lambda: bv.bend_along(shot, P, "hat", 2)):
        with pytest.raises(BovrinError):
            call()


# -- other kinds of layered pictures ---------------------------------------------------------------------------------------


def sheet(box: tuple[int, int, int, int], colour: str = "#7788aa", size: tuple[int, int] = (200, 300)) -> bytes:
    image = Image.new("RGBA", size)
    ImageDraw.Draw(image).rectangle(box, fill=colour)
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


PARTS = {
    "body": (70, 90, 130, 190),
    "head": (75, 30, 125, 100),
    "near leg": (80, 180, 110, 290),
    "hat": (70, 10, 130, 40),
}


def ora(path: Path, stack: str, files: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w") as out:
        out.writestr("mimetype", "image/openraster")
        out.writestr("stack.xml", f'<?xml version="1.0"?><image w="200" h="300"><stack>{stack}</stack></image>')
        for name, data in files.items():
            out.writestr(f"data/{name}.png", data)
    return path


def test_an_openraster_file(tmp_path: Path) -> None:
    rows = "".join(f'<layer name="{n}" src="data/{n}.png"/>' for n in ("hat", "head", "near leg", "body"))
    tall = '<layer name="hat:tall" visibility="hidden" src="data/tall.png" x="5" y="-4"/>'
    rows = tall + rows
    files = {n: sheet(box) for n, box in PARTS.items()} | {"tall": sheet((60, 20, 140, 60))}
    shot = bv.bring(str(ora(tmp_path / "figure.ora", rows, files)))
    assert bv.stacking(shot, "figure", 101) == ["hat", "head", "near leg", "body"]
    assert bv.drawings(shot, "figure", "hat") == ["1", "tall"]
    rig = shot.figure("figure").rig
    above = {j.name: rig.joints[j.parent].name for j in rig.joints[1:]}
    assert above["hat"] == "head" and above["near leg"] == "body"


def test_a_folder_of_pictures(tmp_path: Path) -> None:
    folder = tmp_path / "walker"
    folder.mkdir()
    for name, box in PARTS.items():
        (folder / f"{name.replace(' ', '_')}.png").write_bytes(sheet(box))
    (folder / "hat_2.png").write_bytes(sheet((60, 0, 140, 40), "#aa3333"))
    (folder / "notes.txt").write_text("nothing")
    shot = bv.bring(str(folder))
    assert sorted(bv.stacking(shot, "walker", 101)) == ["body", "hat", "head", "near leg"]
    assert bv.drawings(shot, "walker", "hat") == ["1", "2"]
    one = tmp_path / "card.png"
    one.write_bytes(sheet((20, 20, 100, 200)))
    assert bv.stacking(bv.bring(str(one)), "card", 101) == ["card"]


def damaged(path: Path) -> list[Path]:
    good = ora(path / "a.ora", '<layer name="body" src="data/body.png"/>', {"body": sheet(PARTS["body"])})
    cut = path / "b.ora"
    cut.write_bytes(good.read_bytes()[:200])
    none = ora(path / "c.ora", '<layer name="body" src="data/other.png"/>', {})
    noise = ora(path / "d.ora", '<layer name="body" src="data/body.png"/>', {"body": b"no picture"})
    clear = ora(path / "e.ora", '<layer name="body" src="data/body.png"/>', {"body": sheet((0, 0, 9, 9), "#00000000")})
    outside = ora(path / "f.ora", '<layer name="body" src="../../etc/passwd"/>', {})
    empty = path / "empty"
    empty.mkdir()
    bad = path / "bad.png"
    short = path / "g.ora"
    short.write_bytes(good.read_bytes().replace(b"stack.xml", b"stack.xmm"))
    claims = path / "h.ora"
    data = bytearray(good.read_bytes())
    at = data.rindex(b"PK\x01\x02")
    data[at + 20 : at + 28] = b"\xff\xff\xff\x00\xff\xff\xff\x00"  # more bytes than there are
    claims.write_bytes(bytes(data))
    bad.write_bytes(b"\x89PNG\r\n\x1a\nnothing")
    return [cut, none, noise, clear, outside, empty, bad, short, claims]


def test_damaged_pictures_get_a_sentence(tmp_path: Path) -> None:
    for path in damaged(tmp_path):
        with pytest.raises(BovrinError) as told:
            bv.bring(str(path))
        assert told.value.advice, path
