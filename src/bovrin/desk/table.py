"""The one command table. Finder, menu, shortcuts and the page of keys come from it; tests call the same entries."""

from __future__ import annotations

from bovrin.desk.commands.command import Command
from bovrin.desk.commands.table import COMMANDS
from bovrin.desk.passes.registry import PASSES
from bovrin.desk.state.passes import Pass


def _pass(wanted: Pass) -> Command:
    return Command(
        wanted.command,
        "Passes",
        f"Pass: {wanted.name}",
        wanted.key,
        wanted.words,
        lambda port: port.session.set_pass(wanted),
    )


TABLE: tuple[Command, ...] = (*COMMANDS, *(_pass(on_desk.pass_) for on_desk in PASSES))
BY_ID = {command.id: command for command in TABLE}
if len(BY_ID) != len(TABLE):
    raise ValueError("two commands share an id")
_keys = [command.key for command in TABLE if command.key]
if len(set(_keys)) != len(_keys):
    raise ValueError("two commands share a key")
