"""Work survives a crash: after every edit the shot is written to a file that a clean end removes."""

from __future__ import annotations

import json
import os
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject, QStandardPaths, QTimer

from bovrin.desk.state.session import Session
from bovrin.errors import BovrinError
from bovrin.formats.files import write_atomically
from bovrin.formats.project import shot_from_bytes, shot_to_text
from bovrin.shot import Shot

DELAY = 700
"""Milliseconds from an edit to its recovery file; the promise is two seconds."""


def folder() -> Path:
    """Where recovery files lie."""
    place = QStandardPaths.StandardLocation.GenericStateLocation
    return Path(QStandardPaths.writableLocation(place)) / "bovrin" / "recovery"


def _began(pid: int) -> str:
    """When a process began, as the system counts; empty if there is none. Tells a process from a later one of its number."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


@dataclass(frozen=True, eq=False, repr=False)
class LeftBehind:
    """Work that an earlier run did not save."""

    file: Path
    shot: Shot
    path: Path | None

    def forget(self) -> None:
        """Remove it."""
        with suppress(OSError):
            self.file.unlink()


class Recovery(QObject):
    """Follows the session."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.file = folder() / f"{os.getpid()}.json"
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(DELAY)
        self._timer.timeout.connect(self.write)
        session.document.committed.connect(self._timer.start)
        session.document.file_changed.connect(self._on_file_changed)
        self._warned = False

    def _on_file_changed(self) -> None:
        if self.session.document.undo_stack.isClean():
            self.end()

    def write(self) -> None:
        """Write the shot now, if it holds anything unsaved."""
        if self.session.document.undo_stack.isClean():
            return
        path = str(self.session.document.path.resolve()) if self.session.document.path else None
        content = {
            "pid": os.getpid(),
            "began": _began(os.getpid()),
            "path": path,
            "project": shot_to_text(self.session.shot),
        }
        try:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(self.file, json.dumps(content).encode())
        except (OSError, BovrinError):
            if not self._warned:
                self._warned = True
                self.session.voice.tell(f"Unsaved work cannot be kept safe in {self.file.parent}. Save often.")

    def end(self) -> None:
        """All is saved or given up on purpose: nothing to recover."""
        self._timer.stop()
        with suppress(OSError):
            self.file.unlink()


def left_behind() -> list[LeftBehind]:
    """What earlier runs that are no longer alive did not save, newest first; unreadable files are left where they are."""
    found = []
    files = sorted(folder().glob("*.json"), key=lambda f: f.stat().st_mtime, reverse=True) if folder().is_dir() else []
    for file in files:
        try:
            content = json.loads(file.read_bytes())
            pid, began = int(content["pid"]), str(content["began"])
            if _began(pid) == began and began:
                continue
            path = Path(content["path"]) if content["path"] else None
            shot = shot_from_bytes(content["project"].encode(), path or file)
        except (OSError, ValueError, KeyError, TypeError, AttributeError, BovrinError):
            continue
        found.append(LeftBehind(file, shot, path))
    return found
