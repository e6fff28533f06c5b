"""The commands of followers of the one command table."""

from __future__ import annotations

from bovrin.desk.commands.command import Command, has_figure
from bovrin.desk.state.document.session import Session
from bovrin.shot.follower import PRESETS

WORDS = {
    "spring": "What is chosen, and what hangs below it, comes after what carries it, sways and settles",
    "swing": "What is chosen turns to and fro by itself, link after link",
    "bob": "What is chosen moves up and down by itself",
    "turn": "What is chosen turns on and on by itself",
    "noise": "What is chosen is never quite still",
}


def _followed(session: Session, kind: str) -> bool:
    from bovrin.desk.state.following import follow_chosen  # noqa: PLC0415 - kept out of the window's start

    return follow_chosen(session, kind)


def _like(session: Session, preset: str) -> bool:
    from bovrin.desk.state.following import as_preset  # noqa: PLC0415 - kept out of the window's start

    return as_preset(session, preset)


def _follow(kind: str) -> Command:
    return Command(
        f"follow.{kind}",
        "Motion",
        f"{kind.capitalize()} (follower)",
        "",
        f"{WORDS[kind]}; keys go on below it",
        lambda port: _followed(port.session, kind),
        has_figure,
    )


def _preset(name: str) -> Command:
    return Command(
        f"follow.as_{name.replace(' ', '_')}",
        "Motion",
        f"Follow like a {name}",
        "",
        f"{PRESETS[name].words}; a {PRESETS[name].kind} on what is chosen, told accordingly",
        lambda port: _like(port.session, name),
        has_figure,
    )


FOLLOWING: tuple[Command, ...] = (*(_follow(kind) for kind in WORDS), *(_preset(name) for name in PRESETS))
