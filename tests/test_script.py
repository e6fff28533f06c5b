import math

import numpy as np
import pytest

from bovrin import script as bv
from bovrin.errors import BadMotion, BovrinError, UnknownName
from bovrin.shot import Shot


def test_names(demo: Shot) -> None:
    assert bv.figures(demo) == ["porter", "crate", "buoy", "steps", "landing"]
    assert bv.limbs(demo, "porter") == ["left arm", "right arm", "left leg", "right leg"]
    assert "left hand/up" in bv.channels(demo, "porter", "left arm")
    assert "left hand/up" not in bv.channels(demo, "porter", "head")
    assert set(bv.channels(demo, "porter", "head")) < set(bv.channels(demo, "porter"))


def test_angles_are_degrees_and_lengths_metres(demo: Shot) -> None:
    shot = bv.set_values(demo, "porter", 119, {"chest/turn": 30, "hips/up": -0.2})
    values = bv.values(shot, "porter", 119)
    assert values["chest/turn"] == pytest.approx(30) and values["hips/up"] == pytest.approx(-0.2)
    rig = shot.figure("porter").rig
    assert shot.curves("porter")[rig.channel("chest/turn")].values[3] == pytest.approx(math.radians(30))


def test_the_given_shot_is_never_changed(demo: Shot) -> None:
    before = bv.sample(demo, "porter", [101, 123, 150]).position.copy()
    bv.splined(bv.breakdown(bv.lengthen(demo, "porter", 119, 4), "porter", 123, 0.5), "porter")
    assert np.array_equal(bv.sample(demo, "porter", [101, 123, 150]).position, before)


def test_the_first_slice_from_end_to_end(demo: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    shot = bv.key_pose(demo, "porter", 155)
    assert bv.keys(shot, "porter", "left hand/up")[-1] == 155
    shot = bv.breakdown(bv.lengthen(shot, "porter", 119, 4), "porter", 125, 0.7, {"head": 0.4})
    shot = bv.splined(shot, "porter")
    bv.save(shot, tmp_path / "a.bovrin.json")
    bv.export(shot, tmp_path / "a.glb")
    again = bv.load(tmp_path / "a.bovrin.json")
    frames = np.arange(101, 161)
    assert np.array_equal(bv.sample(again, "porter", frames).position, bv.sample(shot, "porter", frames).position)


@pytest.mark.parametrize(
    "call",
    [
        lambda s: bv.values(s, "goat", 101),
        lambda s: bv.keys(s, "porter", "left hand/sideways"),
        lambda s: bv.set_values(s, "porter", 101, {"nose/up": 1}),
        lambda s: bv.key_pose(s, "porter", 101, ["tail"]),
        lambda s: bv.breakdown(s, "porter", 123, 0.5, {"tail": 0.2}),
    ],
)
def test_unknown_names(demo: Shot, call) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(UnknownName):
        call(demo)


@pytest.mark.parametrize(
    "call",
    [
        lambda s: bv.values(s, "porter", float("nan")),
        lambda s: bv.set_values(s, "porter", 101, {"hips/up": float("inf")}),
        lambda s: bv.breakdown(s, "porter", 123, float("nan")),
        lambda s: bv.lengthen(s, "porter", 119, float("nan")),
    ],
)
def test_numbers_that_are_none(demo: Shot, call) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(BadMotion, match="finite"):
        call(demo)


def test_every_error_is_of_one_family() -> None:
    with pytest.raises(BovrinError):
        bv.load("/nowhere.bovrin.json")


def test_curves_by_script(demo: Shot) -> None:
    shot = bv.splined(demo, "porter")
    own = bv.curve(shot, "porter", "hips/up")
    assert own.frames.tolist() == bv.keys(shot, "porter", "hips/up") and not own.values.flags.writeable
    tilt = bv.curve(shot, "porter", "chest/tilt")
    assert tilt.values[3] == pytest.approx(bv.values(shot, "porter", 119)["chest/tilt"])
    frames = np.linspace(95, 170, 151)
    more = bv.insert_key(shot, "porter", "hips/up", 123)
    assert np.abs(bv.sample(more, "porter", frames).position - bv.sample(shot, "porter", frames).position).max() < 1e-9
    flat = bv.set_handles(more, "porter", "hips/up", [123], "flat")
    assert bv.curve(flat, "porter", "hips/up").out_kind[4] == 2
    ends = bv.set_ends(flat, "porter", "hips/up", "hold", "repeat")
    assert bv.values(ends, "porter", 143 + 18)["hips/up"] == pytest.approx(bv.values(ends, "porter", 119)["hips/up"])
    bouncing = bv.bounce(demo, "crate", "whole crate/up", [101, 113, 121], [0.5, 0.2])
    assert bv.values(bouncing, "crate", 107)["whole crate/up"] == pytest.approx(0.5)
    assert bv.values(bouncing, "crate", 113)["whole crate/up"] == 0
    assert bv.swap_trace(bv.keep_trace(shot, "porter", "a"), "porter", "a").curves("porter") is shot.curves("porter")
    assert bv.snap(shot, "porter", 119, 127, ["left arm"]).curves("porter") is not shot.curves("porter")
    for wrong in (
        lambda: bv.set_handles(shot, "porter", "hips/up", [120], "flat"),
        lambda: bv.set_handles(shot, "porter", "hips/up", [119], "bouncy"),
        lambda: bv.set_ends(shot, "porter", "hips/up", "again"),
        lambda: bv.curve(shot, "porter", "hips/wobble"),
    ):
        with pytest.raises(BovrinError):
            wrong()
