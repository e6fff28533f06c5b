"""Work survives a crash: soon after an edit the shot is written beside the window, into a folder that a clean end removes."""

from __future__ import annotations

import json
import os
import shutil
import threading
import uuid
from contextlib import suppress
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QStandardPaths, QTimer

from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError, BrokenFile
from bovrin.formats.figures.file import figure_bytes
from bovrin.formats.files import real_path, write_atomically
from bovrin.formats.project.unsaved import Head, head_of, unsaved_bytes, unsaved_shot
from bovrin.frozen import frozen
from bovrin.log import log
from bovrin.shot import Figure, Shot

DELAY = 700
"""Milliseconds from the first edit that is not kept yet to its being written; the promise is two seconds."""
AGAIN = 5000
"""Milliseconds until what could not be written is tried again."""
WORK, HERE, FIGURES, ASIDE = "work", "here", "figures", ".damaged"
"""What lies in the folder of a run: the work, what is open in it, and files of its figures; the ending of what was set aside."""


def folder() -> Path:
    """Where recovery folders lie."""
    place = QStandardPaths.StandardLocation.GenericStateLocation
    return Path(QStandardPaths.writableLocation(place)) / "bovrin" / "recovery"


def _began(pid: int) -> str:
    """When a process began, as the system counts; empty if there is none. Tells a process from a later one of its number."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


def _lives(head: Head) -> bool:
    """Whether the run that wrote a head goes on."""
    return bool(head.began) and _began(head.pid) == head.began


@frozen
class LeftBehind:
    """Work that an earlier run did not save. fault: why it cannot be taken up, if it cannot; it is left where it lies then."""

    file: Path
    shot: Shot | None
    path: Path | None
    fault: str = ""

    def forget(self) -> None:
        """Remove it."""
        place = self.file.parent if self.file.name == WORK else self.file
        with suppress(OSError):
            shutil.rmtree(place) if place.is_dir() else place.unlink()


class Recovery(QObject):
    """Follows the session. Writing goes on beside the window; keys are written as they lie in memory."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.place = folder() / uuid.uuid4().hex
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._begin)
        session.document.committed.connect(self._on_committed)
        session.document.file_changed.connect(self._on_file_changed)
        self._warned = False
        self._writing = threading.Lock()
        self._round = 0
        self._figures: dict[int, tuple[Figure, str]] = {}

    @property
    def file(self) -> Path:
        """Where the work is kept."""
        return self.place / WORK

    def _on_committed(self) -> None:
        if not self._timer.isActive() or self._timer.interval() == AGAIN:  # further edits do not put it off
            self._timer.start(DELAY)

    def _on_file_changed(self) -> None:
        self.tell_open()
        if self.session.document.undo_stack.isClean():
            self.forget()

    def tell_open(self) -> None:
        """Let other windows know which project is open in this one."""
        with suppress(OSError, BovrinError):
            self.place.mkdir(parents=True, exist_ok=True)
            write_atomically(self.place / HERE, json.dumps(self._head()).encode())

    def _head(self) -> dict[str, Any]:
        path = self.session.document.path
        return {"pid": os.getpid(), "began": _began(os.getpid()), "path": str(real_path(path)) if path else None}

    def _begin(self) -> None:
        """Write what there is beside the window."""
        if not self.session.document.undo_stack.isClean():
            shot, head, now = self.session.shot, self._head(), self._round
            self.session.background.latest("recovery", lambda: self._written(shot, head, now), self._on_written)

    def write(self) -> bool:
        """Write the shot now, if it holds anything unsaved; whether it is safe then."""
        if self.session.document.undo_stack.isClean():
            return True
        fault = self._written(self.session.shot, self._head(), self._round)
        self._on_written(fault)
        return fault is None

    def _written(self, shot: Shot, head: dict[str, Any], now: int) -> str | None:
        """Write a shot; what went wrong, if anything did. Runs on any thread."""
        with self._writing:
            if now != self._round:
                return None  # saved meanwhile
            try:
                (self.place / FIGURES).mkdir(parents=True, exist_ok=True)
                kept = {f.source: self._figure(f) for f in shot.cast if not f.source.startswith("cast:")}
                write_atomically(self.file, unsaved_bytes(shot, head, kept))
            except Exception as error:  # noqa: BLE001 - whatever it is, the animator must know that nothing is kept
                log.info("work is not kept safe", exc_info=error)
                return str(error) or type(error).__name__
        return None

    def _figure(self, figure: Figure) -> str:
        """The name of a file in the recovery folder that holds a figure; written once."""
        known = self._figures.get(id(figure.rig))
        if known is not None and known[0].rig is figure.rig and known[0].model is figure.model:
            return known[1]
        name = f"{len(self._figures)}.glb"
        write_atomically(self.place / FIGURES / name, figure_bytes(figure))
        self._figures[id(figure.rig)] = (figure, name)
        return name

    def _on_written(self, fault: str | None) -> None:
        if fault is None:
            self._warned = False
            return
        if not self._warned:
            self._warned = True
            self.session.voice.tell(f"Unsaved work cannot be kept safe in {folder()}. Save often.")
        if not self._timer.isActive():
            self._timer.start(AGAIN)

    def forget(self) -> None:
        """All is saved or given up on purpose: nothing to recover."""
        self._timer.stop()
        with self._writing:
            self._round += 1
            with suppress(OSError):
                self.file.unlink()

    def end(self) -> None:
        """The window closes: nothing to recover, and nothing is open here any more."""
        self.forget()
        shutil.rmtree(self.place, ignore_errors=True)


