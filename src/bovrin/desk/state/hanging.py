"""Hanging what is chosen on something, and letting go of it, on the current frame."""

from __future__ import annotations

from bovrin.craft.hanging.offsets import held_at
from bovrin.desk.state.document.editing import do_edit, refused
from bovrin.desk.state.document.session import Session
from bovrin.shot import Attachment, ControlKind, Shot
from bovrin.shot.attachment import carrier_words

Carrier = tuple[str, str]


def controls_to_hang(session: Session) -> list[str]:
    """The chosen controls, or the whole figure where none is chosen; by name."""
    figure = session.figure
    if figure is None:
        return []
    rig = figure.rig
    whole = [c.name for c in rig.controls if c.kind is ControlKind.WHOLE]
    return [rig.controls[c].name for c in session.controls] or whole[:1]


def hang_chosen(session: Session, to: Carrier) -> bool:
    """Hang what is chosen on something from this frame on: it stays where it is here."""
    from bovrin.craft.hanging.attach import attach  # noqa: PLC0415 - kept out of the window's start

    names, figure, frame = controls_to_hang(session), session.figure_name, session.frame
    if refused(session):
        return False

    def change(shot: Shot) -> Shot:
        for name in names:
            shot = attach(shot, figure, name, to, frame)
        return shot

    what, onto = " and ".join(names), carrier_words(*to)
    done = session.do(f"Hang {what} on {onto}", change)
    if done:
        verb = "hangs" if len(names) == 1 else "hang"
        session.voice.tell(f"{what[:1].upper()}{what[1:]} {verb} on {onto} from frame {frame:g} on.")
    return done


def onto_chosen(session: Session, to: Carrier) -> bool:
    """Put what is chosen onto something on this frame, once."""
    from bovrin.craft.hanging.onto import snap_to  # noqa: PLC0415 - kept out of the window's start

    names, style = controls_to_hang(session), session.keying.style_in(session.pass_)
    if refused(session):
        return False

    def change(shot: Shot) -> Shot:
        for name in names:
            shot = snap_to(shot, session.figure_name, name, to, session.frame, style=style)
        return shot

    return do_edit(session, f"Put {' and '.join(names)} onto {carrier_words(*to)}", change)


def hung_here(session: Session) -> list[str]:
    """What of the chosen figure hangs on something on this frame: of the chosen controls, or of all where none of them does."""
    figure = session.figure
    if figure is None or not session.shot.attachments(figure.name):
        return []
    held = [figure.rig.controls[one.control].name for one in held_at(session.shot, figure.name, session.frame)]
    chosen = [name for name in controls_to_hang(session) if name in held]
    return chosen or held


def let_go_here(session: Session) -> bool:
    """Let go of what hangs here: from this frame on it goes its own way, which begins where it hung."""
    from bovrin.craft.hanging.influence import detach  # noqa: PLC0415 - kept out of the window's start

    names = hung_here(session)
    if names and refused(session):
        return False
    if not names:
        session.voice.tell("Nothing that is chosen hangs on anything here. Go to a frame on which it does.")
        return False

    def change(shot: Shot) -> Shot:
        for name in names:
            shot = detach(shot, session.figure_name, name, session.frame)
        return shot

    return session.do(f"Let go of {' and '.join(names)}", change)


def to_keys(session: Session) -> bool:
    """Turn what attachments and clips make of the chosen figure into keys of its own."""
    from bovrin.craft.hanging.bake import bake  # noqa: PLC0415 - kept out of the window's start

    name = session.figure_name
    return session.do("What hangs and follows into keys", lambda shot: bake(shot, name))


def set_share(session: Session, one: Attachment, amount: float) -> bool:
    """How far something hangs from this frame on, 0 to 1."""
    from bovrin.craft.hanging.shares import set_influence  # noqa: PLC0415 - kept out of the window's start

    to, name = (one.carrier, one.joint), session.figure_name
    words = f"{one.control} hangs by {amount * 100:.0f} % on {one.onto}"
    return session.do(words, lambda shot: set_influence(shot, name, one.control, session.frame, amount, to))


def forget(session: Session, one: Attachment) -> bool:
    """Take an attachment away altogether."""
    from bovrin.craft.hanging.influence import forgotten  # noqa: PLC0415 - kept out of the window's start

    name = session.figure_name
    return session.do(f"{one.control} no longer hangs on {one.onto}", lambda shot: forgotten(shot, name, one))
