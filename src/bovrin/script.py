"""Everything an animator does, from Python without a window, under names that stay.

Figures, parts, limbs, joints and controls go by name; a channel is "control/channel", such as "left hand/up". Frames are
floats, angles degrees, lengths metres. Shots are values: every function that changes one returns a new one. Errors are
BovrinErrors.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin import cast
from bovrin.craft import bounce as _bounce
from bovrin.craft import breakdown as _breakdown
from bovrin.craft import chart as _chart
from bovrin.craft import keys as _keys
from bovrin.craft import markers as _craft_markers
from bovrin.craft import mirror as _mirror
from bovrin.craft import modes as _modes
from bovrin.craft import poses as _poses
from bovrin.craft import reshaping as _reshaping
from bovrin.craft import rotation as _rotation
from bovrin.craft import snap as _snap
from bovrin.craft import splining as _splining
from bovrin.craft import timing as _timing
from bovrin.craft import traces as _traces
from bovrin.craft.bending import set_kind as _set_kind
from bovrin.craft.body import BodyDrag
from bovrin.craft.place import place_values
from bovrin.errors import BadMotion
from bovrin.figure.solve import Motion
from bovrin.figure.solve import sample as _sample
from bovrin.formats import markers as _markers
from bovrin.formats import pose_book as _pose_book
from bovrin.formats import project as _project
from bovrin.formats.shot_glb import export as _export
from bovrin.motion.evaluate import channel_values
from bovrin.motion.insert import inserted as _inserted
from bovrin.picture.shot_picture import shot_picture
from bovrin.picture.view import View, named_view
from bovrin.shot import Curve, EndKind, HandleKind, KeyRole, Pose, Rig, Shot, Unit

PathLike = _project.PathLike

__all__ = [
    "bounce",
    "breakdown",
    "channels",
    "chart",
    "copy_pose",
    "curve",
    "demo",
    "drag",
    "export",
    "fence",
    "figures",
    "fill_breakdowns",
    "import_markers",
    "insert_frames",
    "insert_key",
    "keep_trace",
    "key_pose",
    "keys",
    "lengthen",
    "limbs",
    "load",
    "load_poses",
    "markers",
    "mirror",
    "mirror_range",
    "parts",
    "paste_pose",
    "picture",
    "place",
    "remove_frames",
    "sample",
    "save",
    "save_poses",
    "set_chart",
    "set_ends",
    "set_handles",
    "set_mode",
    "set_rotation_order",
    "set_values",
    "slide",
    "snap",
    "splined",
    "stepped",
    "swap_trace",
    "unroll",
    "values",
]


def demo() -> Shot:
    """The shipped demo shot."""
    return _project.load(cast.DEMO)


def load(path: PathLike) -> Shot:
    """Open a project."""
    return _project.load(path)


def save(shot: Shot, path: PathLike) -> None:
    """Write a project; a failed save leaves the file as it was."""
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
    now = channel_values(shot.curves(figure), rig, [_finite(frame, "frame")])[0]
    return {name: float(v) * _factor(rig, i) for i, (name, v) in enumerate(zip(rig.channel_names, now, strict=True))}


def _factor(rig: Rig, channel: int) -> float:
    return 180 / math.pi if rig.channels[channel].unit is Unit.ANGLE else 1.0


def _finite(number: float, what: str) -> float:
    if not math.isfinite(number):
        raise BadMotion(f"the {what} is not a finite number.")
    return float(number)


def keys(shot: Shot, figure: str, channel: str) -> list[float]:
    """The frames that carry a key."""
    return [float(f) for f in shot.curves(figure)[shot.figure(figure).rig.channel(channel)].frames]


def set_values(shot: Shot, figure: str, frame: float, values: Mapping[str, float]) -> Shot:
    """Key these channels at a frame: metres and degrees."""
    rig = shot.figure(figure).rig
    indexed = {rig.channel(name): value for name, value in values.items()}
    plain = {i: _finite(value, "value") / _factor(rig, i) for i, value in indexed.items()}
    style = _keys.local_style(shot, figure, frame, KeyRole.KEY_POSE)
    return _keys.set_channels(shot, figure, _finite(frame, "frame"), plain, style)


def key_pose(shot: Shot, figure: str, frame: float, parts: Iterable[str] | None = None) -> Shot:
    """Key what is there, for the whole figure or some parts."""
    return _keys.key_pose(shot, figure, _finite(frame, "frame"), parts)


def breakdown(shot: Shot, figure: str, frame: float, favour: float, parts: Mapping[str, float] | None = None) -> Shot:
    """Put a breakdown between the poses around a frame. favour 0..1 and beyond; parts: {part: favour}."""
    own = {name: _finite(value, "favour") for name, value in (parts or {}).items()}
    return _breakdown.breakdown(shot, figure, _finite(frame, "frame"), _finite(favour, "favour"), own)


def stepped(shot: Shot, figure: str, start: float | None = None, end: float | None = None) -> Shot:
    """Let poses hold until the next, over the whole shot or from start up to end."""
    return _splining.stepped(shot, figure, start, end)


def splined(shot: Shot, figure: str, start: float | None = None, end: float | None = None) -> Shot:
    """Let stepped poses ease into each other, over the whole shot or from start up to end."""
    return _splining.splined(shot, figure, start, end)


def lengthen(shot: Shot, figure: str, frame: float, frames: float, parts: Iterable[str] | None = None) -> Shot:
    """Hold the pose at (or before) a frame longer; later keys move along. frames may be negative."""
    return _timing.lengthen(shot, figure, _finite(frame, "frame"), _finite(frames, "number of frames"), parts)


def sample(shot: Shot, figure: str, frames: ArrayLike) -> Motion:
    """Joints in world space: .joints, .frames (F,), .position (F, J, 3) metres, .rotation (F, J, 4) xyzw."""
    return _sample(shot, figure, frames)


def export(shot: Shot, path: PathLike) -> None:
    """Write the shot in the format that the file's ending names (.glb)."""
    _export(shot, Path(path))