def left_behind() -> list[LeftBehind]:
    """What earlier runs that are no longer alive did not save, newest first. What cannot be read is told, and set aside."""
    if not folder().is_dir():
        return []
    works = (file for file in folder().glob(f"*/{WORK}") if file.parent.suffix != ASIDE)
    files = [*works, *folder().glob("*.json")]
    found = []
    for file in sorted(files, key=_changed, reverse=True):
        try:
            one = _read(file)
        except Exception:  # noqa: BLE001 - whatever a damaged file does, the window starts
            one = _set_aside(file)
        if one is not None:
            found.append(one)
    for place in folder().glob(f"*/{HERE}"):  # of runs that ended without work
        with suppress(Exception):
            if not _lives(head_of(place.read_bytes())) and not (place.parent / WORK).exists():
                shutil.rmtree(place.parent, ignore_errors=True)
    return found


def _changed(file: Path) -> float:
    try:
        return file.stat().st_mtime
    except OSError:
        return 0.0


def _read(file: Path) -> LeftBehind | None:
    """The work in a file; None while the run that wrote it lives."""
    data = file.read_bytes()
    head = head_of(data)
    if _lives(head):
        return None
    path = Path(head.path) if head.path else None
    try:
        return LeftBehind(file, unsaved_shot(data, head, path or file, file.parent / FIGURES), path)
    except BrokenFile:
        raise
    except BovrinError as error:
        return LeftBehind(file, None, path, error.sentence)


def _set_aside(file: Path) -> LeftBehind | None:
    """Put what cannot be read where it is not looked at again."""
    place = file.parent if file.name == WORK else file
    aside = place.with_name(place.name + ASIDE)
    with suppress(OSError):
        place.rename(aside)
        return LeftBehind(aside, None, None, f"Work of an earlier run cannot be read; it was set aside as {aside}.")
    return None


def open_elsewhere(path: Path, own: Path) -> bool:
    """Whether another window that lives has a project open; `own`: the folder of this one."""
    wanted = str(real_path(path))
    for here in folder().glob(f"*/{HERE}"):
        with suppress(Exception):
            head = head_of(here.read_bytes())
            if here.parent != own and head.path == wanted and _lives(head):
                return True
    return False
