"""Arcs in the right column: over which frames, as seen from where, and the points whose arcs are kept."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QMenu, QSpinBox

from bovrin.craft.arcs.spots import forget_spots
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.menus import add_action, popup
from bovrin.desk.kit.widgets import Panel, Pills, dot_icon, muted, push_button
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.arcs import AROUND, FEWEST, MOST, RELATIVE, SEEN, SPANS
from bovrin.measure.arcs import joint_of
from bovrin.picture.theme import PENCIL_ROLES
from bovrin.shot import Spot

ROWS = 4


class ArcsPanel(Panel):
    """What `A` shows, and how."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Arcs")
        self.session = session
        self.on = push_button("Show", tooltip("arcs.show"), lambda: run("arcs.show"))
        self.on.setCheckable(True)
        self.head.addWidget(self.on)
        self.span = Pills(list(SPANS), lambda word: self._change(span=word), list(SPANS.values()))
        self.count = QSpinBox()
        self.count.setRange(FEWEST, MOST)
        self.count.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.count.setFixedWidth(40)
        self.count.setAccessibleName("frames around this one")
        self.count.setToolTip(f"Frames before and after this one, {FEWEST} to {MOST}")
        self.count.valueChanged.connect(lambda value: self._change(count=value))
        self.add_row(self.span, self.count)
        self.seen = Pills(list(SEEN), self._on_seen, list(SEEN.values()))
        self.add_row(self.seen)
        self.carrier = push_button("", "The joint that arcs are relative to", self._choose_carrier)
        self.add_row(self.carrier)
        self.keep = push_button("Keep", tooltip("arcs.keep"), lambda: run("arcs.keep"))
        self.spot = push_button("A spot…", tooltip("arcs.spot"), lambda: run("arcs.spot"))
        self.forget = push_button("Forget", "Let go of the arc that is picked in the list", self._on_forget)
        self.add_row(self.keep, self.spot, self.forget)
        self.bow = push_button("On an arc", tooltip("arcs.bow"), lambda: run("arcs.bow"))
        self.mend = push_button("Mend kinks", tooltip("arcs.mend"), lambda: run("arcs.mend"))
        self.by_hand = push_button("Bow…", tooltip("arcs.bow_by_hand"), lambda: run("arcs.bow_by_hand"))
        self.add_row(self.bow, self.by_hand, self.mend)
        self.empty = muted("Keep the arc of what is chosen, or of a spot that you click on a figure.", wrap=True)
        self.column.addWidget(self.empty)
        self.list = QListWidget()
        self.list.setAccessibleName("Kept arcs")
        self.list.setIconSize(QSize(16, 16))
        self.column.addWidget(self.list)
        for signal in (session.looking_changed, session.document.committed, session.choice.changed):
            signal.connect(self._show_all)
        self._show_all()

    def _change(self, **changes: object) -> None:
        self.session.change_looking(arcs=replace(self.session.looking.arcs, on=True, **changes))  # type: ignore[arg-type]

    def _on_seen(self, word: str) -> None:
        figure, carrier = self.session.figure, self.session.looking.arcs.carrier
        names = [] if figure is None else [joint.name for joint in figure.rig.joints]
        if word == RELATIVE and carrier not in names:
            carrier = next((name for name in ("chest", "hips") if name in names), names[0] if names else "")
        self._change(seen=word, carrier=carrier)

    def _choose_carrier(self) -> None:
        figure = self.session.figure
        menu = QMenu()
        for part in figure.rig.parts if figure is not None else ():
            below = menu.addMenu(part.name)
            assert figure is not None and below is not None
            joints = dict.fromkeys(figure.rig.joints[figure.rig.controls[c].joint].name for c in part.controls)
            for name in joints:
                on = name == self.session.looking.arcs.carrier
                add_action(below, name, lambda n=name: self._change(carrier=n), ticked=on)  # type: ignore[misc]
        popup(menu, self.carrier.mapToGlobal(self.carrier.rect().bottomLeft()), self.carrier)

    def _on_forget(self) -> None:
        spots, row = self.session.shot.spots, self.list.currentRow()
        if spots:
            gone = spots[row if 0 <= row < len(spots) else -1]
            self.session.do(f"Forget the arc of {gone.joint}", lambda shot: forget_spots(shot, (gone,)))

    def _show_all(self) -> None:
        arcs, spots = self.session.looking.arcs, self.session.shot.spots
        self.on.setChecked(arcs.on)
        self.span.show_chosen(arcs.span)
        self.seen.show_chosen(arcs.seen)
        self.carrier.setText(f"to {arcs.carrier or 'a joint'} ▾")
        self.carrier.setVisible(arcs.seen == RELATIVE)
        self.count.blockSignals(True)
        self.count.setValue(arcs.count)
        self.count.blockSignals(False)
        self.count.setVisible(arcs.span == AROUND)
        for button in (self.keep, self.bow, self.by_hand, self.mend):
            button.setEnabled(bool(self.session.controls))
        row = self.list.currentRow()
        self.list.clear()
        for spot in spots:
            self.list.addItem(
                QListWidgetItem(dot_icon(Look.colour(PENCIL_ROLES[spot.pencil]), 16, 10, 5), self._named(spot))
            )
        self.list.setCurrentRow(min(max(row, 0), len(spots) - 1))
        self.list.setFixedHeight(max(min(len(spots), ROWS), 1) * max(self.list.sizeHintForRow(0), 20) + 4)
        self.empty.setVisible(not spots)
        for widget in (self.list, self.forget):
            widget.setVisible(bool(spots))

    def _named(self, spot: Spot) -> str:
        rig = self.session.shot.figure(spot.figure).rig
        gone = "" if joint_of(rig, spot) is not None else " (this setup has no such joint)"
        where = "" if spot.at == (0.0, 0.0, 0.0) else ", a spot"
        return f"{spot.figure}: {spot.joint}{where}{gone}"
