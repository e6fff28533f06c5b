"""The setup sheet of a flat figure: pivots on the drawing, what hangs on what in a list, which way it faces, how tall it is."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDropEvent, QIcon, QImage, QPixmap
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from bovrin.craft.flat.new_setup import check_setup, with_flat_setup
from bovrin.desk.kit.images import seen_box
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Pills, muted, push_button, title
from bovrin.desk.sheets.flat_setup_picture import FlatPicture
from bovrin.desk.state.document.session import Session
from bovrin.errors import BadFigure
from bovrin.figure.flat.assembling import FlatSetup, layers_now, setup_now
from bovrin.figure.flat.guess import facing_of, parents_of, pivots_of
from bovrin.figure.flat.layers import Facing
from bovrin.formats.flat.kept_flat import keep_flat
from bovrin.formats.flat.seen import masks_of
from bovrin.shot import Unit

TRIED = 25.0
"""Degrees that a part is turned by to try it."""
FACES = {"to the right": Facing.RIGHT, "to the left": Facing.LEFT, "to the front": Facing.FRONT}
ICON = 26
WORDS = "Drag a dot to where its part turns. Drag a part in the list onto the part that it hangs on."


class FlatSetupSheet(QDialog):
    """What a drawing's parts were taken for. Nothing changes in the shot until it is kept."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        figure = session.figure
        assert figure is not None
        self.session, self.figure = session, figure
        self.setWindowTitle(f"Set up {figure.name}")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(1060, 680)
        self._layers = layers_now(figure)
        self.setup: FlatSetup = setup_now(figure)
        self.part = ""
        self.trying = False
        self._build()
        self._fill()
        self._show()

    # -- how it is laid out -------------------------------------------------------------------------------------------

    def _build(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 14, 14, 14)
        row.setSpacing(14)
        self.picture = FlatPicture(self._layers)
        self.picture.chosen.connect(self.choose)
        self.picture.moved.connect(self.put_pivot)
        right = QVBoxLayout()
        right.addWidget(title(f"The parts of {self.figure.name}"))
        right.addWidget(muted(WORDS, wrap=True))
        self.list = PartTree()
        self.list.dropped.connect(self._on_dropped)
        self.list.currentItemChanged.connect(lambda now, _before: self.choose(now.text(0) if now is not None else ""))
        right.addWidget(self.list, 1)
        self.faces = Pills(list(FACES), lambda words: self.change(facing=FACES[words].value))
        right.addWidget(QLabel("It faces"))
        right.addWidget(self.faces)
        line = QHBoxLayout()
        line.addWidget(QLabel("It is tall"))
        self.tall = NumberField(Unit.LENGTH, "cm", "how tall the figure is")
        self.tall.taken.connect(self._on_tall)
        line.addWidget(self.tall)
        line.addStretch(1)
        right.addLayout(line)
        self.fault = QLabel()
        self.fault.setObjectName("Fault")
        self.fault.setWordWrap(True)
        right.addWidget(self.fault)
        right.addLayout(self._buttons())
        row.addWidget(self.picture, 6)
        row.addLayout(right, 5)

    def _buttons(self) -> QHBoxLayout:
        line = QHBoxLayout()
        tip = f"Turn the chosen part, and what hangs on it, by {TRIED:g} degrees; again puts it back"
        self.test = push_button("Try", tip, self.try_out, ticked=True)
        self.anew = push_button("Guess anew", "Forget what was corrected", self.guess_anew)
        tip = "Use this setup, and know it again for drawings with the same parts"
        self.keep = push_button("Keep", tip, self.keep_it)
        leave = QPushButton("Leave as it was")
        leave.clicked.connect(self.reject)
        for button in (self.test, self.anew):
            line.addWidget(button)
        line.addStretch(1)
        for button in (leave, self.keep):
            line.addWidget(button)
        return line

    def _fill(self) -> None:
        """The list anew, as parts hang on one another."""
        with QSignalBlocker(self.list):
            self.list.clear()
            rows: dict[str, QTreeWidgetItem] = {}
            parents = dict(self.setup.parents)
            waiting = list(reversed(self._layers))
            while waiting:
                ready = [n for n in waiting if not parents[n.name] or parents[n.name] in rows]
                for layer in ready:
                    item = QTreeWidgetItem([layer.name])
                    item.setIcon(0, _icon(layer.drawings[0].png))
                    count = len(layer.drawings)
                    item.setToolTip(
                        0, f"{count} drawing{'s' if count > 1 else ''}: {', '.join(d.name for d in layer.drawings)}"
                    )
                    above = rows.get(parents[layer.name])
                    (self.list.addTopLevelItem if above is None else above.addChild)(item)
                    rows[layer.name] = item
                waiting = [n for n in waiting if n.name not in rows]
            self.list.expandAll()
            if self.part in rows:
                self.list.setCurrentItem(rows[self.part])

    def _show(self) -> None:
        turned = {self.part: TRIED} if self.trying and self.part else {}
        self.picture.show_setup(dict(self.setup.parents), dict(self.setup.pivots), self.part, turned)
        self.faces.show_chosen(next(words for words, one in FACES.items() if one.value == self.setup.facing))
        _, top, _, bottom = self.picture.box
        self.tall.show_value((bottom - top) * self.setup.size * 100)

    # -- what is done with it -----------------------------------------------------------------------------------------

    def choose(self, part: str) -> None:
        """Look at one part."""
        if part == self.part:
            return
        self.part = part
        found = self.list.findItems(part, Qt.MatchFlag.MatchExactly | Qt.MatchFlag.MatchRecursive)
        with QSignalBlocker(self.list):
            self.list.setCurrentItem(found[0] if found else None)
        self._show()

    def change(self, **told: object) -> bool:
        """Something is another; when it cannot be so, the sentence says why and nothing can be kept."""
        self.setup = replace(self.setup, **told)  # type: ignore[arg-type]
        fault = ""
        try:
            check_setup(self.setup)
        except BadFigure as error:
            fault = error.sentence
        self.fault.setText(fault)
        self.keep.setEnabled(not fault)
        self._show()
        return not fault

    def put_pivot(self, part: str, x: float, y: float) -> None:
        """A part turns about another spot."""
        self.change(pivots=tuple((n, (x, y) if n == part else spot) for n, spot in self.setup.pivots))

    def hang(self, part: str, parent: str) -> bool:
        """A part hangs on another; what would hang on itself stays where it was."""
        before = self.setup
        done = self.change(parents=tuple((n, parent if n == part else p) for n, p in self.setup.parents))
        if not done:
            words = self.fault.text()
            self.change(parents=before.parents)
            self.fault.setText(words)
        self._fill()
        return done

    def _on_dropped(self, part: str, parent: str) -> None:
        if parent:
            self.hang(part, parent)
        else:
            self._fill()

    def _on_tall(self, centimetres: float) -> None:
        _, top, _, bottom = self.picture.box
        self.change(size=max(centimetres, 0.0) / 100 / max(bottom - top, 1e-9))

    def try_out(self) -> None:
        """Turn the chosen part, or put it back."""
        self.trying = self.test.isChecked()
        self._show()

    def guess_anew(self) -> None:
        """What names and overlaps say by themselves."""
        masks = masks_of(self._layers)
        parents = parents_of(self._layers, masks)
        pivots = pivots_of(self._layers, parents, masks)
        names = [layer.name for layer in self._layers]
        self.change(
            parents=tuple((n, names[p] if p >= 0 else "") for n, p in zip(names, parents, strict=True)),
            pivots=tuple((n, (float(x), float(y))) for n, (x, y) in zip(names, pivots, strict=True)),
            facing=facing_of(self._layers, parents, masks).value,
        )
        self._fill()

    def keep_it(self) -> None:
        """Use the setup, and know it again."""
        setup, name = self.setup, self.figure.name
        if self.session.do(f"Set up {name}", lambda shot: with_flat_setup(shot, name, setup)):
            keep_flat(setup, self.picture.box)
            self.session.choose(name, [])
        self.accept()


class PartTree(QTreeWidget):
    """Parts as they hang on one another; one is dragged onto another."""

    dropped = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.setHeaderHidden(True)
        self.setIconSize(QSize(ICON, ICON))
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setAccessibleName("Parts, below what they hang on")

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Tell what was dropped onto what; the list is filled anew from that."""
        assert event is not None
        part, onto = self.currentItem(), self.itemAt(event.position().toPoint())
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        if part is not None:
            self.dropped.emit(part.text(0), onto.text(0) if onto is not None else "")


def _icon(png: bytes) -> QIcon:
    image = QImage.fromData(png)
    return QIcon(QPixmap.fromImage(image.copy(seen_box(image)))) if not image.isNull() else QIcon()
