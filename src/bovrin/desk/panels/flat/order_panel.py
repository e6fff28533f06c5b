"""The pile of a flat figure's parts: which lies before which. Parts are dragged in it, and the picture follows."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QModelIndex, QSignalBlocker, Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QAbstractItemView, QListWidget

from bovrin.craft.flat.stacking import stacking
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.widgets import Panel, muted, push_button
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.flat import chosen_parts, flat_figure, stack_parts

ROWS = 9
"""Rows of the pile that are seen at once."""


class OrderPanel(Panel):
    """The parts, the foremost on top."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="In front")
        self.session = session
        self.pile = QListWidget()
        self.pile.setAccessibleName("Parts, the foremost first")
        self.pile.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.pile.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.pile.setToolTip("Drag a part up to put it before others, down to put it behind them, from this frame on")
        self.column.addWidget(self.pile)
        self.column.addWidget(muted("Behind"))
        rows = (("flat.front", "To the front"), ("flat.back", "To the back"))
        self.buttons = {i: push_button(w, tooltip(i), lambda c=i: run(c)) for i, w in rows}  # type: ignore[misc]
        self.add_row(*self.buttons.values())
        model = self.pile.model()
        assert model is not None
        model.rowsMoved.connect(self._on_moved)
        self.pile.itemSelectionChanged.connect(self._on_chosen)
        for signal in (session.choice.changed, session.document.frame_changed, session.document.committed):
            signal.connect(self._on_changed)
        self._on_changed()

    def names(self) -> list[str]:
        """The parts as they lie in the pile, the foremost first."""
        items = (self.pile.item(n) for n in range(self.pile.count()))
        return [item.text() for item in items if item is not None]

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_changed()

    def _on_changed(self) -> None:
        if not self.isVisible():  # while it plays nobody looks at a pile that is put away
            return
        session, figure = self.session, flat_figure(self.session)
        wanted = stacking(session.shown, figure.name, session.frame) if figure is not None else []
        chosen = set(chosen_parts(session))
        with QSignalBlocker(self.pile):
            if wanted != self.names():
                self.pile.clear()
                self.pile.addItems(wanted)
                high = self.pile.sizeHintForRow(0) if wanted else 0
                self.pile.setFixedHeight(high * min(len(wanted), ROWS) + 2 * self.pile.frameWidth())
            for n in range(self.pile.count()):
                item = self.pile.item(n)
                assert item is not None
                item.setSelected(item.text() in chosen)
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsDropEnabled)
        self.updateGeometry()

    def _on_chosen(self) -> None:
        figure = flat_figure(self.session)
        if figure is not None:
            names = [item.text() for item in self.pile.selectedItems()]
            self.session.choose(figure.name, [figure.rig.control(name) for name in names])

    def _on_moved(self, _from: QModelIndex, _first: int, _last: int, _to: QModelIndex, _row: int) -> None:
        """Rows were dragged: what moved goes right behind what lies above it now."""
        names, session = self.names(), self.session
        before = stacking(session.shot, session.figure_name, session.frame)
        moved = [n for n in names if n in {item.text() for item in self.pile.selectedItems()}] or _moved(before, names)
        if moved and names != before:
            at = names.index(moved[0])
            stack_parts(session, moved, "front" if at == 0 else f"behind {names[at - 1]}")
        self._on_changed()


def _moved(before: list[str], after: list[str]) -> list[str]:
    """The one row that was taken elsewhere."""
    return [name for name in after if [n for n in after if n != name] == [n for n in before if n != name]][:1]
