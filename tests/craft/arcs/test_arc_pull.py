"""A dot of an arc goes where it is dragged; poses on key frames stay, and nothing else moves."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin import script
from bovrin.craft.arcs.arc_pull import PointPull, bent_through
from bovrin.errors import BadMotion
from bovrin.figure.staging import stance
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.shot import Curve, HandleKind, Key, Shot

WRIST = "left hand"
HANDLES = st.sampled_from(
    [HandleKind.SMOOTH, HandleKind.NO_OVERSHOOT, HandleKind.FLAT, HandleKind.LINEAR, HandleKind.BY_HAND]
)


@pytest.fixture(scope="module")
def splined(demo: Shot) -> Shot:
    return script.splined(demo, "porter")


def key_frames(shot: Shot) -> np.ndarray:
    return np.unique(np.concatenate([curve.frames for curve in shot.curves("porter").curves]))


@given(st.integers(102, 147), st.tuples(*[st.floats(-0.04, 0.04)] * 3))
def test_a_dot_between_poses_is_where_it_was_dragged_and_poses_stay(
    splined: Shot, frame: int, by: tuple[float, ...]
) -> None:
    own = script.arc(splined, "porter", WRIST, [frame])
    if frame in key_frames(splined):
        return
    wanted = own.position[0] + np.array(by)
    try:
        made = script.drag_arc(splined, "porter", WRIST, frame, wanted, "handles")
    except BadMotion:
        return
    posed = script.drag_arc(splined, "porter", WRIST, frame, wanted)
    there, near = (script.arc(one, "porter", WRIST, [frame]).position[0] for one in (made, posed))
    assert np.linalg.norm(there - wanted) < 1e-3 + np.linalg.norm(near - wanted)
    rig, keys = made.figure("porter").rig, key_frames(splined)
    before, after = (channel_values(s.curves("porter"), rig, keys) for s in (splined, made))
    assert np.abs(before - after).max() < 1e-6
    assert np.array_equal(keys, key_frames(made)), "no key comes"
    pairs = zip(rig.channel_names, splined.curves("porter").curves, made.curves("porter").curves, strict=True)
    moved = {name.partition("/")[0] for name, a, b in pairs if a is not b}
    assert moved <= {"left hand", "left elbow", "left upper arm", "left forearm", "left wrist"}, moved


@given(st.data())
def test_a_bent_curve_goes_through_keeps_its_keys_and_stays_smooth(data: st.DataObject) -> None:
    rng = np.random.default_rng(data.draw(st.integers(0, 10_000)))
    frames = 101 + np.cumsum(rng.integers(2, 12, 6)).astype(float)
    values = rng.normal(0, 1, 6)
    kinds = [data.draw(HANDLES) for _ in range(6)]
    keys = [
        Key(f, v, k, k, 0.3 * (-1) ** n, 0.3 * (-1) ** n, 1.0, 1.0, joined=True, free=bool(n % 2))
        for n, (f, v, k) in enumerate(zip(frames.tolist(), values.tolist(), kinds, strict=True))
    ]
    curve = Curve.from_keys(keys)
    at = data.draw(st.integers(0, 4))
    frame = data.draw(st.floats(frames[at] + 0.2, frames[at + 1] - 0.2))
    wanted = float(curve_values(curve, np.array([frame]))[0]) + data.draw(st.floats(-1, 1))
    made = bent_through(curve, frame, wanted)
    assert curve_values(made, np.array([frame]))[0] == pytest.approx(wanted, abs=1e-9)
    assert np.array_equal(made.frames, curve.frames) and np.array_equal(made.values, curve.values)
    dense = np.linspace(frames[0], frames[-1], 600)
    apart = (dense < frames[max(at - 1, 0)]) | (dense > frames[min(at + 2, 5)])
    assert np.allclose(curve_values(made, dense)[apart], curve_values(curve, dense)[apart], atol=1e-9), (
        "only what is beside"
    )
    for key in (at, at + 1):
        if 0 < key < 5:
            ends = [np.diff(curve_values(c, frames[key] + np.array([-1e-5, 0, 1e-5]))) / 1e-5 for c in (curve, made)]
            if (
                abs(ends[0][0] - ends[0][1]) < 1e-4
                and abs(values[key] - values[key - 1 if key == at else key + 1]) > 1e-6
            ):
                assert ends[1][0] == pytest.approx(ends[1][1], abs=1e-3), "what was smooth stays smooth"


def test_what_cannot_be_bent_is_said(demo: Shot) -> None:
    place = script.arc(demo, "porter", WRIST, [110]).position[0] + 0.02
    with pytest.raises(BadMotion, match="no eased keys around frame 110"):
        script.drag_arc(demo, "porter", WRIST, 110, place, "handles")
    with pytest.raises(BadMotion, match="pose, handles or breakdown"):
        script.drag_arc(demo, "porter", WRIST, 110, place, "magic")
    with pytest.raises(BadMotion, match="finite number"):
        script.drag_arc(demo, "porter", WRIST, 110, [0, np.nan, 0])


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (0.03, 0.05, 0.09)])
@pytest.mark.parametrize("joint", ["head", "left hand", "left shin", "hips", "left forearm"])
def test_any_spot_of_a_pose_is_dragged(demo: Shot, joint: str, at: tuple[float, float, float]) -> None:
    """Hands and hips get there; what only swings gets onto the line through the place."""
    point = (joint, at)
    own = script.arc(demo, "porter", point, [113]).position[0]
    wanted = own + [0.01, -0.012, 0.008]
    made = script.drag_arc(demo, "porter", point, 113, wanted)
    off = np.linalg.norm(script.arc(made, "porter", point, [113]).position[0] - wanted)
    assert off < (1e-3 if joint in ("left hand", "hips") else np.linalg.norm(wanted - own))
    before = [script.arc(demo, "porter", j, [101, 141]).position for j in (joint, "right hand")]
    after = [script.arc(made, "porter", j, [101, 141]).position for j in (joint, "right hand")]
    assert np.allclose(before, after), "other poses stay"


def test_a_relative_arc_does_not_travel(splined: Shot) -> None:
    frames = np.arange(101.0, 149.0)
    own = script.arc(splined, "porter", WRIST, frames, relative_to="chest")
    world = script.sample(splined, "porter", frames)
    chest, hand = world.joints.index("chest"), world.joints.index(WRIST)
    far = np.linalg.norm(world.position[:, hand] - world.position[:, chest], axis=1)
    assert np.allclose(np.linalg.norm(own.position, axis=1), far, rtol=0.2)
    assert np.allclose(own.steps, np.linalg.norm(np.diff(own.position, axis=0), axis=1))


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (0.02, 0.05, 0.06)])
def test_a_dot_dragged_past_its_pivot_does_not_whip_round(demo: Shot, at: tuple[float, float, float]) -> None:
    """Two millimetres at a time: nothing is swept farther than the pace of a drag allows."""
    splined = script.splined(demo, "porter")
    for joint, frame, way in (("chest", 119.0, (-1, 0, 0)), ("head", 130.0, (0, -1, 0)), ("head", 119.0, (-1, 0, 0))):
        now = stance(splined, "porter", frame)
        pull = PointPull(now, now.rig.joint(joint), np.array(at), paced=True)
        start, last = pull.place, now.world[:, :3, 3]
        for step in range(1, 80):
            places = now.with_values(pull.to(start + np.array(way) * step * 0.002)).world[:, :3, 3]
            assert np.linalg.norm(places - last, axis=1).max() < 0.03, (joint, frame, step)
            last = places