def picture(shot: Shot, frame: float, view: str | View, size: tuple[int, int]) -> NDArray[np.uint8]:
    """The shot at a frame (H, W, 4); view: a name ("three-quarter", "front", "side", "top") or a View."""
    return shot_picture(shot, _finite(frame, "frame"), named_view(view) if isinstance(view, str) else view, size)


# -- posing -----------------------------------------------------------------------------------------------------------


def _now(shot: Shot, figure: str, frame: float) -> NDArray[np.float64]:
    return np.asarray(channel_values(shot.curves(figure), shot.figure(figure).rig, [_finite(frame, "frame")])[0])


def _point(place: ArrayLike) -> NDArray[np.float64]:
    point = np.asarray(place, float)
    if point.shape != (3,) or not np.isfinite(point).all():
        raise BadMotion("a place is three finite numbers: x, y and z in metres.")
    return point


def _key_changes(shot: Shot, figure: str, frame: float, changes: dict[int, float]) -> Shot:
    style = _keys.local_style(shot, figure, frame, KeyRole.KEY_POSE)
    return _keys.set_channels(shot, figure, frame, changes, style)


def drag(
    shot: Shot,
    figure: str,
    frame: float,
    joint: str,
    to: ArrayLike,
    anchors: Iterable[str] = (),
    keep_turn: bool = False,
) -> Shot:
    """Pull a joint to a world place (3,), metres; the whole body follows, `anchors` (joints) hold. Keys what changes."""
    rig = shot.figure(figure).rig
    body = BodyDrag(
        rig, _now(shot, figure, frame), rig.joint(joint), [rig.joint(a) for a in anchors], keep_turn=keep_turn
    )
    return _key_changes(shot, figure, frame, body.to(_point(to)))


def place(
    shot: Shot,
    figure: str,
    frame: float,
    joint: str,
    to: ArrayLike,
    keep: Iterable[str] = (),
    stretch: bool = False,
) -> Shot:
    """Put one joint at a world place (3,), metres, as near as its bones allow; `keep`: joints that must not move."""
    rig = shot.figure(figure).rig
    held = [rig.joint(name) for name in keep]
    now = _now(shot, figure, frame)
    return _key_changes(
        shot, figure, frame, place_values(rig, now, rig.joint(joint), _point(to), held, stretch=stretch)
    )


def set_mode(shot: Shot, figure: str, limb: str, frame: float, mode: str, end: float | None = None) -> Shot:
    """Switch a limb to "reach" or "joints" at a frame without a jump; with `end`, match every frame of the range."""
    rig = shot.figure(figure).rig
    return _modes.set_mode(shot, figure, _modes.limb_named(rig, limb), _finite(frame, "frame"), mode, end)


