"""Clips by script."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Any

from bovrin.craft.clips import from_motion as _from_motion
from bovrin.craft.clips import instead as _instead
from bovrin.craft.clips import keeping as _keeping
from bovrin.craft.clips import laying as _laying
from bovrin.craft.clips import naming as _naming
from bovrin.craft.clips import sidestep as _sidestep
from bovrin.craft.clips import to_keys as _to_keys
from bovrin.formats.bringing import bring_file
from bovrin.script.basics import PathLike
from bovrin.shot import Laid, Shot


def keep_clip(
    shot: Shot, figure: str, name: str, start: float, end: float, loop: bool = False, parts: Iterable[str] | None = None
) -> Shot:
    """What a figure, or some of its parts, does from start to end is kept as a clip; one of that name is replaced."""
    return _keeping.keep_clip(shot, figure, name, start, end, loop=loop, parts=parts)


def clips(shot: Shot, figure: str | None = None) -> list[str]:
    """The clips of a shot that move something a figure has; without one, all."""
    known = None if figure is None else set(shot.figure(figure).rig.channel_names)
    return [clip.name for clip in shot.clips if known is None or known & set(clip.curves)]


def bring_clips(shot: Shot, other: Shot) -> Shot:
    """The clips of another shot as well, under free names; those that are here already come no second time."""
    return _naming.brought_clips(shot, other)


def clips_of_file(shot: Shot, figure: str, path: PathLike) -> Shot:
    """The motions of a .glb, .gltf or .bvh file as clips of a figure, carried to it; those that end as they begin go round."""
    brought = bring_file(Path(path), None, shot.frame_rate)[0]
    return _from_motion.motions_as_clips(shot, figure, brought, Path(path).stem)


def lay_clip(
    shot: Shot, figure: str, clip: str, at: float, lane: int = 0, keys: str = "let go", **settings: Any
) -> Shot:
    """A clip laid on a lane from a frame on. keys: what becomes of those that lie where it moves and no clip did: "let go", "on
    top" (added) or "instead" of it. settings: repeats, speed, strength, weight (a number or a curve), mute (controls, channels or
    parts), how ("over" or "added"), first and last (frames of the clip), hold, backwards, follows, in_step."""
    return _laying.lay_clip(shot, figure, clip, at, lane, keys, **settings)


def laid(shot: Shot, figure: str) -> list[list[Laid]]:
    """What lies on the lanes of a figure, the lowest first."""
    return [list(lane.laid) for lane in shot.lanes(figure)]


def crossfade(shot: Shot, figure: str, lane: int, at: float, frames: float, in_step: bool = True) -> Shot:
    """The clip after a frame on a lane fades in from there over so many frames, its feet in step with those of the one before."""
    return _laying.crossfade(shot, figure, lane, at, frames, in_step=in_step)


def clips_to_keys(
    shot: Shot, figure: str, start: float | None = None, end: float | None = None, every_frame: bool = False
) -> Shot:
    """What clips and keys do together told by keys: the fewest within 0.5 mm and 0.1 degrees, or on every frame."""
    return _to_keys.clips_to_keys(shot, figure, start, end, every_frame=every_frame)


def keys_instead(shot: Shot, figure: str, controls: Iterable[str], frame: float, instead: bool = True) -> Shot:
    """Keys of some controls count instead of the clips under them, or are added to those again; keyed frames look the same."""
    rig = shot.figure(figure).rig
    channels = [i for name in controls for i in rig.span(rig.control(name))]
    return _instead.keys_instead(shot, figure, channels, frame, instead=instead)


def sidestep(
    shot: Shot,
    figure: str,
    clip: str,
    way: str,
    at: float,
    repeats: float = 1.0,
    stride: float | None = None,
    angle: float = _sidestep.ANGLE,
) -> Shot:
    """A forward cycle goes "left", "right", "backward", or round by "turn left" or "turn right" (degrees a round: angle): it is
    laid with its way forward muted, and that is keyed anew on a lane above, stride and timing kept; aside no farther than feet
    can go without crossing, unless a stride is given."""
    return _sidestep.sidestep(shot, figure, clip, way, at, repeats, stride, angle)
