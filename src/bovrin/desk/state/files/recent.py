"""The projects that were worked on last."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QSettings

from bovrin import cast
from bovrin.formats.files import real_path

KEPT = 6


def remembered(kept: QSettings) -> list[Path]:
    """The last projects that are still there, the latest first."""
    value = kept.value("recent")
    names = [value] if isinstance(value, str) else value if isinstance(value, list) else []
    return [Path(name) for name in names if isinstance(name, str) and Path(name).is_file()][:KEPT]


def remember(kept: QSettings, path: Path | None) -> None:
    """A project was opened or saved; shipped demos are not remembered."""
    if path is None or real_path(cast.FOLDER) in real_path(path).parents:
        return
    others = [p for p in remembered(kept) if p != real_path(path)]
    kept.setValue("recent", [str(p) for p in (real_path(path), *others)][:KEPT])
