"""Drawings of flat figures that are saved by another program: the figure is drawn anew, its motion kept."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QTimer

from bovrin.craft.flat.redrawing import redrawn
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.formats.files import real_path
from bovrin.formats.flat.figure import read_layers
from bovrin.formats.flat.seen import masks_of

EVERY = 200
"""Milliseconds between two looks at the files."""
Stamp = tuple[int, int]


class DrawnOver(QObject):
    """Looks after the drawings of the shot's flat figures: those beside the project, and those that were just brought."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self._known: dict[Path, Stamp] = {}
        self._changed: dict[Path, Stamp] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self.look)
        session.document.committed.connect(self.watch)
        self.watch()

    def watch(self) -> None:
        """The files that count now; the timer rests where there are none."""
        paths = {
            Path(f.model.drawn.path) for f in self.session.shot.cast if f.model.drawn is not None and self._ours(f)
        }
        found = {path: stamp for path in paths if (stamp := _stamp(path)) is not None}
        self._known = {path: self._known.get(path, stamp) for path, stamp in found.items()}
        if self._known and not self._timer.isActive():
            self._timer.start()
        elif not self._known:
            self._timer.stop()

    def _ours(self, figure: Any) -> bool:
        """Whether a figure's drawing may be read unasked: it lies beside the project, or the figure was just brought from it."""
        drawn, project = figure.model.drawn, self.session.document.path
        path = Path(drawn.path)
        if not path.is_absolute():
            return False
        beside = project is not None and real_path(project).parent in real_path(path).parents
        return beside or figure.source.split("#")[0] == drawn.path

    def look(self) -> None:
        """Take over what was saved; what is just being written, or comes in mid-drag, is waited for."""
        for path, known in list(self._known.items()):
            stamp = _stamp(path)
            if stamp is None or stamp == known:
                continue
            settled, self._changed[path] = self._changed.get(path) == stamp, stamp
            if (
                settled
                and self.session.shown is self.session.shot
                and not self.session.background.busy(f"drawn {path}")
            ):
                self._known[path] = stamp
                self._take_over(path)

    def _take_over(self, path: Path) -> None:
        def read() -> Any:
            try:
                layers, _ = read_layers(path)
                return layers, masks_of(layers)
            except BovrinError as error:
                return error

        self.session.background.latest(f"drawn {path}", read, lambda found: self._drawn(path, found))

    def _drawn(self, path: Path, found: Any) -> None:
        session = self.session
        if isinstance(found, BovrinError):
            session.voice.fail(found)
            return
        names = [f.name for f in session.shot.cast if f.model.drawn is not None and Path(f.model.drawn.path) == path]
        for name in names:
            told: list[str] = []

            def change(shot: Any, name: str = name, told: list[str] = told) -> Any:
                made = redrawn(shot, name, *found)
                told += made.told
                return made.shot

            if session.do(f"{name} drawn anew", change, in_step=False):
                session.voice.tell(" ".join([f"{name} is drawn anew from {path.name}.", *told]))


def _stamp(path: Path) -> Stamp | None:
    try:
        stat = path.stat()
    except OSError:
        return None
    return stat.st_mtime_ns, stat.st_size
