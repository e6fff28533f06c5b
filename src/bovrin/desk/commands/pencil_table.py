"""Commands of the pencil."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.drawings import copied_drawing, drawing_at, new_drawing, without_drawing
from bovrin.desk.commands.command import Command, Run, changing
from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.pencil import SEEN


def _draw(port: Port) -> None:
    session, pencil = port.session, port.session.looking.pencil
    on = not (pencil.on and not pencil.rubber)
    session.change_looking(pencil=replace(pencil, on=on, rubber=False, seen=pencil.seen if pencil.sees else "shown"))


def _rubber(port: Port) -> None:
    session, pencil = port.session, port.session.looking.pencil
    session.change_looking(pencil=replace(pencil, on=True, rubber=not (pencil.on and pencil.rubber)))


def _next_seen(port: Port) -> None:
    session, pencil, words = port.session, port.session.looking.pencil, list(SEEN)
    after = words[(words.index(pencil.seen) + 1) % len(words)]
    session.change_looking(pencil=replace(pencil, seen=after, on=pencil.on and after != "hidden"))
    session.voice.hint(SEEN[after])


def _is_drawn(session: Session) -> bool:
    return drawing_at(session.shot, session.frame) is not None


def _go(by: int) -> Run:
    def run(port: Port) -> None:
        session = port.session
        frames = [drawing.frame for drawing in session.shot.drawings]
        later = [f for f in frames if f > session.frame] if by > 0 else [f for f in frames if f < session.frame][::-1]
        if later:
            session.go_to(later[0])

    return run


PENCIL = (
    Command("pencil.draw", "View", "Pencil", "Z", "Draw on the stage; again puts the pencil away", _draw),
    Command("pencil.rubber", "View", "Rub out", "Shift+Z", "The mouse rubs lines out; again it draws", _rubber),
    Command(
        "pencil.new",
        "View",
        "New drawing here",
        "",
        "An empty drawing from this frame on; the one before holds until here",
        changing("New drawing", lambda shot, session: new_drawing(shot, session.frame)),
    ),
    Command(
        "pencil.copy",
        "View",
        "Copy the drawing here",
        "",
        "What is seen of the drawing before is drawn on this frame too",
        changing("Copy the drawing", lambda shot, session: copied_drawing(shot, session.frame, session.frame)),
        _is_drawn,
    ),
    Command(
        "pencil.remove",
        "View",
        "Remove the drawing",
        "",
        "Without the drawing that is seen here; the one before holds on",
        changing("Remove the drawing", lambda shot, session: without_drawing(shot, session.frame)),
        _is_drawn,
    ),
    Command("pencil.seen", "View", "Drawings shown, dimmed, hidden", "Alt+Z", "One after another", _next_seen),
    Command("pencil.next", "View", "Next drawing", "", "Go to the drawing after this frame", _go(1)),
    Command("pencil.before", "View", "Drawing before", "", "Go to the drawing before this frame", _go(-1)),
)
