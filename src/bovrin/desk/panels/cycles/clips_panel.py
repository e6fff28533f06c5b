"""Clips in the right column: kept, named, laid, and how the one that is chosen on the shelf is heard."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QPushButton

from bovrin.craft.clips.instead import is_instead
from bovrin.craft.clips.laying import with_laid
from bovrin.craft.clips.naming import places_of, renamed_clip
from bovrin.craft.clips.weights import weight_at, with_weight
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.amount_row import AmountRow
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Panel, muted, push_button
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.errors import BovrinError
from bovrin.figure.stages.clip_values import clip_values
from bovrin.shot import Clip, Figure, Laid, Unit

PICTURE = QSize(26, 28)

ROWS = {
    "strength": ("Stronger or weaker about its neutral pose", 200.0),
    "weight": ("How much of it is seen over what lies below; keyed, on the current frame", 100.0),
    "speed": ("How fast it runs", 300.0),
}
TOGGLES = {
    "added": "It is added to what lies below it, instead of taking its place",
    "backwards": "It runs from its end to its beginning",
    "in step": "In a fade feet fall together, and stay where they are down",
}


class ClipsPanel(Panel):
    """The list of clips; double click names one. Below it the settings of the laid clip that is chosen."""

    def __init__(self, session: Session, pictures: CardPictures, run: Callable[[str], object]) -> None:
        super().__init__(title="Clips")
        self.session, self.pictures = session, pictures
        self.column.setSpacing(3)
        self.empty = muted(
            "Keep a cycle, or a stretch of the shot, as a clip: it can be laid, faded and changed.", wrap=True
        )
        self.column.addWidget(self.empty)
        self.list = QListWidget()
        self.list.setAccessibleName("Clips")
        self.list.setIconSize(PICTURE)
        self.list.setToolTip("Choose the clip that is laid next; double click gives it another name")
        self.list.itemChanged.connect(self._on_named)
        self.list.currentRowChanged.connect(self._on_row)
        self.column.addWidget(self.list)
        self.keep = push_button("Keep", tooltip("clip.keep"), lambda: run("clip.keep"))
        self.lay = push_button("Lay", tooltip("clip.lay"), lambda: run("clip.lay"))
        self.keys = push_button("To keys", tooltip("clip.to_keys"), lambda: run("clip.to_keys"))
        self.forget = push_button("Forget", tooltip("clip.forget"), lambda: run("clip.forget"))
        self.drive = push_button("Test drive…", tooltip("cycle.drive"), lambda: run("cycle.drive"))
        self.add_row(self.keep, self.lay, self.keys, self.forget)
        self.bring = push_button("Bring…", tooltip("clip.bring"), lambda: run("clip.bring"))
        self.add_row(self.bring, self.drive)
        self.rows = {name: self._row(name) for name in ROWS}
        self.repeats = NumberField(Unit.SWITCH, "", "rounds")
        self.repeats.setFixedWidth(58)
        self.repeats.setToolTip("How often it comes, parts of a round too")
        self.repeats.taken.connect(lambda number: self._change(repeats=number))
        self.repeats.refused.connect(session.voice.tell)
        self.words = muted("rounds")
        self.fade = push_button("Fade here", tooltip("clip.fade"), lambda: run("clip.fade"))
        self.off = push_button("Take off", tooltip("clip.remove"), lambda: run("clip.remove"))
        self.add_row(self.words, self.repeats, self.fade, self.off)
        self.toggles = {name: self._toggle(name) for name in TOGGLES}
        self.mute = push_button("mute chosen", tooltip("clip.mute"), lambda: run("clip.mute"))
        self.add_row(*self.toggles.values())
        self.instead = push_button("keys instead", tooltip("clip.instead"), lambda: run("clip.instead"), ticked=True)
        self.add_row(self.mute, self.instead)
        self.muted = muted(wrap=True)
        self.column.addWidget(self.muted)
        session.shelf.changed.connect(self._show_what)
        session.choice.changed.connect(self._show_instead)
        session.document.frame_changed.connect(self._on_frame)
        pictures.ready.connect(self._show_pictures)
        self._show_what()

    def _row(self, name: str) -> AmountRow:
        tip, most = ROWS[name]
        row = AmountRow(name, tip, Unit.AMOUNT, "%", most, 100.0)
        row.moved.connect(lambda percent: self._preview(name, percent))
        row.taken.connect(lambda percent: self._take(name, percent))
        row.cancelled.connect(self._put_back)
        row.field.refused.connect(self.session.voice.tell)
        self.column.addWidget(row)
        return row

    def _toggle(self, name: str) -> QPushButton:
        return push_button(name, TOGGLES[name], lambda: self._on_toggle(name), ticked=True)

    def _on_toggle(self, name: str) -> None:
        laid = self.session.shelf.laid()
        if laid is None:
            return
        if name == "added":
            self._change(how="over" if laid.how == "added" else "added")
        else:
            key = name.replace(" ", "_")
            self._change(**{key: not getattr(laid, key)})

    def _settings(self, name: str, percent: float) -> dict[str, Any]:
        share = percent / 100
        laid = self.session.shelf.laid()
        if name == "weight" and laid is not None:
            return {"weight": with_weight(laid, self.session.frame, share).weight}
        return {name: max(share, 0.01) if name == "speed" else share}

    def _preview(self, name: str, percent: float) -> None:
        session, laid, place = self.session, self.session.shelf.laid(), self.session.shelf.place
        if laid is None or place is None:
            return
        try:
            settings = self._settings(name, percent)
            session.preview(with_laid(session.shot, session.figure_name, place.lane, laid, **settings))
        except BovrinError as error:
            session.voice.hint(error.sentence)

    def _take(self, name: str, percent: float) -> None:
        self._change(**self._settings(name, percent))

    def _change(self, **settings: Any) -> None:
        session, laid, place = self.session, self.session.shelf.laid(), self.session.shelf.place
        if laid is not None and place is not None:
            name = session.figure_name
            session.do("Change the clip", lambda shot: with_laid(shot, name, place.lane, laid, **settings))
        self._show_what()

    def _put_back(self) -> None:
        self.session.preview(None)
        self._show_what()

    def _on_row(self, row: int) -> None:
        clips = self.session.shot.clips
        if 0 <= row < len(clips) and clips[row].name != self.session.shelf.clip:
            self.session.shelf.choose_clip(clips[row].name)

    def _on_named(self, item: QListWidgetItem) -> None:
        clips, row = self.session.shot.clips, self.list.row(item)
        if 0 <= row < len(clips):
            old, words = clips[row].name, item.text().split("  ")[0]
            self.session.do("Name the clip", lambda shot: renamed_clip(shot, old, words))
        self._show_what()

    def _show_what(self) -> None:
        session, shelf = self.session, self.session.shelf
        clips, laid = session.shot.clips, shelf.laid()
        self.list.blockSignals(True)
        self.list.clear()
        for clip in clips:
            times = places_of(session.shot, clip.name)
            item = QListWidgetItem(clip.name)
            item.setToolTip(f"{clip.length:g} frames{', goes round' if clip.loops else ''}; laid {times} times")
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.list.addItem(item)
        self._show_pictures()
        names = [clip.name for clip in clips]
        self.list.setCurrentRow(names.index(shelf.clip) if shelf.clip in names else len(names) - 1)
        self.list.blockSignals(False)
        self.list.setFixedHeight(max(min(len(clips), 4), 1) * max(self.list.sizeHintForRow(0), 22) + 4)
        self.empty.setVisible(not clips)
        self.list.setVisible(bool(clips))
        for button in (self.lay, self.forget, self.drive):
            button.setVisible(bool(clips))
        self.keys.setVisible(bool(shelf.lanes()))
        self._show_laid(laid)
        self._show_instead()
        self.updateGeometry()

    def _show_pictures(self) -> None:
        """The pose that a clip begins with, on the figure that it is for."""
        shot, figure = self.session.shot, self.session.figure
        for row, clip in enumerate(shot.clips[: self.list.count()]):
            wearer = next((one for one in shot.cast if one.name == clip.figure), figure)
            item = self.list.item(row)
            if wearer is None or item is None or not set(clip.curves) <= set(wearer.rig.channel_names):
                continue
            pose = partial(_first_pose, clip, wearer)
            image = self.pictures.picture_for(wearer, ("clip", id(clip)), pose)
            if image is not None:
                item.setIcon(QIcon(QPixmap.fromImage(image)))

    def _show_instead(self) -> None:
        session = self.session
        self.instead.setVisible(bool(session.shelf.lanes()) and bool(session.controls))
        if session.controls:
            self.instead.setChecked(is_instead(session.shot, session.figure_name, session.choice.channels))

    def _on_frame(self) -> None:
        laid = self.session.shelf.laid()
        if laid is not None and len(laid.weight) > 1:
            self.rows["weight"].show_amount(weight_at(laid, self.session.frame) * 100)

    def _show_laid(self, laid: Laid | None) -> None:
        for widget in (
            *self.rows.values(),
            self.words,
            self.repeats,
            self.fade,
            self.off,
            *self.toggles.values(),
            self.mute,
        ):
            widget.setVisible(laid is not None)
        self.muted.setVisible(laid is not None and bool(laid.mute))
        if laid is None:
            return
        self.muted.setText(f"does not move: {', '.join(laid.mute)}")
        weight = weight_at(laid, self.session.frame)
        for name, share in (("strength", laid.strength), ("weight", weight), ("speed", laid.speed)):
            self.rows[name].show_amount(share * 100)
        self.repeats.show_value(round(laid.repeats, 3))
        shown = {
            "added": laid.how == "added",
            "backwards": laid.backwards,
            "in step": laid.in_step,
        }
        for name, on in shown.items():
            self.toggles[name].setChecked(on)


def _first_pose(clip: Clip, figure: Figure) -> NDArray[np.float64]:
    """The channels (C,) of the pose that a clip begins with."""
    return np.asarray(clip_values(clip, figure.rig, np.zeros(1))[0])
