"""The right column: the panels that a pass needs, made when they are first needed, and open as far as there is room."""

from __future__ import annotations

import json

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QApplication, QScrollArea, QVBoxLayout, QWidget

from bovrin.desk.commands.port import Port
from bovrin.desk.kit.widgets import Panel
from bovrin.desk.panels.chosen_keys_panel import ChosenKeysPanel
from bovrin.desk.passes import LIGHT, PASSES, PanelKind, on_desk

AT_FIRST = 3
"""Panels that are made before the window stands; the others follow."""
FOLDED_AT_FIRST = frozenset({"markers"})
CHOSEN_KEYS = "chosen keys"
KINDS = {kind.name: kind for one in PASSES for kind in one.panels} | {LIGHT.name: LIGHT}


class RightColumn(QScrollArea):
    """Chosen keys on top, then what the pass holds, in its order. What does not fit stands as a title; of those that want
    to be open the ones used last are."""

    def __init__(self, port: Port) -> None:
        super().__init__()
        self._port, self.session = port, port.session
        self._made: dict[str, Panel] = {}
        self._shut = set(FOLDED_AT_FIRST)
        self._used: dict[str, list[str]] = {}
        self._inside = QWidget()
        self._inside.setObjectName("Inside")
        self._inside.installEventFilter(self)
        self.column = QVBoxLayout(self._inside)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(8)
        self.column.addStretch(1)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(self._inside)
        self._fitting = QTimer(self)
        self._fitting.setSingleShot(True)
        self._fitting.timeout.connect(self.fit)
        self.session.pass_changed.connect(self._on_pass_changed)
        self.session.looking_changed.connect(self._on_looking_changed)
        self.session.keys.changed.connect(self._on_keys_chosen)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._on_focus_changed)
        self.arrange(AT_FIRST)
        QTimer.singleShot(0, self.arrange)

    # -- panels -------------------------------------------------------------------------------------------------------

    def panel(self, name: str) -> Panel:
        """A panel by its name, made on first asking."""
        if name not in self._made:
            panel = ChosenKeysPanel(self.session) if name == CHOSEN_KEYS else KINDS[name].make(self._port)
            self._made[name] = panel
            panel.hide()
            panel.fold_asked.connect(lambda: self._on_fold_asked(name))
        return self._made[name]

    def open_panels(self) -> list[Panel]:
        """The panels that are seen, from the top."""
        found = [self.column.itemAt(i) for i in range(self.column.count())]
        widgets = [item.widget() for item in found if item is not None]
        return [panel for panel in widgets if isinstance(panel, Panel) and not panel.isHidden()]

    def _wanted(self) -> list[PanelKind]:
        light = [LIGHT] if self.session.looking.light_table.on else []
        return [*on_desk(self.session.pass_).panels, *light]

    def arrange(self, most: int | None = None) -> None:
        """The panels of the pass, in its order (or only the first of them); the light table's whenever it is on."""
        wanted = [kind.name for kind in self._wanted()[:most]]
        first = 1 if CHOSEN_KEYS in self._made else 0
        for place, name in enumerate(wanted):
            panel = self.panel(name)
            self.column.removeWidget(panel)
            self.column.insertWidget(place + first, panel)
        for name, panel in self._made.items():
            if name != CHOSEN_KEYS:
                panel.setVisible(name in wanted)
        self._fitting.start(0)

    def _on_pass_changed(self) -> None:
        self.arrange()

    def _on_looking_changed(self) -> None:
        shown = LIGHT.name in self._made and not self._made[LIGHT.name].isHidden()
        if self.session.looking.light_table.on != shown:
            self._use(LIGHT.name)
            self.arrange()

    def _on_keys_chosen(self) -> None:
        if self.session.keys and CHOSEN_KEYS not in self._made:
            panel = self.panel(CHOSEN_KEYS)
            self.column.insertWidget(0, panel)
            assert isinstance(panel, ChosenKeysPanel)
            panel.refresh()
            self._use(CHOSEN_KEYS)

    # -- room ---------------------------------------------------------------------------------------------------------

    def _use(self, name: str) -> None:
        before = self._used.get(self.session.pass_.name, [])
        self._used[self.session.pass_.name] = [name, *(n for n in before if n != name)]

    def _on_focus_changed(self, _before: QWidget | None, now: QWidget | None) -> None:
        """A panel that has the keyboard is in use: it stays open when others need room."""
        name = next((name for name, panel in self._made.items() if panel.isAncestorOf(now)), "")
        if name and not self._made[name].folded:
            self._use(name)

    def _on_fold_asked(self, name: str) -> None:
        """Its title was clicked: an open panel shuts, a shut one opens before all others."""
        if self._made[name].folded:
            self._shut.discard(name)
            self._use(name)
        else:
            self._shut.add(name)
        self.fit()

    def fit(self) -> None:
        """Open as many panels as there is room for."""
        seen = {name: panel for name, panel in self._made.items() if not panel.isHidden()}
        port = self.viewport()
        if port is None or not seen or not self.isVisible():
            return
        width = port.width()
        room = port.height() - sum(panel.title_height() + self.column.spacing() for panel in seen.values())
        order = [kind.name for kind in self._wanted()]
        used = self._used.get(self.session.pass_.name, [])
        opened = set[str]()
        for name in sorted(seen, key=lambda n: used.index(n) if n in used else len(used) + _place(order, n)):
            needed = seen[name].body_height(width)
            if name not in self._shut and (needed <= room or not opened):
                opened.add(name)
                room -= needed
        for name, panel in seen.items():
            panel.set_folded(name not in opened)

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


def _place(order: list[str], name: str) -> int:
    """Where a panel stands in its pass; chosen keys stand before all."""
    return order.index(name) + 1 if name in order else 0
