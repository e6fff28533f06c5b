"""How the chosen figure goes, as the wheel, the shelf and the stage show it: contacts, slide, stride."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from bovrin.craft.keying.lag import poses_of
from bovrin.desk.state.choosing.choice import Choice
from bovrin.desk.state.document.document import Document
from bovrin.errors import BovrinError
from bovrin.figure.ground.feet import Foothold, footholds
from bovrin.figure.staging import hangs_on
from bovrin.frozen import frozen
from bovrin.measure.gait.contacts import contacts, cycle_contacts
from bovrin.measure.gait.footing import footing
from bovrin.measure.gait.slide import slid
from bovrin.measure.gait.stride import Stride, stride
from bovrin.shot import Cycle, Figure, Shot, Stretch

Floats = NDArray[np.float64]

MOST_PRINTS = 400
MOST = 4000
"""Frames of a range up to which feet are read while one works."""


class Print(NamedTuple):
    """Where a foot stands: its number, the frames it is down, the middle one of them, and its place then (3,), metres."""

    foot: int
    span: Stretch
    middle: float
    place: Floats


@frozen
class FeetReading:
    """A figure's feet over a shot: round (by foot, of one round of its cycle), down (by foot, over the range), frames (F,) and on
    them slide (N, F) and how high the body is (F,), metres; poses: the frames of the cycle's; stride: None where none can be
    measured, for which `why` is the reason."""

    figure: Figure
    cycle: Cycle | None
    feet: tuple[Foothold, ...]
    round: dict[str, list[Stretch]]
    down: dict[str, list[Stretch]]
    frames: Floats
    slide: Floats
    height: Floats
    ground: Floats
    poses: Floats
    stride: Stride | None
    why: str
    prints: tuple[Print, ...] = ()

    @property
    def worst(self) -> float:
        """The farthest that a planted foot slides, metres."""
        return float(self.slide.max(initial=0.0))


class Going(QObject):
    """Reads the chosen figure's feet when they are asked for; while something is dragged, what was read before is kept."""

    changed = pyqtSignal()
    form_asked = pyqtSignal()
    """A new cycle is to be laid out."""
    laid_out = pyqtSignal()
    """A new cycle has been laid out: its range is worth seeing."""

    def __init__(self, document: Document, choice: Choice, parent: QObject) -> None:
        super().__init__(parent)
        self._document, self._choice = document, choice
        self._kept: tuple[tuple[object, ...], FeetReading | None] | None = None
        document.committed.connect(self.changed)
        choice.changed.connect(self.changed)

    def reading(self) -> FeetReading | None:
        """The chosen figure's; None where it has no feet."""
        figure, shot = self._choice.figure, self._document.shot
        if figure is None or figure.name not in shot.take.curves:
            return None
        name = figure.name
        key = (figure, *_hangs_on(shot, name), dict(shot.contacts(name)), shot.first, shot.last)
        if self._kept is None or self._kept[0] != key:
            self._kept = (key, read(shot, figure))
        return self._kept[1]


def _hangs_on(shot: Shot, figure: str) -> tuple[object, ...]:
    """What the feet of a figure hang on besides its contacts and the range."""
    own = (hangs_on(shot, figure), shot.cycle(figure), shot.lanes(figure))
    return (*own, *(hangs_on(shot, other.name) for other in shot.cast)) if shot.on_set else own


def read(shot: Shot, figure: Figure) -> FeetReading | None:
    """The feet of a figure over a shot."""
    cycle = shot.cycle(figure.name)
    if not footholds(figure.rig) or shot.last - shot.first > MOST:
        return None
    frames = np.arange(np.ceil(shot.first), np.floor(shot.last) + 1)
    own = footing(shot, figure.name, frames, hands=True)
    ground = footing(shot, figure.name, frames).treadmill(shot.frame_rate)
    down = contacts(shot, figure.name)
    used = [n for n, foot in enumerate(own.feet) if not foot.palm or down.get(foot.name)]
    feet = tuple(own.feet[n] for n in used)
    slide = np.array([slid(own, n, down.get(own.feet[n].name, []), ground) for n in used])
    one = {} if cycle is None else cycle_contacts(shot, figure.name, cycle)
    why, found = "", None
    try:
        found = stride(shot, figure.name)
    except BovrinError as error:
        why = error.sentence
    poses, prints = _poses(shot, figure, cycle), _prints(shot, figure, feet, down)
    return FeetReading(figure, cycle, feet, one, down, frames, slide, own.body[:, 1], ground, poses, found, why, prints)


def _prints(
    shot: Shot, figure: Figure, feet: tuple[Foothold, ...], down: dict[str, list[Stretch]]
) -> tuple[Print, ...]:
    """Where feet stand in the middle of each of their contacts."""
    spans = [(n, span) for n, foot in enumerate(feet) for span in down.get(foot.name, [])][:MOST_PRINTS]
    if not spans:
        return ()
    middles = np.array([(a + b) / 2 for _, (a, b) in spans])
    frames, back = np.unique(middles, return_inverse=True)
    every = footing(shot, figure.name, frames, hands=True)
    points = every.points.mean(2)[[[own.name for own in every.feet].index(foot.name) for foot in feet]]
    return tuple(
        Print(n, span, float(middle), points[n, row])
        for (n, span), middle, row in zip(spans, middles, back.tolist(), strict=True)
    )


def _poses(shot: Shot, figure: Figure, cycle: Cycle | None) -> Floats:
    """The frames of a round's poses."""
    frames = poses_of(shot.curves(figure.name)).frames
    return frames if cycle is None else frames[(frames >= cycle.first - 1e-6) & (frames < cycle.last - 1e-6)]
