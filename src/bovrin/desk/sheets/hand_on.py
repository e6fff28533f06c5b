"""Handing the shot on: as which file, and how many samples a second where motion is not keyed."""

from __future__ import annotations

from importlib.util import find_spec
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFormLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from bovrin.desk.kit.asking import Asking
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import muted, title
from bovrin.desk.state.files.files import Files
from bovrin.formats.units import unit_name
from bovrin.shot import Shot, Unit

KINDS = {
    "glTF binary": (
        ".glb",
        "Figures as they came in, and every take and clip as an animation. Keys stay keys where they can.",
    ),
    "USD text": (".usda", "Skeletons, meshes and the motion of this take, on every frame; pictures lie beside it."),
    "USD package": (".usdz", "The same in one file, with its pictures."),
    "BVH": (".bvh", "The motion of the figure with the most joints, on every frame."),
}

EVERYBODY, ALL_TAKES, EACH = "everybody", "every take", "a file for each"


class HandOn(QDialog):
    """Asks how, then where."""

    def __init__(self, files: Files, parent: QWidget) -> None:
        super().__init__(parent)
        self._files, self._ask = files, Asking(self)
        self.setWindowTitle("Hand on")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        shot = files.session.shot
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.addWidget(title("Hand on (export)"))
        form = QFormLayout()
        self.kind = QComboBox()
        self.kind.addItems([k for k in KINDS if not k.startswith("USD") or find_spec("pxr") is not None])
        self.kind.currentTextChanged.connect(self._on_kind_changed)
        self.rate = QDoubleSpinBox()
        self.rate.setRange(1.0, 240.0)
        self.rate.setDecimals(2)
        self.rate.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        self.rate.setValue(files.session.shot.frame_rate)
        self.rate.setToolTip("How often motion is sampled where its curves cannot be written as they are")
        form.addRow("As", self.kind)
        form.addRow("Samples a second", self.rate)
        self.unit = QComboBox()
        self.unit.setToolTip("A unit of the file: the one that the figure came in, or a metre")
        form.addRow("A unit is a", self.unit)
        self.what = QComboBox()
        self.what.setToolTip("The shot, with its takes and clips, or one of its clips alone")
        self.what.addItems(["the shot", *(f"the clip '{clip.name}'" for clip in files.session.shot.clips)])
        form.addRow("What", self.what)
        self.travel = QComboBox()
        self.travel.setToolTip(
            "Whether whole figures go over the ground in the file (root motion), or stay where they begin"
        )
        self.travel.addItems(["on the whole figure", "none: on the spot"])
        form.addRow("Travel", self.travel)
        self.whom = QComboBox()
        self.whom.setToolTip("Whose motion and meshes are in the file")
        self.whom.addItems([EVERYBODY, *(figure.name for figure in shot.cast)])
        form.addRow("Who", self.whom)
        self.takes = QComboBox()
        self.takes.setToolTip("Which takes are in the file; of formats that hold one, the take that is worked on")
        self.takes.addItems([ALL_TAKES, *(take.name for take in shot.all_takes), EACH])
        form.addRow("Takes", self.takes)
        self.first, self.last = (NumberField(Unit.SWITCH, "", words) for words in ("First frame", "Last frame"))
        for field, frame in ((self.first, shot.first), (self.last, shot.last)):
            field.show_value(frame)
            field.taken.connect(field.show_value)
            field.refused.connect(files.session.voice.tell)
        form.addRow("From, to", self._side_by_side(self.first, self.last))
        self._form = form
        form.setRowVisible(self.what, bool(shot.clips))
        form.setRowVisible(self.takes, bool(shot.takes))
        column.addLayout(form)
        self.words = muted(wrap=True)
        self.words.setMinimumWidth(330)
        column.addWidget(self.words)
        line = QHBoxLayout()
        line.addStretch(1)
        self.write = QPushButton("Choose where…")
        self.write.setDefault(True)
        self.write.clicked.connect(self._write)
        leave = QPushButton("Leave")
        leave.clicked.connect(self.reject)
        line.addWidget(leave)
        line.addWidget(self.write)
        column.addLayout(line)
        self._on_kind_changed(self.kind.currentText())

    def _side_by_side(self, *widgets: QWidget) -> QWidget:
        host = QWidget()
        row = QHBoxLayout(host)
        row.setContentsMargins(0, 0, 0, 0)
        for widget in widgets:
            row.addWidget(widget)
        row.addStretch(1)
        return host

    def options(self) -> dict[str, Any]:
        """What of the shot is written."""
        shot, whom, take = self._files.session.shot, self.whom.currentText(), self.takes.currentText()
        span = self.first.value(), self.last.value()
        named = self.takes.currentIndex() not in (0, self.takes.count() - 1)
        return {
            "figures": None if self.whom.currentIndex() == 0 else [whom],
            "span": None if span == (shot.first, shot.last) else span,
            "take": take if named else None,
            "each_take": self.takes.currentIndex() == self.takes.count() - 1,
        }

    def _on_kind_changed(self, kind: str) -> None:
        self.words.setText(KINDS[kind][1])
        self.rate.setEnabled(KINDS[kind][0] == ".glb")
        metres = _own_unit(self._files.session.shot, KINDS[kind][0])
        self.unit.clear()
        self.unit.addItems([unit_name(metres), unit_name(1.0)] if metres != 1.0 else [unit_name(1.0)])
        self._form.setRowVisible(self.unit, metres != 1.0)

    def _write(self) -> None:
        kind = self.kind.currentText()
        ending = KINDS[kind][0]
        start = self._files.folder() / f"{self._files.session.shot.title.lower().replace(' ', '-')}{ending}"
        path = self._ask.file_to_write("Hand on", start, f"{kind} (*{ending})")
        if path is not None:
            metres = self.unit.currentText() == unit_name(1.0)
            row = self.what.currentIndex()
            clip = self._files.session.shot.clips[row - 1].name if row > 0 else None
            path = path if path.suffix else path.with_suffix(ending)
            travel = self.travel.currentIndex() == 0
            self._files.export(path, self.rate.value(), metres=metres, travel=travel, clip=clip, **self.options())
            self.accept()


def _own_unit(shot: Shot, ending: str) -> float:
    """Metres in the unit that a file with an ending is written in when nothing else is asked for."""
    if ending == ".glb" and len(shot.cast) == 1 and shot.cast[0].model.brought:
        return shot.cast[0].model.metres
    return max(shot.cast, key=lambda f: len(f.rig.joints)).model.metres if ending == ".bvh" and shot.cast else 1.0
