from pathlib import Path

import numpy as np
import pytest
from tests.rigs import goat, random_values

from bovrin import script
from bovrin.craft.curves.rotation import ORDERS, alignment, calmest_order, lined_up_axes
from bovrin.craft.keying.keys import set_channels
from bovrin.errors import BadMotion, BovrinError
from bovrin.shot import Shot


@pytest.mark.parametrize("order", ORDERS)
@pytest.mark.parametrize("spline", [False, True])
def test_another_order_is_the_same_motion_on_every_frame(demo: Shot, order: str, spline: bool) -> None:
    shot = script.splined(demo, "porter") if spline else demo
    shot = script.set_values(shot, "porter", 127, {"chest/turn": 150, "chest/tilt": 70, "chest/roll": -40})
    new = script.set_rotation_order(shot, "porter", "chest", order)
    frames = np.arange(95.0, 165.0)
    a, b = script.sample(shot, "porter", frames), script.sample(new, "porter", frames)
    assert np.abs(a.position - b.position).max() < 1e-6
    assert 2 * np.arccos(np.clip(np.abs((a.rotation * b.rotation).sum(-1)), 0, 1)).max() < 1e-6
    chest = new.figure("porter").rig.controls[new.figure("porter").rig.control("chest")]
    assert chest.order == order
    if not spline:
        rig = new.figure("porter").rig
        assert len(new.curves("porter")[rig.channel("chest/turn")]) == len(
            shot.curves("porter")[rig.channel("chest/turn")]
        )


def test_it_is_saved_with_the_project(demo: Shot, tmp_path: Path) -> None:
    shot = script.set_rotation_order(demo, "porter", "left hand", "ZYX")
    script.save(shot, tmp_path / "own.bovrin.json")
    again = script.load(tmp_path / "own.bovrin.json")
    rig = again.figure("porter").rig
    assert rig.controls[rig.control("left hand")].order == "ZYX"
    frames = [101, 114, 127]
    a, b = script.sample(shot, "porter", frames), script.sample(again, "porter", frames)
    assert np.array_equal(a.position, b.position)
    text = (tmp_path / "own.bovrin.json").read_text().replace('"left hand": "ZYX"', '"third hand": "ZYX"')
    (tmp_path / "bad.bovrin.json").write_text(text)
    with pytest.raises(BovrinError, match="third hand"):
        script.load(tmp_path / "bad.bovrin.json")


def test_what_has_no_order_says_so(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="not a rotation order"):
        script.set_rotation_order(demo, "porter", "chest", "XXY")
    with pytest.raises(BadMotion, match="three axes"):
        script.set_rotation_order(demo, "porter", "left index", "XYZ")
    assert script.set_rotation_order(demo, "porter", "chest", "YXZ") is demo


def test_the_gauge_rises_as_axes_line_up(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    control = rig.control("left wrist")
    gauge = []
    for tilt in (0, 40, 80, 90):
        values = np.array(rig.defaults)
        values[rig.channel("left wrist/tilt")] = np.radians(tilt)
        gauge.append(alignment(rig, control, values))
    assert gauge == sorted(gauge) and gauge[0] == 0 and gauge[-1] == pytest.approx(1)
    assert lined_up_axes(rig, control) == ("turn", "roll")
    values[rig.channel("left wrist/tilt")] = np.radians(88)
    better = calmest_order(rig, control, values)
    assert better[1] != "X"


def test_unroll_takes_out_whole_turns() -> None:
    shot = Shot("goat").with_figure(goat())
    rig = shot.figure("goat").rig
    column = rig.channel("head/turn")
    for frame, degrees in ((101, 170), (102, -170), (103, -160), (104, 175)):
        shot = set_channels(shot, "goat", frame, {column: np.radians(degrees)})
    new = script.unroll(shot, "goat", ["head", "neck"])
    assert np.degrees(new.curves("goat")[column].values).tolist() == pytest.approx([170, 190, 200, 175])
    a, b = (script.sample(s, "goat", [101, 102, 103, 104]).position for s in (shot, new))
    assert np.abs(a - b).max() < 1e-9
    assert script.unroll(new, "goat", ["head"]) is new


def test_a_random_motion_keeps_its_turns() -> None:
    figure = goat(3)
    shot = Shot("goat").with_figure(figure)
    for frame, values in zip((101.0, 108.0, 120.0), random_values(figure.rig, 8, turn=1.2, count=3), strict=True):
        shot = set_channels(shot, "goat", frame, dict(enumerate(map(float, values))))
    shot = script.splined(shot, "goat")
    frames = np.arange(101.0, 121.0)
    for order in ORDERS:
        new = script.set_rotation_order(shot, "goat", "neck", order)
        a, b = script.sample(shot, "goat", frames), script.sample(new, "goat", frames)
        assert np.abs(a.position - b.position).max() < 1e-6


def _spun(*degrees: float) -> Shot:
    """A goat whose head is keyed to turn by so much on frames that lie ten apart."""
    shot = Shot("goat").with_figure(goat())
    columns = [shot.figure("goat").rig.channel(f"head/{word}") for word in ("turn", "tilt", "roll")]
    for n, turn in enumerate(degrees):
        shot = set_channels(
            shot, "goat", 101 + 10.0 * n, {c: np.radians(turn) if c == columns[0] else 0.2 for c in columns}
        )
    return script.splined(shot, "goat")


def test_a_turn_that_was_meant_is_not_unrolled() -> None:
    shot = _spun(0, 360, 1080, 900)
    assert script.unroll(shot, "goat", ["head"]) is shot


def test_what_comes_after_a_meant_turn_is_unrolled_from_where_it_leads() -> None:
    shot = _spun(0, 350)
    column = shot.figure("goat").rig.channel("head/turn")
    jumped = set_channels(shot, "goat", 112, {column: np.radians(2)})
    new = script.unroll(jumped, "goat", ["head"]).curves("goat")[column]
    assert np.degrees(new.values).tolist() == pytest.approx([0, 350, 362])


@pytest.mark.parametrize("order", ["XYZ", "ZXY"])
@pytest.mark.parametrize("turn", [360, 720, -900])
def test_another_order_keeps_a_spin_on_every_frame(order: str, turn: float) -> None:
    shot = _spun(0, turn, turn + 30)
    new = script.set_rotation_order(shot, "goat", "head", order)
    frames = np.arange(101.0, 122.0)
    a, b = (script.sample(s, "goat", frames).rotation for s in (shot, new))
    assert np.degrees(2 * np.arccos(np.clip(np.abs((a * b).sum(-1)), 0, 1))).max() < 1e-3
    half = script.sample(new, "goat", frames[:-1] + 0.5).rotation
    was = script.sample(shot, "goat", frames[:-1] + 0.5).rotation
    assert np.degrees(2 * np.arccos(np.clip(np.abs((half * was).sum(-1)), 0, 1))).max() < 60
