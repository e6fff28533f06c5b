"""What a command is: one thing the animator can do, with its words, its key and when it applies."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from bovrin.desk.session import Session
from bovrin.shot import Shot

if TYPE_CHECKING:
    from bovrin.desk.window import Window

Run = Callable[["Window"], object]


@dataclass(frozen=True)
class Command:
    """One thing the animator can do. `key` as Qt writes it; `applies` says when it can be done."""

    id: str
    group: str
    words: str
    key: str
    tip: str
    run: Run
    applies: Callable[[Session], bool] = lambda _session: True


def has_figure(session: Session) -> bool:
    """A figure is chosen."""
    return session.figure is not None


def has_choice(session: Session) -> bool:
    """Some of a figure's controls are chosen."""
    return session.figure is not None and bool(session.controls)


def changing(words: str, change: Callable[[Shot, Session], Shot]) -> Run:
    """A command that changes the shot as one undo step."""
    return lambda desk: desk.session.do(words, lambda shot: change(shot, desk.session))
