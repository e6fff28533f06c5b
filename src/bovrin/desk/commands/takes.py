"""Commands about takes."""

from __future__ import annotations

from bovrin.craft.takes import chosen_take, copied_take, next_name, without_take
from bovrin.desk.commands.command import Command, changing
from bovrin.desk.commands.port import Port
from bovrin.desk.state.session import Session


def next_take(port: Port) -> None:
    """Work on the take after this one."""
    shot = port.session.shot
    names = [take.name for take in shot.all_takes]
    choose_take(port.session, names[(names.index(shot.take.name) + 1) % len(names)])


def choose_take(session: Session, name: str) -> None:
    """Work on a take."""
    session.do(f"Take {name}", lambda shot: chosen_take(shot, name))


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
