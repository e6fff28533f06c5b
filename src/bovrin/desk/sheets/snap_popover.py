"""Snap asks how long to hold after it, and how far to drift on meanwhile; what comes of it is seen at once."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QHideEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QWidget

from bovrin.craft.between.snap import snap
from bovrin.desk.commands.curves import FromTo
from bovrin.desk.kit.menus import put_at_pointer
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import muted, title
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.settings import settings
from bovrin.errors import BovrinError
from bovrin.shot import Shot, Unit

LONGEST_HOLD, FARTHEST_DRIFT = 240.0, 1.0
"""Frames, and shares of the way."""


class SnapPopover(QFrame):
    """Opens at the pointer. Return snaps, Escape or a click elsewhere drops it."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.session, self._span = session, FromTo(0.0, 0.0, None)
        self.setObjectName("Popover")
        self.setAccessibleName("Snap")
        self._hold, self._drift = _remembered("hold", 0.0), _remembered("drift", 0.0)
        grid = QGridLayout(self)
        grid.setContentsMargins(14, 12, 14, 12)
        grid.setVerticalSpacing(7)
        self.words = title("Snap")
        grid.addWidget(self.words, 0, 0, 1, 3)
        self.hold = NumberField(Unit.SWITCH, "", "frames to hold after the snap")
        self.hold.setToolTip("Frames to stay after arriving; 0: what follows stays as it is")
        self.drift = NumberField(Unit.AMOUNT, "%", "drift while it holds")
        self.drift.setToolTip("How far it goes on meanwhile, as a share of the way it came")
        for row, (words, field, unit) in enumerate(
            (("Hold", self.hold, "frames"), ("Drift", self.drift, "of the way")), 1
        ):
            field.setFixedWidth(64)
            field.refused.connect(session.voice.tell)
            field.returnPressed.connect(lambda f=field: None if f.isModified() else self.snap())
            grid.addWidget(muted(words), row, 0)
            grid.addWidget(field, row, 1)
            grid.addWidget(muted(unit), row, 2)
        self.hold.taken.connect(self._on_hold)
        self.drift.taken.connect(self._on_drift)
        self.button = QPushButton("Snap")
        self.button.setToolTip("Leave and arrive at once, on every channel of the chosen parts that moves (Return)")
        self.button.clicked.connect(self.snap)
        self.takes_part = muted(wrap=True)
        grid.addWidget(self.takes_part, 3, 0, 1, 3)
        grid.addWidget(self.button, 4, 1, 1, 2)

    def ask(self, span: FromTo) -> None:
        """Ask for a span from one frame to another."""
        self._span = span
        self.words.setText(f"Snap from {span.start:g} to {span.end:g}")
        self._show_values()
        put_at_pointer(self)
        if self._look():
            self.show()
            self.hold.setFocus()

    def _change(self, shot: Shot) -> Shot:
        start, end, parts = self._span
        return snap(shot, self.session.figure_name, parts, start, end, self._hold, self._drift)

    def _look(self) -> bool:
        """Show what comes of it."""
        try:
            made = self._change(self.session.shot)
            self.session.preview(made)
            self.takes_part.setText(self._found(made))
        except BovrinError as error:
            self.session.voice.fail(error)
            return False
        return True

    def _found(self, made: Shot) -> str:
        """How many channels take part, and how many of those belong to nothing that is chosen now."""
        session = self.session
        figure, name = session.figure, session.figure_name
        assert figure is not None
        pairs = zip(session.shot.curves(name).curves, made.curves(name).curves, strict=True)
        changed = {i for i, (was, now) in enumerate(pairs) if was is not now}
        seen = {i for control in session.controls for i in figure.rig.span(control)}
        hidden = len(changed - seen)
        return f"{len(changed)} channels take part" + (f", {hidden} of what is not chosen" if hidden and seen else "")

    def _on_hold(self, frames: float) -> None:
        self._hold = min(max(float(round(frames)), 0.0), LONGEST_HOLD)
        self._show_values()
        self._look()

    def _on_drift(self, percent: float) -> None:
        self._drift = min(max(percent / 100, -FARTHEST_DRIFT), FARTHEST_DRIFT)
        self._show_values()
        self._look()

    def _show_values(self) -> None:
        self.hold.show_value(self._hold)
        self.drift.show_value(self._drift * 100)

    def snap(self) -> None:
        """Do it."""
        settings().setValue("snap/hold", self._hold)
        settings().setValue("snap/drift", self._drift)
        self.session.preview(None)
        self.session.do("Snap", self._change)
        self.hide()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.session.preview(None)
        super().hideEvent(event)


def _remembered(name: str, otherwise: float) -> float:
    return float(settings().value(f"snap/{name}", otherwise, float))
