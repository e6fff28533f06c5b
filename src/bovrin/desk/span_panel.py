"""The span from the pose here to the next: held or eased, and how hard it eases."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.craft.chart import is_stepped
from bovrin.craft.easing import ease_span, measured_ease
from bovrin.craft.splining import splined, stepped
from bovrin.desk.session import Session
from bovrin.desk.share_slider import ShareRow
from bovrin.desk.widgets import Panel, Pills, muted
from bovrin.errors import BovrinError
from bovrin.shot import Shot

HELD, EASED = "held", "eased"


def whole_cast(change: Callable[[Shot, str], Shot]) -> Callable[[Shot], Shot]:
    """A change of one figure made to every figure of the shot."""

    def changed(shot: Shot) -> Shot:
        for figure in shot.cast:
            shot = change(shot, figure.name)
        return shot

    return changed


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
            self.column.addWidget(row)
        self.column.addWidget(self._whole_row())
        for signal in (session.frame_changed, session.choice_changed, session.committed):
            signal.connect(self._on_place_changed)

    def _whole_row(self) -> QWidget:
        host = QWidget()
        row = QHBoxLayout(host)
        row.setContentsMargins(0, 4, 0, 0)
        row.addWidget(QLabel("Whole shot"))
        for name, run, verb in (("Stepped", self.step_all, "hold"), ("Splined", self.spline_all, "ease")):
            button = QPushButton(name)
            button.setToolTip(f"Let every pose of the whole cast {verb}")
            button.clicked.connect(lambda _checked, run=run: run())
            row.addWidget(button)
        row.addStretch(1)
        return host

    # -- what is shown ------------------------------------------------------------------------------------------------

    def span(self) -> tuple[float, float | None] | None:
        """The pose here and the next one; None before the first pose."""
        poses = self.session.card_poses
        start = poses.held_at(self.session.frame)
        return None if start is None else (start, poses.after(start))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_place_changed()

    def _on_place_changed(self) -> None:
        if self.session.previewing or not self.isVisible():
            return
        span, curves = self.span(), self.session.curves
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
        span = self.span()
        assert span is not None and span[1] is not None
        session = self.session
        return ease_span(
            session.shot, session.figure_name, span[0], span[1], share if out else None, share if into else None
        )

    def _preview(self, share: float, out: bool, into: bool) -> None:
        try:
            self.session.preview(self._eased(share, out, into))
        except BovrinError as error:
            self.session.fail(error)

    def _take(self, share: float, out: bool, into: bool) -> None:
        self.session.do("Ease the span", lambda _shot: self._eased(share, out, into))

    def _on_cancelled(self) -> None:
        self.session.preview(None)
        self._on_place_changed()

    def _on_kind(self, word: str) -> None:
        if word == HELD:
            self.step_span()
        else:
            self.spline_span()
        self._on_place_changed()

    def _change_span(self, words: str, change: Callable[[Shot, str, float, float | None], Shot]) -> None:
        span = self.span()
        if span is None:
            self.session.tell("There is no pose at or before this frame. Make a key pose first.")
            return
        self.session.do(words, lambda shot: change(shot, self.session.figure_name, *span))

    def step_all(self) -> None:
        """Every pose holds until the next."""
        self.session.do("Stepped: whole shot", whole_cast(stepped))

    def spline_all(self) -> None:
        """Every pose eases into the next."""
        self.session.do("Splined: whole shot", whole_cast(splined))

    def step_span(self) -> None:
        """The pose here holds until the next."""
        self._change_span("Stepped: this span", stepped)

    def spline_span(self) -> None:
        """The pose here eases into the next."""
        self._change_span("Splined: this span", splined)
