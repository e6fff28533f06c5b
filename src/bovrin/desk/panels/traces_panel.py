"""Traces in the right column: kept, shown, named, swapped, forgotten."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QPushButton

from bovrin.craft.traces import remove_trace, rename_trace, swap_trace, traces_of
from bovrin.desk.kit.widgets import Panel, muted, push_button
from bovrin.desk.state.document.session import Session
from bovrin.shot import Trace


class TracesPanel(Panel):
    """Earlier curves of the chosen figure. The tick shows one under the curves; double click names it."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Traces")
        self.session = session
        self.keep = QPushButton("Keep")
        self.keep.setToolTip("Keep the curves as they are (Ctrl+T)")
        self.keep.clicked.connect(lambda _checked: run("trace.keep"))
        self.head.addWidget(self.keep)
        self.empty = muted("Keep a trace before a bold change: it can be compared with and swapped back.", wrap=True)
        self.column.addWidget(self.empty)
        self.list = QListWidget()
        self.list.setAccessibleName("Traces")
        self.list.setToolTip("The tick shows a trace under the curves; double click gives it another name")
        self.list.itemChanged.connect(self._on_item)
        self.column.addWidget(self.list)
        self.swap = push_button(
            "Swap", "The trace becomes the motion, the motion the trace; again: back", self._on_swap
        )
        self.forget = push_button("Forget", "Take the trace away", self._on_forget)
        self.add_row(self.swap, self.forget)
        self._shown: list[Trace] | None = None
        for signal in (session.document.committed, session.choice.changed, session.looking_changed):
            signal.connect(self._on_changed)
        self._on_changed()

    def chosen(self) -> Trace | None:
        """The trace of the chosen row, or the newest."""
        if not self._shown:
            return None
        row = self.list.currentRow()
        return self._shown[row if 0 <= row < len(self._shown) else -1]

    def _on_changed(self) -> None:
        session = self.session
        traces = traces_of(session.shot, session.figure_name)
        row = self.list.currentRow()
        self._shown = traces
        self.list.blockSignals(True)
        self.list.clear()
        for trace in traces:
            item = QListWidgetItem(trace.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable | Qt.ItemFlag.ItemIsUserCheckable)
            seen = (trace.figure, trace.name) in session.looking.traces
            item.setCheckState(Qt.CheckState.Checked if seen else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.setCurrentRow(min(row, len(traces) - 1) if row >= 0 else len(traces) - 1)
        self.list.blockSignals(False)
        self.list.setFixedHeight(max(min(len(traces), 4), 1) * max(self.list.sizeHintForRow(0), 22) + 4)
        self.empty.setVisible(not traces)
        self.list.setVisible(bool(traces))
        for button in (self.swap, self.forget):
            button.setVisible(bool(traces))

    def _on_item(self, item: QListWidgetItem) -> None:
        session, row = self.session, self.list.row(item)
        if not self._shown or not 0 <= row < len(self._shown):
            return
        trace = self._shown[row]
        words, place = item.text().strip(), (trace.figure, trace.name)
        on = item.checkState() == Qt.CheckState.Checked
        others = session.looking.traces - {place}
        if words != trace.name:
            if session.do("Name a trace", lambda shot: rename_trace(shot, trace.figure, trace.name, words)) and on:
                session.change_looking(traces=others | {(trace.figure, words)})
            self._on_changed()
        else:
            session.change_looking(traces=others | {place} if on else others)

    def _on_swap(self) -> None:
        trace = self.chosen()
        if trace is not None:
            self.session.do(f"Swap with '{trace.name}'", lambda shot: swap_trace(shot, trace.figure, trace.name))

    def _on_forget(self) -> None:
        trace = self.chosen()
        if trace is not None:
            self.session.do(f"Forget '{trace.name}'", lambda shot: remove_trace(shot, trace.figure, trace.name))
