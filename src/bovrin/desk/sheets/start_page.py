"""Where a session begins: shots to try and the last projects, each with a picture, over the whole desk."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from bovrin import cast
from bovrin.desk.commands.files import open_path
from bovrin.desk.commands.port import Port
from bovrin.desk.kit.images import Picture
from bovrin.desk.kit.look import LEFT, Look
from bovrin.desk.kit.widgets import muted, title
from bovrin.errors import BovrinError
from bovrin.formats.project.store import load
from bovrin.picture.item import items_at
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Shot

DEMO_WORDS = {
    "heave": ("Heave the crate", "The porter hears the horn and lifts; blocked and splined", 109.0),
    "goat": ("The goat turns", "Four legs turn about on the landing, ears and tail late", 127.0),
    "across": ("Across the landing", "A walk out of clips that fade; in step, aside, at rest", 176.0),
    "heron": ("The heron takes the fish", "Cut-out figures: swapped drawings, a bent neck, a strike", 157.0),
}
LARGE, SMALL = QSize(270, 198), QSize(180, 146)
WIDEST = 620
ARROWS: dict[int, tuple[int, int]] = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class ShotCard(QAbstractButton):
    """A shot's picture over its name and a line about it."""

    def __init__(self, path: Path, name: str, words: str, size: QSize, frame: float | None = None) -> None:
        super().__init__()
        self.path, self.name, self.words, self.frame = path, name, words, frame
        self.image: Picture | None = None
        self.setFixedSize(size)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Open {name}")
        self.setToolTip(f"Open {path}" if frame is None else words)

    def picture_size(self) -> tuple[int, int]:
        """Pixels, before the screen's ratio."""
        return self.width() - 2, self.height() - 48

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        active = self.underMouse() or self.hasFocus()
        painter.setPen(QPen(Look.colour("accent" if active else "hairline"), 1.4 if active else 1.0))
        painter.setBrush(Look.colour("raised"))
        painter.drawRoundedRect(box, 8, 8)
        width, height = self.picture_size()
        place = QRectF(1, 1, width, height)
        if self.image is not None:
            round_top = QPainterPath()
            round_top.addRoundedRect(place.adjusted(0, 0, 0, 12), 7, 7)
            painter.setClipPath(round_top)
            painter.setClipRect(place, Qt.ClipOperation.IntersectClip)
            painter.drawImage(1, 1, self.image)
            painter.setClipping(False)
        painter.setPen(Look.colour("ink"))
        lines = painter.fontMetrics().height()
        room = QRectF(12, height + 6, width - 22, lines)
        font = painter.font()
        font.setBold(True)
        painter.setFont(font)
        painter.drawText(
            room, LEFT, painter.fontMetrics().elidedText(self.name, Qt.TextElideMode.ElideRight, int(room.width()))
        )
        font.setBold(False)
        painter.setFont(font)
        painter.setPen(Look.colour("muted"))
        room.translate(0, lines + 1)
        painter.drawText(
            room, LEFT, painter.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideRight, int(room.width()))
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.click()
        else:
            event.ignore()


