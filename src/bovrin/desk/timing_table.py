"""The commands about time and spacing, of the one command table."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from bovrin.craft.breakdown import fill_breakdowns
from bovrin.craft.timing import insert_frames, remove_frames, slide
from bovrin.desk.command import Command, Run, changing, has_choice, has_figure
from bovrin.desk.session import Session
from bovrin.errors import BadMotion
from bovrin.shot import KeyRole, Shot

if TYPE_CHECKING:
    from bovrin.desk.window import Window


def _go(pick: Callable[[Session], float | None]) -> Run:
    def run(desk: Window) -> None:
        frame = pick(desk.session)
        if frame is not None:
            desk.session.go_to(frame)

    return run


def _fill(every: int) -> Run:
    def change(shot: Shot, session: Session) -> Shot:
        before, after = _key_span(session)
        return fill_breakdowns(shot, session.figure_name, before, after, every)

    return changing(f"Fill on {({4: 'fours', 3: 'threes', 2: 'twos'})[every]}", change)


def _key_span(session: Session) -> tuple[float, float]:
    """The key poses at or before and after the current frame; BadMotion says so when there are not two."""
    poses = session.whole_poses
    keyed = poses.frames[poses.roles == KeyRole.KEY_POSE]
    before, after = keyed[keyed <= session.frame + 1e-6], keyed[keyed > session.frame + 1e-6]
    if not len(before) or not len(after):
        raise BadMotion(
            f"frame {session.frame:g} lies in no span between two key poses.",
            advice="Go to a frame between two of them.",
        )
    return float(before[-1]), float(after[0])


def _slide(by: int) -> Run:
    def change(shot: Shot, session: Session) -> Shot:
        figure = shot.figure(session.figure_name)
        parts = [p.name for p in figure.rig.parts if set(p.controls) & set(session.controls)]
        return slide(shot, figure.name, by, parts)

    return changing("Slide the part", change)


SPACING: tuple[Command, ...] = (
    Command(
        "motion.fours",
        "Motion",
        "Fill on fours",
        "",
        "Breakdowns on every fourth frame of this span",
        _fill(4),
        has_figure,
    ),
    Command(
        "motion.threes",
        "Motion",
        "Fill on threes",
        "",
        "Breakdowns on every third frame of this span",
        _fill(3),
        has_figure,
    ),
    Command(
        "motion.twos",
        "Motion",
        "Fill on twos",
        "",
        "Breakdowns on every second frame of this span",
        _fill(2),
        has_figure,
    ),
    Command(
        "motion.later",
        "Motion",
        "Part a frame later",
        "Ctrl+Right",
        "The chosen part's keys a frame later",
        _slide(1),
        has_choice,
    ),
    Command(
        "motion.sooner",
        "Motion",
        "Part a frame sooner",
        "Ctrl+Left",
        "The chosen part's keys a frame sooner",
        _slide(-1),
        has_choice,
    ),
    Command(
        "motion.insert",
        "Motion",
        "Insert a frame",
        "Ins",
        "Put an empty frame after this one, for the whole cast",
        changing("Insert a frame", lambda shot, s: insert_frames(shot, s.frame, 1)),
    ),
    Command(
        "motion.take_out",
        "Motion",
        "Take out a frame",
        "Shift+Del",
        "Take out the empty frame after this one, for the whole cast",
        changing("Take out a frame", lambda shot, s: remove_frames(shot, s.frame, 1)),
    ),
)

TIME: tuple[Command, ...] = (
    Command(
        "time.play",
        "Time",
        "Play or stop",
        "Space",
        "Play the range in a loop at true speed",
        lambda d: d.player.toggle(),
    ),
    Command("time.back", "Time", "A frame back", "Left", "One frame back", _go(lambda s: s.frame - 1)),
    Command("time.on", "Time", "A frame on", "Right", "One frame on", _go(lambda s: s.frame + 1)),
    Command(
        "time.pose_before", "Time", "Pose before", "Up", "Go to the pose before", _go(lambda s: s.poses.before(s.frame))
    ),
    Command(
        "time.pose_after", "Time", "Pose after", "Down", "Go to the pose after", _go(lambda s: s.poses.after(s.frame))
    ),
    Command("time.first", "Time", "First frame", "Home", "Go to the first frame", _go(lambda s: s.shot.first)),
    Command("time.last", "Time", "Last frame", "End", "Go to the last frame", _go(lambda s: s.shot.last)),
    Command("time.fit", "Time", "See the whole shot", "", "Fit the strip to the shot's range", lambda d: d.see_range()),
)
