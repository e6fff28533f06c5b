"""The picture of a test drive: a figure from behind its shoulder on tiles, its footprints coloured by what they slid."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from bovrin.craft.clips.drive import Driven
from bovrin.desk.kit.images import Picture
from bovrin.desk.kit.look import LEFT, Look, number_font
from bovrin.errors import NoPicture
from bovrin.figure.ground.feet import footholds
from bovrin.figure.solve.plan import plan_of
from bovrin.picture.item import item_posed
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS, View
from bovrin.shot import Figure

Floats = NDArray[np.float64]

TILE, TILES = 0.5, 9
"""Metres of a tile, and how many lie on either side of the figure."""
TRAIL = 40
"""Footprints that are seen."""
SLIDES = 0.008
"""Metres that a footprint slid from which on it is drawn as a fault."""
RATIO = 1.0


class DriveView(QWidget):
    """Shows a step, the tiles around it, and where feet stood."""

    def __init__(self, figure: Figure) -> None:
        super().__init__()
        self.figure = figure
        self.setMinimumSize(560, 380)
        self.setAccessibleName("Test drive")
        rest = plan_of(figure.rig).rest_world[:, :3, 3]
        self._low, self._high = rest.min(0), rest.max(0)
        self.step: Driven | None = None
        self.prints: list[tuple[Floats, str, float]] = []
        """Places (3,), sides, and metres slid, of feet that stood."""
        self.words = ""

    def show_step(self, step: Driven, words: str) -> None:
        """The next frame."""
        self.step, self.words = step, words
        self.update()

    def forget(self) -> None:
        """It begins anew."""
        self.step, self.prints = None, []

    def put_print(self, place: Floats, foot: int, slid: float) -> None:
        """A foot has left its place."""
        side = "left" if footholds(self.figure.rig)[foot].rest[0] > 0 else "right"
        self.prints = [*self.prints[-TRAIL:], (place, side, slid)]

    def _view(self, step: Driven) -> View:
        place = np.array([step.stand.place[0].imag, 0.0, step.stand.place[0].real])
        size = float(self._high[1] - self._low[1])
        around = np.array([[-1.2 * size, -0.1 * size, -1.2 * size], [1.2 * size, size * 1.15, 1.2 * size]]) + place
        return VIEWS["three-quarter"].fitted(around, self.width() / max(self.height(), 1), 1.05)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), Look.colour("stage_edge"))
        if self.step is None:
            painter.end()
            return
        view, size = self._view(self.step), (self.width(), self.height())
        self._paint_tiles(painter, view, size)
        self._paint_prints(painter, view, size)
        self._paint_figure(painter, view, size)
        painter.setFont(number_font())
        painter.setPen(Look.colour("ink"))
        painter.drawText(QRectF(12, 8, self.width() - 24, 18), LEFT, self.words)
        painter.end()

    def _paint_tiles(self, painter: QPainter, view: View, size: tuple[int, int]) -> None:
        assert self.step is not None
        stand = complex(self.step.stand.place[0])
        middle = np.round(np.array([stand.imag, stand.real]) / TILE) * TILE
        far = TILE * TILES
        at = np.arange(-TILES, TILES + 1) * TILE
        lines = []
        for offset in at.tolist():
            x, z = middle[0] + offset, middle[1] + offset
            lines += [
                [[x, 0, middle[1] - far], [x, 0, middle[1] + far]],
                [[middle[0] - far, 0, z], [middle[0] + far, 0, z]],
            ]
        seen = view.project(np.array(lines).reshape(-1, 3), size)[:, :2].reshape(-1, 2, 2)
        painter.setPen(QPen(Look.colour("ground_line"), 1.0))
        for a, b in seen.tolist():
            painter.drawLine(QLineF(QPointF(*a), QPointF(*b)))

    def _paint_prints(self, painter: QPainter, view: View, size: tuple[int, int]) -> None:
        if not self.prints:
            return
        places = np.array([place for place, _, _ in self.prints]) * [1.0, 0.0, 1.0]
        seen = view.project(places, size)[:, :2]
        painter.setPen(Qt.PenStyle.NoPen)
        for (_, side, slid), at in zip(self.prints, seen.tolist(), strict=True):
            painter.setBrush(Look.colour("alert" if slid > SLIDES else side, 0.6))
            painter.drawEllipse(QPointF(*at), 7.0, 4.0)

    def _paint_figure(self, painter: QPainter, view: View, size: tuple[int, int]) -> None:
        assert self.step is not None
        item = item_posed(self.figure, self.step.values)
        look = PictureStyle(backdrop=None, shadow=False, fine=False)
        try:
            painter.drawImage(0, 0, Picture(shared_renderer().draw([item], view, size, look), RATIO))
        except NoPicture as error:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, error.sentence)
