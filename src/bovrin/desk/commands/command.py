"""What a command is: one thing the animator can do, with its words, its key and when it applies."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.session import Session
from bovrin.frozen import frozen_equal
from bovrin.shot import Shot

Run = Callable[[Port], object]


@frozen_equal
class Command:
    """One thing the animator can do. `key` as Qt writes it; `applies` says when it can be done; `also`: the trade's other
    words for it, by which it is found."""

    id: str
    group: str
    words: str
    key: str
    tip: str
    run: Run
    applies: Callable[[Session], bool] = lambda _session: True
    also: str = ""


def always(_session: Session) -> bool:
    """It can be done at any time."""
    return True


def has_figure(session: Session) -> bool:
    """A figure is chosen."""
    return session.figure is not None


def has_choice(session: Session) -> bool:
    """Some of a figure's controls are chosen."""
    return session.figure is not None and bool(session.controls)


def asking(what: str, words: str) -> Run:
    """A command that lets the next click or drag on the stage say something; the words say what."""

    def run(port: Port) -> None:
        port.stage.ask_place(what)
        port.session.voice.tell(words)

    return run


def changing(words: str, change: Callable[[Shot, Session], Shot]) -> Run:
    """A command that changes the shot as one undo step."""
    return lambda port: port.session.do(words, lambda shot: change(shot, port.session))
