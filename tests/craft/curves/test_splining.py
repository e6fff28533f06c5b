import numpy as np
from hypothesis import given
from tests.strategies import curves

from bovrin.craft.curves.splining import seen_stepped, splined, splined_curve, stepped, stepped_curve
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.shot import Curve, HandleKind, Shot


def test_blocking_holds_and_splining_moves_but_hits_the_same_poses(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    poses = [101, 109, 114, 119, 127, 133, 143]
    smooth = splined(demo, "porter")
    a, b = (channel_values(s.curves("porter"), rig, poses) for s in (demo, smooth))
    assert np.allclose(a, b, atol=1e-12)
    held, moving = (channel_values(s.curves("porter"), rig, [123])[0] for s in (demo, smooth))
    start, end = channel_values(demo.curves("porter"), rig, [119, 127])
    assert np.array_equal(held, start)
    low, high = np.minimum(start, end), np.maximum(start, end)
    assert ((moving >= low - 1e-9) & (moving <= high + 1e-9)).all()
    assert np.abs(moving - start).max() > 0.01


def test_only_the_chosen_span_changes(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    part = splined(demo, "porter", 119, 127)
    frames = np.array([105.0, 111, 117, 130, 140, 150])
    assert np.array_equal(
        channel_values(part.curves("porter"), rig, frames), channel_values(demo.curves("porter"), rig, frames)
    )
    hand = rig.channel("left hand/up")
    assert part.curves("porter")[hand].out_kind.tolist().count(HandleKind.STEPPED) == 6


def test_switches_stay_stepped(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    switch = splined(demo, "porter").curves("porter")[rig.channel("left hand/reach")]
    assert (switch.out_kind == HandleKind.STEPPED).all()


def test_stepped_and_back_is_where_it_was(demo: Shot) -> None:
    back = stepped(splined(demo, "porter"), "porter")
    for a, b in zip(back.curves("porter").curves, demo.curves("porter").curves, strict=True):
        assert np.array_equal(a.out_kind, b.out_kind) and np.array_equal(a.values, b.values)


@given(curves())
def test_easing_leaves_what_is_eased_alone(curve: Curve) -> None:
    smooth = splined_curve(curve)
    was = curve.out_kind != HandleKind.STEPPED
    assert np.array_equal(smooth.out_kind[was], curve.out_kind[was])
    assert (smooth.out_kind != HandleKind.STEPPED).all()


@given(curves())
def test_looking_at_steps_changes_no_curve(curve: Curve) -> None:
    frames = np.linspace(curve.frames[0] - 1, curve.frames[-1] + 1, 40)
    before = curve_values(curve, frames)
    held = stepped_curve(curve)
    assert set(curve_values(held, frames)) <= set(curve.values)
    assert np.array_equal(curve_values(curve, frames), before)


def test_the_stepped_look_is_made_once(demo: Shot) -> None:
    shot = splined(demo, "porter")
    seen = seen_stepped(shot)
    assert seen is seen_stepped(shot) and all(
        (c.out_kind == HandleKind.STEPPED).all() for c in seen.curves("porter").curves
    )
    moved = seen_stepped(shot.with_curves("crate", shot.curves("crate").mapped(lambda c: c)).with_cards("crate", []))
    assert moved.curves("porter") is seen.curves("porter"), "figures that did not change are seen as before"
