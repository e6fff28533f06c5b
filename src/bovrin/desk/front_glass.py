"""The front glass: a second small view over the stage, from any side, in which posing works too."""

from __future__ import annotations

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent, QMouseEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from bovrin.desk.session import Session
from bovrin.desk.stage import Stage
from bovrin.desk.widgets import SignButton
from bovrin.picture.view import VIEWS

SMALL = (216, 196)
MARGIN = 12
PILLS = 38
"""Pixels that the pills over the stage take up."""


class FrontGlass(Stage):
    """A stage of its own inside the stage, small in the corner or as large as its half."""

    arranged = pyqtSignal()
    handle_size = 0.62

    def __init__(self, session: Session, over: Stage) -> None:
        super().__init__(session)
        self.setAccessibleName("Front glass")
        self.setMinimumSize(120, 110)
        self.large = False
        self.over = over
        self.view = VIEWS["front"]
        row = QWidget(self)
        line = QHBoxLayout(row)
        line.setContentsMargins(8, 6, 4, 0)
        line.setSpacing(2)
        self.side = QPushButton("Front")
        self.side.setToolTip("Look from another side; the middle button turns it freely")
        self.side.clicked.connect(self.open_sides)
        line.addWidget(self.side)
        line.addStretch(1)
        self.enlarge = SignButton("enlarge", "Half of the stage, or small again", self.toggle_large)
        line.addWidget(self.enlarge)
        self.close_sign = SignButton("close", "Close the front glass (G)", self.toggle)
        line.addWidget(self.close_sign)
        self._row = row
        self.view_changed.connect(self._on_view_changed)
        session.look_changed.connect(self._on_look_changed)
        self.hide()

    def toggle(self) -> None:
        """Open or close it."""
        self.setVisible(not self.isVisible())
        self.arranged.emit()
        if self.isVisible():
            self.raise_()
            self.fit_all()
        self.session.look_changed.emit()

    def toggle_large(self) -> None:
        """Half of the stage, or small again."""
        self.large = not self.large
        self.handle_size = 1.0 if self.large else 0.62
        self._row.move(0, PILLS if self.large else 0)
        self.arranged.emit()
        self.fit_all()

    def fit_all(self) -> None:
        """See the whole of what is shown."""
        if self._drawable:
            self.set_view(self.fitted_to_all())

    def open_sides(self) -> None:
        """The views by name."""
        menu = QMenu(self)
        for name in VIEWS:
            action = menu.addAction(name.capitalize())
            assert action is not None
            action.triggered.connect(lambda _checked, n=name: self.look_from(n))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.side.mapToGlobal(self.side.rect().bottomLeft()))

    def look_from(self, name: str) -> None:
        """Look from a named side at everything."""
        self.set_view(VIEWS[name])
        self.fit_all()
        self.side.setText(name.capitalize())

    def _on_look_changed(self) -> None:
        for sign in (self.enlarge, self.close_sign):
            sign.refresh()

    def _on_view_changed(self) -> None:
        same = [
            n for n, v in VIEWS.items() if (v.yaw, v.pitch, v.flat) == (self.view.yaw, self.view.pitch, self.view.flat)
        ]
        self.side.setText(same[0].capitalize() if same else "Free")

    def _start_drawing(self) -> None:
        super()._start_drawing()
        self.fit_all()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.space_held = self.over.space_held
        super().mousePressEvent(event)
        self.over.space_used = self.over.space_used or self.space_used

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._row.setFixedWidth(self.width())

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.cancel_drag()
        super().hideEvent(event)

    def wants_words(self) -> bool:
        return False


class StageArea(QWidget):
    """The stage with the front glass over its corner, or both side by side."""

    def __init__(self, stage: Stage, glass: FrontGlass) -> None:
        super().__init__()
        self._stage, self._glass = stage, glass
        stage.setParent(self)
        glass.setParent(self)
        glass.hide()
        glass.arranged.connect(self.arrange)

    def arrange(self) -> None:
        """Share the room out."""
        width, height = self.width(), self.height()
        beside = self._glass.large and self._glass.isVisibleTo(self)
        self._stage.setGeometry(QRect(0, 0, width // 2 - 2 if beside else width, height))
        if self._glass.large:
            self._glass.setGeometry(QRect(width // 2 + 2, 0, width - width // 2 - 2, height))
        else:
            wide, high = min(SMALL[0], width // 2), min(SMALL[1], height // 2)
            self._glass.setGeometry(QRect(width - wide - MARGIN, height - high - 44, wide, high))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.arrange()
