"""What the desk does with files: opening, saving, handing on, bringing, markers. It asks nobody; see `commands.files`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from bovrin import cast
from bovrin.craft.markers import with_markers
from bovrin.desk.kit.waiting import Steps
from bovrin.desk.state.editing import keep_all
from bovrin.desk.state.recovery import LeftBehind, Recovery
from bovrin.desk.state.session import Session
from bovrin.errors import BovrinError
from bovrin.formats.markers import read_markers, write_markers
from bovrin.formats.project import load, save
from bovrin.log import log
from bovrin.shot import Shot


class Wait(Protocol):
    """Does work beside the window; None when the animator stopped waiting for it. Errors come through."""

    def __call__(self, words: str, work: Callable[[], Any], steps: Steps | None = None) -> Any: ...


class Files(QObject):
    """Faults are told, and leave the shot and the files as they were."""

    opened = pyqtSignal()
    """Another document is there."""

    def __init__(self, session: Session, wait: Wait) -> None:
        super().__init__(session)
        self.session, self.wait = session, wait
        self.recovery = Recovery(session)

    def folder(self) -> Path:
        """Where files are looked for first: beside the project, else at home."""
        path = self.session.document.path
        return path.parent if path is not None and cast.FOLDER not in path.parents else Path.home()

    @property
    def is_kept(self) -> bool:
        """Whether the shot lies in a file of the animator's own: not nowhere, nor among the shipped demos."""
        path = self.session.document.path
        return path is not None and cast.FOLDER.resolve() not in path.resolve().parents

    def open(self, path: Path) -> bool:
        """Open a project."""
        try:
            shot = load(path)
        except BovrinError as error:
            self.session.voice.fail(error)
            return False
        log.info("opened %s", path)
        self.show(shot, path)
        return True

    def show(self, shot: Shot, path: Path | None) -> None:
        """Show another shot, which lies in a file."""
        self.session.replace(shot, path)
        self.opened.emit()

    def take_up(self, found: LeftBehind) -> None:
        """Go on with work that an earlier run did not save; that is let go of when it is safe in this one."""
        if found.shot is None:
            self.session.voice.tell(found.fault)
            return
        self.show(found.shot, found.path)
        self.session.document.undo_stack.resetClean()
        if self.recovery.write():
            found.forget()

    def save(self, path: Path) -> bool:
        """Save to a file; on a fault the file on disk stays whole."""
        session = self.session
        try:
            save(session.shot, path)
        except BovrinError as error:
            session.voice.fail(error)
            return False
        waiting = ", ".join(f"{u.frame:g}" for u in session.shot.unkeyed)
        log.info("saved %s", path)
        keep_all(session)
        session.document.saved(path)
        session.voice.tell(f"Saved to {path.name}." + (f" What waited on {waiting} is keyed now." if waiting else ""))
        return True

    def export(self, path: Path, rate: float | None = None, *, metres: bool = False) -> None:
        """Write the file that its ending names; it can be stopped while it takes long."""
        shot, voice = self.session.shot, self.session.voice

        def work() -> bool:
            from bovrin.formats.shot_glb import export  # noqa: PLC0415 - kept out of the window's start

            export(shot, path, rate, metres=metres)
            return True

        try:
            done = self.wait(f"Writing {path.name}…", work)
        except BovrinError as error:
            voice.fail(error)
            return
        voice.tell(f"Handed on as {path.name}." if done else f"Stopped waiting; {path.name} may still be written.")

    def import_markers(self, path: Path) -> None:
        """Add the markers of a file as one undo step; what was skipped is told."""
        shot, session = self.session.shot, self.session
        try:
            found, skipped = read_markers(path, shot.frame_rate, shot.first)
        except BovrinError as error:
            session.voice.fail(error)
            return
        session.commit("Bring markers", with_markers(shot, found))
        left = f" {len(skipped)} left out: {skipped[0]}" if skipped else ""
        session.voice.tell(f"{len(found)} markers from {path.name}.{left}")

    def export_markers(self, path: Path) -> None:
        """Write the markers as a table."""
        try:
            write_markers(self.session.shot, path)
        except BovrinError as error:
            self.session.voice.fail(error)
            return
        self.session.voice.tell(f"{len(self.session.shot.markers)} markers in {path.name}.")
