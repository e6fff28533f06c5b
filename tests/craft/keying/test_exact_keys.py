import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st
from tests.strategies import chain_figure, curves

from bovrin import script
from bovrin.craft.curves.splining import splined_curve, stepped_curve
from bovrin.craft.keying import edits, pose_keys
from bovrin.craft.keying.edits import Scope
from bovrin.craft.keying.keys import KeyStyle
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, CurveSet, HandleKind, Key, KeyRole, Shot

Floats = np.ndarray

FRAMES = np.arange(100.0, 162.0, 0.125)


def everywhere(shot: Shot) -> Floats:
    return script.sample(shot, "porter", FRAMES).position


@pytest.fixture(scope="module")
def eased() -> Shot:
    return script.splined(script.key_pose(script.demo(), "porter", 101), "porter")


@pytest.mark.parametrize("frame", [103, 116.5, 130, 131, 152])
def test_a_key_pose_in_eased_motion_moves_nothing(eased: Shot, frame: float) -> None:
    posed = script.key_pose(eased, "porter", frame)
    assert all(c.index_at(frame) is not None for c in posed.curves("porter").curves)
    assert np.abs(everywhere(posed) - everywhere(eased)).max() < 1e-9


def test_what_an_edit_keys_besides_stays_where_it_was(eased: Shot) -> None:
    rig = eased.figure("porter").rig
    style = KeyStyle(HandleKind.NO_OVERSHOOT)
    turned = edits.edited(eased, "porter", 130, {rig.channel("head/turn"): 0.4}, Scope.WHOLE, style)
    moved = np.abs(everywhere(turned) - everywhere(eased)).max((0, 2))
    names = [j.name for j in rig.joints]
    assert moved[names.index("bobble")] > 0.01
    for name in ("left hand", "hips", "chest", "right foot"):
        assert moved[names.index(name)] < 1e-9, name


def test_the_plain_way_of_keys_is_kept_where_it_changes_nothing(demo: Shot) -> None:
    posed = script.key_pose(demo, "porter", 116)
    assert not any(c.free.any() for c in posed.curves("porter").curves)
    assert all(c.out_kind[c.index_at(116) or 0] == HandleKind.STEPPED for c in posed.curves("porter").curves)


def _time_runs(curve: Curve) -> bool:
    """Whether no handles make time stand still, where a value is known to a part in 10^5 only."""
    keys_, span = gather([curve]), np.diff(curve.frames)
    out, into = keys_.out_length[:-1] / span, keys_.in_length[1:] / span
    return bool((out + into - np.sqrt(out * into) < 0.999).all())


BETWEEN_GRID = Curve.from_keys(
    Key(at, v, out_kind=k) for at, v, k in ((102, 1.0, 0), (102.12, 0.0, 1), (103.12, 0.0, 0))
)
"""Smooth into a key whose other side changes, asked for a key on a frame that lies beside the grid."""


@example(BETWEEN_GRID, 0.75, KeyRole.KEY_POSE)
@given(curves(least=2), st.floats(0.02, 0.98), st.sampled_from(list(KeyRole)))
def test_a_key_put_into_any_curve_changes_no_value(curve: Curve, share: float, role: KeyRole) -> None:
    frame = float(np.round(curve.frames[0] + share * (curve.frames[-1] - curve.frames[0]), 3))
    assume(np.abs(curve.frames - frame).min() > 1e-2 and _time_runs(curve))
    rod = chain_figure()
    shot = Shot("x").with_figure(rod, CurveSet((curve,) * len(rod.rig.channels)))
    made = pose_keys.key_pose(shot, "rod", frame, style=KeyStyle(HandleKind.NO_OVERSHOOT, role)).curves("rod")[0]
    looks = np.linspace(curve.frames[0] - 2, curve.frames[-1] + 2, 401)
    size = 1.0 + np.abs(curve.values).max()
    assert np.abs(curve_values(made, looks) - curve_values(curve, looks)).max() < 1e-9 * size
    assert made.role[made.index_at(frame) or 0] == role


@given(st.floats(0.1, 10), st.floats(0.1, 10), st.floats(0.3, 9.7), st.floats(0.05, 0.95))
def test_a_cut_keeps_the_shape_whatever_the_handles_and_so_does_a_cut_of_the_cut(
    out: float, into: float, frame: float, again: float
) -> None:
    assume(out + into - np.sqrt(out * into) < 9.99)
    flat = {"in_kind": HandleKind.BY_HAND, "out_kind": HandleKind.BY_HAND, "free": True}
    curve = Curve.from_keys(
        [Key(101, 0.0, out_length=out, **flat), Key(111, 1.0, in_length=into, **flat)]  # type: ignore[arg-type]
    )
    looks = np.linspace(101, 111, 201)
    cut = inserted(curve, 101 + frame)
    twice = inserted(cut, float(101 + frame * again))
    for made in (cut, twice):
        assert np.abs(curve_values(made, looks) - curve_values(curve, looks)).max() < 1e-9


@given(curves(least=2, stepped=False))
def test_stepping_and_splining_again_keeps_handles_made_by_hand(curve: Curve) -> None:
    back = splined_curve(stepped_curve(curve))
    by_hand = (curve.out_kind == HandleKind.BY_HAND) & (curve.in_kind == HandleKind.BY_HAND)
    assert (back.out_kind[by_hand] == HandleKind.BY_HAND).all()
    assert np.allclose(back.out_slope[by_hand], curve.out_slope[by_hand], atol=1e-200)
    assert np.array_equal(back.in_slope, curve.in_slope)
    assert np.array_equal(back.out_length, curve.out_length)
    plain = (curve.out_kind != HandleKind.BY_HAND) & (curve.out_kind != HandleKind.STEPPED)
    assert (back.out_kind[plain] == HandleKind.NO_OVERSHOOT).all()
