"""Shots, names, values, keys and poses by script."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from pathlib import Path

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin import cast
from bovrin.craft.between import breakdown as _breakdown
from bovrin.craft.curves import splining as _splining
from bovrin.craft.drawings import drawing_at
from bovrin.craft.handing import by_take as _by_take
from bovrin.craft.handing import handed as _handed
from bovrin.craft.keying import keys as _keys
from bovrin.craft.keying import pose_keys as _pose_keys
from bovrin.craft.keying import timing as _timing
from bovrin.craft.keying import whole_cast as _whole_cast
from bovrin.errors import BadMotion, UnknownName
from bovrin.figure.solve.joints import Motion
from bovrin.figure.staging import sample as _sample
from bovrin.formats.gltf.out import export as _export
from bovrin.formats.project import store as _project
from bovrin.motion.evaluate import channel_values
from bovrin.picture.shot_picture import shot_picture
from bovrin.picture.strokes import with_drawing
from bovrin.picture.view import View, named_view
from bovrin.shot import KeyRole, PartOrControl, Rig, Shot, Unit

PathLike = _project.PathLike


def demo(name: str = "heave") -> Shot:
    """A shipped demo shot: "heave", the porter and his crate (takes "blocked" and "splined"), "goat", which turns, or "across",
    in which both walk by clips."""
    if name not in cast.DEMOS:
        raise UnknownName(f"there is no demo '{name}'.", advice="Demos: " + ", ".join(cast.DEMOS) + ".")
    return _project.load(cast.DEMOS[name])


def load(path: PathLike) -> Shot:
    """Open a project."""
    return _project.load(path)


def save(shot: Shot, path: PathLike) -> None:
    """Write a project; a failed save leaves the file as it was. Figures are written beside it where they are missing."""
    _project.save(shot, path)


def figures(shot: Shot) -> list[str]:
    """The names of the figures."""
    return [figure.name for figure in shot.cast]


def parts(shot: Shot, figure: str) -> list[str]:
    """The parts of a figure."""
    return [part.name for part in shot.figure(figure).rig.parts]


def limbs(shot: Shot, figure: str) -> list[str]:
    """The limbs of a figure that can be posed by reach."""
    return [limb.name for limb in shot.figure(figure).rig.limbs]


def channels(shot: Shot, figure: str, part: str | None = None) -> list[str]:
    """The channels of a figure, or of one part."""
    rig = shot.figure(figure).rig
    return [rig.channel_names[i] for i in _keys.part_channels(rig, None if part is None else [part])]


def values(shot: Shot, figure: str, frame: float) -> dict[str, float]:
    """What the curves say at a frame: metres and degrees."""
    rig = shot.figure(figure).rig
    now = channel_values(shot.curves(figure), rig, [frame])[0]
    return {name: float(v) * factor_of(rig, i) for i, (name, v) in enumerate(zip(rig.channel_names, now, strict=True))}


def factor_of(rig: Rig, channel: int) -> float:
    return 180 / math.pi if rig.channels[channel].unit is Unit.ANGLE else 1.0


def keys(shot: Shot, figure: str, channel: str) -> list[float]:
    """The frames that carry a key."""
    return [float(f) for f in shot.curves(figure)[shot.figure(figure).rig.channel(channel)].frames]


def set_values(shot: Shot, figure: str, frame: float, values: Mapping[str, float]) -> Shot:
    """Key these channels at a frame: metres and degrees."""
    rig = shot.figure(figure).rig
    indexed = {rig.channel(name): value for name, value in values.items()}
    plain = {i: value / factor_of(rig, i) for i, value in indexed.items()}
    style = _keys.local_style(shot, figure, frame, KeyRole.KEY_POSE)
    return _keys.set_channels(shot, figure, frame, plain, style)


def key_pose(shot: Shot, figure: str, frame: float, parts: Iterable[str] | None = None) -> Shot:
    """Key what is there, for the whole figure or some parts."""
    return _pose_keys.key_pose(shot, figure, frame, parts)


def breakdown(shot: Shot, figure: str, frame: float, favour: float, parts: Mapping[str, float] | None = None) -> Shot:
    """Put a breakdown between the poses around a frame. favour 0..1 and beyond; parts: {part: favour}."""
    own: dict[PartOrControl, float] = {name: float(value) for name, value in (parts or {}).items()}
    return _breakdown.breakdown(shot, figure, frame, favour, own)


def stepped(shot: Shot, figure: str, start: float | None = None, end: float | None = None) -> Shot:
    """Let poses hold until the next, over the whole shot or from start up to end."""
    return _splining.stepped(shot, figure, start, end)


def splined(shot: Shot, figure: str, start: float | None = None, end: float | None = None) -> Shot:
    """Let stepped poses ease into each other, over the whole shot or from start up to end."""
    return _splining.splined(shot, figure, start, end)


def lengthen(
    shot: Shot,
    figure: str,
    frame: float,
    frames: float,
    parts: Iterable[str] | None = None,
    for_all: bool = False,
) -> Shot:
    """Hold the pose at (or before) a frame longer; later keys move along. frames may be negative.

    for_all: the whole cast, the markers and the range's end move along too.
    """
    if not for_all:
        return _timing.lengthen(shot, figure, frame, frames, parts)
    if parts is not None:
        raise BadMotion("parts are held longer by themselves.", advice="Give parts, or for_all, not both.")
    return _whole_cast.lengthen_for_all(shot, figure, frame, frames)


def move_pose(shot: Shot, figure: str, frame: float, to: float, for_all: bool = False) -> Shot:
    """Take the pose on a frame to another, between the poses around it; what comes late to it stays as late.

    for_all: what lies on its frame goes along in the whole cast, and markers.
    """
    move = _whole_cast.move_pose_for_all if for_all else _timing.move_pose
    return move(shot, figure, frame, to)


def sample(shot: Shot, figure: str, frames: ArrayLike) -> Motion:
    """Joints in world space: .joints, .frames (F,), .position (F, J, 3) metres, .rotation (F, J, 4) xyzw."""
    return _sample(shot, figure, frames)


def export(
    shot: Shot,
    path: PathLike,
    rate: float | None = None,
    metres: bool = False,
    travel: bool = True,
    clip: str | None = None,
    figures: Iterable[str] | None = None,
    start: float | None = None,
    end: float | None = None,
    take: str | None = None,
    each_take: bool = False,
) -> None:
    """Write the shot in the format that the file's ending names: .glb (every take an animation), .usda .usdc .usdz (by usd-core)
    or .bvh (one figure's motion). rate: samples a second in a .glb where motion is not keyed; the frame rate by default.

    A .glb of one brought figure alone, and a .bvh, are in the units that the figure came in; metres: in metres even then. travel:
    whether whole figures go over the ground, or stay where they begin. clip: that clip alone; else a .glb holds each of the
    shot's clips as an animation besides the takes. figures: these alone; start, end: the range; take: that take alone; each_take:
    a file for each take, named by it ("walk A.glb")."""
    shown = _handed(shot, figures, start, end, take)
    files = _by_take(shown, Path(path)) if each_take else [(None, Path(path))]
    for name, file in files:
        own = shown if name is None else _handed(shown, take=name)
        _export(own, file, rate, metres=metres, travel=travel, clip=clip)


def picture(
    shot: Shot, frame: float, view: str | View, size: tuple[int, int], drawings: bool = False
) -> NDArray[np.uint8]:
    """The shot at a frame (H, W, 4); view: a name ("three-quarter", "front", "side", "top") or a View. drawings: with what is
    drawn on the stage there."""
    seen = named_view(view) if isinstance(view, str) else view
    pixels = shot_picture(shot, frame, seen, size)
    drawing = drawing_at(shot, frame) if drawings else None
    return pixels if drawing is None else with_drawing(pixels, shot, drawing, frame, seen)
