"""A shot with a late arm goes through every command of Block and Break down, and the arm stays as late."""

from collections.abc import Callable

import numpy as np
import pytest
from tests.desk.changes import WINDOWS

from bovrin import script
from bovrin.craft.keying.lag import belonging, card_poses_of, lags_at
from bovrin.craft.keying.pose_keys import delete_keys
from bovrin.desk.table import TABLE
from bovrin.desk.window import Window
from bovrin.shot import Shot

LAG = 3.0
POSES = (101.0, 109.0, 117.0, 125.0, 133.0, 145.0, 153.0, 161.0)


def late_shot() -> Shot:
    """Eight poses of the porter, splined, the left arm three frames late to all but the first."""
    shot = script.demo()
    rig = shot.figure("porter").rig
    for frame in card_poses_of(shot.curves("porter")).frames.tolist():
        if frame > POSES[1]:
            shot = delete_keys(shot, "porter", frame)
    rng = np.random.default_rng(8)
    for frame in POSES[2:]:
        turns = {n: rng.uniform(-20, 20) for n in rig.channel_names if n.endswith(("/turn", "/tilt"))}
        shot = script.key_pose(script.set_values(shot, "porter", frame, turns), "porter", frame)
    return script.slide(script.splined(shot, "porter"), "porter", LAG, ["left arm"], start=109)


@pytest.fixture
def late(make: Callable[[Shot], Window]) -> Window:
    return make(late_shot())


LAGS_ON_PURPOSE = {
    "cycle.close", "cycle.spot", "cycle.root",
    "keys.later", "keys.sooner", "motion.insert_part", "motion.take_out_part", "edit.undo", "edit.redo", "take.next",
    "keys.paste", "keys.paste_in_place", "keys.paste_as_offset", "pose.mirror_keys", "arcs.break_up",
}  # fmt: skip


def lags(shot: Shot) -> dict[float, tuple[float, ...]]:
    """How late the arm, and how late the rest, comes to every pose."""
    curves, rig = shot.curves("porter"), shot.figure("porter").rig
    arm = set(rig.part_channels(rig.part("left arm")))
    keyed = [i for i, curve in enumerate(curves.curves) if len(curve) > 1]
    found = {}
    for frame in belonging(curves).poses.frames.tolist():
        own = lags_at(curves, frame)
        sides = [[i for i in keyed if (i in arm) is of_arm] for of_arm in (True, False)]
        found[frame] = tuple(float(lag) for side in sides for lag in np.unique(own[side]))
    return found


SWEEP = pytest.mark.sweep


@pytest.mark.parametrize(
    ("control", "frame", "cards"),
    [
        ("hips", 121.0, False),
        pytest.param("left hand", 125.0, True, marks=SWEEP),
        pytest.param("hips", 117.0, False, marks=SWEEP),
        pytest.param("hips", 121.0, True, marks=SWEEP),
        pytest.param("left hand", 125.0, False, marks=SWEEP),
    ],
)
def test_every_command_leaves_the_arm_as_late(
    late: Window, quiet: None, control: str, frame: float, cards: bool
) -> None:
    session = late.session
    wrong: list[tuple[str, object]] = []
    looking, keying = session.looking, session.keying
    for command in TABLE:
        if command.id in WINDOWS | LAGS_ON_PURPOSE or (cards and not command.id.startswith(("keys.", "role."))):
            continue  # of chosen cards only what acts on keys takes notice
        session.looking, session.keying = looking, keying
        session.choose("porter", [session.shot.figure("porter").rig.control(control)])
        session.keys.choose({})
        session.go_to(frame)
        if cards:
            session.keys.choose(session.keys.on_frames(np.array([117.0, 125.0, 133.0])))
        step = session.document.undo_stack.index()
        before = session.shot
        late.run(command.id)
        if session.shot is not before:
            found = lags(session.shot)
            as_late = {f: (LAG, 0.0) if f > min(found) else (0.0, 0.0) for f in found}
            wrong += [(command.id, found)] if found != as_late else []
            seen = session.poses.cards.frames.tolist()
            wrong += [(command.id, seen)] if seen != list(found) else []
        session.document.undo_stack.setIndex(step)
    assert not wrong, "\n".join(map(str, wrong))
