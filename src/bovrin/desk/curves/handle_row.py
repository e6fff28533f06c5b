"""The row over the curves: search, handle kinds for the chosen keys, and how curves are looked at."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QWidget

from bovrin.craft.curves.bending import set_free, set_joined
from bovrin.desk.commands.curves import change_chosen, set_handles
from bovrin.desk.curves.desk import CurveDesk
from bovrin.desk.kit.timescale import GUTTER
from bovrin.desk.kit.widgets import Pills
from bovrin.desk.state.document.session import Session
from bovrin.shot import HandleKind
from bovrin.shot.curve import Floats

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
NEW = [word for word in KIND_WORDS if word != "by hand"]


class HandleRow(QWidget):
    """Handle kinds for the chosen keys."""

    speed_toggled = pyqtSignal(bool)

    def __init__(self, session: Session, curves: CurveDesk) -> None:
        super().__init__()
        self.session, self._plot = session, curves.plot
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 2, 10, 2)
        row.setSpacing(4)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a channel…")
        self.search.setAccessibleName("Find a channel")
        self.search.setToolTip("List only the channels with these words")
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(GUTTER - 14)
        self.search.textChanged.connect(lambda words: curves.plot.list.set_listing(search=words.strip()))
        row.addWidget(self.search)
        row.addSpacing(6)
        self.kinds = Pills(list(KIND_WORDS), self._on_kind, KIND_TIPS)
        row.addWidget(self.kinds)
        self.split = self._toggle("split", "Let the two handles of a key point differently", self._on_split)
        self.free = self._toggle("free", "Let handles be as long as you drag them", self._on_free)
        for button in (self.split, self.free):
            row.addWidget(button)
        row.addStretch(1)
        self.height_pill = self._toggle("one height", "Draw all curves at one height", self._on_one_height)
        self.speed = self._toggle("speed", "How far it goes on each frame, under the curves", self.speed_toggled.emit)
        self.whole = self._toggle("whole frames", "Keys stay on whole frames when they are dragged", self._on_whole)
        self.whole.setChecked(session.keying.whole_frames)
        fit = QPushButton("fit")
        fit.setToolTip("Fit the chosen keys, again all curves (V over the curves)")
        fit.clicked.connect(lambda _checked: curves.plot.fit())
        self.new = QComboBox()
        self.new.addItems([f"new: {word}" for word in NEW])
        self.new.setToolTip("How new keys leave in this pass")
        self.new.setAccessibleName("handle kind of new keys")
        self.new.activated.connect(self._on_new)
        self.new.setFixedWidth(118)
        for widget in (self.height_pill, self.speed, self.whole, fit, self.new):
            row.addWidget(widget)
        for button in (self.split, self.free, self.height_pill, self.speed, self.whole, fit):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        curves.keys_changed.connect(self._on_keys_changed)
        session.document.committed.connect(self._on_keys_changed)
        session.pass_changed.connect(self._on_pass_changed)
        self._on_keys_changed()
        self._on_pass_changed()

    def _toggle(self, words: str, tip: str, on_click: Callable[[bool], object]) -> QPushButton:
        button = QPushButton(words)
        button.setCheckable(True)
        button.setToolTip(tip)
        button.clicked.connect(on_click)
        return button

    def _listed(self) -> dict[int, Floats]:
        """The chosen keys of the channels that are listed."""
        return {c: self._plot.curve(c).frames[which] for c, which in self._plot.chosen_indices().items()}

    def _on_kind(self, word: str) -> None:
        set_handles(self.session, KIND_WORDS[word], self._listed())
        self._on_keys_changed()

    def _on_split(self, on: bool) -> None:
        words = "Split handles" if on else "Join handles"
        change_chosen(self.session, words, lambda c, which: set_joined(c, which, not on), self._listed())

    def _on_free(self, on: bool) -> None:
        words = "Free handle length" if on else "Fixed handle length"
        change_chosen(self.session, words, lambda c, which: set_free(c, which, on), self._listed())

    def _on_one_height(self, on: bool) -> None:
        self._plot.set_one_height(on)

    def _on_whole(self, on: bool) -> None:
        self.session.change_keying(whole_frames=on)

    def _on_new(self, index: int) -> None:
        kinds = {**self.session.keying.kinds, self.session.pass_.name: KIND_WORDS[NEW[index]]}
        self.session.change_keying(kinds=kinds)

    def _on_pass_changed(self) -> None:
        kind = self.session.keying.style_in(self.session.pass_).out_kind
        self.new.setCurrentIndex(next(n for n, word in enumerate(NEW) if KIND_WORDS[word] is kind))

    def _on_keys_changed(self) -> None:
        chosen = self._plot.chosen_indices()
        for widget in (self.kinds, self.split, self.free):
            widget.setEnabled(bool(chosen))
        curves = {c: self._plot.curve(c) for c in chosen}
        found = {int(kind) for c, which in chosen.items() for kind in set(curves[c].out_kind[which].tolist())}
        one = HandleKind(found.pop()) if len(found) == 1 else None
        self.kinds.show_chosen(next((w for w, k in KIND_WORDS.items() if k is one), ""))
        self.split.setChecked(any(not curves[c].joined[which].all() for c, which in chosen.items()))
        self.free.setChecked(any(bool(curves[c].free[which].any()) for c, which in chosen.items()))
