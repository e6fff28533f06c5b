"""Edits of the pose on the current frame: keyed as "Keys go on" says, or shown until K keeps them."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.hanging.offsets import with_what_hangs
from bovrin.craft.keying.edits import Scope, edited, posed_anew, scope_controls
from bovrin.craft.keying.lag import values_of_pose
from bovrin.craft.keying.unkeyed import as_unkeyed, drop, keep
from bovrin.craft.pose.posing import reset
from bovrin.desk.state.document.locks import locked_words
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import Shot


def chosen_scope(session: Session) -> list[int]:
    """The controls that "Keys go on" stands for: the whole figure's, those of the chosen parts, or the chosen ones."""
    figure = session.figure
    return [] if figure is None else scope_controls(figure.rig, session.controls, session.keying.scope)


def scope_channels(session: Session) -> list[int] | None:
    """The channels that "Keys go on" stands for; None: all of the figure's."""
    figure = session.figure
    if figure is None or session.keying.scope is Scope.WHOLE or not session.controls:
        return None
    return [i for c in chosen_scope(session) for i in figure.rig.span(c)]


def chosen_parts(session: Session) -> list[str]:
    """The names of the parts that the chosen controls belong to."""
    return [] if session.figure is None else session.figure.rig.parts_of(session.controls)


def pose_here(session: Session) -> NDArray[np.float64]:
    """The pose of the chosen figure on the current frame (C,), with each part as it is when it has come to it."""
    figure = session.figure
    assert figure is not None
    own = values_of_pose(session.seen.curves(figure.name), figure.rig, session.frame)
    return with_what_hangs(session.seen, figure.name, session.frame, own)


def commit_edit(session: Session, words: str, new: Shot) -> bool:
    """Take over a change of the pose on the current frame; when only K keys, it is shown and still to be kept."""
    if not session.keying.only_k:
        return session.commit(words, new)
    held = session.unlocked(new)
    return session.document.take_over(words, as_unkeyed(session.shot, held, session.figure_name, session.frame))


class EditTarget:
    """What gestures that pose a figure work on: edits of the pose on the current frame."""

    def __init__(self, session: Session) -> None:
        self.session = session

    def preview(self, value: Shot | None) -> None:
        """Show it."""
        self.session.preview(value)

    def commit(self, words: str, value: Shot) -> bool:
        """Key it, as "Keys go on" says."""
        return commit_edit(self.session, words, value)

    def hint(self, words: str) -> None:
        """Say it in the line at the bottom."""
        self.session.voice.hint(words)

    def fail(self, error: BovrinError) -> None:
        """Say what went wrong."""
        self.session.voice.fail(error)


class ShotTarget(EditTarget):
    """What all other gestures work on: changes of the shot."""

    def commit(self, words: str, value: Shot) -> bool:
        """Take it over."""
        return self.session.commit(words, value)


def do_edit(session: Session, words: str, change: Callable[[Shot], Shot]) -> bool:
    """Make a change of the pose on the current frame one undo step."""
    try:
        new = change(session.shot)
    except BovrinError as error:
        session.document.preview(None)
        session.voice.fail(error)
        return False
    return commit_edit(session, words, new)


def edit(session: Session, words: str, values: Mapping[int, float], *, anew: bool = False) -> bool:
    """Key channels of the chosen figure at the current frame, with all that the scope asks for.

    anew: they are another pose, which late parts come late to; else what is meant is this frame.
    """
    figure = session.figure
    locked = session.keying.channels_locked(figure)
    free = {i: value for i, value in values.items() if i not in locked}
    if values and not free:
        session.voice.tell(locked_words(_names(session, values)))
        return False
    if len(free) < len(values):
        names = _names(session, [i for i in values if i in locked])
        session.voice.tell(f"'{names[0]}' is locked and stayed as it was.")
    keying, style = session.keying, session.keying.style_in(session.pass_)
    put = posed_anew if anew else edited
    return do_edit(
        session, words, lambda shot: put(shot, session.figure_name, session.frame, free, keying.scope, style)
    )


def _names(session: Session, channels: Mapping[int, float] | list[int]) -> list[str]:
    """The parts of some channels; a channel that belongs to none goes by its own name."""
    figure = session.figure
    assert figure is not None
    wanted, rig = set(channels), figure.rig
    controls = [c for c in range(len(rig.controls)) if wanted & set(rig.span(c))]
    parts = [p for p in rig.parts_of(controls) if (figure.name, p) in session.keying.locked]
    return parts or [rig.channel_names[min(wanted)]]


def refused(session: Session) -> bool:
    """Whether what is chosen is locked against posing; if so, that is said."""
    figure = session.figure
    part = None if figure is None else session.keying.locked_part(figure, session.controls)
    if part is None:
        return False
    session.voice.tell(locked_words([part]))
    return True


def reset_chosen(session: Session, *only: str) -> None:
    """Take the chosen controls to the default pose; `only`: what their channels' technical names begin with."""
    figure = session.figure
    if figure is None or not session.controls:
        session.voice.tell("Choose what to take to the default pose first.")
        return
    channels = figure.rig.channels
    values = {
        i: v
        for i, v in reset(figure.rig, list(session.controls)).items()
        if channels[i].technical.startswith(only or ("",)) and not channels[i].unit.holds
    }
    if values:
        edit(session, "To the default pose", values)


# -- changes that wait for K --------------------------------------------------------------------------------------------


def keep_change(session: Session, frame: float) -> bool:
    """Key the change that a frame shows; says whether there was one."""
    return session.document.take_over("Keep the change", keep(session.shot, session.figure_name, frame))


def keep_all(session: Session) -> None:
    """Key every change that waits."""
    if session.shot.unkeyed:
        session.document.take_over("Keep the changes", keep(session.shot))


def drop_change(session: Session, frame: float) -> bool:
    """Put back what was there before the change that a frame shows."""
    return session.document.take_over("Drop the change", drop(session.shot, session.figure_name, frame))
