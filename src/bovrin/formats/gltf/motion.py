"""glTF animations as curves. What a curve of angles cannot hold exactly between keys is keyed on every frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BovrinError
from bovrin.formats.gltf.container import GlbReader
from bovrin.formats.gltf.meshes import Morph
from bovrin.formats.gltf.nodes import NodeTree
from bovrin.frozen import frozen
from bovrin.motion.hermite import hermite
from bovrin.motion.rotations import (
    blend,
    euler_matrix,
    followed,
    inverse,
    matrix_euler,
    multiply,
    quaternion_matrix,
    unrolled,
)
from bovrin.progress import each
from bovrin.shot import ControlKind, Curve, CurveSet, HandleKind, KeyRole, Rig
from bovrin.shot.curve import COLUMN_TYPES, NO_KEYS
from bovrin.shot.rig import MORPH

Floats = NDArray[np.float64]
RATES = (24.0, 25.0, 30.0, 60.0, 48.0, 50.0, 12.0, 15.0, 100.0, 120.0, 240.0)
MOST = 0.9
"""Share of all keys that lie on whole frames of the rate that they were made at; clips may end anywhere."""
SAME = 2e-5
"""Rotation matrices that differ less are the same motion."""
SNAP = 2e-3
"""Frames within which a key lies on a whole frame."""
KINDS = {"STEP": HandleKind.STEPPED, "LINEAR": HandleKind.LINEAR, "CUBICSPLINE": HandleKind.BY_HAND}
WIDTHS = {"translation": 3, "rotation": 4, "scale": 3}


@frozen
class Track:
    """One channel of an animation: seconds (N,), values (N, k), and for cubic ones slopes per second in and out."""

    node: int
    path: str
    kind: HandleKind
    times: Floats
    values: Floats
    slopes: tuple[Floats, Floats] | None = None


def tracks_of(
    reader: GlbReader, animation: dict[str, Any], shapes: dict[int, list[Morph]], left_out: list[str]
) -> list[Track]:
    """What an animation moves; channels that are damaged are left out and told."""
    channels = animation.get("channels", [])
    found = []
    for channel in channels if isinstance(channels, list) else []:
        target = channel.get("target") if isinstance(channel, dict) else None
        if not isinstance(target, dict) or not isinstance(target.get("node"), int):
            continue
        try:
            track = _track(reader, animation, channel, target, shapes)
        except BovrinError as error:
            left_out.append(f"A channel of '{animation.get('name', 'an animation')}' was left out: {error.what}")
            continue
        if track is not None:
            found.append(track)
    return found


def _track(
    reader: GlbReader,
    animation: dict[str, Any],
    channel: dict[str, Any],
    target: dict[str, Any],
    shapes: dict[int, list[Morph]],
) -> Track | None:
    path, node = target.get("path"), target["node"]
    reader.item("nodes", node)
    width = len(shapes.get(node, ())) if path == "weights" else WIDTHS.get(str(path), 0)
    samplers, number = animation.get("samplers"), channel.get("sampler")
    if not width:
        return None
    if not isinstance(samplers, list) or not isinstance(number, int) or not 0 <= number < len(samplers):
        raise reader.fault("its keys are not there.")
    sampler = samplers[number]
    kind = KINDS.get(str(sampler.get("interpolation", "LINEAR")), HandleKind.LINEAR)
    times = reader.array(sampler.get("input"), "SCALAR")[:, 0].astype(float)
    rows = reader.array(sampler.get("output"), {3: "VEC3", 4: "VEC4"}[width] if path != "weights" else "SCALAR")
    cubic = kind is HandleKind.BY_HAND
    count = len(times) * (3 if cubic else 1)
    if rows.size != count * width or not len(times):
        raise reader.fault(f"it has {len(times)} times but values for {rows.size // max(width, 1)}.")
    if (np.abs(times) > 1e6).any():
        raise reader.fault("its keys lie beyond all measure in time.")
    shaped = rows.astype(float).reshape((len(times), 3, width) if cubic else (len(times), 1, width))
    order = np.argsort(times, kind="stable")
    keep = order[np.append(np.diff(times[order]) > 1e-7, True)]
    values = shaped[keep, 1 if cubic else 0]
    slopes = (shaped[keep, 0], shaped[keep, 2]) if cubic else None
    return Track(node, str(path), kind, times[keep], values, slopes)


def guessed_rate(tracks: Sequence[Track]) -> float:
    """Frames a second at which most keys lie on whole frames; 24 when nothing says more."""
    times = np.unique(np.concatenate([t.times for t in tracks] or [np.zeros(1)]))
    for rate in RATES:
        at = times * rate
        if (np.abs(at - np.round(at)) < 0.01).mean() > MOST:
            return rate
    steps = np.diff(times)
    if len(steps) > 2 and np.ptp(steps) < 0.02 * np.median(steps):
        return float(np.clip(round(1.0 / float(np.median(steps)), 3), 1.0, 240.0))
    return 24.0


@dataclass
class TakeMaker:
    """Makes the curves of takes for one rig."""

    tree: NodeTree
    rig: Rig
    rate: float
    _shared: dict[tuple[bytes, int], dict[str, NDArray[Any]]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._joint_at = self.tree.of_node()
        self._column_at: dict[tuple[int, str], int] = {}
        self._orders: dict[int, str] = {}
        for number, control in enumerate(self.rig.controls):
            for index, channel in zip(self.rig.span(number), control.channels, strict=True):
                if control.kind in (ControlKind.JOINT, ControlKind.WHOLE):
                    self._column_at[(control.joint, channel.technical)] = index
                    if channel.technical.startswith("rotate"):
                        self._orders[control.joint] = control.order
        self._morph_at = {
            c.technical.removeprefix(MORPH): i for i, c in enumerate(self.rig.channels) if c.technical.startswith(MORPH)
        }

    def curves(self, tracks: Sequence[Track], shapes: dict[int, list[Morph]], first: float) -> CurveSet:
        """The curves of one take. first: the frame that second 0 is."""
        found: dict[int, Curve] = {}
        for track in each(tracks):
            frames = self._frames(track.times, first)
            if track.path == "weights":
                for n, morph in enumerate(shapes[track.node]):
                    found[self._morph_at[morph.name]] = self._curve(track, frames, n)
                continue
            joint = self._joint_at.get(track.node)
            if joint is None:
                continue
            if track.path == "rotation":
                found |= self._turns(track, frames, joint)
            else:
                found |= self._lengths(track, frames, joint)
        return CurveSet(tuple(found.get(i, NO_KEYS) for i in range(len(self.rig.channels))))

    def _frames(self, times: Floats, first: float) -> Floats:
        frames = first + times * self.rate
        whole = np.round(frames)
        return np.where(np.abs(frames - whole) < SNAP, whole, frames)

    def _lengths(self, track: Track, frames: Floats, joint: int) -> dict[int, Curve]:
        """Moves, as metres from the joint's place at rest, or sizes, as shares of its size at rest."""
        if track.path == "translation":
            unit, rest, words = self.tree.room(joint), self.tree.place[joint] * self.tree.room(joint), "translate"
            scale, shift = np.full(3, unit), -rest
        else:
            even = joint not in self.tree.sizes
            scale, shift, words = (1.0 / self.tree.size[joint] if even else np.ones(3)), np.zeros(3), "size"
        found = {}
        for n, axis in enumerate("xyz"):
            column = self._column_at.get((joint, f"{words} {axis}"))
            if column is not None:
                found[column] = self._curve(track, frames, n, float(scale[n]), float(shift[n]))
        return found

    def _curve(self, track: Track, frames: Floats, n: int, scale: float = 1.0, shift: float = 0.0) -> Curve:
        values = track.values[:, n] * scale + shift
        slopes = None
        if track.slopes is not None:
            slopes = track.slopes[0][:, n] * scale / self.rate, track.slopes[1][:, n] * scale / self.rate
        return self._keyed(frames, values, track.kind, slopes)

    def _keyed(
        self, frames: Floats, values: Floats, kind: HandleKind, slopes: tuple[Floats, Floats] | None = None
    ) -> Curve:
        still = np.ptp(values) < 1e-12 and (slopes is None or not (slopes[0].any() or slopes[1].any()))
        if still:
            frames, values, kind, slopes = frames[:1], values[:1], HandleKind.LINEAR, None
        columns = {**self._columns(frames, kind), "values": np.ascontiguousarray(values)}
        if slopes is not None:
            columns |= {"in_slope": slopes[0], "out_slope": slopes[1]}
        return Curve.from_columns(columns)

    def _columns(self, frames: Floats, kind: HandleKind) -> dict[str, NDArray[Any]]:
        """All columns but values; curves that are keyed alike share them."""
        key = (frames.tobytes(), int(kind))
        if key not in self._shared:
            self._shared[key] = _fresh_columns(frames, kind)
        return self._shared[key]

    def _turns(self, track: Track, frames: Floats, joint: int) -> dict[int, Curve]:
        """Three angles in the order of the joint's control."""
        if joint not in self._orders:
            return {}
        order = self._orders[joint]
        back = inverse(self.tree.turn[joint])
        own = unrolled(_unit(track.values))
        angles = _angles(multiply(back, own), order)
        kind = HandleKind.STEPPED if track.kind is HandleKind.STEPPED else HandleKind.LINEAR
        if kind is HandleKind.LINEAR and len(frames) > 1:
            whole = np.arange(np.ceil(frames[0]), np.floor(frames[-1]) + 1)
            exact = multiply(back, _at(track, own, frames, whole, self.rate))
            if not _holds(frames, angles, order, whole, exact):
                at = np.unique(np.concatenate([whole, frames[[0, -1]]]))
                frames, angles = at, _angles(multiply(back, _at(track, own, frames, at, self.rate)), order)
        found = {}
        for n, axis in enumerate("xyz"):
            column = self._column_at.get((joint, f"rotate {axis}"))
            if column is not None:
                found[column] = self._keyed(frames, angles[:, n], kind)
        return found


