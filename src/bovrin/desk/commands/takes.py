"""Commands about takes."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.takes import chosen_take, copied_take, next_name, without_take
from bovrin.desk.commands.command import Command, changing
from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.compared import Compared, take_to_compare


def next_take(port: Port) -> None:
    """Work on the take after this one."""
    shot = port.session.shot
    names = [take.name for take in shot.all_takes]
    choose_take(port.session, names[(names.index(shot.take.name) + 1) % len(names)])


def choose_take(session: Session, name: str) -> None:
    """Work on a take; where it is the one that was compared with, the one that was worked on takes its place."""
    before, compared = session.shot.take.name, session.looking.compared
    if session.do(f"Take {name}", lambda shot: chosen_take(shot, name)) and compared and compared.take == name:
        session.change_looking(compared=replace(compared, take=before))


def compare_with(session: Session, name: str) -> None:
    """See another take as well; the one that is seen already: no longer."""
    compared = session.looking.compared
    beside = compared is not None and compared.beside
    other = None if compared is not None and compared.take == name else Compared(name, beside)
    session.change_looking(compared=other)


def _compare(session: Session, beside: bool) -> None:
    """See the other take over this one or beside it; once more: no longer."""
    compared, other = session.looking.compared, take_to_compare(session.shot, session.looking.compared)
    assert other is not None
    wanted = Compared(other, beside)
    session.change_looking(compared=None if compared == wanted else wanted)
    if session.looking.compared is not None:
        session.voice.hint(
            f"Take {other} is seen {'beside' if beside else 'over'} this one, from its own beginning on."
        )


def _several(session: Session) -> bool:
    return bool(session.shot.takes)


TAKES = (
    Command(
        "take.new",
        "Shot",
        "New take",
        "",
        "Keep this take and go on in a copy of it",
        changing("New take", lambda shot, _s: copied_take(shot, next_name(shot))),
    ),
    Command("take.next", "Shot", "Next take", "", "Work on the take after this one", next_take, _several),
    Command(
        "take.over",
        "Shot",
        "Other take over this one",
        "",
        "See another take as an outline over this one, in step from where each begins; again: no longer",
        lambda port: _compare(port.session, beside=False),
        _several,
    ),
    Command(
        "take.beside",
        "Shot",
        "Other take beside this one",
        "",
        "See the figures of another take to the right of these, in step from where each begins; again: no longer",
        lambda port: _compare(port.session, beside=True),
        _several,
    ),
    Command(
        "take.rename",
        "Shot",
        "Rename this take…",
        "",
        "Give this take another name",
        lambda port: port.open("take name"),
    ),
    Command(
        "take.remove",
        "Shot",
        "Remove this take",
        "",
        "Take this take out of the shot",
        changing("Remove take", lambda shot, _s: without_take(shot, shot.take.name)),
        _several,
    ),
)
