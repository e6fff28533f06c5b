import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.rigs import goat, random_values

from bovrin import script
from bovrin.craft.between.breakdown import favour_profile
from bovrin.craft.between.chart import PRESETS, preset_shares
from bovrin.craft.keying.keys import set_channels
from bovrin.craft.keying.lag import poses
from bovrin.errors import BadMotion
from bovrin.shot import KeyRole, Shot


def two_poses(splined: bool, frames: int = 17, seed: int = 3) -> Shot:
    """A goat between two poses."""
    figure = goat()
    shot = Shot("goat").with_figure(figure)
    for frame, values in zip((101.0, 100.0 + frames), random_values(figure.rig, seed, count=2), strict=True):
        shot = set_channels(shot, "goat", frame, dict(enumerate(map(float, values))))
    return script.splined(shot, "goat") if splined else shot


@pytest.mark.parametrize("preset", PRESETS)
@pytest.mark.parametrize("splined", [False, True])
def test_a_preset_gives_the_shares_it_promises(preset: str, splined: bool) -> None:
    shot = two_poses(splined)
    wanted = preset_shares(17, preset)
    new = script.set_chart(shot, "goat", 101, 117, wanted)
    assert np.abs(np.array(script.chart(new, "goat", 101, 117)) - wanted).max() < 0.01
    ends = script.sample(shot, "goat", [101, 117]), script.sample(new, "goat", [101, 117])
    assert np.abs(ends[0].position - ends[1].position).max() < 1e-9
    assert wanted == sorted(wanted) and wanted[0] == 0 and wanted[-1] == 1


@settings(max_examples=10, deadline=None)
@given(frame=st.integers(103, 115), share=st.floats(0.1, 0.9), seed=st.integers(0, 50))
def test_one_rung_goes_where_it_is_dragged(frame: int, share: float, seed: int) -> None:
    shot = two_poses(splined=True, seed=seed)
    shares = np.array(script.chart(shot, "goat", 101, 117))
    at = frame - 101
    shares[:at] = np.minimum(shares[:at], share)
    shares[at] = share
    shares[at + 1 :] = np.maximum(shares[at + 1 :], share)
    new = script.set_chart(shot, "goat", 101, 117, shares.tolist())
    assert abs(script.chart(new, "goat", 101, 117)[at] - share) < 0.02
    a, b = (script.sample(s, "goat", [101, 117]).position for s in (shot, new))
    assert np.abs(a - b).max() < 1e-9


def test_few_keys_are_added_and_none_where_handles_reach() -> None:
    shot = two_poses(splined=True)
    gentle = script.set_chart(shot, "goat", 101, 117, preset_shares(17, "slow out and in"))
    frames = set(script.keys(gentle, "goat", "head/turn"))
    assert frames == {101.0, 117.0}, "handles alone do it"
    odd = script.set_chart(shot, "goat", 101, 117, preset_shares(17, "halves to end"))
    assert 2 < len(script.keys(odd, "goat", "head/turn")) < 17


def test_only_the_part_is_spaced_anew() -> None:
    shot = two_poses(splined=True)
    new = script.set_chart(shot, "goat", 101, 117, preset_shares(17, "slow in"), "left fore leg")
    rig = shot.figure("goat").rig
    own = set(rig.part_channels(rig.part("left fore leg")))
    for i in range(len(rig.channels)):
        if i not in own:
            assert new.curves("goat")[i] is shot.curves("goat")[i]
    assert (
        np.abs(np.array(script.chart(new, "goat", 101, 117, "left fore leg")) - preset_shares(17, "slow in")).max()
        < 0.01
    )


def test_a_stepped_span_gets_drawings_only_where_they_change() -> None:
    shot = two_poses(splined=False)
    shares = [0.0] * 8 + [0.4] * 8 + [1.0]
    new = script.set_chart(shot, "goat", 101, 117, shares)
    assert poses(new, "goat").frames.tolist() == [101, 109, 117]
    assert poses(new, "goat").roles.tolist() == [KeyRole.KEY_POSE, KeyRole.BREAKDOWN, KeyRole.KEY_POSE]
    again = script.set_chart(new, "goat", 101, 117, [0.0] * 8 + [0.7] * 8 + [1.0])
    assert script.chart(again, "goat", 101, 117)[8] == pytest.approx(0.7, abs=1e-6)


def test_charts_that_make_no_sense_say_so(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="no frame between"):
        script.chart(demo, "porter", 101, 101)
    with pytest.raises(BadMotion, match="one for each frame"):
        script.set_chart(demo, "porter", 101, 109, [0, 1])
    with pytest.raises(BadMotion, match="no chart"):
        preset_shares(9, "wobbly")


@pytest.mark.parametrize(("every", "count"), [(4, 3), (3, 5), (2, 7)])
def test_a_span_is_filled_on_fours_threes_and_twos(every: int, count: int) -> None:
    shot = two_poses(splined=False)
    new = script.fill_breakdowns(shot, "goat", 101, 117, every)
    frames = poses(new, "goat").frames
    assert len(frames) == count + 2 and set(np.diff(frames)[:-1]) == {every}
    shares = script.chart(new, "goat", 101, 117)
    for frame in frames[1:-1]:
        assert shares[int(frame) - 101] == pytest.approx((frame - 101) / 16, abs=1e-6)


@given(st.floats(0.05, 0.95))
def test_a_favour_leans_the_fill(favour: float) -> None:
    t = np.linspace(0, 1, 33)
    shares = favour_profile(t, favour)
    assert shares[0] == 0 and shares[-1] == 1 and shares[16] == pytest.approx(favour)
    assert (np.diff(shares) > 0).all()


def test_a_fill_goes_through_every_stretch_and_keeps_the_poses(demo: Shot) -> None:
    new = script.fill_breakdowns(demo, "porter", 119, 143, 2, 0.3)
    kept = [119, 127, 133, 143]
    a, b = (script.sample(s, "porter", kept).position for s in (demo, new))
    assert np.array_equal(a, b)
    found = poses(new, "porter").frames
    assert {121.0, 125.0, 129.0, 135.0, 141.0} <= set(found.tolist()) and 145.0 not in found
    with pytest.raises(BadMotion, match="not two poses"):
        script.fill_breakdowns(demo, "porter", 102, 108, 2)
    with pytest.raises(BadMotion, match="apart"):
        script.fill_breakdowns(demo, "porter", 101, 109, 0.5)


def test_few_keys_and_many_say_the_same(demo: Shot, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whether a span is stepped is looked up in two ways; both agree, on whole figures and on single channels."""
    from bovrin.craft.between import chart as chart_module

    mixed = script.splined(demo, "porter", 119, 133)
    curves = mixed.curves("porter")
    every = range(len(curves))
    asked = [
        (frame, which) for frame in (101.0, 109.0, 119.0, 127.0, 133.0, 143.0, 105.5) for which in (every, [3], [])
    ]
    at_once = [chart_module.is_stepped(curves, which, frame) for frame, which in asked]
    monkeypatch.setattr(chart_module, "FEW", 0)
    assert [chart_module.is_stepped(curves, which, frame) for frame, which in asked] == at_once
    assert True in at_once and False in at_once
