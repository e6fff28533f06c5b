"""What the curve desk's commands do: plain functions of the port, named in the command table."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from bovrin.craft.between.bounce import bounce_curve, keyed_tops
from bovrin.craft.curves.bending import set_kind, sharp_contact
from bovrin.craft.curves.reshaping import (
    key_more,
    longer_handles,
    motionless,
    same_slope,
    without_keeping_shape,
    without_motionless,
)
from bovrin.craft.keying.key_clips import copied_keys, pasted_keys
from bovrin.craft.keying.key_sets import Chosen
from bovrin.craft.traces import keep_trace
from bovrin.desk.commands import posing
from bovrin.desk.commands.port import Port
from bovrin.desk.state.choosing.channel_rows import Row
from bovrin.desk.state.document.editing import chosen_parts
from bovrin.desk.state.document.session import Session
from bovrin.errors import BadMotion
from bovrin.motion.handles import gather
from bovrin.shot import HOLDING, Curve, HandleKind, Shot, Unit

NO_KEYS = "Choose keys on the curve desk or the strip first."


def _on_curves(port: Port) -> bool:
    """Whether the keyboard is the curve desk's."""
    return port.curves.has_keyboard()


def copy(port: Port) -> None:
    """The chosen keys while the curve desk has the keyboard, else the pose here."""
    if _on_curves(port) and port.session.keys:
        copy_keys(port)
    else:
        posing.copy(port)


def paste(port: Port) -> None:
    """The copied keys while the curve desk has the keyboard, else the copied pose."""
    if _on_curves(port) and port.session.clipboard.keys is not None:
        paste_keys(port)
    else:
        posing.paste(port, mirrored=False)


def copy_keys(port: Port) -> None:
    """The chosen keys, to paste elsewhere."""
    session = port.session
    clip = copied_keys(session.shot, session.figure_name, session.keys.by_channel)
    session.change_clipboard(keys=clip)
    session.voice.tell(f"Copied {clip.count} key{'s' if clip.count != 1 else ''} of {len(clip.curves)} channels.")


def paste_keys(port: Port, *, in_place: bool = False, offset: bool = False) -> None:
    """The copied keys on the current frame, or where they were; values as they were, or going on from what is there."""
    session, clip = port.session, port.session.clipboard.keys
    if clip is None:
        session.voice.tell("There are no copied keys yet. Choose some on the curve desk and copy them with Ctrl+C.")
        return
    seen = port.curves.in_sight()
    onto = port.curves.picked_channels() if seen else []
    if seen and not onto and len(clip.curves) == 1 and len(session.controls) == 1:
        onto = [r.channel for r in port.curves.listed_rows() if r.channel in session.keys.by_channel]
    made: dict[int, np.ndarray] = {}

    def change(shot: Shot) -> Shot:
        frame = None if in_place else session.frame
        pasted, found = pasted_keys(shot, session.figure_name, clip, frame, onto, offset=offset)
        made.update(found)
        return pasted

    if session.do("Paste keys", change):
        session.keys.choose_there(made)


def on_chosen(words: str, change: Callable[[Curve, np.ndarray], Curve]) -> Callable[[Port], None]:
    """A command that changes the curves of the chosen keys, which stay chosen."""

    def run(port: Port) -> None:
        change_chosen(port.session, words, change)

    return run


def change_chosen(
    session: Session, words: str, change: Callable[[Curve, np.ndarray], Curve], only: Chosen | None = None
) -> bool:
    """Change the curves of the chosen keys (indices), or only of some keys, in one step."""
    curves = session.curves
    chosen = dict(session.keys.by_channel if only is None else only)
    if curves is None or not chosen:
        session.voice.tell(NO_KEYS)
        return False

    def changed(shot: Shot) -> Shot:
        made = {c: change(curves[c], np.flatnonzero(np.isin(curves[c].frames, frames))) for c, frames in chosen.items()}
        return shot.with_curves(session.figure_name, curves.replaced(made))

    return session.do(words, changed)


def set_handles(session: Session, kind: HandleKind, only: Chosen | None = None) -> bool:
    """Give the chosen keys, or only some, a handle kind."""
    words = f"Handles: {kind.name.lower().replace('_', ' ')}"
    return change_chosen(session, words, lambda curve, which: set_kind(curve, which, kind), only)


def longer(factor: float) -> Callable[[Port], None]:
    """Handles of the chosen keys evenly longer or shorter."""
    words = "Longer handles" if factor > 1 else "Shorter handles"
    return on_chosen(words, lambda curve, which: longer_handles(curve, which, factor))


def even_slope(port: Port) -> None:
    """Give all chosen keys one slope on each channel: the mean of what they have."""

    def level(curve: Curve, which: np.ndarray) -> Curve:
        now = gather([curve])
        return same_slope(curve, which, float(np.mean([now.in_slope[which], now.out_slope[which]])))

    change_chosen(port.session, "One slope", level)


def raised(sign: float, much: float = 1.0) -> Callable[[Port], None]:
    """The chosen keys higher by a centimetre, a degree or a percent."""
    steps = {
        Unit.LENGTH: 0.01,
        Unit.ANGLE: np.radians(1.0),
        Unit.AMOUNT: 0.01,
        **dict.fromkeys(HOLDING, 0.0),
        Unit.NUMBER: 0.1,
    }

    def run(port: Port) -> None:
        session = port.session
        figure = session.figure
        if figure is None:
            return
        units = [channel.unit for channel in figure.rig.channels]
        curves = session.curves
        chosen = session.keys.by_channel
        if curves is None or not chosen:
            session.voice.tell(NO_KEYS)
            return

        def up(shot: Shot) -> Shot:
            made = {}
            for c, frames in chosen.items():
                at = np.isin(curves[c].frames, frames)
                made[c] = curves[c].changed(values=curves[c].values + at * sign * much * steps[units[c]])
            return shot.with_curves(session.figure_name, curves.replaced(made))

        session.do("Raise keys" if sign > 0 else "Lower keys", up)

    return run