class StartPage(QWidget):
    """Lies over the window and keeps keys and clicks from what is under it. Escape, or choosing something, takes it away.

    Cards are reached by the arrows.
    """

    left = pyqtSignal()

    def __init__(self, port: Port, recent: list[Path], parent: QWidget) -> None:
        super().__init__(parent)
        self._port = port
        self.setObjectName("Start")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.demos = [
            ShotCard(cast.DEMOS[key], name, words, LARGE, frame) for key, (name, words, frame) in DEMO_WORDS.items()
        ]
        self.recent = [ShotCard(p, p.name.removesuffix(".bovrin.json"), str(p.parent), SMALL) for p in recent]
        self.buttons: list[QPushButton] = []
        self._lay_out()
        self._waiting = [*self.demos, *self.recent]
        self._timer = QTimer(self)
        self._timer.setInterval(10)
        self._timer.timeout.connect(self._draw_one)
        self._timer.start()
        port.files.opened.connect(self.leave)
        self.cover()
        self.show()
        self.raise_()
        self.demos[0].setFocus()

    def _lay_out(self) -> None:
        """The demos beside each other in the middle of the window, what was worked on last below them."""
        column = QVBoxLayout()
        column.setSpacing(8)
        large = QLabel("Bovrin")
        large.setObjectName("Large")
        column.addWidget(large)
        column.addWidget(muted("A light table for acting"))
        column.addSpacing(18)
        column.addWidget(title("Shots to try"))
        column.addLayout(self._row(self.demos))
        column.addSpacing(16)
        column.addWidget(title("Go on with"))
        if self.recent:
            column.addLayout(self._row(self.recent))
        else:
            column.addWidget(muted("Projects that you save will be here."))
        column.addSpacing(16)
        column.addLayout(self._buttons())
        across, whole = QHBoxLayout(), QVBoxLayout(self)
        across.addStretch(1)
        across.addLayout(column)
        across.addStretch(1)
        whole.setContentsMargins(24, 24, 24, 24)
        whole.addStretch(2)
        whole.addLayout(across)
        whole.addStretch(3)

    def _row(self, cards: list[ShotCard]) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setSpacing(14)
        for card in cards:
            card.clicked.connect(partial(self._open, card.path))
            line.addWidget(card)
        line.addStretch(1)
        return line

    def _buttons(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setSpacing(8)
        rows = (
            ("New shot…", "shot.new"),
            ("Open a project…", "shot.open"),
            ("Bring a figure or motion…", "shot.bring"),
            ("To the desk", ""),
        )
        for words, command in rows:
            button = QPushButton(words)
            button.clicked.connect(partial(self._run, command, button))
            self.buttons.append(button)
            line.addWidget(button)
        line.addStretch(1)
        return line

    def _run(self, command: str, button: QPushButton) -> None:
        button.setFocus()  # what the command opens, it opens there
        before = self._port.session.shot
        if command:
            self._port.run(command)
        if not command or self._port.session.shot is not before:
            self.leave()

    def _open(self, path: Path) -> None:
        if open_path(self._port, path):
            self.leave()

    def leave(self) -> None:
        """Back to the desk; also when a shot comes that was chosen from a menu over the page."""
        if not self.isVisible():
            return
        self._timer.stop()
        self.hide()
        self.deleteLater()
        self.left.emit()

    def cover(self) -> None:
        """Fill the window; cards use the width there is."""
        parent = self.parentWidget()
        assert parent is not None
        self.setGeometry(parent.rect())
        count = len(self.demos)
        wide = min(max((parent.width() - 2 * 70 - 14 * (count - 1)) // count, LARGE.width()), WIDEST)
        for card in self.demos:
            card.setFixedSize(wide, wide * LARGE.height() // LARGE.width())
        small = min(
            max((count * wide + 14 * (count - 1) - 14 * 5) // 6, SMALL.width() * 3 // 4), SMALL.width() * 3 // 2
        )
        for card in self.recent:
            card.setFixedSize(small, small * SMALL.height() // SMALL.width())

    # -- keys and clicks ----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A click beside the cards stays here."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        elif event.key() in ARROWS:
            self._go(event.key())

    def _go(self, key: int) -> None:
        """To the card or button beside the one with the keyboard."""
        rows: list[list[QAbstractButton]] = [[*self.demos], [*self.recent], [*self.buttons]]
        rows = [row for row in rows if row]
        focus = self.focusWidget()
        y = next((n for n, row in enumerate(rows) if focus in row), 0)
        x = next((n for n, one in enumerate(rows[y]) if one is focus), 0)
        across, down = ARROWS[key]
        row = rows[min(max(y + down, 0), len(rows) - 1)]
        row[min(max(x + across, 0), len(row) - 1)].setFocus()

    def _draw_one(self) -> None:
        """One picture at a time, so that the page is there at once."""
        if not self._waiting:
            self._timer.stop()
            return
        card = self._waiting.pop(0)
        ratio = self.devicePixelRatioF()
        try:
            card.image = _drawn(load(card.path), card.frame, card.picture_size(), ratio)
        except BovrinError as error:
            card.setToolTip(error.sentence)
        card.update()


def _drawn(shot: Shot, frame: float | None, size: tuple[int, int], ratio: float) -> Picture:
    at = (shot.first + shot.last) // 2 if frame is None else frame
    items = items_at(shot, at)
    actors = [item for item in items if not item.figure.is_set] or items
    places = np.concatenate([item.world[:, :3, 3] for item in actors[:2]])
    low, high = places.min(0) - [0.25, 0.1, 0.25], places.max(0) + [0.25, 0.2, 0.25]
    view = VIEWS["three-quarter"].fitted(np.array([low, high]), size[0] / size[1], 1.0)
    pixels = shared_renderer().draw(
        items, view, (round(size[0] * ratio), round(size[1] * ratio)), PictureStyle(theme=Look.theme)
    )
    return Picture(pixels, ratio)
