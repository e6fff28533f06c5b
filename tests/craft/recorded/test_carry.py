from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.strategies import chain_figure
from tests.walks import STEP, STEPS, STRIDE, walk

from bovrin import script
from bovrin.errors import BadMotion
from bovrin.measure.planted import planted, spans
from bovrin.shot import Shot

TOES = 0.045
"""Metres over the ground at which the joint of the toes lies while the foot is flat."""

LEG = 0.79


@pytest.fixture(scope="module")
def both(tmp_path_factory: pytest.TempPathFactory) -> Shot:
    """The walker and the porter in one shot, the walk carried over."""
    walking = walk(tmp_path_factory.mktemp("walk"))
    porter = script.demo().figure("porter")
    return script.carry(walking.with_figure(porter), "walk", "porter")


def track(shot: Shot, figure: str, joint: str) -> np.ndarray:
    motion = script.sample(shot, figure, np.array(shot.whole_frames, float))
    return motion.position[:, motion.joints.index(joint)]


def test_the_made_up_walk_is_one(both: Shot) -> None:
    hips = track(both, "walk", "Kern")
    assert hips[-1, 2] - hips[0, 2] == pytest.approx(STRIDE * STEPS / 2, abs=0.01)
    down = planted(track(both, "walk", "Spitze.L"), LEG, both.frame_rate)
    assert 0.4 < down.mean() < 0.75 and len(spans(down)) >= 3


def test_planted_feet_slide_less_than_five_millimetres(both: Shot) -> None:
    """Toes that are down in the walk stay where they are on the porter, though his legs are shorter and his feet longer."""
    for side, word in (("L", "left"), ("R", "right")):
        down = planted(track(both, "walk", f"Spitze.{side}"), LEG, both.frame_rate)
        ball = _ball(both, word)
        for first, last in spans(down):
            if last - first >= 3:
                slide = np.linalg.norm(np.diff(ball[first : last + 1], axis=0), axis=1).sum()
                assert np.ptp(ball[first : last + 1], axis=0).max() < 0.005, (word, first, last)
                assert slide < 0.005 * 2
                assert abs(ball[first : last + 1, 1].mean() - TOES) < 0.01, "as high over the ground as at rest"


def test_feet_that_are_flat_do_not_slide_at_the_ankle(both: Shot) -> None:
    for side, word in (("L", "left"), ("R", "right")):
        theirs = track(both, "walk", f"Schuh.{side}")
        still = np.linalg.norm(np.diff(theirs, axis=0), axis=1) < 1e-4
        own = np.linalg.norm(np.diff(track(both, "porter", f"{word} foot"), axis=0), axis=1)
        assert still.sum() > STEP and own[still].max() < 0.001


def _ball(shot: Shot, side: str) -> np.ndarray:
    """Where the ball of the porter's foot is on every frame."""
    motion = script.sample(shot, "porter", np.array(shot.whole_frames, float))
    from scipy.spatial.transform import Rotation

    j = motion.joints.index(f"{side} foot")
    rig = shot.figure("porter").rig
    limb = next(x for x in rig.limbs if x.name == f"{side} leg")
    assert limb.foot is not None
    rest = script.sample(script.demo(), "porter", [101]).joints.index(f"{side} foot")
    from bovrin.figure.solve.plan import plan_of

    since = (
        Rotation.from_quat(motion.rotation[:, j]) * Rotation.from_matrix(plan_of(rig).rest_world[rest, :3, :3]).inv()
    )
    return motion.position[:, j] + since.apply(np.array(limb.foot.ball))


def test_the_body_does_the_same(both: Shot) -> None:
    """Hips travel by the legs' ratio; the chest turns as much; knees bend forward; nothing is stretched."""
    ratio = _legs(both, "porter", ("left thigh", "left shin", "left foot")) / _legs(
        both, "walk", ("Ast.L", "Zweig.L", "Schuh.L")
    )
    ours, theirs = track(both, "porter", "hips"), track(both, "walk", "Kern")
    assert ours[-1, 2] - ours[0, 2] == pytest.approx(ratio * (theirs[-1, 2] - theirs[0, 2]), abs=0.02)
    knees, hips, ankles = (track(both, "porter", f"left {n}") for n in ("shin", "thigh", "foot"))
    assert ((knees - (hips + ankles) / 2)[:, 2] > 0).all()
    lengths = np.linalg.norm(knees - hips, axis=1)
    assert np.ptp(lengths) < 1e-4
    hands = track(both, "porter", "left hand")[:, 2] - track(both, "porter", "chest")[:, 2]
    theirs_hand = track(both, "walk", "Ende.L")[:, 2] - track(both, "walk", "Stock_2")[:, 2]
    assert np.corrcoef(hands, theirs_hand)[0, 1] > 0.9


def _legs(shot: Shot, figure: str, names: tuple[str, str, str]) -> float:
    a, b, c = (track(shot, figure, n)[0] for n in names)
    return float(np.linalg.norm(b - a) + np.linalg.norm(c - b))


def test_it_is_keyed_on_every_frame_and_memory_is_shared(both: Shot) -> None:
    keys = script.keys(both, "porter", "left foot/forward")
    assert keys == [float(f) for f in both.whole_frames]
    curves = [c for c in both.curves("porter").curves if len(c) > 1]
    owners = {id(c.frames.base if c.frames.base is not None else c.frames) for c in curves}
    assert len(owners) == 1
    assert script.values(both, "porter", 120)["left foot/reach"] == 1.0


def test_strangers_share_too_little(both: Shot) -> None:
    shot = both.with_figure(chain_figure("rod"))
    with pytest.raises(BadMotion, match="few parts"):
        script.carry(shot, "walk", "rod")
    with pytest.raises(BadMotion, match="another figure"):
        script.carry(shot, "walk", "walk")


@pytest.mark.parametrize("scale", [0.5, 1.5, 2.0])
def test_other_sizes_neither_slide_nor_pop(scale: float, tmp_path: Path) -> None:
    """Carried to a figure of half to twice the size: planted feet stay, knees turn little faster than the source's."""
    walking = walk(tmp_path)
    other = replace(script.bring(tmp_path / "walk.bvh", scale=scale).cast[0], name="other")
    shot = script.carry(walking.with_figure(other), "walk", "other")
    for side in "LR":
        down = planted(track(shot, "walk", f"Spitze.{side}"), LEG, shot.frame_rate)
        way = np.linalg.norm(np.diff(track(shot, "other", f"Spitze.{side}"), axis=0), axis=1)
        assert way[down[1:] & down[:-1]].max() < 0.002
        speeds = [np.abs(np.diff(_knee(shot, figure, side))).max() for figure in ("other", "walk")]
        assert speeds[0] < 1.3 * speeds[1]


def _knee(shot: Shot, figure: str, side: str) -> np.ndarray:
    """How far a knee is bent on every frame, radians."""
    hip, knee, foot = (track(shot, figure, f"{word}.{side}") for word in ("Ast", "Zweig", "Schuh"))
    up, down = hip - knee, foot - knee
    cos = (up * down).sum(1) / np.linalg.norm(up, axis=1) / np.linalg.norm(down, axis=1)
    return np.arccos(np.clip(cos, -1, 1))