def dissolve(port: Port) -> None:
    """The chosen keys taken away, the curves bent so that they stay as near as they can."""
    figure = port.session.figure
    assert figure is not None
    change_chosen(port.session, "Remove keys, keeping the shape", lambda c, which: without_keeping_shape(c, which, 0.0))


def insert_here(port: Port) -> None:
    """A key more on the shown channels, on the current frame; no value changes."""
    session, curves = port.session, port.session.curves
    rows = [] if curves is None else [row for row in port.curves.drawn_rows() if len(curves[row.channel])]
    if rows:
        insert_keys(session, rows, session.frame)
    else:
        session.voice.tell("Choose a control whose channels carry keys first.")


def insert_keys(session: Session, rows: list[Row], frame: float) -> None:
    """A key more on some channels; no value changes."""
    curves, name = session.curves, session.figure_name
    assert curves is not None

    def change(shot: Shot) -> Shot:
        made = {row.channel: key_more(curves[row.channel], frame, row.default) for row in rows}
        return shot.with_curves(name, curves.replaced(made))

    if session.do("Insert a key", change):
        session.keys.choose_there({row.channel: np.array([frame]) for row in rows})


def remove_motionless(port: Port) -> None:
    """Thin out the channels that never move, and say which they were."""
    session = port.session
    figure = session.figure
    assert figure is not None
    channels = [i for c in session.controls for i in figure.rig.span(c)] or None
    found = [i for i in motionless(session.shot, figure.name, channels) if len(session.shot.curves(figure.name)[i]) > 1]
    if not session.do("Remove still channels", lambda shot: without_motionless(shot, figure.name, channels)):
        session.voice.tell("Every channel here that carries keys moves.")
        return
    names = ", ".join(figure.rig.channel_names[i] for i in found[:4])
    more = f" and {len(found) - 4} more" if len(found) > 4 else ""
    session.voice.tell(f"{len(found)} channels never moved: {names}{more}. Their keys are gone, the poses stay.")


def sharpen(port: Port) -> None:
    """Split the chosen keys, or those on this frame, with both handles aimed at their neighbours."""
    change_chosen(port.session, "Sharp contact", sharp_contact)


def bounce_chosen(port: Port) -> None:
    """The chosen keys of each channel are contacts: throws to the tops keyed between them, or by gravity."""
    _bounce(port, by_gravity=False)


def bounce_by_gravity(port: Port) -> None:
    """The chosen keys of each channel are contacts: throws by gravity between them."""
    _bounce(port, by_gravity=True)


def _bounce(port: Port, *, by_gravity: bool) -> None:
    session = port.session
    figure, curves, chosen = session.figure, session.curves, session.keys.by_channel
    if figure is None or curves is None or not chosen:
        session.voice.tell("Choose the keys of an up and down channel at which it touches the ground.")
        return

    def change(shot: Shot) -> Shot:
        made = {}
        for c, frames in chosen.items():
            if figure.rig.channels[c].unit is not Unit.LENGTH:
                raise BadMotion(
                    f"'{figure.rig.channel_names[c]}' is no length, so it cannot bounce.", advice="Choose keys of 'up'."
                )
            levels = curves[c].values[np.isin(curves[c].frames, frames)]
            tops = None if by_gravity else keyed_tops(curves[c], frames, levels, shot.frame_rate)
            made[c] = bounce_curve(curves[c], frames.tolist(), levels.tolist(), tops, shot.frame_rate)
        return shot.with_curves(session.figure_name, curves.replaced(made))

    if session.do("Bounce", change):
        how = "by gravity" if by_gravity else "to the tops that were keyed, by gravity where there was none"
        session.voice.tell(f"Throws between the contacts, {how}. Drag a top to change one.")


class FromTo(NamedTuple):
    """From one frame to another, for some parts or all."""

    start: float
    end: float
    parts: list[str] | None


def snap_span(session: Session) -> FromTo | None:
    """What a snap would be of: from the first to the last of the chosen frames, or the span here, on what keys go on."""
    frames = session.keys.frames()
    cards = frames[np.isin(frames, session.poses.cards.frames)]
    frames = cards if len(cards) >= 2 else frames
    if session.figure is None:
        return None
    if len(frames) >= 2:
        start, end = float(frames[0]), float(frames[-1])
    else:
        held = session.poses.cards.held_at(session.frame)
        after = None if held is None else session.poses.cards.after(held)
        if held is None or after is None:
            session.voice.tell("Choose two poses, or go between two, to snap from the one to the other.")
            return None
        start, end = held, after
    return FromTo(start, end, chosen_parts(session) or None)


def keep_here(port: Port) -> None:
    """Keep a trace of the figure's curves, and show it."""
    session = port.session
    if session.do("Keep a trace", lambda shot: keep_trace(shot, session.figure_name)):
        name = session.shot.take.traces[-1].name
        session.change_looking(traces=session.looking.traces | {(session.figure_name, name)})