def _fresh_columns(frames: Floats, kind: HandleKind) -> dict[str, NDArray[Any]]:
    count = len(frames)
    fill = {"in_kind": int(kind), "out_kind": int(kind), "in_length": 1.0, "out_length": 1.0}
    columns: dict[str, NDArray[Any]] = {n: np.full(count, fill.get(n, 0), t) for n, t in COLUMN_TYPES.items()}
    columns["frames"] = frames.copy()
    columns["joined"][:] = kind is not HandleKind.BY_HAND
    if kind is HandleKind.STEPPED:
        columns["in_kind"][:] = int(HandleKind.LINEAR)
    if count > 2 and (frames[-1] - frames[0]) / (count - 1) < 1.5:  # recorded: in between, but for both ends
        columns["role"][1:-1] = int(KeyRole.IN_BETWEEN)
    for column in columns.values():
        column.setflags(write=False)
    return columns


def joint_turns(tree: NodeTree, track: Track, joint: int) -> Floats:
    """A track's turns of a joint from its rest, quaternions (N, 4) that go on from key to key."""
    return multiply(inverse(tree.turn[joint]), unrolled(_unit(track.values)))


def _unit(q: Floats) -> Floats:
    size = np.linalg.norm(q, axis=-1, keepdims=True)
    return np.where(size > 1e-9, q / np.maximum(size, 1e-9), [0.0, 0.0, 0.0, 1.0])


