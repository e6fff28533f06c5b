"""What of the chosen figure hangs on what: from when to when, and how far on the current frame."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bovrin.craft.hanging.spans import spans_of
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Panel, SignButton, muted
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.hanging import forget, set_share
from bovrin.figure.staging import staged
from bovrin.shot import Attachment, Unit

EMPTY = (
    "Choose a hand, a crate, anything, and say what carries it. It stays where it is here, and goes along from there."
)
BUTTONS = {
    "hang.attach": "Attach…",
    "hang.ground": "To the ground",
    "hang.let_go": "Let go here",
    "hang.onto": "Put onto…",
    "hang.to_keys": "Into keys",
}
GONE = "Take it away altogether: it goes by its own keys again"
BAR = 12


class SpanBar(QWidget):
    """The stretches on which something hangs, along the shot's range. A click goes to the frame."""

    picked = pyqtSignal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.spans: list[tuple[float, float]] = []
        self.setFixedHeight(BAR)
        self.setToolTip("When it hangs; a click goes there")

    def x_of(self, frame: float) -> float:
        """Where a frame lies, pixels."""
        first, last = self.session.shot.first, self.session.shot.last
        return (frame - first) / max(last - first, 1.0) * (self.width() - 2) + 1

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(Look.colour("hairline"))
            painter.drawRoundedRect(QRectF(0, BAR / 2 - 1.5, self.width(), 3), 1.5, 1.5)
            painter.setBrush(Look.colour("accent", 0.75))
            for start, end in self.spans:
                left, right = self.x_of(start), self.x_of(end)
                painter.drawRoundedRect(QRectF(left, 2, max(right - left, 3.0), BAR - 4), 3, 3)
            painter.setPen(QPen(Look.colour("alert"), 1.2))
            at = self.x_of(self.session.frame)
            painter.drawLine(QPointF(at, 0), QPointF(at, BAR))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            first, last = self.session.shot.first, self.session.shot.last
            self.picked.emit(round(first + (event.position().x() - 1) / max(self.width() - 2, 1) * (last - first)))


class HangingRow(QWidget):
    """One attachment: on what, how far here, when."""

    def __init__(self, session: Session, one: Attachment) -> None:
        super().__init__()
        self.session, self.one = session, one
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(1)
        top = QHBoxLayout()
        top.setSpacing(5)
        column.addLayout(top)
        by = "" if one.what == "both" else f" by its {one.what}"
        self.words = muted(f"{one.control} on {one.onto}{by}", wrap=True)
        top.addWidget(self.words, 1)
        self.share = NumberField(Unit.AMOUNT, "%", f"How far {one.control} hangs on {one.onto}")
        self.share.setFixedSize(54, 21)
        self.share.setToolTip("How far it hangs here, until the next change: 0 % is not at all")
        self.share.taken.connect(lambda percent: set_share(session, one, min(max(percent / 100, 0.0), 1.0)))
        self.share.refused.connect(session.voice.tell)
        top.addWidget(self.share)
        self.gone = SignButton("close", GONE, lambda: forget(session, one))
        self.gone.setAccessibleName(f"Take away: {one.control} on {one.onto}")
        top.addWidget(self.gone)
        self.bar = SpanBar(session)
        self.bar.picked.connect(session.go_to)
        column.addWidget(self.bar)

    def show_here(self) -> None:
        """How far it hangs on the current frame, and when it does."""
        session, name = self.session, self.session.figure_name
        now = staged(session.shot, name, session.frame)
        self.share.show_value(100 * float(now.values[0, now.rig.channel(self.one.column)]))
        self.bar.spans = spans_of(session.shot, name, self.one)
        self.bar.update()


class AttachmentsPanel(Panel):
    """The chosen figure's attachments, and what begins and ends them."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Attachments")
        self.session = session
        self.empty = muted(EMPTY, wrap=True)
        self.column.addWidget(self.empty)
        self._host = QWidget()
        self._rows_column = QVBoxLayout(self._host)
        self._rows_column.setContentsMargins(0, 0, 0, 0)
        self._rows_column.setSpacing(2)
        self.column.addWidget(self._host)
        self.rows: list[HangingRow] = []
        self.buttons: dict[str, QPushButton] = {}
        for commands in (tuple(BUTTONS)[:3], tuple(BUTTONS)[3:]):
            self.add_row(*(self._button(command, run) for command in commands))
        self._shown: tuple[object, ...] = ()
        for signal in (session.document.committed, session.choice.changed, session.document.frame_changed):
            signal.connect(self._on_changed)
        self._on_changed()

    def _button(self, command: str, run: Callable[[str], object]) -> QPushButton:
        button = QPushButton(BUTTONS[command])
        button.setToolTip(tooltip(command))
        button.clicked.connect(lambda _checked: run(command))
        self.buttons[command] = button
        return button

    def _on_changed(self) -> None:
        session = self.session
        figure = session.figure
        own = () if figure is None else session.shot.attachments(figure.name)
        if self._shown != (session.figure_name, own):
            self._shown = (session.figure_name, own)
            for row in self.rows:
                row.hide()
                row.deleteLater()
            self.rows = [HangingRow(session, one) for one in own]
            for row in self.rows:
                self._rows_column.addWidget(row)
            self.empty.setVisible(not own)
            self._host.setVisible(bool(own))
            self.updateGeometry()
        for row in self.rows:
            row.show_here()
        self.buttons["hang.to_keys"].setEnabled(bool(own))
        self.buttons["hang.let_go"].setEnabled(bool(own))
