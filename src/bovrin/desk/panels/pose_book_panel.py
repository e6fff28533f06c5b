"""The pose book in the right column: cards, and the chosen card's name, note and reference frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QWidget

from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.numbers import typed_number
from bovrin.desk.kit.widgets import Panel, Pills, muted, push_button
from bovrin.desk.panels.pose_cards import PoseCards
from bovrin.desk.state.book import Book
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.errors import BadMotion
from bovrin.shot import Unit

MIRRORS = {
    "Swap sides": ("pose.mirror", "Swap left and right of the pose here (M)"),
    "L to R": ("pose.mirror_to_right", "Pose the right side as the left one is, mirrored"),
    "R to L": ("pose.mirror_to_left", "Pose the left side as the right one is, mirrored"),
}

ABOUTS = {
    "the figure": "Sides change about the figure's own middle, wherever it stands and faces",
    "the world": "Sides and facing change about the middle of the world",
}


class PoseBookPanel(Panel):
    """Keep poses, apply them, write notes on them."""

    def __init__(self, session: Session, book: Book, pictures: CardPictures, run: Callable[[str], object]) -> None:
        super().__init__(title="Pose book")
        self.session, self.book, self.run = session, book, run
        self.count = muted()
        self.head.addWidget(self.count)
        self.keep_button = QPushButton("Keep this pose")
        self.keep_button.setToolTip("Keep the pose here as a card (Ctrl+B); 'Keys go on' says how much of the figure")
        self.keep_button.clicked.connect(lambda _checked: run("pose.keep"))
        self.head.addWidget(self.keep_button)
        self.mirrors = Pills(list(MIRRORS), self._on_mirror, [tooltip for _, tooltip in MIRRORS.values()])
        mirror = QHBoxLayout()
        mirror.addWidget(QLabel("Mirror"))
        mirror.addWidget(self.mirrors, 1)
        self.column.addLayout(mirror)
        self.abouts = Pills(list(ABOUTS), self._on_about, list(ABOUTS.values()))
        self.place = QPushButton("place too")
        self.place.setCheckable(True)
        self.place.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.place.setToolTip(
            "Where the figure stands is mirrored too: about the world's middle, or its way over the keys (Shift+M) about itself"
        )
        self.place.clicked.connect(lambda on: session.change_keying(mirror_place=on))
        about = QHBoxLayout()
        about.setSpacing(1)
        about.addWidget(QLabel("about"))
        about.addWidget(self.abouts, 1)
        about.addWidget(self.place)
        self.column.addLayout(about)
        self.lay_out = push_button("Lay out…", tooltip("cycle.lay_out"), lambda: run("cycle.lay_out"))
        self.add_row(self.lay_out)
        self.empty = muted(
            "Keep a pose to use it again: on any frame, mirrored, by a share, on another figure.", wrap=True
        )
        self.column.addWidget(self.empty)
        self.cards = PoseCards(session, self.book, pictures)
        self.cards.picked.connect(self._on_picked)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.cards)
        self.cards.setObjectName("Inside")
        self.column.addWidget(self.area)
        self._details = self._make_details()
        self.column.addWidget(self._details)
        self.book.changed.connect(self._on_book_changed)
        session.choice.changed.connect(self._on_figure_changed)
        session.keying_changed.connect(self._on_keying_changed)
        self._on_keying_changed()
        self._figure, self._count = session.figure_name, len(book.poses)
        self._on_book_changed()

    def _on_mirror(self, word: str) -> None:
        self.run(MIRRORS[word][0])
        self.mirrors.show_chosen("")

    def _on_about(self, word: str) -> None:
        self.session.change_keying(mirror_about=word.removeprefix("the "))

    def _on_keying_changed(self) -> None:
        self.abouts.show_chosen(f"the {self.session.keying.mirror_about}")
        self.place.setChecked(self.session.keying.mirror_place)

    def _make_details(self) -> QWidget:
        host = QWidget()
        grid = QGridLayout(host)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(3)
        self.name, self.note, self.reference = QLineEdit(), QLineEdit(), QLineEdit()
        self.note.setPlaceholderText("Note")
        self.reference.setPlaceholderText("Reference frame")
        for row, (words, field) in enumerate((("Name", self.name), ("Note", self.note), ("Reference", self.reference))):
            field.setAccessibleName(f"Pose {words.lower()}")
            field.editingFinished.connect(self._on_written)
            grid.addWidget(QLabel(words), row, 0)
            grid.addWidget(field, row, 1, 1, 2)
        self.mirrored = QPushButton("Apply mirrored")
        self.mirrored.setToolTip("Apply the card with its sides swapped (Shift and click on the card)")
        self.mirrored.clicked.connect(lambda: self.cards.apply(self.cards.chosen, mirrored=True))
        self.remove_button = QPushButton("Remove")
        self.remove_button.setToolTip("Take the card out of the book")
        self.remove_button.clicked.connect(self.remove)
        grid.addWidget(self.mirrored, 3, 1)
        grid.addWidget(self.remove_button, 3, 2)
        return host

    def _on_book_changed(self) -> None:
        poses = self.book.poses
        if len(poses) > self._count:
            self.cards.chosen = len(self.cards.poses()) - 1
        self._count = len(poses)
        shown = len(self.cards.poses())
        rows = min(-(-shown // 3), 2)
        self.area.setFixedHeight(max(rows * 98, 1))
        self.area.setVisible(shown > 0)
        self.empty.setVisible(not poses)
        self.lay_out.setVisible(sum(pose.reference is not None for pose in poses) > 1)
        self.count.setText(f"{len(poses)}" if poses else "")
        self._on_picked(self.cards.chosen)

    def _on_figure_changed(self) -> None:
        if self.session.figure_name != self._figure:
            self._figure = self.session.figure_name
            self.cards.chosen = -1
            self._on_book_changed()

    def _on_picked(self, card: int) -> None:
        at = self._book_index(card)
        self._details.setVisible(at is not None)
        if at is not None:
            pose = self.book.poses[at]
            self.name.setText(pose.name)
            self.note.setText(pose.note)
            self.reference.setText("" if pose.reference is None else f"{pose.reference:g}")

    def _book_index(self, card: int) -> int | None:
        """Where a card's pose is in the book; None for the default pose, or no card."""
        at = card - (len(self.cards.poses()) - len(self.book.poses))
        return at if 0 <= at < len(self.book.poses) else None

    def _on_written(self) -> None:
        card = self.cards.chosen
        at = self._book_index(card)
        if at is None:
            return
        pose = self.book.poses[at]
        words = self.reference.text().strip()
        try:
            reference = typed_number(words, Unit.SWITCH, 0.0) if words else None
        except BadMotion:
            self.session.voice.tell(f"'{words}' is not a frame number. Type one such as 214, or nothing.")
            self._on_picked(card)
            return
        new = replace(
            pose, name=self.name.text().strip() or pose.name, note=self.note.text().strip(), reference=reference
        )
        if (new.name, new.note, new.reference) != (pose.name, pose.note, pose.reference):
            self.book.put((*self.book.poses[:at], new, *self.book.poses[at + 1 :]))

    def remove(self) -> None:
        """Take the chosen card out; it can be put back as long as the message stands."""
        at = self._book_index(self.cards.chosen)
        if at is None:
            return
        before = self.book.poses
        gone = before[at]
        if self.book.put((*before[:at], *before[at + 1 :])):
            words = f"'{gone.name}' is out of the pose book."
            self.session.voice.offer(words, ("Put it back", lambda: self.book.put(before)))
