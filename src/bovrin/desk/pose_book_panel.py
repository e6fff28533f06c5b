"""The pose book in the right column: cards, and the chosen card's name, note and reference frame."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QWidget

from bovrin.craft.keys import edited
from bovrin.craft.poses import pasted_values
from bovrin.desk.book import Book
from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.numbers import typed_number
from bovrin.desk.pose_cards import PoseCards
from bovrin.desk.posing_commands import copied_pose
from bovrin.desk.session import Session
from bovrin.desk.widgets import Panel, muted, title
from bovrin.errors import BadMotion, BovrinError
from bovrin.shot import Pose, Shot, Unit

BOOKS = "Pose books (*.poses.json);;All files (*)"


class PoseBookPanel(Panel):
    """Keep poses, apply them, write notes on them."""

    def __init__(self, session: Session, pictures: CardPictures) -> None:
        super().__init__()
        self.session = session
        self.book = Book(session.tell)
        head = QHBoxLayout()
        head.addWidget(title("Pose book"))
        head.addStretch(1)
        self.count = muted()
        head.addWidget(self.count)
        self.keep_button = QPushButton("Keep this pose")
        self.keep_button.setToolTip("Keep the pose here as a card (Ctrl+B); 'Keys go on' says how much of the figure")
        self.keep_button.clicked.connect(self.keep)
        head.addWidget(self.keep_button)
        self.column.addLayout(head)
        self.empty = muted(
            "Keep a pose to use it again: on any frame, mirrored, by a share, on another figure.", wrap=True
        )
        self.column.addWidget(self.empty)
        self.cards = PoseCards(session, self.book, pictures)
        self.cards.make = self._made
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
        self._on_book_changed()

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
        rows = min(-(-len(poses) // 3), 2)
        self.area.setFixedHeight(max(rows * 98, 1))
        self.area.setVisible(bool(poses))
        self.empty.setVisible(not poses)
        self.count.setText(f"{len(poses)}" if poses else "")
        self._on_picked(self.cards.chosen)

    def _on_picked(self, card: int) -> None:
        self._details.setVisible(0 <= card < len(self.book.poses))
        if self._details.isVisibleTo(self):
            pose = self.book.poses[card]
            self.name.setText(pose.name)
            self.note.setText(pose.note)
            self.reference.setText("" if pose.reference is None else f"{pose.reference:g}")

    def _on_written(self) -> None:
        card = self.cards.chosen
        if not 0 <= card < len(self.book.poses):
            return
        pose = self.book.poses[card]
        words = self.reference.text().strip()
        try:
            reference = typed_number(words, Unit.SWITCH, 0.0) if words else None
        except BadMotion:
            self.session.tell(f"'{words}' is not a frame number. Type one such as 214, or nothing.")
            self._on_picked(card)
            return
        new = replace(
            pose, name=self.name.text().strip() or pose.name, note=self.note.text().strip(), reference=reference
        )
        if (new.name, new.note, new.reference) != (pose.name, pose.note, pose.reference):
            self.book.put((*self.book.poses[:card], new, *self.book.poses[card + 1 :]))

    def _made(self, pose: Pose, amount: float, mirrored: bool) -> Shot:
        """The shot with a share of a pose, for the parts that "Keys go on" stands for."""
        session = self.session
        figure = session.figure
        if figure is None:
            raise BovrinError("there is no figure to pose.")
        shot = session.shot
        changes = pasted_values(shot, figure.name, session.frame, pose, amount, mirrored=mirrored, place=False)
        if session.scope != "whole figure" and session.controls:
            wanted = {i for c in session.scope_controls() for i in figure.rig.span(c)}
            changes = {i: v for i, v in changes.items() if i in wanted}
        locked = set(session.locked_channels())
        changes = {i: v for i, v in changes.items() if i not in locked}
        return edited(shot, figure.name, session.frame, changes, session.scope, session.key_style)

    def keep(self) -> None:
        """Keep the pose here as a new card."""
        try:
            pose = copied_pose(self.session)
        except BovrinError as error:
            self.session.fail(error)
            return
        self.book.put((*self.book.poses, pose.named(self.book.free_name(pose.name))))
        self.cards.chosen = len(self.book.poses) - 1
        self._on_picked(self.cards.chosen)
        self.session.tell(f"Kept '{self.book.poses[-1].name}' in the pose book.")

    def remove(self) -> None:
        """Take the chosen card out; it can be put back as long as the message stands."""
        card = self.cards.chosen
        before = self.book.poses
        gone = before[card]
        self.book.put((*before[:card], *before[card + 1 :]))
        self.session.offered.emit(
            f"'{gone.name}' is out of the pose book.", "Put it back", lambda: self.book.put(before)
        )

    def ask_open(self) -> None:
        """Let the animator choose another book."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a pose book", str(self.book.path.parent), BOOKS)
        if name and self.book.open(Path(name)):
            self.session.tell(f"{len(self.book.poses)} poses from {Path(name).name}.")

    def ask_save_as(self) -> None:
        """Ask where to keep the poses."""
        name, _ = QFileDialog.getSaveFileName(self, "Keep the pose book", str(self.book.path), BOOKS)
        if name and self.book.save_as(Path(name)):
            self.session.tell(f"The pose book is now {Path(name).name}.")
