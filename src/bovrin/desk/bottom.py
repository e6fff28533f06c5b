"""What lies under the stage: the pose strip, and in the Spline pass the curve desk below it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bovrin.craft.bending import set_free, set_joined
from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.commands import tooltip
from bovrin.desk.curve_desk import CurveDesk
from bovrin.desk.number_field import NumberField
from bovrin.desk.playback import Player
from bovrin.desk.session import Session
from bovrin.desk.strip import PoseStrip
from bovrin.desk.strip_layout import RULER
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.desk.widgets import Pills, SignButton
from bovrin.shot import HandleKind, Unit

KIND_WORDS = {
    "smooth": HandleKind.SMOOTH,
    "no overshoot": HandleKind.NO_OVERSHOOT,
    "flat": HandleKind.FLAT,
    "linear": HandleKind.LINEAR,
    "stepped": HandleKind.STEPPED,
    "by hand": HandleKind.BY_HAND,
}
KIND_TIPS = (
    "The curve passes evenly through the key",
    "The curve never passes a key's value",
    "The curve comes to rest at the key",
    "Straight to and from the key",
    "The key holds until the next",
    "The handles stay as you drag them",
)


class HandleRow(QWidget):
    """Handle kinds for the chosen keys."""

    def __init__(self, session: Session, curves: CurveDesk) -> None:
        super().__init__()
        self.session, self.curves = session, curves
        row = QHBoxLayout(self)
        row.setContentsMargins(GUTTER + 8, 2, 10, 2)
        row.setSpacing(5)
        self.kinds = Pills(list(KIND_WORDS), self._on_kind, KIND_TIPS)
        row.addWidget(self.kinds)
        self.split = self._toggle("split", "Let the two handles of a key point differently", self._on_split)
        self.free = self._toggle("free length", "Let handles be as long as you drag them", self._on_free)
        fit = QPushButton("fit")
        fit.setToolTip("Fit the values of the shown curves (V over the curves)")
        fit.clicked.connect(curves.fit)
        for button in (self.split, self.free, fit):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            row.addWidget(button)
        row.addStretch(1)
        curves.keys_changed.connect(self._on_keys_changed)
        session.committed.connect(self._on_keys_changed)
        self._on_keys_changed()

    def _toggle(self, words: str, tip: str, on_click) -> QPushButton:  # type: ignore[no-untyped-def]
        button = QPushButton(words)
        button.setCheckable(True)
        button.setToolTip(tip)
        button.clicked.connect(on_click)
        return button

    def _on_kind(self, word: str) -> None:
        self.session.set_handle_kind(self.curves.chosen_indices(), KIND_WORDS[word])
        self._on_keys_changed()

    def _on_split(self, on: bool) -> None:
        words = "Split handles" if on else "Join handles"
        self.session.change_keys(words, self.curves.chosen_indices(), lambda c, which: set_joined(c, which, not on))

    def _on_free(self, on: bool) -> None:
        words = "Free handle length" if on else "Fixed handle length"
        self.session.change_keys(words, self.curves.chosen_indices(), lambda c, which: set_free(c, which, on))

    def _on_keys_changed(self) -> None:
        chosen = self.curves.chosen_indices()
        for widget in (self.kinds, self.split, self.free):
            widget.setEnabled(bool(chosen))
        found = {int(self.curves.curve(c).out_kind[i]) for c, which in chosen.items() for i in which}
        one = HandleKind(found.pop()) if len(found) == 1 else None
        self.kinds.show_chosen(next((w for w, k in KIND_WORDS.items() if k is one), ""))
        self.split.setChecked(any(not self.curves.curve(c).joined[i] for c, which in chosen.items() for i in which))
        self.free.setChecked(any(bool(self.curves.curve(c).free[i]) for c, which in chosen.items() for i in which))


class Bottom(QWidget):
    """A panel that changes with the pass."""

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__()
        self.setObjectName("Panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.session, self.player = session, player
        self.scale = TimeScale()
        self.strip = PoseStrip(session, self.scale, CardPictures(session))
        self.curves = CurveDesk(session, self.scale)
        self.handles = HandleRow(session, self.curves)
        column = QVBoxLayout(self)
        column.setContentsMargins(1, 4, 1, 4)
        column.setSpacing(0)
        for widget, stretch in ((self.strip, 1), (self.handles, 0), (self.curves, 1)):
            column.addWidget(widget, stretch)
        self._add_transport()
        session.pass_changed.connect(self._on_pass_changed)
        player.changed.connect(self._on_playing_changed)
        self._on_pass_changed()

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

    def _on_pass_changed(self) -> None:
        curves = self.session.pass_.curves
        self.strip.set_slim(curves)
        self.curves.setVisible(curves)
        self.handles.setVisible(curves)
        if curves:
            self.curves.fit()
