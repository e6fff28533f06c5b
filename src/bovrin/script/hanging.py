"""What hangs on something, by script."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from bovrin.craft.hanging import attach as _attach
from bovrin.craft.hanging import bake as _bake
from bovrin.craft.hanging import influence as _influence
from bovrin.craft.hanging import onto as _onto
from bovrin.craft.hanging import shares as _shares
from bovrin.craft.hanging.spans import spans_of
from bovrin.shot import Shot

GROUND = _attach.GROUND
"""What things hang on that hang on the ground."""


class Hanging(NamedTuple):
    """What hangs on what: a control, the figure and joint that carry it ("", "": the ground), by "both", "place" or "turn", the
    channel that says how far, and from which frame to which it does."""

    control: str
    to: tuple[str, str]
    what: str
    channel: str
    spans: list[tuple[float, float]]


def attach(
    shot: Shot,
    figure: str,
    control: str,
    to: tuple[str, str],
    frame: float | None = None,
    keep: bool = True,
    what: str = "both",
) -> Shot:
    """A control hung on `to`, a figure and one of its joints or GROUND, from a frame on; None: always. keep: it stays where it is
    on that frame, else it goes onto the joint. what: "both", "place" or "turn". What it hung on before lets go of it there."""
    return _attach.attach(shot, figure, control, to, frame, keep=keep, what=what)


def detach(shot: Shot, figure: str, control: str, frame: float) -> Shot:
    """A control on its own again from a frame on, without a pop."""
    return _influence.detach(shot, figure, control, frame)


def set_influence(
    shot: Shot, figure: str, control: str, frame: float, amount: float, to: tuple[str, str] | None = None
) -> Shot:
    """How far (0 to 1) a control hangs on something from a frame on; `to`: on what, where it hangs on several things."""
    return _shares.set_influence(shot, figure, control, frame, amount, to)


def attachments(shot: Shot, figure: str) -> list[Hanging]:
    """What of a figure hangs on something in the shot's take."""
    return [
        Hanging(one.control, (one.carrier, one.joint), one.what, one.column, spans_of(shot, figure, one))
        for one in shot.attachments(figure)
    ]


def snap_to(shot: Shot, figure: str, control: str, to: tuple[str, str], frame: float, what: str = "both") -> Shot:
    """A control put onto a joint once, on a frame: its "place", its "turn" or "both"; no attachment."""
    return _onto.snap_to(shot, figure, control, to, frame, what)


def bake(
    shot: Shot,
    figure: str,
    start: float | None = None,
    end: float | None = None,
    controls: Iterable[str] | None = None,
    every_frame: bool = False,
) -> Shot:
    """What attachments and clips make of a figure, as keys: the fewest that do, or on every frame; attachments let go there."""
    return _bake.bake(shot, figure, start, end, controls, every_frame=every_frame)
