"""Cycles by script."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from bovrin.craft.cycle import body_ways as _ways
from bovrin.craft.cycle import footfalls as _footfalls
from bovrin.craft.cycle import half as _half
from bovrin.craft.cycle import lay_out as _lay_out
from bovrin.craft.cycle import new_cycle as _new
from bovrin.craft.cycle import plant as _plant
from bovrin.craft.cycle import rounds as _rounds
from bovrin.craft.cycle import spot as _spot
from bovrin.craft.cycle.gaits import gaits_for
from bovrin.craft.stride_ruler import stride_ruler
from bovrin.figure.ground.feet import footholds
from bovrin.measure.gait import contacts as _contacts
from bovrin.measure.gait import slide as _slide
from bovrin.measure.gait.stride import Stride
from bovrin.measure.gait.stride import stride as _stride
from bovrin.shot import Pose, Ruler, Shot, Stretch


def contacts(shot: Shot, figure: str) -> dict[str, list[Stretch]]:
    """By foot (the name of its limb), the stretches of frames in which it is down, as set or as found."""
    return _contacts.contacts(shot, figure)


def set_contacts(shot: Shot, figure: str, foot: str, spans: Iterable[Stretch] | None) -> Shot:
    """A foot is down in these stretches; None: they are found again. Of a cycle those of one round. Its motion stays."""
    return _footfalls.set_contacts(shot, figure, foot, spans)


def retime_contact(shot: Shot, figure: str, foot: str, old: Stretch, new: Stretch) -> Shot:
    """A foot is down from new[0] to new[1] instead of old: its motion is timed anew, and it is planted."""
    return _footfalls.retimed_contact(shot, figure, foot, old, new)


def plant(shot: Shot, figure: str, feet: Iterable[str] | None = None, blend: float = _plant.BLEND) -> Shot:
    """Feet stay where they are while they are down, and the hips give way; blend: frames over which that comes and goes."""
    return _plant.plant(shot, figure, None if feet is None else list(feet), blend)


def stand_on_set(shot: Shot, on: bool = True) -> Shot:
    """Feet come down on the meshes of the set and of what stands still, where contacts are found and feet are planted."""
    return replace(shot, on_set=bool(on))


def slide_of(shot: Shot, figure: str) -> dict[str, float]:
    """By foot, the farthest that it goes while it is down, metres."""
    return _slide.slide_of(shot, figure)


def stride(shot: Shot, figure: str) -> Stride:
    """.length .step .width (m), .speed (m/s), .cadence (steps a minute), .support (0 to 1), .period (frames)."""
    return _stride(shot, figure)


def ruler(shot: Shot) -> Ruler | None:
    """The ruler that lies on the ground: .start and .end (across, forward), .length, metres."""
    return shot.ruler


def lay_ruler(shot: Shot, start: Sequence[float], end: Sequence[float]) -> Shot:
    """A ruler on the ground from one place (across, forward) to another, metres."""
    return replace(shot, ruler=Ruler((float(start[0]), float(start[1])), (float(end[0]), float(end[1]))).checked())


def ruler_of_stride(shot: Shot, figure: str, frame: float | None = None) -> Shot:
    """The stride of a figure as a ruler, from where a foot stands on a frame."""
    return replace(shot, ruler=stride_ruler(shot, figure, shot.first if frame is None else frame))


def gaits(shot: Shot, figure: str) -> list[str]:
    """The gaits that a figure's cycle can be laid out in."""
    return list(gaits_for(footholds(shot.figure(figure).rig)))


def new_cycle(
    shot: Shot, figure: str, gait: str, frames: int, stride: float, start: float | None = None, spot: bool = False
) -> Shot:
    """The figure's motion becomes a cycle of so many frames and metres: feet as the gait has them, the body neutral."""
    return _new.new_cycle(shot, figure, gait, frames, stride, start, spot=spot)


def close_loop(shot: Shot, figure: str, start: float, end: float) -> Shot:
    """The pose at the end is that at the start, and curves meet in value and slope; travel is kept."""
    return _rounds.close_loop(shot, figure, start, end)


def open_loop(shot: Shot, figure: str) -> Shot:
    """The figure's motion no longer goes round; every key stays."""
    return _rounds.opened(shot, figure)


def mirror_half(shot: Shot, figure: str, start: float, end: float) -> Shot:
    """The second half of a loop is the first mirrored, half a round later."""
    return _half.mirror_half(shot, figure, start, end)


def lay_out(shot: Shot, figure: str, poses: Sequence[Pose], frames: Sequence[float], loop: bool = True) -> Shot:
    """Poses on frames; loop: they go round, the first of them again on the last frame."""
    return _lay_out.lay_out(shot, figure, poses, frames, loop=loop)


def on_the_spot(shot: Shot, figure: str, directions: Iterable[str] = ("forward",), steady: bool = False) -> Shot:
    """Travel is taken out: "forward", "across", "up", "turn"; steady: only what one speed makes."""
    return _spot.on_the_spot(shot, figure, list(directions), steady=steady)


def travelling(shot: Shot, figure: str, directions: Iterable[str] = ("forward",), steady: bool = False) -> Shot:
    """Travel is put back, as it was or from what the planted feet say."""
    return _spot.travelling(shot, figure, list(directions), steady=steady)


def body_ways(shot: Shot, figure: str) -> Mapping[str, float]:
    """How much twist, weight, bounce, sway, lean and arm swing a cycle has, degrees and centimetres."""
    return _ways.measured(shot, figure)


def set_body_way(shot: Shot, figure: str, name: str, amount: float) -> Shot:
    """A cycle with more or less of one of them."""
    return _ways.set_body_way(shot, figure, name, amount)
