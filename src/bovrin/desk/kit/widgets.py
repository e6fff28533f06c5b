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
    label.setObjectName("Title")
    return label


def muted(words: str = "", *, wrap: bool = False) -> QLabel:
    """Quiet words."""
    label = QLabel(words)
    label.setObjectName("Muted")
    label.setWordWrap(wrap)
    return label


OPEN, FOLDED = (12, 8, 12, 9), (12, 3, 12, 3)
"""Margins of a panel: left, top, right, bottom."""


class Panel(QWidget):
    """A rounded panel with a column of contents. One with a title can be folded; a click on the title asks for that."""

    fold_asked = pyqtSignal()

    def __init__(self, title: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("Panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._outer = QVBoxLayout(self)
        self._outer.setContentsMargins(*OPEN)
        self._outer.setSpacing(5)
        self.head = QHBoxLayout()
        self.body = QWidget()
        self.column = QVBoxLayout(self.body)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        self.fold: QPushButton | None = None
        self._title = title.upper()
        if title:
            self.fold = QPushButton(self._title)
            self.fold.setObjectName("Fold")
            self.fold.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.fold.setToolTip("Fold this panel, or open it before all others")
            self.fold.clicked.connect(self.fold_asked)
            self.head.addWidget(self.fold)
            self.head.addStretch(1)
            self._outer.addLayout(self.head)
        self._outer.addWidget(self.body)
        self.folded = False

    def set_folded(self, folded: bool) -> None:
        """Only the title, or all of it."""
        if folded != self.folded:
            self.folded = folded
            self.body.setHidden(folded)
            self._outer.setContentsMargins(*(FOLDED if folded else OPEN))
            if self.fold is not None:
                self.fold.setText(f"{self._title} …" if folded else self._title)

    def title_height(self) -> int:
        """Pixels of the panel when it is folded."""
        return FOLDED[1] + FOLDED[3] + self.head.sizeHint().height()

    def body_height(self, width: int) -> int:
        """Pixels that the contents add in a column of a width."""
        inner = width - OPEN[0] - OPEN[2]
        wanted = self.column.heightForWidth(inner) if self.column.hasHeightForWidth() else -1
        more = OPEN[1] + OPEN[3] - FOLDED[1] - FOLDED[3] + self._outer.spacing()
        return max(wanted, self.column.sizeHint().height()) + more


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
