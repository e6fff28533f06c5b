"""A field for one number: typed with units or as a small sum."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit

from bovrin.desk.kit.numbers import typed_number
from bovrin.errors import BadMotion
from bovrin.shot import Unit

STEPS: dict[int, float] = {Qt.Key.Key_Up: 1.0, Qt.Key.Key_Down: -1.0}


class NumberField(QLineEdit):
    """Shows a value in the animator's unit. Return takes what was typed, Escape puts back what was there.

    Up and Down go in steps of one, with Shift of ten.
    """

    taken = pyqtSignal(float)
    refused = pyqtSignal(str)

    def __init__(self, unit: Unit, suffix: str, name: str) -> None:
        super().__init__()
        self.setObjectName("Typed")
        self._unit, self._suffix, self._value = unit, suffix, 0.0
        self.setAccessibleName(name)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setFixedWidth(96)
        self.returnPressed.connect(self._on_return)

    def measure(self, unit: Unit, suffix: str) -> None:
        """Another unit from now on."""
        self._unit, self._suffix = unit, suffix

    def value(self) -> float:
        """The value shown, in the shown unit."""
        return self._value

    def show_value(self, value: float) -> None:
        """Show a value; what is being typed is left alone."""
        self._value = value
        if not (self.hasFocus() and self.isModified()):
            self._write()

    def show_none(self) -> None:
        """Show that there is no value."""
        if not (self.hasFocus() and self.isModified()):
            self.setText("")
            self.setModified(False)

    def _write(self) -> None:
        if self._unit.holds:
            self.setText(f"{self._value:g}")
            self.setModified(False)
            return
        if self._unit is Unit.NUMBER:
            self.setText(f"{self._value:.3g} {self._suffix}".strip())
            self.setModified(False)
            return
        space = "" if self._suffix == "°" else " "
        shown = 0.0 if abs(self._value) < 0.05 else self._value
        digits = 0 if self._unit is Unit.AMOUNT and abs(shown - round(shown)) < 0.05 else 1
        self.setText(f"{shown:.{digits}f}{space}{self._suffix}")
        self.setModified(False)

    def _on_return(self) -> None:
        """Take it, and leave the keyboard to the window's own keys again."""
        if self._take():
            self.clearFocus()

    def _take(self) -> bool:
        if not self.isModified():  # Return alone: what is shown is rounded, and nobody meant that
            return True
        try:
            value = typed_number(self.text(), self._unit, self._value)
        except BadMotion as error:
            self.refused.emit(error.sentence)
            return False
        self.setModified(False)
        self.taken.emit(value)  # also where it is there already
        self._write()
        return True

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in STEPS:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            event.setAccepted(self.isModified())  # with nothing typed it is for whatever the field lies in
            self._write()
            self.clearFocus()
        elif event.key() in STEPS:
            much = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            self.taken.emit(self._value + STEPS[event.key()] * much)
        else:
            super().keyPressEvent(event)
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                event.accept()  # it was for this field, not for the button that Return stands for around it

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.selectAll()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        if self.isModified():
            self._take()
        self._write()
        super().focusOutEvent(event)
