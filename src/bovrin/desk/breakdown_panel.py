"""The breakdown panel: a favour for all, for each part and each group, live on the stage; fills; past the pose."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from bovrin.craft.breakdown import breakdown, fill_breakdowns, measured_favours, parents, remembered
from bovrin.craft.groups import group_controls
from bovrin.craft.push import push_past, pushed_by, settle
from bovrin.desk.favour_slider import PAST, FavourSlider
from bovrin.desk.look import Look
from bovrin.desk.session import Session
from bovrin.desk.share_slider import ShareRow
from bovrin.desk.timing_commands import ON, key_span
from bovrin.desk.widgets import Panel, Pills, muted
from bovrin.errors import BovrinError
from bovrin.shot import KeyRole, Shot

PRESETS = {"Third": 1 / 3, "Half": 0.5, "Two thirds": 2 / 3}


class BreakdownPanel(Panel):
    """Puts or changes the breakdown at the current frame."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Breakdown")
        self.session = session
        self.own: dict[str, float] = {}
        self.words = muted(wrap=True)
        self.column.addWidget(self.words)
        self.all = FavourSlider(big=True)
        self.all.moved.connect(lambda favour: self._on_moved(None, favour))
        self.all.released.connect(self._commit)
        self.all.cancelled.connect(self._on_cancelled)
        self.column.addWidget(self.all)
        tips = ["Favour the pose before", "Halfway", "Favour the pose after"]
        self.presets = Pills(list(PRESETS), self._on_preset, tips)
        self.column.addWidget(self.presets)
        self._rows_host = QWidget()
        self._rows_column = QVBoxLayout(self._rows_host)
        self._rows_column.setContentsMargins(0, 2, 0, 0)
        self._rows_column.setSpacing(2)
        self.column.addWidget(self._rows_host)
        self.rows: dict[str, ShareRow] = {}
        self.groups: dict[str, ShareRow] = {}
        self.put = QPushButton("Put a breakdown here")
        self.put.setToolTip("Key this pose as a breakdown on the current frame (B)")
        self.put.clicked.connect(self.put_here)
        self.column.addWidget(self.put, 0, Qt.AlignmentFlag.AlignLeft)
        self.push = ShareRow("Push past", "Carry this pose on, past where it was meant to go (E)")
        self.push.moved.connect(lambda share: self._preview(lambda: self._pushed(share)))
        self.push.taken.connect(lambda share: self.session.do("Push past", lambda _shot: self._pushed(share)))
        self.settle = ShareRow("Settle", "On the way back from the pushed pose to the one that was meant (Shift+E)")
        self.settle.moved.connect(lambda share: self._preview(lambda: self._settled(share)))
        self.settle.taken.connect(lambda share: self.session.do("Settle", lambda _shot: self._settled(share)))
        for row in (self.push, self.settle):
            row.cancelled.connect(self._on_cancelled)
            self.column.addWidget(row)
        self.column.addWidget(self._fill_row())
        self._rows_of: tuple[object, ...] = ()
        for signal in (session.frame_changed, session.choice_changed, session.committed):
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
        if self.session.previewing or not self.isVisible():
            return
        self._build_rows()
        self._show_push()
        self.own = {}
        session, figure = self.session, self.session.figure
        poses = session.whole_poses
        if (poses.frames[poses.roles == KeyRole.KEY_POSE] == session.frame).any():
            self.words.setText(f"{session.frame:g} is a key pose. Go between two poses to put a breakdown there.")
            self._enable(False)
            return
        try:
            if figure is None:
                raise BovrinError("There is no figure.")
            before, after = parents(session.shot, figure.name, session.frame)
        except BovrinError:
            self.words.setText("Go to a frame between two poses to put a breakdown there.")
            self._enable(False)
            return
        self.words.setText(f"At frame {session.frame:g}, between the poses at {before:g} and {after:g}")
        self.all.ends = (f"{before:g}", f"{after:g}")
        self._enable(True)
        self._show(self._favour_here(session.shot, figure.name))

    def _favour_here(self, shot: Shot, figure: str) -> float:
        """The favour of the pose here, as it was made or as it is measured; half where there is none."""
        frame = self.session.frame
        blend = remembered(shot, figure, frame)
        if blend is not None:
            self.own = dict(blend.parts)
            return blend.favour
        if not (abs(self.session.poses.frames - frame) < 1e-6).any():
            return 0.5
        favour, parts = measured_favours(shot, figure, frame)
        self.own = {name: _bounded(own) for name, own in parts.items() if abs(own - favour) > 0.005}
        return _bounded(favour)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_place_changed()

    def _enable(self, on: bool) -> None:
        for widget in (self.all, self.presets, self._rows_host, self.put):
            widget.setVisible(on)

    def offers(self) -> bool:
        """Whether favours for the current frame are shown."""
        return self.all.isVisible()

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
                controls = [f"{figure.rig.controls[c].name}/" for c in group_controls(figure.rig, group)[0]]
                self._connect(self.groups[group.name], controls)

    def _row(self, name: str, role: str) -> ShareRow:
        row = ShareRow(name.capitalize(), f"How far the {name} favours the pose after", role=role, past=PAST)
        row.box.setAccessibleName(f"{name} favour")
        self._rows_column.addWidget(row)
        return row

    def _connect(self, row: ShareRow, names: list[str]) -> None:
        row.moved.connect(lambda favour: self._on_moved(names, favour))
        row.taken.connect(lambda favour: self._on_taken(names, favour))
        row.cancelled.connect(self._on_cancelled)

    def _show(self, favour: float) -> None:
        self.all.set_favour(favour)
        self.presets.show_chosen(next((n for n, f in PRESETS.items() if abs(f - favour) < 0.006 and not self.own), ""))
        for name, row in self.rows.items():
            row.show_share(self.own.get(name, favour))
        figure = self.session.figure
        for group in self.session.shot.groups:
            if figure is not None and group.name in self.groups:
                first = group_controls(figure.rig, group)[0][0]
                name, part = f"{figure.rig.controls[first].name}/", figure.rig.part_of(first)
                of_part = self.own.get(figure.rig.parts[part].name, favour) if part >= 0 else favour
                self.groups[group.name].show_share(self.own.get(name, of_part))

    def _show_push(self) -> None:
        """Push where a pose comes from another one; settle after a pose that was pushed."""
        session = self.session
        here = session.whole_poses.held_at(session.frame)
        on_pose = here == session.frame and session.whole_poses.before(session.frame) is not None
        self.push.setVisible(on_pose)
        amount = 0.0 if here is None else pushed_by(session.shot, session.figure_name, here)
        self.settle.setVisible(not on_pose and amount > 0)
        self.push.show_share(min(amount, 1.0))
        self.settle.show_share(0.3)

    # -- what it does -------------------------------------------------------------------------------------------------

    def _made(self) -> Shot:
        session = self.session
        return breakdown(
            session.shot, session.figure_name, session.frame, self.all.favour, self.own, session.scope_channels()
        )

    def _pushed(self, share: float) -> Shot:
        return push_past(self.session.shot, self.session.figure_name, self.session.frame, share)

    def _settled(self, share: float) -> Shot:
        return settle(self.session.shot, self.session.figure_name, self.session.frame, share)

    def _preview(self, make) -> None:  # type: ignore[no-untyped-def]
        try:
            self.session.preview(make())
        except BovrinError as error:
            self.session.fail(error)

    def _set_own(self, names: list[str] | None, favour: float) -> None:
        if names is None:
            self.all.set_favour(favour)
        else:
            self.own |= dict.fromkeys(names, favour)
        self._show(self.all.favour)

    def _on_moved(self, names: list[str] | None, favour: float) -> None:
        self._set_own(names, favour)
        self._preview(self._made)

    def _on_taken(self, names: list[str], favour: float) -> None:
        self._set_own(names, favour)
        self._commit()

    def _on_cancelled(self) -> None:
        self.session.preview(None)
        self._on_place_changed()

    def _on_preset(self, name: str) -> None:
        self.all.set_favour(PRESETS[name])
        self.own = {}
        self._show(PRESETS[name])
        self._commit()

    def _on_fill(self, word: str) -> None:
        every = next(count for count, words in ON.items() if words == word)
        self.fills.show_chosen("")

        def change(shot: Shot) -> Shot:
            span, name = key_span(self.session), self.session.figure_name
            favour, own = (self.all.favour, self.own) if self.offers() else (0.5, {})
            return fill_breakdowns(shot, name, *span, every, favour, own, self.session.scope_channels())

        self.session.do(f"Fill on {word}", change)

    def put_here(self) -> None:
        """Key the breakdown with the favours that are shown."""
        self._commit()

    def _commit(self) -> None:
        own, favour = dict(self.own), self.all.favour
        if self.session.do("Breakdown", lambda _shot: self._made()):
            self.own = own
            self._show(favour)


def _bounded(favour: float) -> float:
    return min(max(favour, -PAST), 1 + PAST)
