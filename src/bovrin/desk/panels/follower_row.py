"""One follower in its panel: on or off, how far it counts, and when it is open all that it is told."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget
from PyQt6.sip import isdeleted

from bovrin.desk.kit.amount_row import AmountRow
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import SignButton, push_button
from bovrin.desk.state.choosing.channel_rows import FACTORS, UNITS
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.following import copy, key_here, let_go, sooner, stays_out, tell, told_shot, turn_on
from bovrin.errors import BovrinError
from bovrin.figure.staging import staged
from bovrin.shot import Follower, Shot
from bovrin.shot.follower import GROUND_BELOW, WEIGHT, Setting, settings_of

GRAPH, NAMES = 34, 92
KEYS = "Keys all that it is told on this frame; what is typed elsewhere is keyed there then"
GONE = "Let go: it moves by its keys alone again"
FRAMES = "f"


class AddedGraph(QWidget):
    """What a follower adds along the shot's range, to either side of nothing."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.added: NDArray[np.float64] = np.zeros(0)
        self.shot: Shot | None = None
        self.setFixedHeight(GRAPH)
        self.setToolTip("What it adds along the shot, beside nothing at all")

    def show_added(self, added: NDArray[np.float64]) -> None:
        """Show what was measured."""
        if not isdeleted(self):
            self.added = added
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            middle, wide = GRAPH / 2, self.width() - 2
            painter.setPen(Look.pen("hairline"))
            painter.drawLine(QPointF(0, middle), QPointF(self.width(), middle))
            first, last = self.session.shot.first, self.session.shot.last
            if len(self.added) > 1:
                most = max(float(np.abs(self.added).max()), 1e-9)
                x = 1 + np.linspace(0, wide, len(self.added))
                y = middle - self.added / most * (middle - 3)
                painter.setPen(QPen(Look.colour("accent"), 1.4))
                painter.drawPolyline(QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)]))
            at = 1 + (self.session.frame - first) / max(last - first, 1.0) * wide
            painter.setPen(QPen(Look.colour("alert"), 1.2))
            painter.drawLine(QPointF(at, 0), QPointF(at, GRAPH))


class FollowerRow(QWidget):
    """A follower: its head always, what it is told when it is open."""

    def __init__(self, session: Session, one: Follower, *, opened: bool, on_open: Callable[[str], object]) -> None:
        super().__init__()
        self.session, self.one = session, one
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 1, 0, 1)
        column.setSpacing(2)
        column.addLayout(self._head(on_open, opened=opened))
        self.rows: dict[str, AmountRow] = {}
        self.graph: AddedGraph | None = None
        if opened:
            self.graph = AddedGraph(session)
            column.addWidget(self.graph)
            for setting in settings_of(one.kind):
                if setting.name != WEIGHT:
                    column.addWidget(self._row(setting))
            if one.kind == "spring":
                column.addWidget(self._off_ground())
            column.addLayout(self._foot())

    def _head(self, on_open: Callable[[str], object], *, opened: bool) -> QHBoxLayout:
        session, one = self.session, self.one
        row = QHBoxLayout()
        row.setSpacing(5)
        self.on = QCheckBox()
        self.on.setChecked(one.on)
        self.on.setToolTip("Whether it counts at all")
        self.on.setAccessibleName(f"{one.name} counts")
        self.on.clicked.connect(lambda on: turn_on(session, one, on=on))
        self.name = QPushButton(f"{one.name} {'▴' if opened else '▾'}")
        self.name.setObjectName("Fold")
        self.name.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.name.setToolTip(f"{', '.join(one.controls)}: what it is told; its curves are shown")
        self.name.clicked.connect(lambda _checked: on_open(one.name))
        self.weight = NumberField(settings_of(one.kind)[0].unit, "%", f"How far {one.name} counts")
        self.weight.setFixedSize(54, 21)
        self.weight.setToolTip(settings_of(one.kind)[0].words)
        self.weight.taken.connect(lambda percent: self._tell(settings_of(one.kind)[0], percent))
        self.weight.refused.connect(session.voice.tell)
        self.gone = SignButton("close", GONE, lambda: let_go(session, one))
        self.gone.setAccessibleName(f"Let go of {one.name}")
        for widget, wide in ((self.on, 0), (self.name, 1), (self.weight, 0), (self.gone, 0)):
            row.addWidget(widget, wide)
        return row

    def _row(self, setting: Setting) -> AmountRow:
        factor = FACTORS[setting.unit]
        suffix = FRAMES if setting.frames else UNITS[setting.unit]
        words = setting.words
        row = AmountRow(setting.name, words, setting.unit, suffix, setting.most * factor, setting.first * factor, NAMES)
        row.moved.connect(lambda amount: self._preview(setting, amount))
        row.taken.connect(lambda amount: self._tell(setting, amount))
        row.cancelled.connect(self._put_back)
        row.field.refused.connect(self.session.voice.tell)
        self.rows[setting.name] = row
        return row

    def _foot(self) -> QHBoxLayout:
        session, one = self.session, self.one
        row = QHBoxLayout()
        row.setSpacing(5)
        key = push_button(
            "Key here",
            KEYS,
            lambda: key_here(session, one.name),
        )
        again = push_button("Copy", "The same on the other side, or on what is chosen", lambda: copy(session, one))
        first = push_button("Earlier", "Added before the one above it", lambda: sooner(session, one))
        first.setEnabled(session.shot.followers(session.figure_name)[0] is not one)
        self.buttons = {"key": key, "copy": again, "earlier": first}
        for button in self.buttons.values():
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _off_ground(self) -> QCheckBox:
        session, one = self.session, self.one
        self.ground = QCheckBox("stays above the ground")
        self.ground.setChecked(GROUND_BELOW in one.clear_of)
        self.ground.setToolTip("The ends of its links stay above the ground by as much as it keeps off")
        self.ground.clicked.connect(lambda on: stays_out(session, one, of=GROUND_BELOW, off=on))
        return self.ground

    def _plain(self, setting: Setting, shown: float) -> float:
        return min(max(shown / FACTORS[setting.unit], setting.low), setting.high)

    def _preview(self, setting: Setting, shown: float) -> None:
        try:
            self.session.preview(told_shot(self.session, self.one.name, setting.name, self._plain(setting, shown)))
        except BovrinError as error:
            self.session.voice.hint(error.sentence)

    def _tell(self, setting: Setting, shown: float) -> None:
        tell(self.session, self.one.name, setting.name, self._plain(setting, shown))
        self.show_here()

    def _put_back(self) -> None:
        self.session.preview(None)
        self.show_here()

    def show_here(self) -> None:
        """What it is told on the current frame."""
        session = self.session
        now = staged(session.shot, session.figure_name, session.frame)
        for setting in settings_of(self.one.kind):
            value = float(now.values[0, now.rig.channel(f"{self.one.name}/{setting.name}")]) * FACTORS[setting.unit]
            if setting.name == WEIGHT:
                self.weight.show_value(value)
            elif setting.name in self.rows:
                self.rows[setting.name].show_amount(value)
        if self.graph is not None:
            self.graph.update()
