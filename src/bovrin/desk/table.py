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
SECOND_KEYS = {"=": "pose.longer", "Ctrl+Y": "edit.redo"}
"""Other keys that some commands have, for hands that are used to them."""
_keys = [*(command.key for command in TABLE if command.key), *SECOND_KEYS]
if len(set(_keys)) != len(_keys):
    raise ValueError("two commands share a key")
LOOKING = {"keys.scope", "motion.look_stepped", "arcs.show"}
"""Commands of the groups that change the shot which only change how it is looked at."""


def changes_by_letter(command: Command) -> bool:
    """Whether a letter, pressed by mistake as easily as not, changes the shot."""
    changing = command.group in ("Pose", "Motion", "Curves") and command.id not in LOOKING
    return changing and len(command.key) == 1 and command.key.isalpha()
