"""The rows of a setup sheet: a role each, its joints, how sure that is, and a button that tries it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Protocol

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.desk.kit.look import Look
from bovrin.desk.kit.widgets import SignButton, dot_icon, muted
from bovrin.figure.brought.guess import Guess
from bovrin.figure.making.roles import KINDS, LimbRole, Roles

NOBODY = "none"
MIDDLE = "middle"
SIDES = ("left", "right", MIDDLE)
SURE = ((0.95, "sure"), (0.75, "fairly sure"), (0.0, "a guess"))
TRUNK = (("hips", "Hips", False), ("chest", "Chest", True), ("head", "Head", True))
LIMB = (("upper", "Where it begins"), ("middle", "Where it bends"), ("end", "Its end"))


class JointField(QComboBox):
    """Chooses one joint of the figure; "none" where that can be."""

    def __init__(
        self, names: list[str], joint: int, words: str, on_change: Callable[[int], object], *, none: bool
    ) -> None:
        super().__init__()
        self._first = 0 if not none else 1
        self.addItems([*([NOBODY] if none else []), *names])
        self.setCurrentIndex(max(joint - 1 + self._first, 0))
        self.setToolTip(f"{words}; or click a joint on the picture while this field has the focus")
        self.setAccessibleName(words)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(8)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.currentIndexChanged.connect(
            lambda index: on_change(index - self._first + 1 if index >= self._first else -1)
        )

    def put(self, joint: int) -> None:
        """Choose a joint."""
        self.setCurrentIndex(joint - 1 + self._first)


class RowsHost(Protocol):
    """What rows ask of the sheet they stand on."""

    guess: Guess
    roles: Roles

    def change(self, roles: Roles) -> bool: ...

    def set_limb(self, number: int, **changes: object) -> None: ...

    def set_tail(self, number: int, joint: int) -> None: ...

    def drop_limb(self, number: int) -> None: ...

    def try_out(self, key: str) -> None: ...


class SetupRows(QWidget):
    """All rows for the roles that a sheet has now. fields: by "hips", "0 upper", "tail 0" and the like."""

    def __init__(self, sheet: RowsHost, names: list[str]) -> None:
        super().__init__()
        self.setObjectName("Inside")
        self.sheet, self._names = sheet, names
        self.fields: dict[str, JointField] = {}
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 4, 6, 4)
        self._grid.setVerticalSpacing(7)
        for column in (1, 2, 3):
            self._grid.setColumnStretch(column, 1)
        for key, words, none in TRUNK:
            self._add_trunk(key, words, none=none)
        for number, limb in enumerate(sheet.roles.limbs):
            self._add_limb(number, limb)
        for number, top in enumerate(sheet.roles.tails):
            line = self._label("Tail", "ochre")
            change = partial(sheet.set_tail, number)
            self._grid.addWidget(
                self._field(f"tail {number}", top, "The first joint of the tail", change, none=True), line, 1
            )
        self._grid.setRowStretch(self._grid.rowCount(), 1)

    def _label(self, words: str, role: str) -> int:
        """A new line with its name; returns its number."""
        host = QWidget()
        row = QHBoxLayout(host)
        row.setContentsMargins(0, 0, 8, 0)
        dot = QLabel()
        dot.setPixmap(dot_icon(Look.colour(role), 14, 9, 5).pixmap(14, 14))
        row.addWidget(dot)
        row.addWidget(QLabel(words))
        row.addStretch(1)
        line = self._grid.rowCount()
        self._grid.addWidget(host, line, 0)
        return line

    def _field(self, key: str, joint: int, words: str, change: Callable[[int], object], *, none: bool) -> JointField:
        field = JointField(self._names, joint, words, change, none=none)
        self.fields[key] = field
        return field

    def _add_trunk(self, key: str, words: str, *, none: bool) -> None:
        line = self._label(words, "accent")
        roles = self.sheet.roles
        field = self._field(key, getattr(roles, key), words, partial(self._change_trunk, key), none=none)
        self._grid.addWidget(field, line, 1)
        self._end_row(line, key, roles.sure.get(key, 1.0))

    def _change_trunk(self, key: str, joint: int) -> None:
        changes = {key: joint}
        self.sheet.change(replace(self.sheet.roles, **changes))  # type: ignore[arg-type]

    def _add_limb(self, number: int, limb: LimbRole) -> None:
        own = next((x for x in self.sheet.guess.limbs if x.upper == limb.upper), None)
        words = f"{own.side} {own.kind}".strip() if own is not None else "limb"
        line = self._label(words.capitalize(), own.side if own is not None and own.side else "accent")
        for column, (key, tip) in enumerate(LIMB, 1):
            change = partial(self._change_limb, number, key)
            field = self._field(f"{number} {key}", getattr(limb, key), tip, change, none=False)
            self._grid.addWidget(field, line, column)
        kind = QComboBox()
        kind.addItems(KINDS)
        kind.setCurrentText(limb.kind)
        kind.setToolTip("What this limb is")
        kind.setAccessibleName(f"What limb {number + 1} is")
        kind.currentTextChanged.connect(partial(self._change_limb, number, "kind"))
        self._grid.addWidget(kind, line, 4)
        self._grid.addWidget(self._side(number, limb), line, 5)
        self._end_row(line, f"{number} upper", limb.sure)
        self._grid.addWidget(SignButton("close", "Not a limb", partial(self.sheet.drop_limb, number)), line, 8)

    def _side(self, number: int, limb: LimbRole) -> QComboBox:
        field = QComboBox()
        field.addItems(SIDES)
        field.setCurrentText(limb.side or MIDDLE)
        field.setToolTip("Its side; limbs of the same kind on both sides are a pair, and mirror each other")
        field.setAccessibleName(f"The side of limb {number + 1}")
        field.currentTextChanged.connect(lambda text: self._change_limb(number, "side", "" if text == MIDDLE else text))
        return field

    def _change_limb(self, number: int, key: str, value: object) -> None:
        changes = {key: value}
        self.sheet.set_limb(number, **changes)

    def _end_row(self, line: int, key: str, sure: float) -> None:
        label = muted(next(words for least, words in SURE if sure >= least))
        label.setToolTip(f"{sure:.0%} sure, by names and by where joints lie")
        self._grid.addWidget(label, line, 6)
        button = QPushButton("Try")
        button.setToolTip("Bend it on the picture; again: straight")
        button.clicked.connect(lambda: self.sheet.try_out(key))
        self._grid.addWidget(button, line, 7)
