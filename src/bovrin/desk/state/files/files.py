"""What the desk does with files: opening, saving, handing on, bringing, markers. It asks nobody; see `commands.files`."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from contextlib import suppress
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import Any, Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from bovrin import cast
from bovrin.craft.clips.naming import brought_clips
from bovrin.craft.markers import with_markers
from bovrin.desk.kit.memory import give_back
from bovrin.desk.kit.waiting import Steps
from bovrin.desk.state.document.editing import keep_all
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.files.recovery import LeftBehind, Recovery, open_elsewhere
from bovrin.desk.state.settings import kept_versions
from bovrin.errors import BovrinError
from bovrin.formats.figures.files import check_free
from bovrin.formats.files import read_bytes, real_path
from bovrin.formats.project.store import load, save, shot_from_bytes
from bovrin.formats.project.versions import versions
from bovrin.formats.side.markers import read_markers, write_markers
from bovrin.log import log
from bovrin.shot import Shot


class Wait(Protocol):
    """Does work beside the window; None when the animator stopped waiting for it. Errors come through."""

    def __call__(self, words: str, work: Callable[[], Any], steps: Steps | None = None) -> Any: ...


class Files(QObject):
    """Faults are told, and leave the shot and the files as they were."""

    leaving = pyqtSignal()
    """Another document is about to come."""
    opened = pyqtSignal()
    """Another document is there."""

    def __init__(self, session: Session, wait: Wait) -> None:
        super().__init__(session)
        self.session, self.wait = session, wait
        self.recovery = Recovery(session)
        path = session.document.path
        self._stamp: Stamp | None = None if path is None else _stamp_of(path)
        self._drawings: QObject | None = None
        session.document.committed.connect(self._watch_drawings)
        self._watch_drawings()

    def _watch_drawings(self) -> None:
        """From the first flat figure on its drawing is looked after."""
        if self._drawings is None and any(figure.model.drawn is not None for figure in self.session.shot.cast):
            from bovrin.desk.state.files.drawn_over import DrawnOver  # noqa: PLC0415 - kept out of the window's start

            self._drawings = DrawnOver(self.session)

    def folder(self) -> Path:
        """Where files are looked for first: beside the project, else at home."""
        path = self.session.document.path
        return path.parent if path is not None and cast.FOLDER not in path.parents else Path.home()

    @property
    def is_kept(self) -> bool:
        """Whether the shot lies in a file of the animator's own: not nowhere, nor among the shipped demos."""
        path = self.session.document.path
        return path is not None and real_path(cast.FOLDER) not in real_path(path).parents

    def open(self, path: Path) -> bool:
        """Open a project; when it cannot be read an earlier version is offered, if one can."""
        try:
            shot = self.wait(f"Opening {path.name}…", lambda: load(path))
        except BovrinError as error:
            self.session.voice.fail(error)
            self._offer_version(path, error)
            return False
        if shot is None:
            self.session.voice.tell(f"Stopped. {path.name} was not opened.")
            return False
        log.info("opened %s", path)
        self.show(shot, path)
        self.tell_if_open_elsewhere()
        return True

    def _offer_version(self, path: Path, fault: BovrinError) -> None:
        for version in versions(path):
            with suppress(BovrinError):
                shot = shot_from_bytes(read_bytes(version, "earlier version"), path)
                when = datetime.fromtimestamp(version.stat().st_mtime).strftime("%d %B, %H:%M")
                words = f"{fault.sentence} A version saved before, last changed {when}, can be read."
                self.session.voice.offer(words, ("Open that", partial(self.show_unsaved, shot, path)))
                return

    def show_unsaved(self, shot: Shot, path: Path | None) -> None:
        """Show a shot that no file holds as it is."""
        self.show(shot, path)
        self.session.document.undo_stack.resetClean()

    def tell_if_open_elsewhere(self) -> None:
        """Say so when another window has the project open too."""
        path = self.session.document.path
        if self.is_kept and path is not None and open_elsewhere(path, self.recovery.place):
            self.session.voice.tell(
                f"{path.name} is open in another window too. Whoever saves second is asked what shall become of the other's work."
            )

    def changed_on_disk(self) -> bool:
        """Whether the project's file holds something else than was read from it or written to it here."""
        path, known = self.session.document.path, self._stamp
        if path is None or known is None or not path.exists():
            return False
        now = _stamp_of(path)
        return now is not None and now != known

    def show(self, shot: Shot, path: Path | None) -> None:
        """Show another shot, which lies in a file."""
        self.leaving.emit()
        self._stamp = None if path is None else _stamp_of(path)
        self.session.replace(shot, path)
        self.opened.emit()
        give_back()

    def take_up(self, found: LeftBehind) -> None:
        """Go on with work that an earlier run did not save; that is let go of when it is safe in this one."""
        if found.shot is None:
            self.session.voice.tell(found.fault)
            return
        self.show_unsaved(found.shot, found.path)
        if self.recovery.write():
            found.forget()

    def save(self, path: Path) -> bool:
        """Save to a file; on a fault the file on disk stays whole. It is read again before it counts as saved."""
        session, shot = self.session, self.session.shot
        try:
            kept = self.wait(f"Saving {path.name}…", lambda: save(shot, path, kept_versions()))
        except BovrinError as error:
            session.voice.fail(error)
            return False
        if kept is None:
            session.voice.tell(f"Stopped; {path.name} is as it was before.")
            return False
        waiting = ", ".join(f"{u.frame:g}" for u in shot.unkeyed)
        log.info("saved %s", path)
        if session.shot is shot or session.document.path == path:  # not where another document came meanwhile
            self._stamp = _stamp_of(path)
        if session.shot is not shot:  # edited while it was written
            session.voice.tell(f"Saved to {path.name} as it was before the last change.")
            return False
        keep_all(session)
        session.document.saved(path, kept.cast)
        session.voice.tell(f"Saved to {path.name}." + (f" What waited on {waiting} is keyed now." if waiting else ""))
        return True

    def export(
        self,
        path: Path,
        rate: float | None = None,
        *,
        metres: bool = False,
        travel: bool = True,
        clip: str | None = None,
        figures: Sequence[str] | None = None,
        span: tuple[float, float] | None = None,
        take: str | None = None,
        each_take: bool = False,
    ) -> None:
        """Write the file that its ending names, or one for each take; it can be stopped while it takes long."""
        shot, voice = self.session.shot, self.session.voice
        try:
            check_free(shot, self.session.document.path, path)
        except BovrinError as error:
            voice.fail(error)
            return

        def work() -> bool:
            from bovrin.script import export  # noqa: PLC0415 - kept out of the window's start

            start, end = span or (None, None)
            how: dict[str, Any] = {"metres": metres, "travel": travel, "clip": clip}
            what: dict[str, Any] = {
                "figures": figures,
                "start": start,
                "end": end,
                "take": take,
                "each_take": each_take,
            }
            export(shot, path, rate, **how, **what)
            return True

        try:
            done = self.wait(f"Writing {path.name}…", work)
        except BovrinError as error:
            voice.fail(error)
            return
        each = " of each take" if each_take else ""
        voice.tell(f"Handed on as {path.name}{each}." if done else f"Stopped; {path.name} is as it was before.")

    def change(self, words: str, waits: str, work: Callable[[Shot], Shot]) -> bool:
        """Make a change that takes long one undo step: it is worked out beside the window, and can be stopped. A shot that was
        edited meanwhile stays as it is."""
        session, shot = self.session, self.session.shot
        try:
            made = self.wait(waits, lambda: work(shot))
        except BovrinError as error:
            session.voice.fail(error)
            return False
        if made is None or session.shot is not shot:
            why = "Stopped" if made is None else "The shot was edited meanwhile"
            session.voice.tell(f"{why}; {words[0].lower()}{words[1:]} changed nothing.")
            return False
        return session.commit(words, made)

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

    def import_clips(self, path: Path) -> None:
        """Add the clips of another project as one undo step."""
        session = self.session
        try:
            other = self.wait(f"Bringing the clips of {path.name}…", lambda: load(path))
        except BovrinError as error:
            session.voice.fail(error)
            return
        if other is None:
            session.voice.tell(f"Stopped. {path.name} was not brought.")
            return
        before = session.shot
        if session.do("Bring clips", lambda shot: brought_clips(shot, other), in_step=False):
            count = len(session.shot.clips) - len(before.clips)
            rate = (
                f" They were made at {other.frame_rate:g} frames a second, and are as fast here."
                if other.frame_rate != before.frame_rate
                else ""
            )
            session.voice.tell(f"{count} clips from {path.name}.{rate}")

    def export_markers(self, path: Path) -> None:
        """Write the markers as a table."""
        try:
            write_markers(self.session.shot, path)
        except BovrinError as error:
            self.session.voice.fail(error)
            return
        self.session.voice.tell(f"{len(self.session.shot.markers)} markers in {path.name}.")


Stamp = str
"""What a file holds, as a hash."""


def _stamp_of(path: Path) -> Stamp | None:
    """By what is in it a file is known again, whenever it was written."""
    try:
        return hashlib.sha256(path.read_bytes()).hexdigest()
    except OSError:
        return None
