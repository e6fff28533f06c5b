"""Shapers in the right column: sliders that act on the chosen keys, live, one undo step each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

from PyQt6.QtWidgets import QHBoxLayout

from bovrin.craft.curves.shapers import Settings, Shaped, shaped
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.shaper_row import ShaperRow
from bovrin.desk.kit.widgets import Panel, Pills, muted
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import Shot, Unit

WIDEST, LOOSEST, FARTHEST = 12, 5.0, 4.0
"""Frames between keys that are filled in, the largest tolerance (cm, degrees) and frames of a shift, as far as sliders go."""


NOTHING = {
    "thin out": "No key can go: poses keep theirs, and the shape needs the others. Allow it to be farther off.",
    "fill in": "There is a key on every one of those frames already.",
}


class ShaperKind(NamedTuple):
    """A row: the shaper, the words at its ends, what it does, how its number is told, the amount at a share of the slider, and
    how much of that is one of the number."""

    shaper: str
    ends: tuple[str, str]
    tip: str
    suffix: str = "%"
    amount: Callable[[float], float] = lambda share: share
    number: float = 100.0


def _every(share: float) -> float:
    return float(max(round(WIDEST * (1.0 - share)), 1))


KINDS = (
    ShaperKind("toward", ("before", "after"), "Toward the key before the chosen ones, or the one after them"),
    ShaperKind("soften", ("soften", "roughen"), "Smoother, or rougher"),
    ShaperKind("exaggerate", ("flatten", "exaggerate"), "Flatter, or stronger"),
    ShaperKind(
        "ease", ("ease in", "ease out"), "Slower into the last chosen key, or slower out of the first; both stay"
    ),
    ShaperKind(
        "shift", ("sooner", "later"), "Earlier or later, by parts of a frame too", "f", lambda s: FARTHEST * s, 1.0
    ),
    ShaperKind("default", ("away", "default"), "Toward the default, or away from it"),
    ShaperKind(
        "thin out",
        ("", "thin out"),
        "Fewer keys for the same shape. The number: how far it may be off, in centimetres or degrees",
        "",
        lambda s: round(LOOSEST * s * s, 3),
        1.0,
    ),
    ShaperKind(
        "fill in", ("", "fill in"), "A key on every so many frames; no value changes anywhere", "f", _every, 1.0
    ),
    ShaperKind("tremble", ("", "tremble"), "Up and down a little, as with strain or cold"),
)


class ShapersPanel(Panel):
    """Each slider works on the keys as they were when it was taken up, and rests again when it is let go."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Shapers")
        self.session, self.settings = session, Settings()
        self.count = muted()
        self.head.addWidget(self.count)
        self.empty = muted("Choose keys on curves, cards or lanes, then drag a slider.", wrap=True)
        self.column.addWidget(self.empty)
        self.column.setSpacing(3)
        self.rows = {kind.shaper: self._row(kind) for kind in KINDS}
        more = QHBoxLayout()
        tips = [
            "Flatten about the line through the keys beside the chosen ones",
            "Flatten about the mean of the chosen keys",
        ]
        self.about = Pills(["line", "mean"], lambda word: self._tell(about=word), tips)
        self.beats = NumberField(Unit.SWITCH, "", "beats a second")
        self.beats.setFixedWidth(36)
        self.beats.setToolTip("How often it trembles, beats a second")
        self.beats.taken.connect(lambda number: self._tell(beats=min(max(number, 0.1), 60.0)))
        for widget in (muted("about"), self.about, muted("beats a second"), self.beats):
            more.addWidget(widget)
        self.column.addLayout(more)
        self._tell()
        for signal in (session.keys.changed, session.document.committed, session.choice.changed):
            signal.connect(self._show_choice)
        self._show_choice()

    def _row(self, kind: ShaperKind) -> ShaperRow:
        row = ShaperRow(kind.ends, kind.tip, kind.suffix)
        row.moved.connect(lambda share: self._on_moved(kind, share))
        row.let_go.connect(lambda share: self._take(kind, kind.amount(share)) if share else self._put_back(kind))
        row.typed.connect(lambda number: self._take(kind, number / kind.number))
        row.field.refused.connect(self.session.voice.tell)
        row.cancelled.connect(lambda: self._put_back(kind))
        self.column.addWidget(row)
        return row

    def _tell(self, **changes: object) -> None:
        self.settings = replace(self.settings, **changes)  # type: ignore[arg-type]
        self.about.show_chosen(self.settings.about)
        self.beats.show_value(self.settings.beats)

    # -- sliders ------------------------------------------------------------------------------------------------------

    def _shaped(self, shot: Shot, kind: ShaperKind, amount: float) -> Shaped:
        session = self.session
        return shaped(shot, session.figure_name, session.keys.by_channel, kind.shaper, amount, self.settings)

    def _on_moved(self, kind: ShaperKind, share: float) -> None:
        session, amount = self.session, kind.amount(share)
        self.rows[kind.shaper].field.show_value(amount * kind.number if share else 0.0)
        if not session.keys or not share:
            session.preview(None)
            return
        try:
            made = self._shaped(session.shot, kind, amount)
        except BovrinError as error:
            session.voice.hint(error.sentence)
            return
        session.preview(made.shot)
        session.voice.hint(self._words(kind, made))

    def _take(self, kind: ShaperKind, amount: float) -> None:
        """Work it out once more and keep it, as one undo step."""
        session, keys = self.session, dict[int, object]()

        def change(shot: Shot) -> Shot:
            made = self._shaped(shot, kind, amount)
            keys.update(made.keys)
            session.voice.hint(self._words(kind, made))
            if kind.shaper in NOTHING and not made.count:
                session.voice.tell(NOTHING[kind.shaper])
            return made.shot

        if session.do(
            f"{kind.ends[1].capitalize()} keys" if amount >= 0 else f"{kind.ends[0].capitalize()} keys", change
        ):
            session.keys.choose_there(keys)  # type: ignore[arg-type]
        self._put_back(kind)

    def _put_back(self, kind: ShaperKind) -> None:
        self.session.preview(None)
        self.rows[kind.shaper].rest()

    def _words(self, kind: ShaperKind, made: Shaped) -> str:
        count = len(self.session.keys)
        if kind.shaper == "thin out":
            return f"{made.count} of {count} keys go; {made.off:.2g} cm or degrees off at most"
        if kind.shaper == "fill in":
            return f"{made.count} keys come"
        return f"{count} keys"

    def _show_choice(self) -> None:
        session = self.session
        count, figure = len(session.keys), session.figure
        owners = set()
        if count and figure is not None:
            names = figure.rig.channel_names
            owners = {names[i].partition("/")[0] for i in session.keys.by_channel}
        whose = f" of {owners.pop()}" if len(owners) == 1 else ""
        self.count.setText(f"{count} key{'' if count == 1 else 's'}{whose}" if count else "")
        self.empty.setVisible(not count)
        for row in self.rows.values():
            row.setEnabled(bool(count))
