"""Limbs of brought motions reach at once, and nothing of the motion is another for it."""

from dataclasses import replace

import numpy as np
import pytest
from tests.figure import builds
from tests.figure.test_builds import all_builds

from bovrin import script
from bovrin.figure.brought.guess import guess_build
from bovrin.figure.making.rig_growing import with_channels
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.reading.reaching import reaching
from bovrin.figure.solve.fit import LimbMode, modes_of
from bovrin.figure.solve.stick import stick_model
from bovrin.figure.staging import staged
from bovrin.shot import Curve, Figure, HandleKind, Joint, Shot
from bovrin.shot.curve import recorded_columns

FRAMES = np.arange(101.0, 141.0)


def recorded(joints: tuple[Joint, ...], seed: int = 5, size: float = 0.4) -> Shot:
    """A recording in which every joint swings, those inside limbs too."""
    guess = guess_build(joints)
    turned = set(range(1, len(joints)))
    rig = with_channels(make_rig(joints, guess, reach=False), {1}, turned)
    figure = Figure("it", rig, stick_model(rig), "it", (0.5, 0.5, 0.5))
    rng, shared, curves = np.random.default_rng(seed), recorded_columns(FRAMES), {}
    for index, control in enumerate(rig.controls):
        if control.joint not in turned or control.kind.value != "joint":
            continue
        for i, channel in zip(rig.span(index), control.channels, strict=True):
            if channel.name in ("turn", "tilt", "roll", "across", "forward"):
                values = rng.normal(0, size) * np.sin((FRAMES - 101) / 6 + rng.uniform(0, 6))
                curves[i] = Curve.from_columns({**shared, "values": values})
    return Shot("x", last=140).with_figure(figure, figure.no_motion().replaced(curves))


def worlds(shot: Shot, frames: np.ndarray) -> np.ndarray:
    return staged(shot, "it", frames).world


TURNED = {
    "turned, twists inside": builds.joints_of(builds.TWO_LEGS["sides behind, twists inside"][2], 7),
    "turned fox": builds.joints_of(builds.four_legs(arms=False), 40),
}


@pytest.fixture(params=[*all_builds(), *TURNED])
def shot(request: pytest.FixtureRequest) -> Shot:
    return recorded((all_builds() | TURNED)[request.param])


def test_no_frame_is_another_and_every_limb_reaches(shot: Shot) -> None:
    told = reaching(shot)
    assert np.abs(worlds(told, FRAMES) - worlds(shot, FRAMES)).max() < 1e-6
    values = staged(told, "it", FRAMES).values
    assert modes_of(told.figure("it").rig, values[0]) == [LimbMode.REACH] * len(told.figure("it").rig.limbs)
    assert reaching(told) is told, "there is nothing left to do"


def test_between_frames_no_joint_goes_farther_than_between_the_frames_around(shot: Shot) -> None:
    told = reaching(shot)
    fine = np.arange(101.0, 140.01, 0.25)
    at = worlds(told, fine)[..., :3, 3]
    steps = np.linalg.norm(np.diff(at, axis=0), axis=-1).reshape(-1, 4, at.shape[1])
    around = np.linalg.norm(np.diff(at[::4], axis=0), axis=-1)
    wide = np.maximum(around, np.maximum(np.roll(around, 1, 0), np.roll(around, -1, 0)))
    assert (steps.max(1) <= wide + 2e-3).all()


def test_goals_are_what_hands_and_feet_follow(shot: Shot) -> None:
    told = reaching(shot)
    rig = told.figure("it").rig
    for limb in rig.limbs:
        before = worlds(told, FRAMES[10:11])[0, :, :3, 3]
        goal = before[limb.end] + 0.2 * (before[limb.upper] - before[limb.end])
        now = staged(told, "it", FRAMES[10:11]).values[0]
        span = zip(rig.span(limb.goal), rig.controls[limb.goal].channels, strict=True)
        moved = {c.name: now[i] for i, c in span if c.name in ("across", "up", "forward")}
        moved = dict(zip(moved, np.array(list(moved.values())) + goal - before[limb.end], strict=True))
        placed = script.set_values(
            told, "it", 111, {f"{rig.controls[limb.goal].name}/{n}": v for n, v in moved.items()}
        )
        after = worlds(placed, FRAMES[10:11])[0, :, :3, 3]
        assert np.linalg.norm(after[limb.end] - goal) < 1e-3, limb.name
        bends = [np.cross(p[limb.middle] - p[limb.upper], p[limb.end] - p[limb.middle]) for p in (before, after)]
        assert bends[0] @ bends[1] > 0, f"{limb.name} bends to the side it did"
        others = np.delete(np.arange(len(FRAMES)), 10)
        assert np.abs(worlds(placed, FRAMES[others]) - worlds(told, FRAMES[others])).max() < 1e-9


def test_a_limb_that_reach_cannot_tell_stays_posed_by_its_joints() -> None:
    joints = builds.joints_of(builds.TWO_LEGS["in one word"][2])
    shot = recorded(joints)
    rig = shot.figure("it").rig
    arm = next(limb for limb in rig.limbs if limb.name == "left arm")
    grown = with_channels(rig, {arm.middle}, set())
    figure = replace(shot.figure("it"), rig=grown)
    off = np.sin(FRAMES / 5) * 0.1
    curves = dict(zip(rig.channel_names, shot.curves("it").curves, strict=True))
    name = next(c.name for c in rig.controls if c.joint == arm.middle and c.kind.value == "joint")
    curves[f"{name}/up"] = Curve.from_columns({**recorded_columns(FRAMES), "values": off})
    still = figure.no_motion()
    told = [curves.get(n, still[i]) for i, n in enumerate(grown.channel_names)]
    apart = Shot("x", last=140).with_figure(figure, still.replaced(dict(enumerate(told))))
    after = reaching(apart)
    assert np.abs(worlds(after, FRAMES) - worlds(apart, FRAMES)).max() < 1e-6
    modes = dict(
        zip(
            (x.name for x in rig.limbs),
            modes_of(after.figure("it").rig, staged(after, "it", FRAMES).values[0]),
            strict=True,
        )
    )
    assert modes["left arm"] is LimbMode.JOINTS and modes["right arm"] is LimbMode.REACH


def test_stepped_poses_stay_stepped() -> None:
    shot = recorded(builds.joints_of(builds.TWO_LEGS["in one word"][2]))
    kept = {}
    for i, curve in enumerate(shot.curves("it").curves):
        if len(curve) > 1:
            thin = curve.taken(np.arange(len(curve)) % 8 == 0)
            kept[i] = thin.changed(out_kind=np.full(len(thin), HandleKind.STEPPED, np.uint8))
    shot = shot.with_curves("it", shot.curves("it").replaced(kept))
    told = reaching(shot)
    fine = np.arange(101.0, 140.0, 0.5)
    assert np.abs(worlds(told, fine) - worlds(shot, fine)).max() < 1e-6
    assert {len(c) for c in told.curves("it").curves if len(c) > 1} == {5}
