"""The breakdown panel: a favour for all and one for each part, live on the stage."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QSpinBox, QWidget

from bovrin.craft.breakdown import breakdown, measured_favour, neighbours
from bovrin.desk.favour_slider import PAST, FavourSlider
from bovrin.desk.look import Look
from bovrin.desk.session import Session
from bovrin.desk.widgets import Panel, Pills, muted, title
from bovrin.errors import BovrinError
from bovrin.shot import Shot

PRESETS = {"Third": 1 / 3, "Half": 0.5, "Two thirds": 2 / 3}


class BreakdownPanel(Panel):
    """Puts or changes the breakdown at the current frame."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.own: dict[str, float] = {}
        self.column.addWidget(title("Breakdown"))
        self.words = muted(wrap=True)
        self.column.addWidget(self.words)
        self.all = FavourSlider(big=True)
        self._connect(self.all, None)
        self.column.addWidget(self.all)
        self.presets = Pills(
            list(PRESETS), self._on_preset, ["Favour the pose before", "Halfway", "Favour the pose after"]
        )
        self.column.addWidget(self.presets)
        self._grid_host = QWidget()
        self.grid = QGridLayout(self._grid_host)
        self.grid.setContentsMargins(0, 6, 0, 0)
        self.grid.setVerticalSpacing(2)
        self.column.addWidget(self._grid_host)
        self.sliders: dict[str, FavourSlider] = {}
        self.boxes: dict[str, QSpinBox] = {}
        self.put = QPushButton("Put a breakdown here")
        self.put.setToolTip("Key this pose as a breakdown on the current frame (B)")
        self.put.clicked.connect(self.put_here)
        self.column.addWidget(self.put, 0, Qt.AlignmentFlag.AlignLeft)
        self.column.addStretch(1)
        self._parts_of = ""
        for signal in (session.frame_changed, session.choice_changed, session.committed):
            signal.connect(self._on_place_changed)

    # -- what is shown ------------------------------------------------------------------------------------------------

    def _on_place_changed(self) -> None:
        if self.session.previewing or not self.isVisible():
            return
        figure = self.session.figure
        if figure is not None and figure.name != self._parts_of:
            self._build_rows()
        self.own = {}
        try:
            if figure is None:
                raise BovrinError("There is no figure.")
            before, after = neighbours(self.session.shot, figure.name, self.session.frame)
        except BovrinError:
            self.words.setText("Go to a frame between two poses to put a breakdown there.")
            self._enable(False)
            return
        self.words.setText(f"At frame {self.session.frame:g}, between the poses at {before:g} and {after:g}")
        self.all.ends = (f"{before:g}", f"{after:g}")
        self._enable(True)
        here = bool((abs(self.session.poses.frames - self.session.frame) < 1e-6).any())
        favour = measured_favour(self.session.shot, figure.name, self.session.frame) if here else 0.5
        self._show(min(max(favour, -PAST), 1 + PAST))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_place_changed()

    def _enable(self, on: bool) -> None:
        for widget in (self.all, self.presets, self._grid_host, self.put):
            widget.setVisible(on)

    def _build_rows(self) -> None:
        figure = self.session.figure
        assert figure is not None
        self._parts_of = figure.name
        while self.grid.count():
            item = self.grid.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.deleteLater()
        self.sliders, self.boxes = {}, {}
        for row, part in enumerate(figure.rig.parts):
            slider = FavourSlider(role=Look.side(part.side))
            self._connect(slider, part.name)
            box = QSpinBox()
            box.setRange(round(-PAST * 100), round((1 + PAST) * 100))
            box.setSuffix(" %")
            box.setKeyboardTracking(False)
            box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
            box.setFixedSize(52, 21)
            box.setAlignment(Qt.AlignmentFlag.AlignRight)
            box.setAccessibleName(f"{part.name} favour")
            box.valueChanged.connect(lambda value, name=part.name: self._on_typed(name, value))
            self.grid.addWidget(QLabel(part.name.capitalize()), row, 0)
            self.grid.addWidget(slider, row, 1)
            self.grid.addWidget(box, row, 2)
            self.sliders[part.name], self.boxes[part.name] = slider, box

    def _show(self, favour: float) -> None:
        self.all.set_favour(favour)
        self.presets.show_chosen(next((n for n, f in PRESETS.items() if abs(f - favour) < 0.006 and not self.own), ""))
        for name, slider in self.sliders.items():
            value = self.own.get(name, favour)
            slider.set_favour(value)
            box = self.boxes[name]
            box.blockSignals(True)
            box.setValue(round(value * 100))
            box.blockSignals(False)

    # -- what it does -------------------------------------------------------------------------------------------------

    def _connect(self, slider: FavourSlider, part: str | None) -> None:
        slider.moved.connect(lambda favour: self._on_moved(part, favour))
        slider.released.connect(self._commit)
        slider.cancelled.connect(self._on_cancelled)

    def _made(self) -> Shot:
        return breakdown(self.session.shot, self.session.figure_name, self.session.frame, self.all.favour, self.own)

    def _on_moved(self, part: str | None, favour: float) -> None:
        if part is None:
            self.all.set_favour(favour)
        else:
            self.own[part] = favour
        self._show(self.all.favour)
        try:
            self.session.preview(self._made())
        except BovrinError as error:
            self.session.fail(error)

    def _on_cancelled(self) -> None:
        self.session.preview(None)
        self._on_place_changed()

    def _on_typed(self, part: str, percent: int) -> None:
        self.own[part] = percent / 100
        self._show(self.all.favour)
        self._commit()

    def _on_preset(self, name: str) -> None:
        self.all.set_favour(PRESETS[name])
        self.own = {}
        self._show(PRESETS[name])
        self._commit()

    def put_here(self) -> None:
        """Key the breakdown with the favours that are shown."""
        self._commit()

    def _commit(self) -> None:
        own, favour = dict(self.own), self.all.favour
        if self.session.do("Breakdown", lambda _shot: self._made()):
            self.own = own
            self._show(favour)
