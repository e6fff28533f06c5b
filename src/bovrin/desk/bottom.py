"""What lies under the stage: the pose strip, and in the Spline pass the curve desk below it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.commands import tooltip
from bovrin.desk.number_field import NumberField
from bovrin.desk.playback import Player
from bovrin.desk.session import Session
from bovrin.desk.strip import PoseStrip
from bovrin.desk.strip_layout import RULER
from bovrin.desk.surface import Surface
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.desk.widgets import SignButton
from bovrin.shot import Unit

if TYPE_CHECKING:
    from bovrin.desk.curve_desk import CurveDesk
    from bovrin.desk.handle_row import HandleRow
    from bovrin.desk.speed_strip import SpeedStrip


class Bottom(QWidget):
    """A panel that changes with the pass."""

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__()
        self.setObjectName("Panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.session, self.player = session, player
        self.scale = TimeScale()
        self.strip = PoseStrip(session, self.scale, CardPictures(session))
        self._seen: dict[str, tuple[float, float, tuple[float, float]]] = {}
        self._pass = session.pass_.name
        self.run: Callable[[str], object] = lambda _command: None
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(1, 4, 1, 4)
        self._column.setSpacing(0)
        self._column.addWidget(self.strip, 1)
        self._add_transport()
        session.pass_changed.connect(self._on_pass_changed)
        player.changed.connect(self._on_playing_changed)
        self._on_pass_changed()

    @cached_property
    def curves(self) -> CurveDesk:
        """The curve desk, made when it is first needed."""
        from bovrin.desk.curve_desk import CurveDesk  # noqa: PLC0415 - kept out of the window's start

        curves = CurveDesk(self.session, self.scale)
        curves.run = lambda command: self.run(command)
        self._column.insertWidget(1, curves, 1)
        curves.hide()
        return curves

    def surfaces(self) -> list[Surface]:
        """What is dragged on besides the strip, as far as it is made."""
        return [self.curves] if "curves" in self.__dict__ else []

    @cached_property
    def handles(self) -> HandleRow:
        """The row over the curves."""
        from bovrin.desk.handle_row import HandleRow  # noqa: PLC0415

        row = HandleRow(self.session, self.curves)
        row.speed_toggled.connect(self._on_speed)
        self._column.insertWidget(1, row)
        row.hide()
        return row

    @cached_property
    def speed(self) -> SpeedStrip:
        """The strip under the curves."""
        from bovrin.desk.speed_strip import SpeedStrip  # noqa: PLC0415

        strip = SpeedStrip(self.session, self.scale, self.curves)
        self._column.addWidget(strip)
        strip.hide()
        return strip

    def _add_transport(self) -> None:
        host = QWidget(self.strip)
        host.setGeometry(8, 0, GUTTER - 16, RULER + 2)
        row = QHBoxLayout(host)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        session = self.session
        self.before = SignButton(
            "before",
            tooltip("time.pose_before"),
            lambda: session.go_to(session.poses.before(session.frame) or session.frame),
        )
        self.play = SignButton("play", tooltip("time.play"), self.player.toggle)
        self.after = SignButton(
            "after",
            tooltip("time.pose_after"),
            lambda: session.go_to(session.poses.after(session.frame) or session.frame),
        )
        for sign in (self.before, self.play, self.after):
            row.addWidget(sign)
        self.frame = NumberField(Unit.SWITCH, "", "current frame")
        self.frame.setFixedSize(48, 22)
        self.frame.setToolTip("The current frame: type one, or a sum such as +12")
        self.frame.taken.connect(session.go_to)
        self.frame.taken.connect(lambda _frame: self._on_frame_changed())
        self.frame.refused.connect(session.tell)
        row.addWidget(self.frame)
        row.addStretch(1)
        session.frame_changed.connect(self._on_frame_changed)
        self._on_frame_changed()

    def _on_frame_changed(self) -> None:
        self.frame.show_value(self.session.frame)

    def _on_playing_changed(self) -> None:
        self.play.refresh("stop" if self.session.playing else "play")

    def refresh_signs(self) -> None:
        """After a change of theme."""
        for sign in (self.before, self.play, self.after):
            sign.refresh()

    def _on_speed(self, on: bool) -> None:
        self.speed.setVisible(on and self.session.pass_.curves)

    def _on_pass_changed(self) -> None:
        """Another desk under the stage; what each pass looked at is kept for when one comes back."""
        scale, curves = self.scale, self.session.pass_.curves
        made = "curves" in self.__dict__
        if made:
            self._seen[self._pass] = (scale.first, scale.per_frame, self.curves.seen_values())
        self._pass = self.session.pass_.name
        self.strip.set_slim(curves)
        if curves or made:
            for widget in (self.handles, self.curves):
                widget.setVisible(curves)
            self.speed.setVisible(curves and self.handles.speed.isChecked())
        seen = self._seen.get(self._pass)
        if seen is not None:
            scale.see(*seen[:2])
            self.curves.see_values(seen[2])
        elif curves:
            self.curves.fit()
