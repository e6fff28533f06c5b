"""Commands as lines of a menu."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QMenu

from bovrin.desk.commands.table import BY_ID
from bovrin.desk.kit.menus import add_action


def add_commands(menu: QMenu, run: Callable[[str], object], *ids: str) -> None:
    """Commands with their words and keys."""
    for one in ids:
        command = BY_ID[one]
        words = f"{command.words}\t{command.key}" if command.key else command.words
        add_action(menu, words, lambda c=one: run(c))  # type: ignore[misc]