def mirror(
    shot: Shot,
    figure: str,
    frames: float | Iterable[float],
    parts: Iterable[str] | None = None,
    how: str = "swap",
    plane: str = "figure",
    keep_place: bool = True,
) -> Shot:
    """Mirror the poses on some frames and key them: how "swap", "left to right" or "right to left"; plane "figure" or
    "world". Without keep_place the figure's place and facing are mirrored too."""
    at = [_finite(f, "frame") for f in (frames if isinstance(frames, Iterable) else [frames])]
    if not at:
        raise BadMotion("there is no frame to mirror.", advice="Give at least one frame.")
    return _mirror.mirror(shot, figure, at, parts, how, plane, keep_place=keep_place)


def mirror_range(
    shot: Shot, figure: str, start: float, end: float, parts: Iterable[str] | None = None, how: str = "swap"
) -> Shot:
    """Mirror all keys from start to end, with their handles, about the figure's own plane."""
    return _mirror.mirror_range(shot, figure, _finite(start, "frame"), _finite(end, "frame"), parts, how)


def copy_pose(shot: Shot, figure: str, frame: float, parts: Iterable[str] | None = None) -> Pose:
    """The pose of a figure, or of some parts, at a frame."""
    return _poses.copy_pose(shot, figure, _finite(frame, "frame"), parts)


def paste_pose(shot: Shot, figure: str, frame: float, pose: Pose, amount: float = 1.0, mirrored: bool = False) -> Shot:
    """Put a share of a pose on a frame, plain or mirrored, also on another figure with parts of the same names."""
    return _poses.paste_pose(shot, figure, _finite(frame, "frame"), pose, _finite(amount, "amount"), mirrored=mirrored)


def save_poses(poses: Iterable[Pose], path: PathLike) -> None:
    """Write poses as a pose book."""
    _pose_book.save_book(tuple(poses), Path(path))


def load_poses(path: PathLike) -> list[Pose]:
    """The poses of a pose book."""
    return list(_pose_book.load_book(Path(path)))


def set_rotation_order(shot: Shot, figure: str, control: str, order: str) -> Shot:
    """Write a control's rotations in another order, such as "XYZ"; the motion stays."""
    return _rotation.set_rotation_order(shot, figure, control, order)


def unroll(shot: Shot, figure: str, controls: Iterable[str]) -> Shot:
    """Take whole turns out of the rotation curves of some controls."""
    rig = shot.figure(figure).rig
    return _rotation.unroll(shot, figure, [rig.control(name) for name in controls])


def fence(shot: Shot, figure: str, frame: float, controls: Iterable[str] | None = None) -> Shot:
    """Key a frame and the ones beside it as they are, so that a change of this frame spoils nothing else."""
    rig = shot.figure(figure).rig
    chosen = range(len(rig.controls)) if controls is None else [rig.control(name) for name in controls]
    return _keys.fence(shot, figure, _finite(frame, "frame"), chosen)


# -- blocking ---------------------------------------------------------------------------------------------------------


def fill_breakdowns(shot: Shot, figure: str, start: float, end: float, every: float, favour: float = 0.5) -> Shot:
    """Breakdowns on every so many frames between the poses from start to end; favour: how far the middle one has got."""
    first, last = _finite(start, "frame"), _finite(end, "frame")
    return _breakdown.fill_breakdowns(shot, figure, first, last, _finite(every, "step"), _finite(favour, "favour"))


def chart(shot: Shot, figure: str, start: float, end: float, part: str | None = None) -> list[float]:
    """The share of the way from the pose at start to that at end on each whole frame, both ends included."""
    return _chart.chart(shot, figure, _finite(start, "frame"), _finite(end, "frame"), part)


def set_chart(
    shot: Shot, figure: str, start: float, end: float, shares: Sequence[float], part: str | None = None
) -> Shot:
    """Give each whole frame from start to end its share of the way; both poses stay as they are."""
    return _chart.set_chart(shot, figure, _finite(start, "frame"), _finite(end, "frame"), shares, part)


def slide(
    shot: Shot, figure: str, frames: float, parts: Iterable[str], start: float | None = None, end: float | None = None
) -> Shot:
    """Delay (or advance) parts by frames: all their keys, or those from start to end."""
    return _timing.slide(shot, figure, _finite(frames, "number of frames"), parts, start, end)


