"""The commands about keying, time and spacing, of the one command table."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.craft.keying.timing import insert_frames, lengthen, remove_frames
from bovrin.craft.keying.whole_cast import lengthen_for_all
from bovrin.craft.markers import marker_beside
from bovrin.craft.ranges import fit_to_keys
from bovrin.desk.commands import timing
from bovrin.desk.commands.command import Command, Run, always, changing, has_choice, has_figure
from bovrin.desk.commands.timing import go, with_role
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.player import MODES
from bovrin.shot import KeyRole, Shot


def _longer(by: int) -> Run:
    words = "Hold longer" if by > 0 else "Hold shorter"

    def change(shot: Shot, s: Session) -> Shot:
        return (lengthen_for_all if shot.retimes_all else lengthen)(shot, s.figure_name, s.frame, by)

    return changing(words, change)


def _row(
    id_: str, group: str, words: str, key: str, tip: str, run: Run, applies: Callable[[Session], bool] = has_figure
) -> Command:
    return Command(id_, group, words, key, tip, run, applies)


KEYING: tuple[Command, ...] = (
    _row("pose.key", "Pose", "Key pose here", "K", "Key the pose as it is on this frame (keyframe)", timing.key_here),
    _row(
        "pose.drop",
        "Pose",
        "Drop the change",
        "D",
        "Put back what was there before a change not keyed",
        timing.drop_here,
    ),
    _row(
        "pose.breakdown", "Pose", "Breakdown here", "B", "Put a breakdown on this frame (tween)", timing.breakdown_here
    ),
    _row(
        "pose.hold",
        "Pose",
        "Hold to here",
        "H",
        "Repeat the pose before on this frame, so that it stays",
        changing("Hold", timing.hold_here),
    ),
    _row(
        "pose.longer",
        "Pose",
        "A frame more",
        "+",
        "Hold this pose one frame longer; later poses move along",
        _longer(1),
    ),
    _row(
        "pose.shorter",
        "Pose",
        "A frame less",
        "-",
        "Hold this pose one frame shorter; later poses move along",
        _longer(-1),
    ),
    _row("pose.remove", "Pose", "Remove", "Del", "Remove the chosen keys, or the pose on this frame", timing.remove),
    _row(
        "pose.name",
        "Pose",
        "Name this pose",
        "F2",
        "Give the pose's card a name",
        lambda d: d.strip.rename_card(d.session.poses.cards.held_at(d.session.frame) or d.session.frame),
    ),
    _row("pose.push", "Pose", "Push past", "E", "Carry this pose on, past where it was meant to go", timing.push),
    _row(
        "pose.settle",
        "Pose",
        "Settle here",
        "Shift+E",
        "After a pose pushed past, settle on this frame",
        timing.settle_here,
    ),
    _row(
        "keys.scope",
        "Pose",
        "Next: keys go on",
        "W",
        "An edit keys the whole figure, its part, or what is touched",
        timing.next_scope,
    ),
    _row(
        "keys.for_all",
        "Pose",
        "Retiming takes all along",
        "",
        "Moving or holding a pose takes the whole cast and the markers along, or the figure alone",
        timing.toggle_for_all,
    ),
    _row(
        "keys.only_k", "Pose", "Only K keys", "", "Changes are shown, and keyed when K is pressed", timing.toggle_only_k
    ),
)

SPACING: tuple[Command, ...] = (
    _row(
        "motion.fours", "Motion", "Fill on fours", "O", "Breakdowns on every fourth frame of this span", timing.fill(4)
    ),
    _row(
        "motion.threes",
        "Motion",
        "Fill on threes",
        "Alt+O",
        "Breakdowns on every third frame of this span",
        timing.fill(3),
    ),
    _row(
        "motion.twos",
        "Motion",
        "Fill on twos",
        "Shift+O",
        "Breakdowns on every second frame of this span",
        timing.fill(2),
    ),
    _row(
        "motion.insert",
        "Motion",
        "Insert a frame",
        "Ins",
        "Put an empty frame after this one, for the whole cast",
        changing("Insert a frame", lambda shot, s: insert_frames(shot, s.frame, 1)),
        always,
    ),
    _row(
        "motion.take_out",
        "Motion",
        "Take out a frame",
        "Shift+Del",
        "Take out the empty frame after this one, for the whole cast",
        changing("Take out a frame", lambda shot, s: remove_frames(shot, s.frame, 1)),
        always,
    ),
    _row(
        "motion.find_poses",
        "Motion",
        "Find the key poses…",
        "",
        "The fewest poses that tell a recorded motion, from few to many, kept as a take of their own",
        lambda port: port.open("key poses"),
    ),
    _row(
        "motion.insert_part",
        "Motion",
        "Insert a frame for the part",
        "Alt+Ins",
        "Put an empty frame after this one, for the chosen part only",
        changing("Insert a frame", timing.insert_part),
        has_choice,
    ),
    _row(
        "motion.take_out_part",
        "Motion",
        "Take out a frame for the part",
        "Alt+Del",
        "Take out the empty frame after this one, for the chosen part only",
        changing("Take out a frame", timing.take_out_part),
        has_choice,
    ),
)

KEYS: tuple[Command, ...] = (
    _row(
        "keys.later",
        "Keys",
        "A frame later",
        "Ctrl+Right",
        "The chosen keys, or the chosen part's, a frame later",
        timing.later(1),
    ),
    _row(
        "keys.sooner",
        "Keys",
        "A frame sooner",
        "Ctrl+Left",
        "The chosen keys, or the chosen part's, a frame sooner",
        timing.later(-1),
    ),
    _row(
        "keys.spread",
        "Keys",
        "Spread evenly",
        "",
        "The chosen keys at even distances",
        lambda d: timing.spread_chosen(d.session),
    ),
    _row("keys.here", "Keys", "All on this frame", "", "Choose every key on this frame", timing.choose_side(0.0, 0.0)),
    _row(
        "keys.before",
        "Keys",
        "All before",
        "Ctrl+Shift+Left",
        "Choose every key up to this frame",
        timing.choose_side(None, 0.0),
    ),
    _row(
        "keys.after",
        "Keys",
        "All after",
        "Ctrl+Shift+Right",
        "Choose every key from this frame on",
        timing.choose_side(0.0, None),
    ),
    _row("keys.all", "Keys", "All", "Ctrl+A", "Choose every key", timing.choose_side(None, None)),
    _row(
        "role.key_pose",
        "Keys",
        "Call it a key pose",
        "",
        "What is chosen, or on this frame, is a key pose",
        timing.call(KeyRole.KEY_POSE, "a key pose"),
    ),
    _row(
        "role.breakdown",
        "Keys",
        "Call it a breakdown",
        "",
        "What is chosen, or on this frame, is a breakdown",
        timing.call(KeyRole.BREAKDOWN, "a breakdown"),
    ),
    _row(
        "role.in_between",
        "Keys",
        "Call it an in-between",
        "",
        "What is chosen, or on this frame, is an in-between",
        timing.call(KeyRole.IN_BETWEEN, "an in-between"),
    ),
)


def _step(name: str, words: str, key: str, role: KeyRole, *, after: bool) -> Command:
    way = "after" if after else "before"
    return _row(
        f"time.{name}_{way}",
        "Time",
        f"{words} {way}",
        key,
        f"Go to the {words.lower()} {way}",
        go(with_role(role, after=after)),
    )


def _mode(mode: str) -> Command:
    return _row(
        f"time.play_{mode.replace(' ', '_')}",
        "Time",
        f"Play {mode}",
        "",
        f"Playing goes {MODES[mode]}",
        lambda d: d.player.set_mode(mode),
        always,
    )


TIME: tuple[Command, ...] = (
    _row(
        "time.play",
        "Time",
        "Play or stop",
        "Space",
        "Play the range at true speed",
        lambda d: d.player.toggle(),
        always,
    ),
    _row("time.back", "Time", "A frame back", "Left", "One frame back", go(lambda s: s.frame - 1), always),
    _row("time.on", "Time", "A frame on", "Right", "One frame on", go(lambda s: s.frame + 1), always),
    _row(
        "time.pose_before",
        "Time",
        "Pose before",
        "Up",
        "Go to the pose before",
        go(lambda s: s.poses.beside(s.frame, after=False)),
        always,
    ),
    _row(
        "time.pose_after",
        "Time",
        "Pose after",
        "Down",
        "Go to the pose after",
        go(lambda s: s.poses.beside(s.frame, after=True)),
        always,
    ),
    _step("key_pose", "Key pose", "Shift+Up", KeyRole.KEY_POSE, after=False),
    _step("key_pose", "Key pose", "Shift+Down", KeyRole.KEY_POSE, after=True),
    _step("breakdown", "Breakdown", "Ctrl+Up", KeyRole.BREAKDOWN, after=False),
    _step("breakdown", "Breakdown", "Ctrl+Down", KeyRole.BREAKDOWN, after=True),
    _row("time.first", "Time", "First frame", "Home", "Go to the first frame", go(lambda s: s.shot.first), always),
    _row("time.last", "Time", "Last frame", "End", "Go to the last frame", go(lambda s: s.shot.last), always),
    *(_mode(mode) for mode in MODES),
    _row(
        "time.second",
        "Time",
        "Play the second range",
        "",
        "Play only the range kept aside; again: the whole shot",
        lambda d: d.player.toggle_second(),
        always,
    ),
    _row(
        "time.settings",
        "Time",
        "Range and speed…",
        "T",
        "Frame rate, range, second range and how playing goes on",
        lambda d: d.open("time"),
        always,
    ),
    _row(
        "time.range_to_keys",
        "Time",
        "Range to the keys",
        "",
        "Let the range begin with the first key and end with the last",
        changing("Range to the keys", lambda shot, _s: fit_to_keys(shot)),
        always,
    ),
    _row(
        "time.fit",
        "Time",
        "See the whole shot",
        "",
        "Fit the strip to the shot's range",
        lambda d: d.strip.see_range(),
        always,
    ),
    _row(
        "marker.add",
        "Time",
        "Marker here",
        "N",
        "Add a marker on this frame",
        lambda d: d.strip.new_marker(d.session.frame),
        always,
    ),
    _row(
        "marker.before",
        "Time",
        "Marker before",
        "Alt+Left",
        "Go to the marker before",
        go(lambda s: marker_beside(s.shot, s.frame, after=False)),
        always,
    ),
    _row(
        "marker.after",
        "Time",
        "Marker after",
        "Alt+Right",
        "Go to the marker after",
        go(lambda s: marker_beside(s.shot, s.frame, after=True)),
        always,
    ),
)
