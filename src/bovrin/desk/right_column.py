"""The right column: the panels that a pass needs, made when they are first needed."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from bovrin.desk.breakdown_panel import BreakdownPanel
from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.chosen_keys_panel import ChosenKeysPanel
from bovrin.desk.light_panel import LightPanel
from bovrin.desk.markers_panel import MarkersPanel
from bovrin.desk.panels import KeysPanel
from bovrin.desk.pose_book_panel import PoseBookPanel
from bovrin.desk.session import Session
from bovrin.desk.span_panel import SpanPanel
from bovrin.desk.traces_panel import TracesPanel
from bovrin.desk.values_panel import ValuesPanel
from bovrin.desk.widgets import Panel

AT_FIRST = 3
"""Panels that are seen without scrolling when the window opens; the others follow once it stands."""
FOLDED_AT_FIRST = frozenset({"markers"})


class RightColumn(QScrollArea):
    """Chosen keys on top, then what the pass holds, in its order."""

    def __init__(self, session: Session, pictures: CardPictures, run: Callable[[str], object]) -> None:
        super().__init__()
        self.session, self._pictures, self._run = session, pictures, run
        self._made: dict[str, Panel] = {}
        self._folded = set(FOLDED_AT_FIRST)
        inside = QWidget()
        inside.setObjectName("Inside")
        self.column = QVBoxLayout(inside)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(8)
        self.column.addStretch(1)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(inside)
        session.pass_changed.connect(lambda: self.arrange())
        session.look_changed.connect(self._on_look_changed)
        session.keys.changed.connect(self._on_keys_chosen)
        self.arrange(AT_FIRST)
        QTimer.singleShot(0, self.arrange)

    def _new(self, name: str, panel: Panel) -> None:
        self._made[name] = panel
        panel.set_folded(name in self._folded)
        panel.folded_changed.connect(lambda: self._remember(name, panel))
        panel.hide()

    def _remember(self, name: str, panel: Panel) -> None:
        (self._folded.add if panel.folded else self._folded.discard)(name)

    @cached_property
    def breakdown(self) -> BreakdownPanel:
        """Favours, fills, push and settle."""
        panel = BreakdownPanel(self.session)
        self._new("breakdown", panel)
        return panel

    @cached_property
    def span(self) -> SpanPanel:
        """Held or eased."""
        panel = SpanPanel(self.session)
        self._new("span", panel)
        return panel

    @cached_property
    def keys(self) -> KeysPanel:
        """What keys go on."""
        panel = KeysPanel(self.session)
        self._new("keys", panel)
        return panel

    @cached_property
    def values(self) -> ValuesPanel:
        """Numbers of the chosen controls."""
        panel = ValuesPanel(self.session)
        self._new("values", panel)
        return panel

    @cached_property
    def light(self) -> LightPanel:
        """The light table's settings."""
        panel = LightPanel(self.session)
        self._new("light", panel)
        return panel

    @cached_property
    def poses(self) -> PoseBookPanel:
        """The pose book."""
        panel = PoseBookPanel(self.session, self._pictures)
        panel.run = self._run
        self._new("poses", panel)
        return panel

    @cached_property
    def traces(self) -> TracesPanel:
        """Earlier curves."""
        panel = TracesPanel(self.session)
        panel.keep.clicked.connect(lambda: self._run("trace.keep"))
        self._new("traces", panel)
        return panel

    @cached_property
    def markers(self) -> MarkersPanel:
        """The list of markers."""
        panel = MarkersPanel(self.session)
        panel.add.clicked.connect(lambda: self._run("marker.add"))
        self._new("markers", panel)
        return panel

    @cached_property
    def chosen_keys(self) -> ChosenKeysPanel:
        """What is done to chosen keys by number; it shows and hides itself."""
        panel = ChosenKeysPanel(self.session)
        self.column.insertWidget(0, panel)
        panel.refresh()
        return panel

    def _on_keys_chosen(self) -> None:
        if self.session.keys:
            _ = self.chosen_keys

    def _on_look_changed(self) -> None:
        if self.session.light_table.on != ("light" in self._made and not self._made["light"].isHidden()):
            self.arrange()

    def arrange(self, most: int | None = None) -> None:
        """The panels of the pass, in its order (or only the first of them); the light table's whenever it is on."""
        wanted = [*self.session.pass_.panels[:most], *(["light"] if self.session.light_table.on else [])]
        first = 1 if "chosen_keys" in self.__dict__ else 0
        for place, name in enumerate(wanted):
            panel: Panel = getattr(self, name)
            self.column.removeWidget(panel)
            self.column.insertWidget(place + first, panel)
        for name, panel in self._made.items():
            panel.setVisible(name in wanted)

    def folded(self) -> str:
        """The names of folded panels, to remember."""
        return " ".join(sorted(self._folded))

    def fold(self, names: str) -> None:
        """Fold these panels and open the others."""
        self._folded = set(names.split())
        for name, panel in list(self._made.items()):
            panel.set_folded(name in names.split())
