"""Opening, saving, handing on and recovering: what the window does with files, and what it asks."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QMainWindow, QMessageBox

from bovrin import cast
from bovrin.craft.markers import with_markers
from bovrin.desk.notice import Notice
from bovrin.desk.playback import Player
from bovrin.desk.recovery import LeftBehind, Recovery
from bovrin.desk.session import Session
from bovrin.desk.waiting import waited_for
from bovrin.errors import BovrinError
from bovrin.formats.markers import read_markers, write_markers
from bovrin.formats.project import load, save
from bovrin.shot import Shot

MARKERS = "Markers (*.srt *.vtt *.csv);;All files (*)"
PROJECTS = "Bovrin projects (*.bovrin.json);;All files (*)"


class ShotFiles(QMainWindow):
    """The part of the window that deals with files."""

    session: Session
    player: Player
    recovery: Recovery
    notice: Notice

    def see_range(self) -> None:
        """Show the whole of the shot's range."""
        raise NotImplementedError

    def open_path(self, path: Path) -> bool:
        """Open a project; a fault is told and the shot being edited stays."""
        try:
            shot = load(path)
        except BovrinError as error:
            self.session.fail(error)
            return False
        self.show_shot(shot, path)
        return True

    def show_shot(self, shot: Shot, path: Path) -> None:
        """Show another shot, which lies in a file."""
        self.player.stop()
        self.session.replace(shot, path)
        self.see_range()

    def ask_open(self) -> None:
        """Let the animator choose a project."""
        if not self.may_leave():
            return
        name, _ = QFileDialog.getOpenFileName(self, "Open a project", str(self.folder()), PROJECTS)
        if name:
            self.open_path(Path(name))

    def open_demo(self) -> None:
        """Open the demo."""
        if self.may_leave():
            self.open_path(cast.DEMO)

    def folder(self) -> Path:
        """Where files are looked for first: beside the project, else at home."""
        path = self.session.path
        return path.parent if path is not None and cast.FOLDER not in path.parents else Path.home()

    def save(self) -> bool:
        """Save where the shot came from; a new shot, or the shipped demo, asks where."""
        path = self.session.path
        if path is None or cast.FOLDER.resolve() in path.resolve().parents:
            return self.save_as()
        return self.save_to(path)

    def save_as(self) -> bool:
        """Ask where to save."""
        start = self.folder() / f"{self.session.shot.title.lower().replace(' ', '-')}.bovrin.json"
        name, _ = QFileDialog.getSaveFileName(self, "Save the project", str(start), PROJECTS)
        return self.save_to(Path(name)) if name else False

    def save_to(self, path: Path) -> bool:
        """Save to a file; a fault is told, and the file on disk stays whole."""
        try:
            save(self.session.shot, path)
        except BovrinError as error:
            self.session.fail(error)
            return False
        waiting = ", ".join(f"{u.frame:g}" for u in self.session.shot.unkeyed)
        self.session.keep_all()
        self.session.saved(path)
        self.session.tell(f"Saved to {path.name}." + (f" What waited on {waiting} is keyed now." if waiting else ""))
        return True

    def ask_export(self) -> None:
        """Ask as what, how finely, and where."""
        from bovrin.desk.hand_on import HandOn  # noqa: PLC0415 - loaded when it is opened

        HandOn(self).open()  # type: ignore[arg-type]

    def export_to(self, path: Path, rate: float | None = None) -> None:
        """Write the file that its ending names; it can be stopped while it takes long."""
        shot = self.session.shot

        def work() -> bool:
            from bovrin.formats.shot_glb import export  # noqa: PLC0415 - kept out of the window's start

            export(shot, path, rate)
            return True

        try:
            done = waited_for(self, f"Writing {path.name}…", work)
        except BovrinError as error:
            self.session.fail(error)
            return
        self.session.tell(
            f"Handed on as {path.name}." if done else f"Stopped waiting; {path.name} may still be written."
        )

    def ask_markers(self) -> None:
        """Ask for a file of markers and add them; what was skipped is told."""
        name, _ = QFileDialog.getOpenFileName(self, "Bring markers", str(self.folder()), MARKERS)
        if name:
            self.import_markers(Path(name))

    def import_markers(self, path: Path) -> None:
        """Add the markers of a file as one undo step."""
        shot = self.session.shot
        try:
            found, skipped = read_markers(path, shot.frame_rate, shot.first)
        except BovrinError as error:
            self.session.fail(error)
            return
        self.session.commit("Bring markers", with_markers(shot, found))
        left = f" {len(skipped)} left out: {skipped[0]}" if skipped else ""
        self.session.tell(f"{len(found)} markers from {path.name}.{left}")

    def ask_export_markers(self) -> None:
        """Ask where to write the markers."""
        start = self.folder() / "markers.csv"
        name, _ = QFileDialog.getSaveFileName(self, "Markers as CSV", str(start), "Tables (*.csv)")
        if not name:
            return
        try:
            write_markers(self.session.shot, Path(name))
        except BovrinError as error:
            self.session.fail(error)
            return
        self.session.tell(f"{len(self.session.shot.markers)} markers in {Path(name).name}.")

    def offer(self, found: LeftBehind) -> None:
        """Offer work that an earlier run did not save."""

        def take_up() -> None:
            self.session.replace(found.shot, found.path)
            self.session.undo_stack.resetClean()
            self.recovery.write()
            found.forget()
            self.see_range()

        words = f"Bovrin ended before '{found.shot.title}' was saved. The work is still here."
        self.notice.say(words, calm=True, choices=(("Take it up", take_up), ("Let it go", found.forget)))

    def may_leave(self) -> bool:
        """Ask about unsaved work; says whether to go on."""
        if self.session.undo_stack.isClean():
            return True
        answer = self.ask_unsaved()
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        return answer == QMessageBox.StandardButton.Discard

    def ask_unsaved(self) -> QMessageBox.StandardButton:
        """Save, discard or cancel."""
        buttons = QMessageBox.StandardButton
        return QMessageBox.question(
            self,
            "Unsaved work",
            f"'{self.session.shot.title}' has changes that are not saved.",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )
