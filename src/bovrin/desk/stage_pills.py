"""The pills over the stage: views, and what is looked at."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from bovrin.desk.commands.menus import add_commands
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.menus import popup
from bovrin.desk.kit.widgets import Pills, Toggles
from bovrin.desk.stage.front_glass import StageArea
from bovrin.desk.state.document.session import Session
from bovrin.picture.view import VIEWS

TOGGLES = {
    "Arcs": "arcs.show",
    "Light table": "view.light_table",
    "Front glass": "view.glass",
    "Joints": "show.joints",
    "As stepped": "motion.look_stepped",
}
OWN = ("view.own_front", "view.own_side", "view.follow")
NARROW = 730
"""Pixels of the stage below which the views share one pill."""


class StagePills(QWidget):
    """As wide as the stage; gone in the clean view."""

    def __init__(self, session: Session, area: StageArea, run: Callable[[str], object]) -> None:
        super().__init__(area)
        self.session, self._area, self._run = session, area, run
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 10, 12, 0)
        line.setSpacing(5)
        self.views = Pills(
            [name.capitalize() for name in VIEWS],
            lambda word: run(f"view.{word.lower()}"),
            [tooltip(f"view.{name}") for name in VIEWS],
        )
        self.own = self._menu_pill("Figure's ▾", "The figure's own front or side; kept in view", OWN)
        every = (*(f"view.{name}" for name in VIEWS), *OWN)
        self.view = self._menu_pill("View ▾", "Where the stage is looked at from", every)
        self.looks = Toggles(TOGGLES, run, tooltip)
        for widget in (self.views, self.own, self.view):
            line.addWidget(widget)
        line.addStretch(1)
        line.addWidget(self.looks)
        area.main.scene.view_changed.connect(self._show_what_is_on)
        area.glass.arranged.connect(self._show_what_is_on)
        session.looking_changed.connect(self._show_what_is_on)
        area.installEventFilter(self)
        self._show_what_is_on()

    def _menu_pill(self, words: str, tip: str, commands: tuple[str, ...]) -> QPushButton:
        pill = QPushButton(words)
        pill.setToolTip(tip)
        pill.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        pill.clicked.connect(lambda _checked: self._open(pill, commands))
        return pill

    def _open(self, pill: QPushButton, commands: tuple[str, ...]) -> None:
        menu = QMenu()
        add_commands(menu, self._run, *commands)
        popup(menu, pill.mapToGlobal(pill.rect().bottomLeft()), pill)

    def _show_what_is_on(self) -> None:
        looking = self.session.looking
        name = next((n for n, view in VIEWS.items() if view == self._area.main.scene.view), "")
        self.views.show_chosen(name.capitalize())
        self.view.setText(f"{name.capitalize() or 'View'} ▾")
        self.looks.show_on("As stepped", on=looking.stepped)
        self.looks.show_on("Arcs", on=looking.arcs.on)
        self.looks.show_on("Light table", on=looking.light_table.on)
        self.looks.show_on("Joints", on=looking.joints)
        self.looks.show_on("Front glass", on=self._area.glass.isVisible())
        self.setVisible(not looking.clean)
        self.raise_()

    def _fit(self) -> None:
        """As wide as the stage; in a narrow one the views share a pill."""
        self.setFixedWidth(self._area.width())
        narrow = self._area.width() < NARROW
        self.view.setVisible(narrow)
        for widget in (self.views, self.own):
            widget.setVisible(not narrow)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self._area and event is not None and event.type() == QEvent.Type.Resize:
            self._fit()
        return super().eventFilter(watched, event)
