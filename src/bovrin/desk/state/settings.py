"""What the desk remembers from one run to the next."""

from __future__ import annotations

from PyQt6.QtCore import QSettings, QStandardPaths

from bovrin.picture.theme import THEMES


def settings() -> QSettings:
    """Remembered sizes, the theme, what is folded, the last projects."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericConfigLocation)
    return QSettings(f"{folder}/bovrin/window.ini", QSettings.Format.IniFormat)


def remembered_theme() -> str | None:
    """The name of the theme that was chosen; None when nobody chose."""
    name = settings().value("theme")
    return name if isinstance(name, str) and name in THEMES else None
