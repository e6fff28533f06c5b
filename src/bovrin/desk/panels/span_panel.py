"""The span from the pose here to the next: held or eased, and how hard it eases."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.craft.between.chart import is_stepped
from bovrin.craft.between.easing import ease_span, measured_ease
from bovrin.desk.commands.spans import span_here, spline_all, spline_span, step_all, step_span
from bovrin.desk.kit.share_row import ShareRow
from bovrin.desk.kit.widgets import Panel, Pills, muted
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import Shot

HELD, EASED = "held", "eased"


class SpanPanel(Panel):
    """Held or eased: this span, by strengths, or the whole shot."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Span")
        self.session = session
        self.words = muted(wrap=True)
        self.column.addWidget(self.words)
        self.kind = Pills(
            [HELD, EASED], self._on_kind, ["The pose holds until the next", "The pose eases into the next"]
        )
        self.column.addWidget(self.kind)
        tip = "0 % goes straight to the other pose, 100 % stays long"
        self.out, self.into, self.both = (
            ShareRow(words, f"{what}: {tip}")
            for words, what in (("Ease out", "Out of this pose"), ("Ease in", "Into the next"), ("Both", "Both ends"))
        )
        for row, sides in ((self.out, (True, False)), (self.into, (False, True)), (self.both, (True, True))):
            row.moved.connect(lambda share, s=sides: self._preview(share, *s))
            row.taken.connect(lambda share, s=sides: self._take(share, *s))
            row.cancelled.connect(self._on_cancelled)
            row.box.refused.connect(session.voice.tell)
            self.column.addWidget(row)
        self.column.addWidget(self._whole_row())
        for signal in (session.document.frame_changed, session.choice.changed, session.document.committed):
            signal.connect(self._on_place_changed)

    def _whole_row(self) -> QWidget:
        host = QWidget()
        row = QHBoxLayout(host)
        row.setContentsMargins(0, 4, 0, 0)
        row.addWidget(QLabel("Whole shot"))
        for name, run, verb in (("Stepped", step_all, "hold"), ("Splined", spline_all, "ease")):
            button = QPushButton(name)
            button.setToolTip(f"Let every pose of the whole cast {verb}")
            button.clicked.connect(lambda _checked, run=run: run(self.session))
            row.addWidget(button)
        row.addStretch(1)
        return host

    # -- what is shown ------------------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_place_changed()

    def _on_place_changed(self) -> None:
        if self.session.document.previewing or not self.isVisible():
            return
        span, curves = span_here(self.session), self.session.curves
        there = span is not None and span[1] is not None and curves is not None
        for widget in (self.kind, self.out, self.into, self.both):
            widget.setVisible(there)
        if span is None or span[1] is None or curves is None:
            self.words.setText("Go to a pose that another one follows, to hold it or let it ease.")
            return
        held = is_stepped(curves, range(len(curves)), span[0])
        self.words.setText(f"From {span[0]:g} to {span[1]:g} · {span[1] - span[0]:g} frames")
        self.kind.show_chosen(HELD if held else EASED)
        out, into = (0.0, 0.0) if held else measured_ease(self.session.shot, self.session.figure_name, span[0], span[1])
        for row, share in ((self.out, out), (self.into, into), (self.both, (out + into) / 2)):
            row.setEnabled(not held)
            row.show_share(share)

    # -- what it does -------------------------------------------------------------------------------------------------

    def _eased(self, share: float, out: bool, into: bool) -> Shot:
        span = span_here(self.session)
        assert span is not None and span[1] is not None
        session = self.session
        return ease_span(
            session.shot, session.figure_name, span[0], span[1], share if out else None, share if into else None
        )

    def _preview(self, share: float, out: bool, into: bool) -> None:
        try:
            self.session.preview(self._eased(share, out, into))
        except BovrinError as error:
            self.session.voice.fail(error)

    def _take(self, share: float, out: bool, into: bool) -> None:
        self.session.do("Ease the span", lambda _shot: self._eased(share, out, into))

    def _on_cancelled(self) -> None:
        self.session.preview(None)
        self._on_place_changed()

    def _on_kind(self, word: str) -> None:
        (step_span if word == HELD else spline_span)(self.session)
        self._on_place_changed()
