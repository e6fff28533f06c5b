"""What the window says: one calm bar over the stage, never a box that must be clicked away."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.desk.kit.widgets import SignButton

SECONDS = 6
Choice = tuple[str, Callable[[], object]]


class Notice(QWidget):
    """Faults stay until closed; what merely happened fades after a while."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("Notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(14, 6, 8, 6)
        self.label = QLabel()
        self.label.setWordWrap(True)
        self.label.setTextFormat(Qt.TextFormat.PlainText)
        self._row.addWidget(self.label, 1)
        self.buttons: list[QPushButton] = []
        self._close = SignButton("close", "Close this message", self.hide)
        self._row.addWidget(self._close)
        self._fade = QTimer(self)
        self._fade.setSingleShot(True)
        self._fade.timeout.connect(self.hide)
        self.hide()

    def say(self, words: str, *, calm: bool, choices: Sequence[Choice] = ()) -> None:
        """Show words, with buttons for choices."""
        self.setProperty("calm", "true" if calm else "false")
        style = self.style()
        assert style is not None
        style.unpolish(self)
        style.polish(self)
        for button in self.buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        for words_of, action in choices:
            button = QPushButton(words_of)
            button.clicked.connect(self.hide)
            button.clicked.connect(lambda _checked, run=action: run())
            self._row.insertWidget(self._row.count() - 1, button)
            self.buttons.append(button)
        self.label.setText(words)
        self._fade.stop()
        if calm and not choices:
            self._fade.start(SECONDS * 1000)
        self.place()
        self.show()
        self.raise_()

    def place(self) -> None:
        """Lie along the bottom of the stage."""
        parent = self.parentWidget()
        assert parent is not None
        width = min(parent.width() - 40, 640)
        height = max(self.heightForWidth(width), 42)
        self.setGeometry((parent.width() - width) // 2, parent.height() - height - 48, width, height)
