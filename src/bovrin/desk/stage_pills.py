"""The pills over the stage: views, and what is looked at."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.widgets import Pills, Toggles
from bovrin.desk.stage.front_glass import StageArea
from bovrin.desk.state.session import Session
from bovrin.picture.view import VIEWS

TOGGLES = {
    "Light table": "view.light_table",
    "Front glass": "view.glass",
    "Joints": "show.joints",
    "As stepped": "motion.look_stepped",
}


class StagePills(QWidget):
    """As wide as the stage; gone in the clean view."""

    def __init__(self, session: Session, area: StageArea, run: Callable[[str], object]) -> None:
        super().__init__(area)
        self.session, self._area = session, area
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 10, 12, 0)
        self.views = Pills(
            [name.capitalize() for name in VIEWS],
            lambda word: run(f"view.{word.lower()}"),
            [tooltip(f"view.{name}") for name in VIEWS],
        )
        line.addWidget(self.views, 1)
        self.looks = Toggles(TOGGLES, run, tooltip)
        line.addWidget(self.looks)
        area.main.scene.view_changed.connect(self._show_what_is_on)
        area.glass.arranged.connect(self._show_what_is_on)
        session.looking_changed.connect(self._show_what_is_on)
        area.installEventFilter(self)
        self._show_what_is_on()

    def _show_what_is_on(self) -> None:
        looking = self.session.looking
        name = next((n for n, view in VIEWS.items() if view == self._area.main.scene.view), "")
        self.views.show_chosen(name.capitalize())
        self.looks.show_on("As stepped", on=looking.stepped)
        self.looks.show_on("Light table", on=looking.light_table.on)
        self.looks.show_on("Joints", on=looking.joints)
        self.looks.show_on("Front glass", on=self._area.glass.isVisible())
        self.setVisible(not looking.clean)
        self.raise_()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self._area and event is not None and event.type() == QEvent.Type.Resize:
            self.setFixedWidth(self._area.width())
        return super().eventFilter(watched, event)
