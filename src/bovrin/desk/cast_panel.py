"""The left column: the cast and the figure map."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPixmap
from PyQt6.QtWidgets import QListWidget, QListWidgetItem

from bovrin.desk.figure_map import FigureMap
from bovrin.desk.session import Session
from bovrin.desk.widgets import Panel, title


class CastPanel(Panel):
    """Who is in the shot, and what can be posed of the chosen one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column.addWidget(title("Cast"))
        self.list = QListWidget()
        self.list.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._on_row_chosen)
        self.column.addWidget(self.list)
        self.column.addWidget(title("Figure map"))
        self.map = FigureMap(session)
        self.column.addWidget(self.map, 1)
        session.committed.connect(self._on_cast_changed)
        session.choice_changed.connect(self._on_choice_changed)
        self._names: list[str] = []
        self._on_cast_changed()

    def _on_cast_changed(self) -> None:
        names = [figure.name for figure in self.session.shot.cast]
        if names == self._names:
            return
        self._names = names
        self.list.blockSignals(True)
        self.list.clear()
        for figure in self.session.shot.cast:
            self.list.addItem(QListWidgetItem(_dot(QColor.fromRgbF(*figure.colour)), figure.name.capitalize()))
        self.list.blockSignals(False)
        self.list.setFixedHeight(self.list.sizeHintForRow(0) * len(names) + 4 if names else 24)
        self._on_choice_changed()

    def _on_choice_changed(self) -> None:
        if self.session.figure_name in self._names:
            self.list.blockSignals(True)
            self.list.setCurrentRow(self._names.index(self.session.figure_name))
            self.list.blockSignals(False)

    def _on_row_chosen(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self._names) and self._names[row] != self.session.figure_name:
            self.session.choose(self._names[row], ())


def _dot(colour: QColor) -> QIcon:
    pixmap = QPixmap(24, 24)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawEllipse(5, 5, 14, 14)
    painter.end()
    return QIcon(pixmap)
