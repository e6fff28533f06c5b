"""What needs a person's answer: which file, and what to do with unsaved work."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

Answer = QMessageBox.StandardButton


class Asking:
    """Asks over a window."""

    def __init__(self, parent: QWidget) -> None:
        self._parent = parent

    def file_to_open(self, words: str, folder: Path, kinds: str) -> Path | None:
        """A file that is there, or None."""
        name, _ = QFileDialog.getOpenFileName(self._parent, words, str(folder), kinds)
        return Path(name) if name else None

    def file_to_write(self, words: str, start: Path, kinds: str) -> Path | None:
        """Where to write, or None."""
        name, _ = QFileDialog.getSaveFileName(self._parent, words, str(start), kinds)
        return self._with_ending(Path(name), kinds) if name else None

    def _with_ending(self, path: Path, kinds: str) -> Path | None:
        """The path with an ending of its kind, which a bare name gets; whether to write over what has that name is asked."""
        endings = re.findall(r"\*(\.[\w.]+)", kinds)
        if not endings or path.name.lower().endswith(tuple(endings)):
            return path
        ended = path.with_name(path.name.removesuffix(Path(endings[0]).suffix) + endings[0])
        words = f"{ended.name} is there already."
        return ended if not ended.exists() or self.which("Write over it?", words, ("Write over it",)) == 0 else None

    def number(self, title: str, words: str, now: int, least: int, most: int) -> int | None:
        """A whole number, or None."""
        found, given = QInputDialog.getInt(self._parent, title, words, now, least, most)
        return found if given else None

    def which(self, title: str, words: str, answers: Sequence[str]) -> int | None:
        """Which of some answers, the first by default, or None."""
        box = QMessageBox(QMessageBox.Icon.Question, title, words, Answer.Cancel, self._parent)
        buttons = [box.addButton(answer, QMessageBox.ButtonRole.AcceptRole) for answer in answers]
        box.setDefaultButton(buttons[0])
        box.exec()
        return next((n for n, button in enumerate(buttons) if box.clickedButton() is button), None)

    def unsaved(self, title: str) -> QMessageBox.StandardButton:
        """Save, discard or cancel."""
        return QMessageBox.question(
            self._parent,
            "Unsaved work",
            f"'{title}' has changes that are not saved.",
            Answer.Save | Answer.Discard | Answer.Cancel,
            Answer.Save,
        )
