"""Drop asks how something falls and bounces; what comes of it is seen at once."""

from __future__ import annotations

import math
from typing import NamedTuple

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QHideEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QWidget

from bovrin.craft.drop import Drop, drop
from bovrin.desk.kit.menus import put_at_pointer
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import muted, title
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.settings import settings
from bovrin.errors import BovrinError
from bovrin.shot import Shot, Unit


class _Asked(NamedTuple):
    """A number of a drop as it is asked for: its words, its measure, and how much of it is shown as one."""

    words: str
    unit: Unit
    suffix: str
    factor: float
    tip: str


ASKED = {
    "height": _Asked("From", Unit.LENGTH, "cm", 100.0, "How high its lowest point is over the ground before it falls"),
    "bounciness": _Asked("Bounces", Unit.AMOUNT, "%", 100.0, "How much of its speed it has after each contact"),
    "speed": _Asked("Goes on", Unit.LENGTH, "cm", 100.0, "How far it goes along the ground in a second; 0: nowhere"),
    "heading": _Asked("Toward", Unit.ANGLE, "°", 180 / math.pi, "Where to: 0° is to the front of the landing"),
    "friction": _Asked("Slows by", Unit.AMOUNT, "%", 100.0, "How much of its way on each contact takes"),
    "turn": _Asked("Turns", Unit.AMOUNT, "%", 100.0, "How far it turns over on its way; 100 %: as if it rolled"),
    "squash": _Asked("Squash", Unit.AMOUNT, "%", 100.0, "How flat it is at the first contact; less at slower ones"),
}


class DropPopover(QFrame):
    """Opens at the pointer. Return in a field that was not changed drops it, Escape or a click elsewhere leaves it."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.session, self._figure, self._frame = session, "", 0.0
        self.setObjectName("Popover")
        self.setAccessibleName("Drop")
        plain = Drop()
        kept = {name: settings().value(f"drop/{name}", getattr(plain, name), float) for name in ASKED}
        self.how = plain._replace(**{name: float(value) for name, value in kept.items()})
        grid = QGridLayout(self)
        grid.setContentsMargins(14, 12, 14, 12)
        grid.setVerticalSpacing(6)
        self.words = title("Drop")
        grid.addWidget(self.words, 0, 0, 1, 2)
        self.fields: dict[str, NumberField] = {}
        for row, (name, asked) in enumerate(ASKED.items(), 1):
            field = NumberField(asked.unit, asked.suffix, asked.words)
            field.setFixedWidth(76)
            field.setToolTip(asked.tip)
            field.taken.connect(lambda value, n=name: self._on_taken(n, value))
            field.refused.connect(session.voice.tell)
            field.returnPressed.connect(lambda f=field: None if f.isModified() else self.drop())
            grid.addWidget(muted(asked.words), row, 0)
            grid.addWidget(field, row, 1)
            self.fields[name] = field
        self.button = QPushButton("Drop")
        self.button.setToolTip("It falls, bounces and rests as it is seen now, as keys (Return)")
        self.button.clicked.connect(self.drop)
        grid.addWidget(self.button, len(ASKED) + 1, 1)

    def ask(self) -> None:
        """Ask for the chosen figure, which touches the ground first on the current frame."""
        session = self.session
        self._figure, self._frame = session.figure_name, session.frame
        self.words.setText(f"{self._figure.capitalize()} touches at {self._frame:g}")
        self._show_values()
        put_at_pointer(self)
        self._look()
        self.show()
        self.fields["height"].setFocus()

    def _change(self, shot: Shot) -> Shot:
        return drop(shot, self._figure, self._frame, self.how)

    def _look(self) -> None:
        """Show what comes of it, or say why nothing does."""
        try:
            self.session.preview(self._change(self.session.shot))
        except BovrinError as error:
            self.session.preview(None)
            self.session.voice.fail(error)

    def _on_taken(self, name: str, shown: float) -> None:
        self.how = self.how._replace(**{name: shown / ASKED[name].factor})
        self._show_values()
        self._look()

    def _show_values(self) -> None:
        for name, field in self.fields.items():
            field.show_value(getattr(self.how, name) * ASKED[name].factor)

    def drop(self) -> None:
        """Do it."""
        self.session.preview(None)
        if self.session.do(f"Drop {self._figure}", self._change):
            for name in ASKED:
                settings().setValue(f"drop/{name}", getattr(self.how, name))
            self.hide()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.session.preview(None)
        super().hideEvent(event)
