"""Which keys of the chosen figure are chosen: one choice, shared by the pose strip and the curve desk."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from bovrin.craft.keying.key_sets import (
    Chosen,
    frames_of,
    joined_keys,
    wholly_chosen,
    without_keys,
)
from bovrin.craft.keying.lag import pose_keys
from bovrin.desk.state.choosing.choice import Choice
from bovrin.desk.state.document.document import Document
from bovrin.shot import CurveSet, Rig

Floats = NDArray[np.float64]


class KeyChoice(QObject):
    """Frames (N,) by channel. A card is chosen when every key on its frame is."""

    changed = pyqtSignal()

    def __init__(self, document: Document, choice: Choice) -> None:
        super().__init__(document)
        self._document, self._choice = document, choice
        self.by_channel: dict[int, Floats] = {}
        self._rig: Rig | None = None
        self._cards: tuple[CurveSet, dict[int, Floats], set[float]] | None = None
        document.committed.connect(self.mend)
        document.frame_changed.connect(self._on_frame_changed)

    def __bool__(self) -> bool:
        return bool(self.by_channel)

    def __len__(self) -> int:
        return sum(len(frames) for frames in self.by_channel.values())

    def choose(self, keys: Chosen) -> None:
        """Choose exactly these keys."""
        wanted = {i: np.asarray(frames) for i, frames in keys.items() if len(frames)}
        figure = self._choice.figure
        self._rig = None if figure is None else figure.rig
        if self.by_channel or wanted:
            self.by_channel = wanted
            self.changed.emit()

    def choose_there(self, keys: Chosen) -> None:
        """Choose those of some keys that are there: what was asked for may have been held back."""
        self.choose(self._there(keys))

    def _there(self, keys: Chosen) -> dict[int, Floats]:
        curves = self._choice.curves
        if curves is None:
            return {}
        return {i: own[np.isin(own, curves[i].frames)] for i, own in keys.items() if i < len(curves)}

    def clear(self) -> None:
        """Choose no key."""
        self.choose({})

    def clicked(self, keys: Chosen, *, add: bool) -> Callable[[], object]:
        """Some keys are pressed: those that are not chosen are, besides others if added. What is to be done when they are let go
        without a drag: of several chosen ones these alone stay so, or, added once more, no longer."""
        if self.holds(keys):
            return partial(self.toggle if add else self.choose, keys)
        if add:
            self.toggle(keys)
        else:
            self.choose(keys)
        return lambda: None

    def toggle(self, keys: Chosen) -> None:
        """Add keys, or take them away when all of them are chosen."""
        if self.holds(keys):
            self.choose(without_keys(self.by_channel, keys))
        else:
            self.choose(joined_keys(self.by_channel, keys))

    def holds(self, keys: Chosen) -> bool:
        """Whether all of some keys are chosen."""
        return bool(keys) and all(
            i in self.by_channel and np.isin(frames, self.by_channel[i]).all() for i, frames in keys.items()
        )

    def frames(self) -> Floats:
        """The frames on which any chosen key lies."""
        return frames_of(self.by_channel)

    def cards(self) -> set[float]:
        """The frames whose every key is chosen."""
        curves = self._choice.curves
        if curves is None or not self.by_channel:
            return set()
        if self._cards is None or self._cards[0] is not curves or self._cards[1] is not self.by_channel:
            self._cards = (curves, self.by_channel, set(wholly_chosen(curves, self.by_channel).tolist()))
        return self._cards[2]

    def on_frame(self, frame: float) -> dict[int, Floats]:
        """All keys of the chosen figure's pose on a frame, those that come late too; or just the keys there."""
        curves = self._choice.curves
        return {} if curves is None else pose_keys(curves, frame)

    def on_frames(self, frames: Floats) -> dict[int, Floats]:
        """All keys of the chosen figure's poses on some frames."""
        curves = self._choice.curves
        return {} if curves is None else joined_keys(*(pose_keys(curves, f) for f in np.unique(frames).tolist()))

    def _on_frame_changed(self) -> None:
        """One card that was clicked is let go of when one goes elsewhere: what is removed next is what one sees."""
        if any(len(own) > 1 for own in self.by_channel.values()):
            return
        frames = self.frames()
        if len(frames) == 1 and frames[0] != self._document.frame and self.cards():
            self.clear()

    def mend(self) -> None:
        """What was undone or removed is no longer chosen; a figure that got channels more has the same ones chosen."""
        before, figure = self._rig, self._choice.figure
        self._rig = None if figure is None else figure.rig
        if before is not None and self._rig is not None and before is not self._rig:
            self.by_channel = _renumbered(self.by_channel, before, self._rig)
        if self.by_channel:
            self.choose_there(self.by_channel)


def _renumbered(keys: Chosen, before: Rig, now: Rig) -> dict[int, Floats]:
    """The same channels, by their names, in another rig of a figure."""
    at = {name: i for i, name in enumerate(now.channel_names)}
    names = before.channel_names
    return {at[names[i]]: np.asarray(own) for i, own in keys.items() if i < len(names) and names[i] in at}
