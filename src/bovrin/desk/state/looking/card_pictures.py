"""Pictures for the cards of the pose strip: made one at a time when the window is idle, kept as long as the pose is."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage

from bovrin.desk.kit.images import Picture, for_the_screens
from bovrin.desk.state.document.session import Session
from bovrin.errors import NoPicture
from bovrin.figure.ground.skin import skin_at_rest
from bovrin.figure.staging import staged
from bovrin.picture.item import item_posed
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Figure, Shot

Key = tuple[str, object]

WIDTH, HEIGHT, RATIO = 66, 70, 2
AWAY = 0.45
"""Share of its height that a figure stands off from where it rests, from which on it is drawn where it stands."""
KEPT = 400
REST = 120
"""Milliseconds that what is shown provisionally must rest before it is drawn: a drag goes first."""
AIR = 3
"""Times as long as the last picture took, the window is left alone after anything that an animator did."""
MANY = 100_000
"""Triangles of a figure up to which its pictures are drawn fine."""


class CardPictures(QObject):
    """Ask for a picture; if it is not there yet, `ready` says when it is."""

    ready = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._kept: OrderedDict[Key, QImage] = OrderedDict()
        self._wanted: dict[Key, tuple[Figure, Callable[[], NDArray[np.float64]]]] = {}
        self._asked: tuple[Shot, tuple[str, bytes], list[tuple[bytes, NDArray[np.float64]]]] | None = None
        self.paused = False
        """While this is set nothing is drawn: the stage's picture goes first when the window opens."""
        self._since = QElapsedTimer()
        self._since.start()
        self._taken = 0
        session.document.changed.connect(self._since.restart)
        session.document.frame_changed.connect(self._since.restart)
        self._timer = QTimer(self)
        self._timer.setInterval(15)
        self._timer.timeout.connect(self._make_one)

    def begin(self) -> None:
        """The stage's picture is there: now these."""
        self.paused = False

    @property
    def all_there(self) -> bool:
        """Whether none is still to come."""
        return not self._wanted

    def pictures(self, frames: NDArray[np.float64]) -> list[QImage | None]:
        """The chosen figure's pictures at frames (F,); None where one is still to come."""
        figure = self._session.figure
        if figure is None or not len(frames):
            return []
        return [self.picture_for(figure, mark, lambda v=row: v) for mark, row in self._poses(figure, frames)]  # type: ignore[misc]

    def _poses(self, figure: Figure, frames: NDArray[np.float64]) -> list[tuple[bytes, NDArray[np.float64]]]:
        """A mark and the values (C,) of the poses on some frames (F,); those that were asked for last are kept."""
        shot, wanted = self._session.shown, (figure.name, frames.tobytes())
        if self._asked is None or self._asked[0] is not shot or self._asked[1] != wanted:
            values = staged(shot, figure.name, frames).values
            self._asked = (shot, wanted, [(row.round(4).tobytes(), row) for row in values])
        return self._asked[2]

    def picture_for(self, figure: Figure, mark: object, values: Callable[[], NDArray[np.float64]]) -> QImage | None:
        """The picture of a figure under a mark that stands for its pose; `values` gives the pose (C,) if it must be drawn."""
        key = (figure.name, mark)
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]
        self._wanted[key] = (figure, values)
        if not self._timer.isActive():
            self._timer.start()
        return None

    def _make_one(self) -> None:
        rest = max(REST if self._session.document.previewing else 0, AIR * self._taken)
        at_work = self._since.elapsed() < rest
        if self.paused or self._session.playing or at_work:
            return
        if not self._wanted:
            self._timer.stop()
            return
        key, (figure, values) = self._wanted.popitem()
        clock = QElapsedTimer()
        clock.start()
        try:
            self._kept[key] = _drawn(figure, values())
            self._taken = clock.elapsed()
        except NoPicture:  # the stage says so; cards stay without pictures
            self._wanted.clear()
            return
        while len(self._kept) > KEPT:
            self._kept.popitem(last=False)
        self.ready.emit()


def _drawn(figure: Figure, values: NDArray[np.float64]) -> QImage:
    item = item_posed(figure, values)
    world = item.world
    size = WIDTH * RATIO, HEIGHT * RATIO
    points = skin_at_rest(figure) if figure.model.pieces else np.zeros((1, 3))
    middle = world[:, :3, 3].mean(0) if len(world) > 1 else world[0, :3, 3]
    low, high = points.min(0), points.max(0)
    off = middle[1] - (low[1] + high[1]) / 2
    if abs(off) > AWAY * (high[1] - low[1]):  # files may keep a figure at rest anywhere
        low, high = low + [0.0, off, 0.0], high + [0.0, off, 0.0]
    around = np.array([[middle[0], low[1], middle[2]], [middle[0], high[1], middle[2]]]) + np.array([0, 0.02, 0])
    view = VIEWS["three-quarter"].fitted(around, size[0] / size[1], 1.12)
    if len(world) == 1:
        view = VIEWS["three-quarter"].fitted(points + world[0, :3, 3], size[0] / size[1], 1.2)
    look = PictureStyle(backdrop=None, shadow=False, fine=figure.model.triangle_count <= MANY, line=1.6)
    return for_the_screens(Picture(shared_renderer().draw([item], view, size, look), RATIO))