def _angles(q: Floats, order: str) -> Floats:
    """Quaternions (N, 4) as angles (N, 3) that go on without a jump."""
    return followed(matrix_euler(quaternion_matrix(q), order), order)


def _at(track: Track, own: Floats, frames: Floats, at: Floats, rate: float) -> Floats:
    """The track's quaternions at frames (F, 4), as glTF defines them between its keys."""
    if len(frames) == 1:
        return np.repeat(own, len(at), 0)
    k = np.clip(np.searchsorted(frames, at, side="right") - 1, 0, len(frames) - 2)
    span = frames[k + 1] - frames[k]
    t = np.clip((at - frames[k]) / span, 0.0, 1.0)
    if track.slopes is None:
        return blend(own[k], own[k + 1], t)
    t, seconds = t[:, None], (span / rate)[:, None]
    raw = track.values  # cubic ones are blended as they stand, signs and all, and made unit afterwards
    into, out = track.slopes
    mixed = hermite(t, raw[k], seconds * out[k], raw[k + 1], seconds * into[k + 1])
    return unrolled(_unit(mixed))


def _holds(frames: Floats, angles: Floats, order: str, at: Floats, exact: Floats) -> bool:
    """Whether straight curves through the keys are the exact motion on every whole frame."""
    if not len(at):
        return True
    drawn = np.stack([np.interp(at, frames, angles[:, n]) for n in range(3)], -1)
    return bool(np.abs(euler_matrix(drawn, order) - quaternion_matrix(exact)).max() < SAME)
