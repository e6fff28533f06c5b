"""Commands of the polish pass: arcs."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.arcs.cleaner_arcs import mend_kinks, on_an_arc
from bovrin.craft.arcs.spots import forget_spots, keep_spot
from bovrin.craft.between.overlap import broken_up
from bovrin.craft.pose.gaze import blink, gaze_control, gaze_of, gaze_off, held_gaze, set_gaze
from bovrin.desk.commands.command import Command, asking, changing, has_choice, has_figure
from bovrin.desk.commands.port import Port
from bovrin.desk.kit.waiting import Steps
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.arcs import spot_of
from bovrin.desk.state.spans import work_span
from bovrin.errors import BovrinError
from bovrin.figure.stages.gaze import eyes_of, gaze_plan
from bovrin.shot import Shot


def _toggle(port: Port) -> None:
    arcs = port.session.looking.arcs
    port.session.change_looking(arcs=replace(arcs, on=not arcs.on))


def _shown(port: Port) -> None:
    if not port.session.looking.arcs.on:
        _toggle(port)


def _spot(port: Port) -> None:
    _shown(port)
    port.stage.ask_place("spot")
    port.session.voice.tell("Click a spot on a figure: its arc is kept with the shot. Escape: none.")


def _keep(shot: Shot, session: Session) -> Shot:
    figure = session.figure
    assert figure is not None
    for control in session.controls:
        shot = keep_spot(shot, spot_of(figure, control))
    return shot


def _bow(port: Port) -> None:
    session, steps = port.session, Steps()
    figure, shot, (start, end) = session.figure, session.shot, work_span(session, session.shot)
    assert figure is not None
    spots = [spot_of(figure, control) for control in session.controls]

    def work() -> Shot:
        made = shot
        for spot in spots:
            made = on_an_arc(made, spot, start, end, going=steps)
        return made

    try:
        made = port.files.wait("Taking it onto an arc…", work, steps)
    except BovrinError as error:
        session.voice.fail(error)
        return
    if made is None:
        session.voice.tell("Stopped. Nothing was changed.")
    elif session.shot is shot:
        session.commit("On an arc", made)


def _mend(port: Port) -> None:
    session, mended = port.session, list[float]()

    def change(shot: Shot) -> Shot:
        assert session.figure is not None
        start, end = work_span(session, shot)
        for control in session.controls:
            shot, frames = mend_kinks(shot, spot_of(session.figure, control), start, end)
            mended.extend(frames)
        return shot

    if session.do("Mend kinks", change):
        session.voice.tell(f"Kinks mended on {', '.join(f'{frame:g}' for frame in sorted(set(mended)))}.")


def _throw(port: Port) -> None:
    from bovrin.craft.throw import throw  # noqa: PLC0415 - kept out of the window's start

    session = port.session
    start, end = work_span(session, session.shot)
    if session.do("Throw by gravity", lambda shot: throw(shot, session.figure_name, start, end)):
        session.voice.tell(f"The weight flies from frame {start:g} to {end:g}.")


def _pose_here(session: Session) -> float:
    here = session.poses.cards.held_at(session.frame)
    return session.frame if here is None else here


def _hold_gaze(port: Port) -> None:
    """The eyes stay on what they look at; where they cannot, that is said."""
    from bovrin.craft.pose.gaze_reach import out_of_reach  # noqa: PLC0415 - kept out of the window's start

    session, name = port.session, port.session.figure_name
    start, end = work_span(session, session.shot)
    place = tuple(gaze_of(session.shot, name, session.frame))
    if not session.do("Hold the gaze", lambda shot: held_gaze(shot, name, start, end, place)):
        return
    missed = out_of_reach(session.shot, name, start, end, place)
    if len(missed):
        frames = f"{missed[0]:g}" if len(missed) == 1 else f"{len(missed)} frames from {missed[0]:g} to {missed[-1]:g}"
        session.voice.tell(f"The eyes turn no farther: on {frames} they look past it. Turn the head along there.")


def _toggle_gaze(shot: Shot, session: Session) -> Shot:
    """The gaze keyed on, at what is looked at now; or off, the eyes keyed as they are."""
    figure, frame = session.figure, session.frame
    assert figure is not None
    plan, now = gaze_plan(figure.rig), session.stance()
    style = session.keying.style_in(session.pass_)
    if plan is not None and now.values[plan.look] > 0:
        return gaze_off(shot, figure.name, frame, style)
    return set_gaze(shot, figure.name, frame, tuple(gaze_of(shot, figure.name, frame)), head=0.0, style=style)


def _gaze(port: Port) -> None:
    session = port.session
    figure = session.figure
    assert figure is not None
    if session.do("Gaze", lambda shot: _toggle_gaze(shot, session)):
        session.choose(figure.name, [gaze_control(figure)])


def _has_gaze(session: Session) -> bool:
    return session.figure is not None and gaze_plan(session.figure.rig) is not None


def _has_eyes(session: Session) -> bool:
    return session.figure is not None and bool(eyes_of(session.figure.rig))


OVER = "from the first to the last chosen key, else over the second range, else between the poses around"
ARCS = (
    Command(
        "arcs.show", "Motion", "Arcs", "A", "See the paths of what is chosen, a dot for each frame", _toggle, has_figure
    ),
    Command(
        "arcs.keep",
        "Motion",
        "Keep this arc",
        "",
        "Keep the arcs of what is chosen with the shot, in pencils of their own",
        changing("Keep an arc", _keep),
        has_choice,
    ),
    Command(
        "arcs.spot", "Motion", "Arc of a spot…", "", "The next click on a figure says of which spot", _spot, has_figure
    ),
    Command(
        "arcs.bow",
        "Motion",
        "On an arc",
        "",
        f"Take what is chosen onto an arc that the poses around lead into, {OVER}; poses and timing stay",
        _bow,
        has_choice,
    ),
    Command(
        "arcs.mend",
        "Motion",
        "Mend kinks",
        "",
        f"Smooth only the frames on which the arc of what is chosen kinks, {OVER}; poses stay",
        _mend,
        has_choice,
    ),
    Command(
        "arcs.break_up",
        "Motion",
        "Break up the stop",
        "",
        "Parts that come to this pose on one frame come one after another, the body first",
        changing("Break up the stop", lambda shot, session: broken_up(shot, session.figure_name, _pose_here(session))),
        has_figure,
    ),
    Command(
        "arcs.forget",
        "Motion",
        "Forget the kept arcs",
        "",
        "Let go of every arc that is kept with the shot",
        changing("Forget the kept arcs", lambda shot, _session: forget_spots(shot, shot.spots)),
        lambda session: bool(session.shot.spots),
    ),
    Command(
        "gaze.look",
        "Pose",
        "Look there…",
        "",
        "The next click on the stage says where the eyes look; the head goes a part of the way",
        asking("gaze", "Click where the figure should look. Escape: none."),
        _has_eyes,
    ),
    Command(
        "gaze.hold",
        "Motion",
        "Hold the gaze",
        "",
        f"The eyes stay on what they look at here while the head moves, {OVER}",
        _hold_gaze,
        _has_eyes,
    ),
    Command(
        "gaze.blink",
        "Pose",
        "Blink",
        "",
        "The lids close and open from this frame on, five frames",
        changing("Blink", lambda shot, session: blink(shot, session.figure_name, session.frame)),
        has_figure,
    ),
    Command(
        "arcs.bow_by_hand",
        "Motion",
        "Bow by hand…",
        "",
        f"The next drag on the stage says how far, and to which side, the path of what is chosen bows out, {OVER}",
        asking("bow", "Drag on the stage: how far and to which side the path bows out. Escape: none."),
        has_choice,
    ),
    Command(
        "motion.throw",
        "Motion",
        "Throw by gravity",
        "",
        f"The weight of the figure flies on a parabola, {OVER}; where it takes off and lands stay",
        _throw,
        has_figure,
    ),
    Command(
        "motion.drop",
        "Motion",
        "Drop and bounce…",
        "",
        "The chosen figure falls, touches the ground on this frame, bounces lower and lower, and rests, as keys",
        lambda port: port.open("drop"),
        has_figure,
    ),
    Command(
        "hold.drift",
        "Motion",
        "Drift by hand…",
        "",
        "The next drag on the stage says where the body drifts while this pose holds; feet that are down stay",
        asking("drift", "Drag on the stage: where the body drifts while the pose holds. Escape: none."),
        has_figure,
    ),
    Command(
        "gaze.on",
        "Pose",
        "Gaze on or off here",
        "",
        "A place that both eyes stay on, however the head moves, is keyed on here; or off, and the eyes stay as they are",
        _gaze,
        _has_gaze,
    ),
)
