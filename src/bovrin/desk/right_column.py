"""The right column: the panels that a pass needs, made when there is room for them for the first time."""

from __future__ import annotations

import json

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QApplication, QScrollArea, QVBoxLayout, QWidget

from bovrin.desk.commands.port import Port
from bovrin.desk.kit.put_away import PutAway
from bovrin.desk.kit.widgets import Panel
from bovrin.desk.panels.chosen_keys_panel import ChosenKeysPanel
from bovrin.desk.passes.registry import ARCS, LIGHT, PASSES, PENCIL, SHAPERS, on_desk

LEAST = 40
"""Pixels below which no panel is asked whether it fits."""
FOLDED_AT_FIRST = frozenset({"markers"})
CHOSEN_KEYS = "chosen keys"
KINDS = {kind.name: kind for one in PASSES for kind in one.panels} | {LIGHT.name: LIGHT}


class RightColumn(QScrollArea):
    """Chosen keys on top (or what shapes them), then what the pass holds, in its order, as far as there is room; of what does not
    fit the titles stand below. Of the panels that want to be open the ones used last are."""

    def __init__(self, port: Port) -> None:
        super().__init__()
        self._port, self.session = port, port.session
        self._made: dict[str, Panel] = {}
        self._shut = set(FOLDED_AT_FIRST)
        self._used: dict[str, list[str]] = {}
        self._seen_on = frozenset[str]()
        """The panels of what was turned on and seen before."""
        self._inside = QWidget()
        self._inside.setObjectName("Inside")
        self._inside.installEventFilter(self)
        self.column = QVBoxLayout(self._inside)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(8)
        self.titles = PutAway(self._on_title)
        self.column.addWidget(self.titles)
        self.column.addStretch(1)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(self._inside)
        self._fitting = QTimer(self)
        self._fitting.setSingleShot(True)
        self._fitting.timeout.connect(self.fit)
        self.session.pass_changed.connect(self.arrange)
        self.session.looking_changed.connect(self._on_looking_changed)
        self.session.keys.changed.connect(self._on_keys_chosen)
        self.session.choice.changed.connect(self._on_choice_changed)
        self._laid = list[str]()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._on_focus_changed)
        self.arrange()

    # -- panels -------------------------------------------------------------------------------------------------------

    def panel(self, name: str) -> Panel:
        """A panel by its name, made on first asking."""
        if name not in self._made:
            panel = ChosenKeysPanel(self.session) if name == CHOSEN_KEYS else KINDS[name].make(self._port)
            self._made[name] = panel
            panel.setParent(self._inside)
            panel.fold_asked.connect(lambda: self._on_title(name))
            if isinstance(panel, ChosenKeysPanel):
                panel.wanted_changed.connect(self.arrange)
        return self._made[name]

    def open_panels(self) -> list[Panel]:
        """The panels that are open, from the top."""
        found = [self._made[name] for name in self.wanted() if name in self._made]
        return [panel for panel in found if not panel.isHidden()]

    def wanted(self) -> list[str]:
        """The names of the panels that belong here now, from the top."""
        keys = self._made.get(CHOSEN_KEYS)
        first = [CHOSEN_KEYS] if isinstance(keys, ChosenKeysPanel) and keys.wanted else []
        light = [LIGHT.name] if self.session.looking.light_table.on else []
        names = [kind.name for kind in on_desk(self.session.pass_).panels if kind.fits(self.session)]
        if SHAPERS.name in names:  # they are what is done to chosen keys first
            return [SHAPERS.name, *first, *(name for name in names if name != SHAPERS.name), *light]
        return [*first, *names, *light]

    def arrange(self) -> None:
        """The panels of the pass, in its order; the light table's whenever it is on."""
        for name, panel in self._made.items():
            if name not in self.wanted():
                panel.hide()
        self._laid = self.wanted()
        self._fitting.start(0)

    def _on_looking_changed(self) -> None:
        looking = self.session.looking
        shown = ((LIGHT.name, looking.light_table.on), (ARCS.name, looking.arcs.on), (PENCIL.name, looking.pencil.on))
        for name, on in shown:
            if on and name not in self._seen_on and name in self.wanted():
                self._use(name)
            self._seen_on = (self._seen_on | {name}) if on else (self._seen_on - {name})
        self.arrange()

    def _on_choice_changed(self) -> None:
        """Another kind of figure has other panels."""
        if self._laid != self.wanted():
            self.arrange()

    def _on_keys_chosen(self) -> None:
        if self.session.keys and CHOSEN_KEYS not in self._made:
            panel = self.panel(CHOSEN_KEYS)
            assert isinstance(panel, ChosenKeysPanel)
            panel.refresh()

    # -- room ---------------------------------------------------------------------------------------------------------

    def open(self, name: str) -> Panel:
        """Open a panel before all others."""
        self._shut.discard(name)
        self._use(name)
        self.fit()
        return self.panel(name)

    def _use(self, name: str) -> None:
        before = self._used.get(self.session.pass_.name, [])
        self._used[self.session.pass_.name] = [name, *(n for n in before if n != name)]

    def _on_focus_changed(self, _before: QWidget | None, now: QWidget | None) -> None:
        """A panel that has the keyboard is in use: it stays open when others need room."""
        name = next((name for name, panel in self._made.items() if panel.isAncestorOf(now)), "")
        if name and not self._made[name].isHidden():
            self._use(name)

    def _on_title(self, name: str) -> None:
        """A title was clicked: an open panel is put away, another opens before all others."""
        if name in self._made and not self._made[name].isHidden():
            self._shut.add(name)
            self.fit()
        else:
            self.open(name)

    def fit(self) -> None:
        """Open as many panels as there is room for; the others' titles stand below."""
        port, wanted = self.viewport(), self.wanted()
        if port is None:
            return
        used, width = self._used.get(self.session.pass_.name, []), port.width()
        room = port.height() - self.titles.height_for(wanted, width)
        opened = set[str]()
        for name in sorted(wanted, key=lambda n: used.index(n) if n in used else len(used) + wanted.index(n)):
            if name in self._shut or room <= LEAST:
                continue
            needed = self.panel(name).height_at(width) + self.column.spacing()
            if needed <= room or not opened:
                opened.add(name)
                room -= needed
        self._show(wanted, opened)

    def _show(self, wanted: list[str], opened: set[str]) -> None:
        for place, name in enumerate(name for name in wanted if name in opened):
            panel = self._made[name]
            if self.column.indexOf(panel) != place:
                self.column.removeWidget(panel)
                self.column.insertWidget(place, panel)
            panel.show()
        for name, panel in self._made.items():
            if name not in opened:
                panel.hide()
        self.titles.show_titles({name: _title(name) for name in wanted if name not in opened})

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fitting.start(0)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self._inside and event is not None and event.type() == QEvent.Type.LayoutRequest:
            self._fitting.start(0)
        return super().eventFilter(watched, event)

    def kept(self) -> str:
        """What was shut by hand, and what was used last in each pass, to remember."""
        return json.dumps({"shut": sorted(self._shut), "used": self._used})

    def restore(self, kept: str) -> None:
        """As it was remembered; what cannot be read is as at first."""
        try:
            found = json.loads(kept)
            shut, used = set(map(str, found["shut"])), {str(k): list(map(str, v)) for k, v in found["used"].items()}
        except (ValueError, KeyError, TypeError, AttributeError):
            return
        self._shut, self._used = shut, used
        self.fit()


def _title(name: str) -> str:
    return CHOSEN_KEYS if name == CHOSEN_KEYS else KINDS[name].title