def insert_frames(shot: Shot, frame: float, count: int) -> Shot:
    """Put empty frames after a frame; everything later moves along."""
    return _timing.insert_frames(shot, _finite(frame, "frame"), count)


def remove_frames(shot: Shot, frame: float, count: int) -> Shot:
    """Take out empty frames after a frame."""
    return _timing.remove_frames(shot, _finite(frame, "frame"), count)


def import_markers(shot: Shot, path: PathLike) -> Shot:
    """Add the markers of a .srt, .vtt or .csv file; entries that cannot be read are left out."""
    found, _ = _markers.read_markers(Path(path), shot.frame_rate, shot.first)
    return _craft_markers.with_markers(shot, found)


def markers(shot: Shot) -> list[tuple[float, float, str]]:
    """The shot's markers: start, end, words."""
    return [(m.start, m.end, m.words) for m in shot.markers]


def curve(shot: Shot, figure: str, channel: str) -> Curve:
    """The keys of a channel as read-only arrays (N,), radians or metres: frames, values, handles and roles."""
    return shot.curves(figure)[shot.figure(figure).rig.channel(channel)].settled()


def set_handles(shot: Shot, figure: str, channel: str, frames: Iterable[float], kind: str) -> Shot:
    """Give keys on frames a handle kind: "smooth", "no overshoot", "flat", "linear", "stepped" or "by hand"."""
    kinds = {k.name.lower().replace("_", " "): k for k in HandleKind}
    if kind not in kinds:
        raise BadMotion(f"there is no handle kind '{kind}'.", advice=f"Kinds: {', '.join(kinds)}.")

    def change(own: Curve) -> Curve:
        at = [own.index_at(frame) for frame in frames]
        if None in at:
            raise BadMotion(
                f"'{channel}' has no key on one of these frames.", advice="See keys(shot, figure, channel)."
            )
        return _set_kind(own, np.array(at, np.intp), kinds[kind])

    return _keys.changed_curves(shot, figure, [shot.figure(figure).rig.channel(channel)], change)


def insert_key(shot: Shot, figure: str, channel: str, frame: float) -> Shot:
    """A key more; no value of the curve changes."""
    rig = shot.figure(figure).rig
    at = rig.channel(channel)
    return _keys.changed_curves(shot, figure, [at], lambda own: _inserted(own, frame, rig.channels[at].default))


def set_ends(shot: Shot, figure: str, channel: str, before: str | None = None, after: str | None = None) -> Shot:
    """What a channel does outside its keys: "hold", "straight", "repeat", "repeat with offset" or "back and forth"."""
    kinds = {kind.words: kind for kind in EndKind}
    for word in (before, after):
        if word is not None and word not in kinds:
            raise BadMotion(f"a curve cannot '{word}' outside its keys.", advice=f"Words: {', '.join(kinds)}.")
    ends = {name: kinds[word] for name, word in (("before", before), ("after", after)) if word is not None}
    return _reshaping.with_ends(shot, figure, [shot.figure(figure).rig.channel(channel)], **ends)


def bounce(
    shot: Shot,
    figure: str,
    channel: str,
    contacts: Sequence[float],
    heights: Sequence[float] | None = None,
    ground: float | Sequence[float] = 0.0,
) -> Shot:
    """Let a channel bounce between contact frames: heights (metres) of the tops above the contact before each.

    Without heights gravity makes them from the timing. ground: one level, or one for each contact.
    """
    return _bounce.bounce(shot, figure, shot.figure(figure).rig.channel(channel), contacts, heights, ground)


def snap(
    shot: Shot,
    figure: str,
    start: float,
    end: float,
    parts: Iterable[str] | None = None,
    hold: float = 0.0,
    drift: float = 0.0,
) -> Shot:
    """Leave at once on one frame, arrive at once on another, on every channel that takes part; then hold or drift."""
    return _snap.snap(shot, figure, parts, start, end, hold, drift)


def keep_trace(shot: Shot, figure: str, name: str = "") -> Shot:
    """Keep the curves as they are, to compare with and to go back to."""
    return _traces.keep_trace(shot, figure, name)


def swap_trace(shot: Shot, figure: str, name: str) -> Shot:
    """The trace becomes the motion, and the motion the trace."""
    return _traces.swap_trace(shot, figure, name)
