"""Earlier versions of a saved file, kept beside it: "shot.bovrin.json.1" is the one before the last, ".2" the one before that."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

KEPT = 3
"""Versions that are kept."""


def version_of(path: Path, number: int) -> Path:
    """Where an earlier version lies; 1 is the youngest."""
    return path.with_name(f"{path.name}.{number}")


def keep_version(path: Path, count: int = KEPT) -> None:
    """Keep what a file holds now as the youngest of its versions; the oldest goes. Where that cannot be, nothing happens."""
    if not path.is_file():
        return
    with suppress(OSError):
        version_of(path, count).unlink(missing_ok=True)
        for number in range(count - 1, 0, -1):
            if version_of(path, number).exists():
                os.replace(version_of(path, number), version_of(path, number + 1))
        _copied(path, version_of(path, 1))


def _copied(path: Path, to: Path) -> None:
    """The same content under another name; without room of its own where the disk can do that, as files are never changed."""
    try:
        os.link(path, to)
    except OSError:
        import shutil  # noqa: PLC0415 - kept out of the window's start

        shutil.copy2(path, to)


def versions(path: Path) -> list[Path]:
    """The earlier versions of a file that are there, the youngest first."""
    return [one for n in range(1, KEPT + 1) if (one := version_of(path, n)).is_file()]
