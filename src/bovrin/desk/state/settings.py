"""What the desk remembers from one run to the next."""

from __future__ import annotations

from PyQt6.QtCore import QSettings, QStandardPaths

from bovrin.formats.project.versions import KEPT
from bovrin.picture.theme import THEMES


def settings() -> QSettings:
    """Remembered sizes, the theme, what is folded, the last projects."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericConfigLocation)
    return QSettings(f"{folder}/bovrin/window.ini", QSettings.Format.IniFormat)


UNDO_ROOM, LEAST_ROOM, MOST_ROOM = 256, 32, 16_384
"""Megabytes that undo steps may take up, unless another number was chosen; and which can be."""


def undo_room() -> int:
    """Megabytes that undo steps may take up."""
    kept = str(settings().value("undo_room"))
    return int(kept) if kept.isdecimal() and LEAST_ROOM <= int(kept) <= MOST_ROOM else UNDO_ROOM


def remembered_theme() -> str | None:
    """The name of the theme that was chosen; None when nobody chose."""
    name = settings().value("theme")
    return name if isinstance(name, str) and name in THEMES else None


def kept_versions() -> int:
    """How many earlier versions of a project are kept beside it."""
    return 0 if str(settings().value("versions")) == "none" else KEPT


def keep_versions(on: bool) -> None:
    """Keep earlier versions of projects, or not, from now on."""
    settings().setValue("versions", "kept" if on else "none")
