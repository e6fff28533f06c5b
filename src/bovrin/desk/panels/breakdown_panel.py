"""The breakdown panel: a favour for all, for each part and each group, live on the stage; fills; past the pose."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from bovrin.craft.between.breakdown import fill_breakdowns
from bovrin.craft.between.push import push_past, pushed_by, settle
from bovrin.craft.pose.groups import group_controls
from bovrin.desk.commands.timing import ON, key_span
from bovrin.desk.kit.favour_slider import FavourSlider
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.share_row import ShareRow
from bovrin.desk.kit.widgets import Panel, Pills, muted
from bovrin.desk.state.choosing.favours import PAST, Favours
from bovrin.desk.state.document.editing import scope_channels
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import OfControl, PartOrControl, Shot

PRESETS = {"Third": 1 / 3, "Half": 0.5, "Two thirds": 2 / 3}


class BreakdownPanel(Panel):
    """Puts or changes the breakdown at the current frame."""

    def __init__(self, session: Session, favours: Favours) -> None:
        super().__init__(title="Breakdown")
        self.session, self.favours = session, favours
        self.words = muted(wrap=True)
        self.column.addWidget(self.words)
        self.all = FavourSlider(big=True)
        self.all.moved.connect(lambda favour: self._on_moved(None, favour))
        self.all.released.connect(favours.commit)
        self.all.cancelled.connect(self._on_cancelled)
        self.column.addWidget(self.all)
        tips = [
            "Put a breakdown here that favours the pose before",
            "Put one halfway (B)",
            "Put one that favours the pose after",
        ]
        self.presets = Pills(list(PRESETS), self._on_preset, tips)
        self.column.addWidget(self.presets)
        self._rows_host = QWidget()
        self._rows_column = QVBoxLayout(self._rows_host)
        self._rows_column.setContentsMargins(0, 2, 0, 0)
        self._rows_column.setSpacing(1)
        self.column.addWidget(self._rows_host)
        self.rows: dict[str, ShareRow] = {}
        self.groups: dict[str, ShareRow] = {}
        self.push = ShareRow("Push past", "Carry this pose on, past where it was meant to go (E)")
        self.push.moved.connect(lambda share: self._preview(lambda: self._pushed(share)))
        self.push.taken.connect(lambda share: self.session.do("Push past", lambda _shot: self._pushed(share)))
        self.settle = ShareRow("Settle", "On the way back from the pushed pose to the one that was meant (Shift+E)")
        self.settle.moved.connect(lambda share: self._preview(lambda: self._settled(share)))
        self.settle.taken.connect(lambda share: self.session.do("Settle", lambda _shot: self._settled(share)))
        for row in (self.push, self.settle):
            row.cancelled.connect(self._on_cancelled)
            row.box.refused.connect(session.voice.tell)
            self.column.addWidget(row)
        self.column.addWidget(self._fill_row())
        self._rows_of: tuple[object, ...] = ()
        favours.changed.connect(self._show_favours)
        for signal in (session.document.frame_changed, session.choice.changed, session.document.committed):
            signal.connect(self._on_place_changed)

    def _fill_row(self) -> QWidget:
        host = QWidget()
        row = QHBoxLayout(host)
        row.setContentsMargins(0, 2, 0, 0)
        row.addWidget(QLabel("Fill on"))
        tip = "Breakdowns all through the span between the key poses around, leaning as the favours above say"
        self.fills = Pills(list(ON.values()), self._on_fill, [tip] * len(ON))
        row.addWidget(self.fills)
        return host

    @property
    def sliders(self) -> dict[str, FavourSlider]:
        """The slider of each part."""
        return {name: row.slider for name, row in self.rows.items()}

    # -- what is shown ------------------------------------------------------------------------------------------------

    def _on_place_changed(self) -> None:
        if self.session.document.previewing or not self.isVisible():
            return
        self._build_rows()
        self._show_push()
        self._show_favours()

    def _show_favours(self) -> None:
        """What the frame's breakdown has, or why none can be put."""
        if not self.isVisible():
            return
        between = self.favours.between
        self.words.setText(self.favours.words)
        self._enable(between is not None)
        if between is not None:
            self.all.ends = (f"{between[0]:g}", f"{between[1]:g}")
            self._show(self.favours.all, self.favours.own)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_place_changed()

    def _enable(self, on: bool) -> None:
        for widget in (self.all, self.presets, self._rows_host):
            widget.setVisible(on)

    def _build_rows(self) -> None:
        """A row for each part of the figure, then one for each group that it has controls of."""
        figure, groups = self.session.figure, self.session.shot.groups
        wanted = (None if figure is None else figure.rig, groups)
        if figure is None or (self._rows_of and self._rows_of[0] is wanted[0] and self._rows_of[1] == wanted[1]):
            return
        self._rows_of = wanted
        for old in (*self.rows.values(), *self.groups.values()):
            self._rows_column.removeWidget(old)
            old.deleteLater()
        self.rows = {part.name: self._row(part.name, Look.side(part.side)) for part in figure.rig.parts}
        self.groups = {g.name: self._row(g.name, "accent") for g in groups if group_controls(figure.rig, g)[0]}
        for name, row in self.rows.items():
            self._connect(row, [name])
        for group in groups:
            if group.name in self.groups:
                controls = [OfControl(figure.rig.controls[c].name) for c in group_controls(figure.rig, group)[0]]
                self._connect(self.groups[group.name], controls)

    def _row(self, name: str, role: str) -> ShareRow:
        row = ShareRow(name.capitalize(), f"How far the {name} favours the pose after", role=role, past=PAST)
        row.box.setAccessibleName(f"{name} favour")
        row.box.refused.connect(self.session.voice.tell)
        self._rows_column.addWidget(row)
        return row

    def _connect(self, row: ShareRow, names: Sequence[PartOrControl]) -> None:
        row.moved.connect(lambda favour: self._on_moved(names, favour))
        row.taken.connect(lambda favour: self._on_taken(names, favour))
        row.cancelled.connect(self._on_cancelled)

    def _show(self, favour: float, own: Mapping[PartOrControl, float]) -> None:
        self.all.set_favour(favour)
        self.presets.show_chosen(next((n for n, f in PRESETS.items() if abs(f - favour) < 0.006 and not own), ""))
        for name, row in self.rows.items():
            row.show_share(own.get(name, favour))
        figure = self.session.figure
        for group in self.session.shot.groups:
            if figure is not None and group.name in self.groups:
                first = group_controls(figure.rig, group)[0][0]
                control, part = OfControl(figure.rig.controls[first].name), figure.rig.part_of(first)
                of_part = own.get(figure.rig.parts[part].name, favour) if part >= 0 else favour
                self.groups[group.name].show_share(own.get(control, of_part))

    def _show_push(self) -> None:
        """Push where a pose comes from another one; settle after a pose that was pushed."""
        session = self.session
        here = session.poses.whole.held_at(session.frame)
        on_pose = here == session.frame and session.poses.whole.before(session.frame) is not None
        self.push.setVisible(on_pose)
        amount = 0.0 if here is None else pushed_by(session.shot, session.figure_name, here)
        self.settle.setVisible(not on_pose and amount > 0)
        self.push.show_share(min(amount, 1.0))
        self.settle.show_share(0.3)

    # -- what it does -------------------------------------------------------------------------------------------------

    def _pushed(self, share: float) -> Shot:
        return push_past(self.session.shot, self.session.figure_name, self.session.frame, share)

    def _settled(self, share: float) -> Shot:
        return settle(self.session.shot, self.session.figure_name, self.session.frame, share)

    def _preview(self, make: Callable[[], Shot]) -> None:
        try:
            self.session.preview(make())
        except BovrinError as error:
            self.session.voice.fail(error)

    def _on_moved(self, names: Sequence[PartOrControl] | None, favour: float) -> None:
        if names is None:
            self.favours.set_all(favour)
        else:
            self.favours.set_own(names, favour)
        self._preview(self.favours.made)

    def _on_taken(self, names: Sequence[PartOrControl], favour: float) -> None:
        self.favours.set_own(names, favour)
        self.favours.commit()

    def _on_cancelled(self) -> None:
        self.session.preview(None)
        self.favours.forget()

    def _on_preset(self, name: str) -> None:
        self.favours.set_all(PRESETS[name], alone=True)
        self.favours.commit()

    def _on_fill(self, word: str) -> None:
        every = next(count for count, words in ON.items() if words == word)
        self.fills.show_chosen("")

        def change(shot: Shot) -> Shot:
            span, name = key_span(self.session), self.session.figure_name
            favours, poses = self.favours, self.session.poses.whole.frames
            alone = favours.between is not None and not ((poses > span[0]) & (poses < span[1])).any()
            favour, own = (favours.all, favours.own) if alone else (0.5, {})  # a breakdown there says it itself
            return fill_breakdowns(shot, name, *span, every, favour, own, scope_channels(self.session))

        self.session.do(f"Fill on {word}", change)
