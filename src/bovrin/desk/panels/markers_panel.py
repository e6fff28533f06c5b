"""The markers of the shot as a list: where, what, of which kind; words can be changed in place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton

from bovrin.craft.markers import change_marker, remove_marker
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Panel, Pills, dot_icon, muted
from bovrin.desk.state.document.session import Session
from bovrin.picture.theme import PENCIL_ROLES
from bovrin.shot import MARKER_KINDS, Marker, Unit

HIGH = 6
"""Rows that are seen without scrolling."""


class MarkersPanel(Panel):
    """Click to go there, double click for the words; start and end can be typed."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Markers")
        self.session = session
        self.add = QPushButton("Add")
        self.add.setToolTip("Add a marker on the current frame (N)")
        self.add.clicked.connect(lambda _checked: run("marker.add"))
        self.count = muted()
        self.head.addWidget(self.count)
        self.head.addWidget(self.add)
        self.empty = muted("Markers name what happens: sounds, dialogue, sections. N adds one.", wrap=True)
        self.column.addWidget(self.empty)
        self.list = QListWidget()
        self.list.setAccessibleName("Markers")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setToolTip("Click to go there, double click for other words, Del takes one away")
        self.list.currentRowChanged.connect(self._on_row)
        self.list.itemClicked.connect(lambda _item: self._go())
        self.list.itemChanged.connect(self._on_worded)
        self.column.addWidget(self.list)
        self.start, self.end = self._field("start", "First frame"), self._field("end", "Last frame")
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Take the marker away")
        self.remove.clicked.connect(self._on_remove)
        line = QHBoxLayout()
        for widget in (muted("From"), self.start, muted("to"), self.end, self.remove):
            line.addWidget(widget)
        line.addStretch(1)
        self.column.addLayout(line)
        self.kinds = Pills(list(MARKER_KINDS), self._on_kind, ["A note", "Names a part of the shot", "What is said"])
        self.column.addWidget(self.kinds)
        self._shown: tuple[Marker, ...] | None = None
        session.document.changed.connect(self._on_shot_changed)
        self._on_shot_changed()

    def _field(self, which: str, tip: str) -> NumberField:
        field = NumberField(Unit.SWITCH, "", f"marker {which}")
        field.setFixedWidth(52)
        field.setToolTip(tip)
        field.taken.connect(lambda value: self._change(f"Marker {which}", **{which: value}))
        field.refused.connect(self.session.voice.tell)
        return field

    def chosen(self) -> Marker | None:
        """The marker of the chosen row."""
        row = self.list.currentRow()
        return self._shown[row] if self._shown and 0 <= row < len(self._shown) else None

    def _on_shot_changed(self) -> None:
        markers = self.session.shown.markers
        if markers == self._shown:
            return
        row = self.list.currentRow()
        self._shown = markers
        self.list.blockSignals(True)
        self.list.clear()
        for marker in markers:
            item = QListWidgetItem(dot_icon(Look.colour(PENCIL_ROLES[marker.pencil]), 16, 10, 3), marker.words)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            span = f"{marker.start:g}" if marker.end == marker.start else f"{marker.start:g} to {marker.end:g}"
            item.setToolTip(f"{marker.kind.capitalize()}, {span}")
            self.list.addItem(item)
        self.list.setCurrentRow(min(row, len(markers) - 1))
        self.list.blockSignals(False)
        self.list.setFixedHeight(max(min(len(markers), HIGH), 1) * max(self.list.sizeHintForRow(0), 20) + 4)
        self.count.setText(f"{len(markers)}" if markers else "")
        self.empty.setVisible(not markers)
        self.list.setVisible(bool(markers))
        self._on_row()

    def _on_row(self, _row: int = 0) -> None:
        marker = self.chosen()
        for widget in (self.start, self.end, self.remove, self.kinds):
            widget.setEnabled(marker is not None)
        self.kinds.show_chosen("" if marker is None else marker.kind)
        for field, value in zip(
            (self.start, self.end), (None, None) if marker is None else (marker.start, marker.end), strict=True
        ):
            if value is None:
                field.show_none()
            else:
                field.show_value(value)

    def _go(self) -> None:
        marker = self.chosen()
        if marker is not None:
            self.session.go_to(marker.start)

    def _on_worded(self, item: QListWidgetItem) -> None:
        if not self._change("Reword a marker", words=item.text()):
            self._shown = None
            self._on_shot_changed()

    def _on_kind(self, kind: str) -> None:
        self._change("Kind of marker", kind=kind)
        self._on_row()

    def _change(self, name: str, **changes: object) -> bool:
        marker, row = self.chosen(), self.list.currentRow()
        if marker is None:
            return False
        new = replace(marker, **changes)  # type: ignore[arg-type]
        done = self.session.do(name, lambda shot: change_marker(shot, marker, new))
        if done and self._shown and new in self._shown:
            row = self._shown.index(new)
        self.list.setCurrentRow(row)
        self._on_row()
        return done

    def _on_remove(self) -> None:
        marker = self.chosen()
        if marker is not None:
            self.session.do("Remove a marker", lambda shot: remove_marker(shot, marker))
