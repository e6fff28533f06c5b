"""Small widgets that several panels share."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QPainter, QPixmap
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QPushButton, QToolButton, QVBoxLayout, QWidget

from bovrin.desk.kit.look import Look, icon_path


def title(words: str) -> QLabel:
    """A panel's small heading."""
    label = QLabel(words.upper())
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setObjectName("Title")
    return label


def muted(words: str = "", *, wrap: bool = False) -> QLabel:
    """Quiet words."""
    label = QLabel(words)
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setObjectName("Muted")
    label.setWordWrap(wrap)
    return label


MARGINS = (12, 8, 12, 9)
"""Margins of a panel: left, top, right, bottom."""


class Panel(QWidget):
    """A rounded panel with a column of contents. A click on its title asks that it be put away."""

    fold_asked = pyqtSignal()

    def __init__(self, title: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("Panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.title = title
        self._outer = QVBoxLayout(self)
        self._outer.setContentsMargins(*MARGINS)
        self._outer.setSpacing(5)
        self.head = QHBoxLayout()
        self.column = QVBoxLayout()
        self.column.setSpacing(6)
        if title:
            self.fold = title_button(title, "Put this panel away; its title stays below")
            self.fold.clicked.connect(self.fold_asked)
            self.head.addWidget(self.fold)
            self.head.addStretch(1)
            self._outer.addLayout(self.head)
        self._outer.addLayout(self.column)

    def add_row(self, *widgets: QWidget) -> QHBoxLayout:
        """Widgets side by side below what there is, from the left."""
        row = QHBoxLayout()
        row.setSpacing(5)
        for widget in widgets:
            row.addWidget(widget)
        row.addStretch(1)
        self.column.addLayout(row)
        return row

    def height_at(self, width: int) -> int:
        """Pixels that it needs in a column of a width."""
        wanted = self._outer.heightForWidth(width) if self._outer.hasHeightForWidth() else -1
        return max(wanted, self._outer.sizeHint().height())


def push_button(words: str, tip: str, run: Callable[[], object], *, ticked: bool = False) -> QPushButton:
    """A button that does something; ticked: it shows whether that is on."""
    button = QPushButton(words)
    button.setCheckable(ticked)
    button.setToolTip(tip)
    button.clicked.connect(lambda _checked: run())
    return button


def title_button(words: str, tip: str) -> QPushButton:
    """A title that can be clicked."""
    button = QPushButton(words.upper())
    button.setObjectName("Fold")
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    button.setToolTip(tip)
    return button


class Pills(QWidget):
    """A row of pill buttons of which one is chosen."""

    def __init__(self, words: Sequence[str], on_choose: Callable[[str], object], tips: Sequence[str] = ()) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QPushButton] = {}
        for index, word in enumerate(words):
            button = QPushButton(word)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            if index < len(tips):
                button.setToolTip(tips[index])
            button.clicked.connect(lambda _checked, w=word: on_choose(w))
            self._group.addButton(button)
            self._buttons[word] = button
            row.addWidget(button)
        if len(words) > 1:
            row.addStretch(1)

    def button(self, word: str) -> QPushButton:
        """One of the buttons."""
        return self._buttons[word]

    def show_chosen(self, word: str) -> None:
        """Mark a word as chosen, or none."""
        self._group.setExclusive(False)
        for name, button in self._buttons.items():
            button.setChecked(name == word)
        self._group.setExclusive(word in self._buttons)


class Toggles(QWidget):
    """Pill buttons that are on or off, each standing for a command."""

    def __init__(self, words: Mapping[str, str], run: Callable[[str], object], tip: Callable[[str], str]) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self._buttons: dict[str, QPushButton] = {}
        for word, command in words.items():
            button = QPushButton(word)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setToolTip(tip(command))
            button.clicked.connect(lambda _checked, c=command: run(c))
            self._buttons[word] = button
            row.addWidget(button)

    def button(self, word: str) -> QPushButton:
        """One of the buttons."""
        return self._buttons[word]

    def show_on(self, word: str, *, on: bool) -> None:
        """Show a button as on or off."""
        self._buttons[word].setChecked(on)


def sign_icon(name: str, colour: QColor, size: int = 16, ratio: float = 2.0) -> QIcon:
    """One of the drawn signs as an icon."""
    pixmap = QPixmap(QSize(int(size * ratio), int(size * ratio)))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(size / 16, size / 16)
    if name in ("undo", "redo", "close", "enlarge", "seen", "hidden"):
        painter.setPen(colour)
        painter.setBrush(Qt.BrushStyle.NoBrush)
    else:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
    painter.drawPath(icon_path(name))
    painter.end()
    return QIcon(pixmap)


def dot_icon(colour: QColor, size: int, dot: int, rounding: int) -> QIcon:
    """A dot of a colour in a list: rounded by as much, pixels."""
    pixmap = QPixmap(size, size)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    edge = (size - dot) // 2
    painter.drawRoundedRect(edge, edge, dot, dot, rounding, rounding)
    painter.end()
    return QIcon(pixmap)


class SignButton(QToolButton):
    """A flat button with a drawn sign, in the theme's ink."""

    def __init__(self, sign: str, tip: str, on_click: Callable[[], object]) -> None:
        super().__init__()
        self._sign = sign
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setIconSize(QSize(18, 18))
        self.setFixedSize(26, 26)
        self.clicked.connect(lambda: on_click())
        self.refresh()

    def refresh(self, sign: str | None = None) -> None:
        """Draw the sign again, in the theme's colour of now."""
        self._sign = sign or self._sign
        self.setIcon(sign_icon(self._sign, Look.colour("ink"), 18))
