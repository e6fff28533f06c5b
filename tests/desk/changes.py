"""What a command may change in a shot, and what it did change."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.desk.table import TABLE
from bovrin.desk.window import Window
from bovrin.shot import Shot

ALL = (
    MOTION,
    CARDS,
    OTHERS,
    RANGE,
    MARKERS,
    TRACES,
    TAKES,
    CAST,
    WAITING,
    RETIMING,
    SPOTS,
    DRAWINGS,
    GOING,
    CLIPS,
    HANGING,
    RULES,
) = (
    "the motion of the figure",
    "what its poses carry",
    "the other figures",
    "the range",
    "the markers",
    "the traces",
    "the takes",
    "the cast",
    "changes still to be kept",
    "what retiming takes",
    "the kept arcs",
    "the drawings",
    "cycles and contacts",
    "clips and lanes",
    "what hangs on what",
    "what follows rules",
)


def _lying_on(shot: Shot, figures: set[str]) -> tuple[object, ...]:
    return tuple((n, c) for n, c in sorted(shot.take.curves.items()) if n in figures) + tuple(
        (n, own.cards) for n, own in sorted(shot.take.acting.items()) if n in figures and own.cards
    )


def changed(before: Shot, after: Shot, figure: str) -> set[str]:
    """All that is another in the second shot, seen from a figure both have."""
    others = {f.name for f in before.cast} - {figure}
    looks: dict[str, Callable[[Shot], object]] = {
        MOTION: lambda shot: shot.take.curves.get(figure),
        CARDS: lambda shot: shot.cards(figure),
        OTHERS: lambda shot: _lying_on(shot, others),
        RANGE: lambda shot: (shot.first, shot.last, shot.frame_rate, shot.second, shot.loops),
        MARKERS: lambda shot: shot.markers,
        TRACES: lambda shot: shot.take.traces,
        TAKES: lambda shot: (shot.take.name, shot.takes),
        CAST: lambda shot: (shot.cast, shot.groups, shot.title),
        WAITING: lambda shot: shot.unkeyed,
        RETIMING: lambda shot: shot.retimes_all,
        SPOTS: lambda shot: shot.spots,
        DRAWINGS: lambda shot: shot.drawings,
        HANGING: lambda shot: {n: own.attachments for n, own in shot.take.acting.items() if own.attachments},
        RULES: lambda shot: {n: own.followers for n, own in shot.take.acting.items() if own.followers},
        CLIPS: lambda shot: (shot.clips, {n: own.lanes for n, own in shot.take.acting.items() if own.lanes}),
        GOING: lambda shot: {
            n: (own.cycle, dict(own.contacts)) for n, own in shot.take.acting.items() if own.cycle or own.contacts
        },
    }
    return {what for what, look in looks.items() if look(before) != look(after)}


WINDOWS = {
    "shot.quit", "shot.versions", "shot.demo", "shot.demo_walk", "shot.open", "shot.bring", "shot.start", "shot.export",
    "cast.add", "cast.bring", "cast.setup", "cast.carry", "edit.room", "cast.remove", "take.remove", "help.find", "help.keys",
    "cycle.lay_out", "cycle.drive", "clip.bring", "time.settings", "time.play", "view.theme", "keys.snap", "motion.find_poses",
    "motion.drop", "shot.demo_carry", "shot.demo_heron", "flat.svg", "flat.bring_pose",
    "proof.limits",
}  # fmt: skip
"""Commands that open something, leave the shot, or go on by themselves; their own tests try them."""

_BY_WHAT: list[tuple[set[str], str]] = [
    ({TAKES}, "take.new"),
    ({RETIMING}, "keys.for_all"),
    (set(ALL), "take.next edit.undo edit.redo"),
    (
        {MOTION, WAITING},
        "pose.key pose.drop pose.default pose.default_figure pose.mirror pose.mirror_to_right pose.mirror_to_left pose.paste"
        " pose.paste_mirrored pose.mode pose.match pose.anchor pose.release pose.fence",
    ),
    ({CARDS}, "pose.name"),
    (
        {MOTION, CARDS},
        "pose.breakdown pose.hold pose.shorter pose.remove pose.push pose.settle motion.fours motion.threes motion.twos",
    ),
    ({MOTION, CARDS, RANGE}, "pose.longer motion.insert_part keys.later keys.sooner keys.spread"),
    ({MOTION, RANGE}, "keys.paste keys.paste_in_place keys.paste_as_offset"),
    ({MOTION, CARDS, OTHERS, RANGE, MARKERS, TRACES, DRAWINGS}, "motion.insert motion.take_out"),
    (
        {MOTION},
        "pose.mirror_keys pose.mode_span pose.unroll motion.spline_span motion.step_span"
        " motion.take_out_part role.key_pose role.breakdown role.in_between keys.insert keys.dissolve"
        " motion.throw flat.next flat.before flat.front flat.back flat.branch_front flat.branch_back flat.flip flat.rejoin"
        " flat.rejoin_all"
        " arcs.bow arcs.break_up arcs.mend gaze.hold gaze.blink gaze.on keys.raise keys.lower keys.raise_ten keys.lower_ten"
        " keys.longer keys.shorter keys.same_slope keys.bounce keys.bounce_by_gravity keys.sharp channels.motionless",
    ),
    ({MOTION, CAST, TAKES}, "flat.bend"),
    ({CAST, MOTION, TAKES}, "flat.reload"),
    ({MOTION, OTHERS}, "motion.spline_all motion.step_all"),
    ({TRACES}, "trace.keep"),
    ({MOTION, GOING}, "cycle.close cycle.mirror cycle.plant"),
    ({HANGING, MOTION, CAST, TAKES}, "hang.ground"),
    ({HANGING, MOTION}, "hang.let_go"),
    ({HANGING, RULES, MOTION, CAST, TAKES}, "hang.to_keys"),
    (
        {RULES, MOTION, CAST, TAKES},
        "follow.spring follow.swing follow.bob follow.turn follow.noise follow.as_tail follow.as_ear follow.as_rope"
        " follow.as_heavy_coat follow.as_antenna follow.as_lantern follow.as_breath",
    ),
    ({CLIPS}, "clip.keep clip.remove clip.forget clip.fade clip.mute"),
    (
        {CLIPS, MOTION, GOING, RANGE},
        "clip.lay clip.to_keys clip.left clip.right clip.backward clip.turn_left clip.turn_right",
    ),
    ({MOTION, TRACES}, "cycle.spot cycle.travel cycle.root"),
    ({RANGE}, "time.second time.range_to_keys"),
    ({MARKERS}, "marker.add"),
    ({SPOTS}, "arcs.keep arcs.forget"),
    ({DRAWINGS}, "pencil.new pencil.copy pencil.remove"),
]
MAY_CHANGE = {command: what for what, commands in _BY_WHAT for command in commands.split()}
"""By command what it may change; a command that is not here changes nothing of the shot."""


def survey(window: Window, figure: str, controls: tuple[str, ...], frames: tuple[float, ...]) -> set[str]:
    """Runs every command on every control and frame, each from the same shot, and fails where one changes what it may
    not. Returns the commands that changed something."""
    session, done = window.session, set()
    looking, keying = session.looking, session.keying
    for control in controls:
        for frame in frames:
            for command in TABLE:
                if command.id in WINDOWS:
                    continue
                session.choose(figure, [session.shot.figure(figure).rig.control(control)])
                session.go_to(frame)
                if command.id.startswith("keys."):
                    window.run("keys.all")
                session.looking, session.keying = looking, keying
                before, step = session.shot, session.document.undo_stack.index()
                window.run(command.id)
                what = changed(before, session.shot, figure)
                assert what <= MAY_CHANGE.get(command.id, set()), f"{command.id} on {control} at {frame:g}: {what}"
                if what:
                    done.add(command.id)
                session.document.undo_stack.setIndex(step)
    return done
