"""Key poses of recordings: those that were there are found, and curves between them tell the motion."""

from dataclasses import replace

import numpy as np
import pytest

from bovrin import script
from bovrin.craft.keying.lag import card_poses_of
from bovrin.craft.keying.pose_keys import delete_keys
from bovrin.craft.recorded.key_pose_keeping import told_by, untold
from bovrin.craft.recorded.key_pose_search import find_key_poses
from bovrin.errors import BadMotion
from bovrin.shot import Curve, CurveSet, Shot
from bovrin.shot.curve import recorded_columns


def recorded(seed: int, count: int = 9) -> tuple[Shot, list[float]]:
    """The porter going through random poses at random distances, eased, recorded on every frame; and the poses' frames."""
    shot = script.demo()
    rig, rng = shot.figure("porter").rig, np.random.default_rng(seed)
    for frame in card_poses_of(shot.curves("porter")).frames.tolist():
        if frame > 101:
            shot = delete_keys(shot, "porter", frame)
    known = (101 + np.cumsum(rng.integers(7, 20, count))).astype(float).tolist()
    for frame in known:
        turned = [n for n in rig.channel_names if n.endswith(("/turn", "/tilt")) and "whole" not in n]
        shot = script.set_values(shot, "porter", frame, {n: rng.uniform(-30, 30) for n in turned})
        shot = script.key_pose(shot, "porter", frame)
    eased = replace(script.splined(shot, "porter"), last=known[-1])
    return with_every_frame_keyed(eased), [101.0, *known]


def with_every_frame_keyed(shot: Shot) -> Shot:
    frames = np.arange(shot.first, shot.last + 1)
    rig = shot.figure("porter").rig
    rows = [script.values(shot, "porter", f) for f in frames.tolist()]
    shared = recorded_columns(frames)
    curves = []
    for channel, name in zip(rig.channels, rig.channel_names, strict=True):
        values = np.array([row[name] for row in rows])
        values = np.radians(values) if channel.unit.name == "ANGLE" else values
        still = np.ptp(values) < 1e-12
        columns = {n: c[:1] for n, c in shared.items()} if still else shared
        curves.append(Curve.from_columns({**columns, "values": values[: len(columns["frames"])]}))
    return shot.with_curves("porter", CurveSet(tuple(curves)))


@pytest.mark.parametrize("seed", range(3))
def test_poses_that_were_there_are_found_within_a_frame(seed: int) -> None:
    shot, known = recorded(seed)
    found = script.find_key_poses(shot, "porter", count=len(known))
    assert np.abs(np.array(found) - known).max() <= 1


def test_more_poses_leave_less_untold() -> None:
    shot, known = recorded(4)
    frames = np.arange(shot.first, shot.last + 1)
    found = find_key_poses(shot, "porter", frames)
    assert (np.diff(found.untold[found.least - 2 :]) <= 1e-9).all() and found.most == len(frames)
    assert len(found.of(2)) == found.least == 3, "the longest way between two poses is 96 frames"
    for count in (3, 5, len(known), 40, len(frames)):
        poses = found.of(count)
        assert len(np.unique(poses)) == count and poses[0] == frames[0] and poses[-1] == frames[-1]
    off = [
        untold(shot, "porter", told_by(shot, "porter", found.of(n)), frames)[0] for n in (4, len(known), 3 * len(known))
    ]
    assert off[0] > 0.05 and max(off[1:]) < 0.005


def test_the_motion_is_told_and_the_recording_stays() -> None:
    shot, known = recorded(5)
    before = shot.take.name
    poses = script.find_key_poses(shot, "porter", error=0.02)
    kept = script.keep_key_poses(shot, "porter", poses, "told")
    frames = np.arange(shot.first, shot.last + 1)
    assert untold(shot, "porter", kept, frames)[0] <= 0.02
    assert len(poses) < len(frames) / 2
    assert kept.take.name == "told" and card_poses_of(kept.curves("porter")).frames.tolist() == poses
    old = kept.with_take(before)
    assert old.curves("porter") is shot.curves("porter")
    a, b = (script.sample(s, "porter", poses).position for s in (shot, kept))
    assert np.abs(a - b).max() < 1e-9, "the poses are the recorded ones"
    assert known[0] in poses


def test_what_cannot_be_searched_says_so() -> None:
    shot, _ = recorded(6)
    frames = np.arange(shot.first, shot.last + 1)
    with pytest.raises(BadMotion, match="three frames"):
        find_key_poses(shot, "porter", frames[:2])
    with pytest.raises(BadMotion, match="does not move"):
        find_key_poses(script.demo(), "steps", frames)
    with pytest.raises(BadMotion, match="stopped"):
        find_key_poses(shot, "porter", frames, go_on=lambda share: share < 0.3)
    with pytest.raises(BadMotion, match="two poses"):
        told_by(shot, "porter", [101])
