"""Overlap in the right column: a chain that comes one after another, holds that stay alive."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtWidgets import QHBoxLayout, QPushButton

from bovrin.craft.between.moving_hold import moving_hold
from bovrin.craft.between.overlap import delayed, trailed
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.chain_list import ChainList
from bovrin.desk.kit.shaper_row import ShaperRow
from bovrin.desk.kit.widgets import Panel, muted
from bovrin.desk.state.document.editing import chosen_parts
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.spans import chosen_span, hold_span
from bovrin.errors import BovrinError
from bovrin.shot import Shot

FARTHEST = 3.0
"""Frames of delay for each link, as far as the slider goes."""
SETTLES = 0.6
"""How far a part swings back after it went past its pose."""
DRIFTS = 0.3
"""The share of the way that a hold drifts at most by the slider."""


class Overlap(NamedTuple):
    """A row: the words at its ends, what it does, how its number is told, and the shot at a share of its slider."""

    name: str
    ends: tuple[str, str]
    tip: str
    suffix: str
    scale: float
    number: float
    change: Callable[[Session, Shot, float], Shot]


def _delayed(session: Session, shot: Shot, amount: float) -> Shot:
    return delayed(shot, session.figure_name, session.controls, amount, *chosen_span(session))


def _trailed(session: Session, shot: Shot, amount: float) -> Shot:
    return trailed(shot, session.figure_name, session.controls, amount, 0.0, 0.0, *chosen_span(session))


def _swung(session: Session, shot: Shot, amount: float) -> Shot:
    return trailed(shot, session.figure_name, session.controls, 0.0, amount, SETTLES, *chosen_span(session))


def _held(toward: str) -> Callable[[Session, Shot, float], Shot]:
    def change(session: Session, shot: Shot, amount: float) -> Shot:
        start, end = hold_span(session)
        parts = chosen_parts(session) or None
        return moving_hold(shot, session.figure_name, start, end, amount, toward, parts)

    return change


CHAIN = (
    Overlap(
        "delay",
        ("lead", "delay"),
        "Each part later than the one chosen before it",
        "f",
        FARTHEST,
        1.0,
        _delayed,
    ),
    Overlap("drag", ("", "drag"), "The end trails behind on the way it came", "%", 1.0, 100.0, _trailed),
    Overlap(
        "overshoot", ("", "overshoot"), "The end swings past where it arrives, and settles", "%", 1.0, 100.0, _swung
    ),
)
HOLD = (
    Overlap(
        "drift on", ("", "drift on"), "What is held goes on a little the way it came", "%", DRIFTS, 100.0, _held("on")
    ),
    Overlap(
        "drift to next",
        ("", "to next"),
        "What is held leans a little toward the next pose",
        "%",
        DRIFTS,
        100.0,
        _held("next"),
    ),
    Overlap(
        "breathe", ("", "breathe"), "The chest rises and falls; the gentlest life", "%", DRIFTS, 100.0, _held("breathe")
    ),
)


class OverlapPanel(Panel):
    """Sliders that act on the chain that is chosen, in the order in which it was, and on a held span."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Overlap")
        self.session = session
        self.column.setSpacing(3)
        self.chain = muted(wrap=True)
        self.column.addWidget(self.chain)
        self.order = ChainList(self._on_order)
        self.column.addWidget(self.order)
        self.rows = {kind.name: self._row(kind) for kind in CHAIN}
        self.span = muted(wrap=True)
        self.column.addWidget(self.span)
        self.rows |= {kind.name: self._row(kind) for kind in HOLD}
        row = QHBoxLayout()
        self.by_hand = QPushButton("Drift by hand…")
        self.by_hand.setToolTip(tooltip("hold.drift"))
        self.by_hand.clicked.connect(lambda _checked: run("hold.drift"))
        row.addWidget(self.by_hand)
        self.break_up = QPushButton("Break up")
        self.break_up.setToolTip(tooltip("arcs.break_up"))
        self.break_up.clicked.connect(lambda _checked: run("arcs.break_up"))
        row.addWidget(self.break_up)
        row.addStretch(1)
        self.column.addLayout(row)
        document = session.document
        for signal in (session.choice.changed, session.keys.changed, document.committed, document.frame_changed):
            signal.connect(self._show_what)
        self._show_what()

    def _row(self, kind: Overlap) -> ShaperRow:
        row = ShaperRow(kind.ends, kind.tip, kind.suffix)
        row.moved.connect(lambda share: self._on_moved(kind, share))
        row.let_go.connect(lambda share: self._take(kind, share * kind.scale) if share else self._put_back(kind))
        row.typed.connect(lambda number: self._take(kind, number / kind.number))
        row.field.refused.connect(self.session.voice.tell)
        row.cancelled.connect(lambda: self._put_back(kind))
        self.column.addWidget(row)
        return row

    def _on_moved(self, kind: Overlap, share: float) -> None:
        session, amount = self.session, share * kind.scale
        self.rows[kind.name].field.show_value(amount * kind.number)
        try:
            made = kind.change(session, session.shot, amount) if share else None
        except BovrinError as error:
            session.voice.hint(error.sentence)
            return
        session.preview(made)

    def _take(self, kind: Overlap, amount: float) -> None:
        session = self.session
        words = kind.ends[1] if amount >= 0 else kind.ends[0]
        session.do(words.capitalize(), lambda shot: kind.change(session, shot, amount))
        self._put_back(kind)

    def _put_back(self, kind: Overlap) -> None:
        self.session.preview(None)
        self.rows[kind.name].rest()

    def _on_order(self, names: list[str]) -> None:
        """The chain in another order."""
        figure = self.session.figure
        if figure is not None:
            self.session.choose(figure.name, [figure.rig.control(name) for name in names])

    def _show_what(self) -> None:
        session = self.session
        if session.document.previewing:
            return
        figure, controls = session.figure, session.controls
        is_chain = figure is not None and len(controls) > 1
        names = [] if figure is None else [figure.rig.controls[c].name for c in controls]
        words = " > ".join(names) if len(names) < 6 else f"{names[0]} > … > {names[-1]}"
        self.chain.setText(words if is_chain else "Choose parts in the order they should come: Shift and click.")
        self.order.show_names(names if is_chain else [])
        for kind in CHAIN:
            self.rows[kind.name].setEnabled(is_chain)
        if figure is not None:
            start, end = hold_span(session)
            whose = ", ".join(chosen_parts(session)) or "all of it"
            self.span.setText(f"Hold from {start:g} to {end:g}: {whose}")
        for kind in HOLD:
            self.rows[kind.name].setEnabled(figure is not None)
        self.break_up.setEnabled(figure is not None)
