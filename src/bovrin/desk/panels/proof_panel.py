"""The proof in the right column: each note with its remedy, seen before it is kept."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPoint, QSize, Qt
from PyQt6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QMenu, QPushButton, QWidget

from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.menus import add_action, popup
from bovrin.desk.kit.widgets import Panel, muted, push_button
from bovrin.desk.state.looking.proofread import Proofread
from bovrin.measure.proof import KINDS, Note

ROWS, ROW_HEIGHT, MOST = 7, 27, 150
"""Rows in sight, their height, and how many notes are listed at the most; of a recording there may be thousands."""
SIGNS = {
    "slide": "▲",
    "ground": "▼",
    "balance": "◔",
    "kink": "∿",
    "pop": "∧",
    "flip": "↻",
    "locked": "⁄",
    "snap": "⁄",
    "early": "◂",
    "overshoot": "⌒",
    "together": "≡",
    "twins": "‖",
    "dead hold": "–",
    "seam": "∞",
    "tremble": "≈",
    "idle key": "○",
}


class NoteRow(QWidget):
    """One note: its sign, words, frames, and the remedy to press."""

    def __init__(self, note: Note, remedy: str, press: Callable[[], object]) -> None:
        super().__init__()
        self.note = note
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 0, 0, 0)
        row.setSpacing(4)
        sign = QLabel(SIGNS[note.kind])
        sign.setFixedWidth(13)
        sign.setObjectName("NoteSign")
        self.words = QLabel(note.words)
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self.words.setMinimumWidth(20)
        frames = muted(spoken_frames(note))
        row.addWidget(sign)
        row.addWidget(self.words, 1)
        row.addWidget(frames)
        kind = KINDS[note.kind]
        self.setToolTip(f"{note.figure}: {note.words}\n{kind.title}: {kind.measure}")
        self.setAccessibleName(f"{note.words}, {spoken_frames(note)}")
        if remedy:
            self.remedy = QPushButton(remedy)
            self.remedy.setObjectName("Link")
            self.remedy.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.remedy.setToolTip("See it first; then keep it or not")
            self.remedy.clicked.connect(lambda _checked: press())
            row.addWidget(self.remedy)


def spoken_frames(note: Note) -> str:
    """The frames of a note in short."""
    return f"{note.start:g}" if note.start == note.end else f"{note.start:g}–{note.end:g}"


class ProofPanel(Panel):
    """What a strict supervisor would say. Up and Down go from note to note, Return shows a remedy and then keeps it."""

    def __init__(self, proofread: Proofread, run: Callable[[str], object]) -> None:
        super().__init__(title="Proof")
        self.proofread, self._listing_left, self._filling, self._watching = proofread, False, False, False
        self.count = muted()
        self.head.addWidget(self.count)
        self.list = QListWidget()
        self.list.setAccessibleName("Notes of the proof")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(self._on_row)
        self.list.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.list.customContextMenuRequested.connect(self._show_menu)
        self.empty = muted(wrap=True)
        self.column.addWidget(self.empty)
        self.column.addWidget(self.list)
        self.keep = push_button("Keep", tooltip("proof.keep"), lambda: run("proof.keep"))
        self.back = push_button("Back", "Not like that: everything as it was (Escape)", proofread.drop)
        self.leave = push_button("Leave it", tooltip("proof.leave"), lambda: run("proof.leave"))
        self.others = push_button("", "Notes that are left as they are", self._on_others)
        self.others.setCheckable(True)
        self.limits = push_button("Thresholds…", tooltip("proof.limits"), lambda: run("proof.limits"))
        self.add_row(self.keep, self.back, self.leave, self.others).addWidget(self.limits)
        proofread.changed.connect(self._show_all)
        self._show_all()

    # -- showing ------------------------------------------------------------------------------------------------------

    def listed(self) -> list[Note]:
        """The notes in the list."""
        return (self.proofread.left if self._listing_left else self.proofread.notes)[:MOST]

    def _show_all(self) -> None:
        proofread, notes = self.proofread, self.listed()
        left = len(proofread.left)
        if self._listing_left and not left:
            self._listing_left, notes = False, proofread.notes
        self._fill(notes)
        every = len(proofread.left if self._listing_left else proofread.notes)
        words = f"{every} note{'s' if every != 1 else ''}" + (f", the first {MOST}" if every > MOST else "")
        self.count.setText(f"{words}, left" if self._listing_left else words if proofread.up_to_date else "reading…")
        self.empty.setText("Nothing to note." if proofread.up_to_date else "The shot is being read…")
        self.empty.setVisible(not notes)
        self.list.setVisible(bool(notes))
        trying, picked = proofread.trying is not None, proofread.picked in notes
        self.keep.setVisible(trying)
        self.back.setVisible(trying)
        self.leave.setVisible(not trying and picked)
        self.leave.setText("List it again" if self._listing_left else "Leave it")
        self.others.setVisible(bool(left) and not trying)
        self.others.setText(f"Left: {left}")
        self.others.setChecked(self._listing_left)

    def _fill(self, notes: list[Note]) -> None:
        self._filling = True
        shown = [row.note for row in self.rows()]
        if shown != notes:
            self.list.clear()
            for note in notes:
                item = QListWidgetItem()
                self.list.addItem(item)
                row = NoteRow(note, "" if self._listing_left else note.remedy or "", lambda n=note: self._press(n))  # type: ignore[misc]
                item.setSizeHint(QSize(0, ROW_HEIGHT))
                self.list.setItemWidget(item, row)
            self.list.setFixedHeight(max(min(len(notes), ROWS), 1) * ROW_HEIGHT + 8)
        picked = self.proofread.picked
        self.list.setCurrentRow(notes.index(picked) if picked in notes else -1)
        self._filling = False

    def rows(self) -> list[NoteRow]:
        """The rows of the list."""
        found = (self.list.itemWidget(self.list.item(n)) for n in range(self.list.count()))
        return [row for row in found if isinstance(row, NoteRow)]

    # -- doing --------------------------------------------------------------------------------------------------------

    def _press(self, note: Note) -> None:
        self.list.setFocus()
        self.proofread.try_remedy(note)

    def _on_row(self, row: int) -> None:
        notes = self.listed()
        if not self._filling and 0 <= row < len(notes):
            self.proofread.pick(notes[row])

    def _on_others(self) -> None:
        self._listing_left = not self._listing_left
        self._show_all()

    def _show_menu(self, at: QPoint) -> None:
        item = self.list.itemAt(at)
        if item is None:
            return
        note, proofread, menu = self.listed()[self.list.row(item)], self.proofread, QMenu()
        if self._listing_left:
            add_action(menu, "List it again", lambda: proofread.list_again(note))
        else:
            if note.remedy:
                add_action(menu, f"See: {note.remedy}", lambda: proofread.try_remedy(note))
            add_action(menu, "Leave it", lambda: proofread.leave(note))
        popup(menu, self.list.mapToGlobal(at), self.list)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        proofread = self.proofread
        key = None if event is None else event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and proofread.picked in self.listed():
            picked = proofread.picked
            assert picked is not None
            proofread.keep() if proofread.trying else proofread.try_remedy(picked)
        elif key == Qt.Key.Key_Escape and proofread.trying:
            proofread.drop()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and proofread.picked in proofread.notes:
            proofread.leave(proofread.picked)
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._watch(on=True)

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.proofread.drop()
        self._watch(on=False)

    def _watch(self, *, on: bool) -> None:
        if on != self._watching:
            self._watching = on
            self.proofread.watch(on=on)
