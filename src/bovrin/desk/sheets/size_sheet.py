"""How large a brought figure is, when its file leaves doubts: beside the porter, by its unit or by its height."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bovrin.desk.kit.images import Picture, paint_paper
from bovrin.desk.kit.look import CENTRE, Look, text_font
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Pills, muted, title
from bovrin.errors import NoPicture
from bovrin.figure.ground.skin import skin_at_rest
from bovrin.formats.figures.files import load_figure
from bovrin.formats.units import UNITS, unit_name
from bovrin.picture.item import Ghost, Item, item_posed
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Figure, Unit

Floats = NDArray[np.float64]
BESIDE = "porter"
GAP = 0.25
"""Share of the wider one's width between the two."""
SMALLEST, LARGEST = 0.001, 1000.0
"""Metres that a figure can be tall."""


class SizePicture(QWidget):
    """The figure as tall as it would be, beside the porter's outline, on one ground."""

    def __init__(self, figure: Figure) -> None:
        super().__init__()
        self.setMinimumSize(420, 360)
        self.setAccessibleName("The figure beside the porter")
        self._item = item_posed(figure, np.array(figure.rig.defaults))
        self._skin = _skin(figure)
        other = load_figure(f"cast:{BESIDE}", BESIDE, Path())
        self._other, self._other_skin = item_posed(other, np.array(other.rig.defaults)), _skin(other)
        self.own_height = float(np.ptp(self._skin[:, 1]))
        self.other_height = float(np.ptp(self._other_skin[:, 1]))
        self._by = 1.0
        self._image: Picture | None = None

    def show_larger(self, by: float) -> None:
        """The figure so many times as large as it was read."""
        self._by, self._image = by, None
        self.update()

    def _drawn(self, size: tuple[int, int], ratio: float) -> Picture | None:
        own, own_skin = _stood(self._item, self._skin, self._by, 0.0)
        wide = np.ptp(own_skin[:, 0]), np.ptp(self._other_skin[:, 0])
        aside = -(sum(wide) / 2 + GAP * max(wide))
        other, other_skin = _stood(self._other, self._other_skin, 1.0, float(aside))
        view = VIEWS["front"].fitted(np.concatenate([own_skin, other_skin]), size[0] / size[1], 1.15)
        look = Look.colour("accent")
        ghost = Ghost(other, (look.redF(), look.greenF(), look.blueF()), 0.9)
        pixels = round(size[0] * ratio), round(size[1] * ratio)
        try:
            drawn = shared_renderer().draw([own], view, pixels, PictureStyle(backdrop=None, shadow=False), [ghost])
        except NoPicture:
            return None
        ends = [np.array([[s[:, 0].mean(), s[:, 1].max(), 0.0]]) for s in (own_skin, other_skin)]
        self._bones = view.project(own.world[:, :3, 3], size)[:, :2]
        self._names = [view.project(end, size)[0, :2] for end in ends]
        return Picture(drawn, ratio)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        paint_paper(painter, QRectF(self.rect()))
        if self._image is None:
            self._image = self._drawn((self.width(), self.height()), self.devicePixelRatioF())
        if self._image is None:
            return
        painter.drawImage(0, 0, self._image)
        self._paint_bones(painter)
        painter.setFont(text_font())
        painter.setPen(Look.colour("ink"))
        for (x, y), height in zip(self._names, (self.own_height * self._by, self.other_height), strict=True):
            box = QRectF(0, 0, 90, 20)
            box.moveCenter(QPointF(min(max(x, 46), self.width() - 46), max(y - 12, 12)))
            painter.drawText(box, CENTRE, tall(height))

    def _paint_bones(self, painter: QPainter) -> None:
        painter.setPen(Look.pen("muted", 1.4, 0.7))
        for number, joint in enumerate(self._item.figure.rig.joints):
            if joint.parent > 0:
                painter.drawLine(QPointF(*self._bones[joint.parent]), QPointF(*self._bones[number]))

    def resizeEvent(self, event: object) -> None:
        self._image = None


class SizeSheet(QDialog):
    """Asks for a unit or a height; nothing is brought until one is chosen."""

    def __init__(self, figure: Figure, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("How large is it?")
        self.metres = self._read = figure.model.metres
        self.picture = SizePicture(figure)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(10)
        column.addWidget(title(f"How large is {figure.name}?"))
        column.addWidget(muted("Its file does not say its unit. The outline is the porter's.", wrap=True))
        column.addWidget(self.picture, 1)
        form = QGridLayout()
        tips = [f"{tall(self.picture.own_height / self._read * metres)} tall" for metres in UNITS.values()]
        self.units = Pills(tuple(UNITS), lambda name: self._take(UNITS[name]), tips)
        self.height_field = NumberField(Unit.LENGTH, "cm", "How tall the figure is")
        self.height_field.setToolTip("How tall it is: 178, or 1.78 m")
        self.height_field.taken.connect(self._on_height)
        self.fault = muted()
        self.height_field.refused.connect(self.fault.setText)
        form.addWidget(muted("A unit is a"), 0, 0)
        form.addWidget(self.units, 0, 1)
        form.addWidget(muted("It is tall"), 1, 0)
        form.addWidget(self.height_field, 1, 1)
        form.setColumnStretch(1, 1)
        column.addLayout(form)
        column.addWidget(self.fault)
        line = QHBoxLayout()
        line.addStretch(1)
        self.leave, self.bring = QPushButton("Leave it"), QPushButton("Bring it")
        self.leave.clicked.connect(self.reject)
        self.bring.clicked.connect(self.accept)
        self.bring.setDefault(True)
        line.addWidget(self.leave)
        line.addWidget(self.bring)
        column.addLayout(line)
        self._take(self.metres)

    def _on_height(self, centimetres: float) -> None:
        metres = centimetres / 100.0
        if not SMALLEST <= metres <= LARGEST:
            self.fault.setText(f"A figure {tall(metres)} tall cannot be brought. Use 1 mm to 1000 m.")
            return
        self._take(metres / self.picture.own_height * self._read)

    def _take(self, metres: float) -> None:
        self.metres = metres
        by = metres / self._read
        self.fault.setText("")
        self.picture.show_larger(by)
        self.units.show_chosen(unit_name(metres))
        self.height_field.show_value(self.picture.own_height * by * 100.0)


def asked_size(figure: Figure, parent: QWidget) -> float | None:
    """Metres in a unit of a figure's file, as they are chosen over a window; None when it is left."""
    sheet = SizeSheet(figure, parent)
    chosen = sheet.exec() == QDialog.DialogCode.Accepted
    sheet.deleteLater()
    return sheet.metres if chosen else None


def tall(metres: float) -> str:
    """A height in words."""
    return f"{metres:.2f} m" if metres >= 1.0 else f"{metres * 100:.1f} cm"


def _skin(figure: Figure) -> Floats:
    """What is seen of a figure at rest, and its joints (V, 3)."""
    rest = item_posed(figure, np.array(figure.rig.defaults)).world[1:, :3, 3]
    skin = skin_at_rest(figure)
    return np.concatenate([skin, rest]) if len(rest) or len(skin) else np.zeros((1, 3))


def _stood(item: Item, skin: Floats, by: float, aside: float) -> tuple[Item, Floats]:
    """A figure and its skin so many times as large, on the ground, its middle so far to the right."""
    low, high = skin.min(0) * by, skin.max(0) * by
    to = np.array([aside - (low[0] + high[0]) / 2, -low[1], 0.0])
    larger = np.diag([by, by, by, 1.0])
    larger[:3, 3] = to
    return replace(item, world=larger @ item.world), skin * by + to
