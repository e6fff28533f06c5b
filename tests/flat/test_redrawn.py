"""A drawing that is drawn over outside; a frame handed back to a drawing program."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
import pytest
import resvg_py
from PIL import Image
from tests.flat.drawn import box, group, profile, written

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Shot

P = "puppet"


@pytest.fixture
def shot(tmp_path: Path) -> Shot:
    made = bv.bring(str(written(tmp_path, profile())))
    made = bv.key_pose(bv.key_pose(made, P, 101), P, 120)
    made = bv.set_values(made, P, 120, {"near forearm/tilt": 50, "head/tilt": -20, "near foot goal/up": 0.1})
    return bv.swap(made, P, "hat", 110, "2")


def groups(text: str) -> list[str]:
    return re.findall(r'<g id="[a-z_0-9]+".*?</g>', text)


def test_shuffled_groups_keep_every_key(shot: Shot, tmp_path: Path) -> None:
    own = groups(profile())
    head = profile()[: profile().index("<g ")]
    written(tmp_path, head + "".join(own[::-1]) + "</svg>")
    made = bv.reload(shot, P)
    frames = np.arange(101, 149.0)
    rig, new = shot.figure(P).rig, made.figure(P).rig
    assert set(rig.channel_names) == set(new.rig.channel_names if hasattr(new, "rig") else new.channel_names)
    before, after = staged(shot, P, frames).values, staged(made, P, frames).values
    for n, name in enumerate(rig.channel_names):
        assert np.allclose(before[:, n], after[:, new.channel(name)], atol=1e-12), name
    world = [staged(s, P, frames).world[:, s.figure(P).rig.joint("near hand")] for s in (shot, made)]
    assert np.allclose(world[0], world[1], atol=1e-9)


def test_drawings_go_by_their_names(shot: Shot, tmp_path: Path) -> None:
    new = '<g id="hat_new" data-name="hat:new" display="none">' + box(150, 20, 90, 50) + "</g>"
    more = profile().replace('<g id="hat_2"', new + '<g id="hat_2"')
    written(tmp_path, more)
    made = bv.reload(shot, P)
    assert bv.drawings(made, P, "hat") == ["1", "new", "2"]
    assert bv.drawing(made, P, "hat", 112) == "2"
    written(tmp_path, re.sub(r'<g id="hat_2".*?</g>', "", more))
    gone = bv.reload(made, P)
    assert bv.drawing(gone, P, "hat", 112) == "1"


def test_new_and_gone_parts_are_told(shot: Shot, tmp_path: Path) -> None:
    from bovrin.craft.flat.redrawing import redrawn
    from bovrin.formats.flat.figure import read_layers
    from bovrin.formats.flat.seen import masks_of

    scarf = group("scarf", box(170, 150, 60, 20))
    text = re.sub(r'<g id="near_hand_fist".*?</g>', "", profile()).replace("</svg>", scarf + "</svg>")
    text = re.sub(r'<g id="near_forearm".*?</g>', "", text)
    layers, _ = read_layers(written(tmp_path, text))
    found = redrawn(shot, P, layers, masks_of(layers))
    words = " ".join(found.told)
    assert "'scarf' is new" in words and "'near forearm' is gone" in words and "'fist'" in words
    rig = found.shot.figure(P).rig
    assert rig.joints[rig.joints[rig.joint("near hand")].parent].name in ("near upper arm", "body")


def test_a_changed_shape_is_seen_and_a_broken_file_changes_nothing(shot: Shot, tmp_path: Path) -> None:
    written(tmp_path, profile().replace("#433", "#3f3"))
    assert (np.asarray(bv.picture(bv.reload(shot, P), 105, view="front", size=(200, 260)))[..., 1] > 220).any()
    (tmp_path / "puppet.svg").write_text(profile()[:300])
    with pytest.raises(BovrinError):
        bv.reload(shot, P)
    (tmp_path / "puppet.svg").unlink()
    with pytest.raises(BovrinError) as told:
        bv.reload(shot, P)
    assert "puppet.svg" in str(told.value)


def test_a_saved_project_still_knows_where_it_was_drawn(shot: Shot, tmp_path: Path) -> None:
    bv.save(shot, str(tmp_path / "a.bovrin.json"))
    again = bv.load(str(tmp_path / "a.bovrin.json"))
    written(tmp_path, profile().replace("#433", "#3f3"))
    made = bv.reload(again, P)
    assert np.allclose(staged(made, P, [120.0]).world, staged(again, P, [120.0]).world, atol=1e-9)


def test_a_frame_as_svg_looks_as_on_the_stage(shot: Shot, tmp_path: Path) -> None:
    made = bv.stack(bv.flip(shot, P, "head", 120), P, "near hand", 120, "back")
    bv.frame_svg(made, str(tmp_path / "frame.svg"), P, 120)
    text = (tmp_path / "frame.svg").read_text()
    names = re.findall(r'data-name="([^":]+)', text)
    assert names == bv.stacking(made, P, 120)[::-1]
    png = resvg_py.svg_to_bytes(svg_string=text, skip_system_fonts=True)
    with Image.open(io.BytesIO(png)) as opened:
        theirs = np.asarray(opened.convert("RGBA"))[..., 3] > 128
    left, top, wide, high = (float(n) for n in re.search(r'viewBox="([^"]+)"', text)[1].split())  # type: ignore[index]
    skin = skinned(made.figure(P), staged(made, P, [120.0]).world[0])
    rows, columns = np.nonzero(theirs)
    lowest = top + rows.max() / theirs.shape[0] * high
    assert lowest == pytest.approx(-skin[:, 1].min() * 1000, abs=4)
    assert left + columns.max() / theirs.shape[1] * wide == pytest.approx(skin[:, 0].max() * 1000, abs=12)
