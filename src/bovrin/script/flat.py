"""Flat figures, by script: drawings, order in front and behind, the other side, joints, chains."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

from bovrin.craft.flat import bends as _bends
from bovrin.craft.flat import drawings as _drawings
from bovrin.craft.flat import other_pose as _other_pose
from bovrin.craft.flat import redrawing as _redrawing
from bovrin.craft.flat import shaping as _shaping
from bovrin.craft.flat import stacking as _stacking
from bovrin.errors import BadFigure
from bovrin.script.basics import PathLike
from bovrin.shot import Shot


def drawings(shot: Shot, figure: str, part: str) -> list[str]:
    """The names of the drawings that a part of a flat figure has, the one at rest first."""
    return _drawings.drawings_of(shot.figure(figure), part)


def drawing(shot: Shot, figure: str, part: str, frame: float) -> str:
    """The drawing of a part that is shown on a frame."""
    return _drawings.drawing_at(shot, figure, part, frame)


def swap(shot: Shot, figure: str, part: str, frame: float, drawing: str, until: float | None = None) -> Shot:
    """Another drawing of a part from a frame on, until the part's next key; `until`: up to that frame, then what was there."""
    return _drawings.swap(shot, figure, part, frame, drawing, until)


def swap_run(shot: Shot, figure: str, part: str, frame: float, drawings: Sequence[str], every: float = 1) -> Shot:
    """Drawings of a part one after another, each for `every` frames, and then again what was there."""
    return _drawings.swap_run(shot, figure, part, frame, drawings, every)


def stack(shot: Shot, figure: str, part: str | Iterable[str], frame: float, how: str, branch: bool = False) -> Shot:
    """A part put "front", "back", "before <part>" or "behind <part>" from a frame on, until its next key. branch: with all that
    hangs on it."""
    return _stacking.stack(shot, figure, part, frame, how, branch=branch)


def stacking(shot: Shot, figure: str, frame: float) -> list[str]:
    """The parts of a flat figure on a frame, the foremost first."""
    return _stacking.stacking(shot, figure, frame)


def flip(shot: Shot, figure: str, part: str, frame: float) -> Shot:
    """A part turned over about its pivot, with what hangs on it, from a frame on, until its next key; again: back."""
    return _shaping.flip(shot, figure, part, frame)


def rejoin(shot: Shot, figure: str, frame: float, parts: Iterable[str] | None = None) -> Shot:
    """Parts that were pulled off put on their joints again on a frame, their turns kept; all that are off if none are named."""
    return _shaping.rejoin(shot, figure, frame, parts)


def bend_chain(shot: Shot, figure: str, parts: Sequence[str], frame: float, degrees: float, soft: float = 0.0) -> Shot:
    """A chain of parts, from the body outward, turned by degrees on a frame. soft 0: stiff about the first pivot; 1: the bend
    shared evenly along the parts."""
    return _shaping.bend_chain(shot, figure, parts, frame, degrees, soft)


def bend_along(shot: Shot, figure: str, part: str, points: int = 4) -> Shot:
    """A part that bends along its middle by 3 to 8 points, its pivot the first; each of the others is a control "<part> bend 1"
    and so on, moved and turned in the plane. Nothing moves by that alone."""
    return _bends.bend_along(shot, figure, part, points)


def reload(shot: Shot, figure: str) -> Shot:
    """A flat figure as its drawing is now: motion and setup kept, parts and drawings by their names. What is gone of it falls
    back to what is shown at rest."""
    from bovrin.formats.flat.figure import read_layers  # noqa: PLC0415 - only flat figures need it
    from bovrin.formats.flat.seen import masks_of  # noqa: PLC0415

    drawn = shot.figure(figure).model.drawn
    if drawn is None:
        raise BadFigure(f"'{figure}' was not brought from a drawing.", advice="Bring it anew.")
    layers, _ = read_layers(Path(drawn.path))
    return _redrawing.redrawn(shot, figure, layers, masks_of(layers)).shot


def frame_svg(shot: Shot, path: PathLike, figure: str, frame: float) -> None:
    """Write a flat figure's picture on a frame as an SVG: every part a group with its transform, in its order."""
    from bovrin.formats.files import write_atomically  # noqa: PLC0415
    from bovrin.formats.flat import svg_out  # noqa: PLC0415 - only flat figures need it

    write_atomically(Path(path), svg_out.frame_svg(shot, figure, frame).encode())


def bring_pose(shot: Shot, figure: str, path: PathLike, frame: float) -> Shot:
    """Another SVG of the same parts in another pose as a key pose on a frame: places, turns, sizes, leans and sides solved from
    the shapes, the shown drawings and the order taken over, all by name."""
    return pose_from(shot, figure, path, frame).shot


def pose_from(shot: Shot, figure: str, path: PathLike, frame: float) -> _other_pose.Posed:
    """The same, with what was not taken over, in words."""
    from bovrin.formats.flat.outlines import outlines  # noqa: PLC0415 - only flat figures need it

    drawn = shot.figure(figure).model.drawn
    if drawn is None:
        raise BadFigure(f"'{figure}' was not brought from a drawing.", advice="Bring it anew.")
    rest = {(one.part, one.drawing): one.points for one in outlines(Path(drawn.path))[0]}
    poses: dict[str, _other_pose.DrawnPose] = {}
    for one in outlines(Path(path))[0]:
        if one.part not in poses:  # the first of a part is what is shown
            own = rest.get((one.part, one.drawing))
            way = None if own is None else _other_pose.way_between(own, one.points)
            poses[one.part] = _other_pose.DrawnPose(one.part, one.drawing, way)
    return _other_pose.with_pose(shot, figure, list(poses.values()), frame)
