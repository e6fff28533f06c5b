"""What the body does in a cycle: twist, weight, bounce, sway, lean, arm swing, each made more or less."""

from __future__ import annotations

from bovrin.craft.cycle.body_ways import BodyWay, body_ways, measured, set_body_way
from bovrin.desk.kit.amount_row import AmountRow
from bovrin.desk.kit.widgets import Panel, muted
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import Unit

TIPS = {
    "twist": "Hips and chest turn against each other, hips with the leg that goes ahead",
    "weight": "How far the hips drop after a foot has come down",
    "bounce": "How far the hips rise before the next foot comes down",
    "sway": "The hips go over the foot that bears, and tip",
    "lean": "How far spine and chest lean ahead",
    "arm swing": "Arms swing against the legs",
}
MOST = 3.0
"""Times the usual amount, as far as the sliders go."""


class BodyPanel(Panel):
    """A slider for each way that the figure's body can have."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Body")
        self.session = session
        self.column.setSpacing(3)
        self.hint = muted("Ways of the body come with a cycle.", wrap=True)
        self.column.addWidget(self.hint)
        self.rows: dict[str, AmountRow] = {}
        self._made_for: tuple[str, tuple[str, ...]] | None = None
        session.going.changed.connect(self._show_what)
        self._show_what()

    def _ways(self) -> dict[str, BodyWay]:
        session = self.session
        if session.figure is None or session.shot.cycle(session.figure_name) is None:
            return {}
        try:
            return body_ways(session.shot, session.figure_name)
        except BovrinError:
            return {}

    def _show_what(self) -> None:
        ways = self._ways()
        self.hint.setVisible(not ways)
        mark = (self.session.figure_name, tuple(ways))
        if mark != self._made_for:
            self._made_for = mark
            for row in self.rows.values():
                self.column.removeWidget(row)
                row.deleteLater()
            self.rows = {name: self._row(way) for name, way in ways.items()}
        if ways:
            for name, amount in measured(self.session.shot, self.session.figure_name).items():
                self.rows[name].show_amount(amount)
        self.updateGeometry()

    def _row(self, way: BodyWay) -> AmountRow:
        unit, suffix = (Unit.ANGLE, "°") if way.unit == "degrees" else (Unit.LENGTH, "cm")
        row = AmountRow(way.name, TIPS[way.name], unit, suffix, MOST * way.sensible, way.sensible)
        row.moved.connect(lambda amount: self._on_moved(way.name, amount))
        row.taken.connect(lambda amount: self._take(way.name, amount))
        row.cancelled.connect(self._put_back)
        row.field.refused.connect(self.session.voice.tell)
        self.column.addWidget(row)
        return row

    def _on_moved(self, name: str, amount: float) -> None:
        session = self.session
        try:
            session.preview(set_body_way(session.shot, session.figure_name, name, amount))
        except BovrinError as error:
            session.voice.hint(error.sentence)

    def _take(self, name: str, amount: float) -> None:
        session = self.session
        session.do(name.capitalize(), lambda shot: set_body_way(shot, session.figure_name, name, amount))
        self._show_what()

    def _put_back(self) -> None:
        self.session.preview(None)
        self._show_what()
