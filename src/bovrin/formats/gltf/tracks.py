"""Animations for glTF: keyed where keys say exactly what the motion is, sampled on every frame where they do not."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import columns
from bovrin.formats.gltf.container import GlbWriter
from bovrin.frozen import frozen
from bovrin.motion.handles import gather
from bovrin.motion.hermite import hermite
from bovrin.motion.rotations import blend
from bovrin.shot import ControlKind, CurveSet, HandleKind, Rig

Floats = NDArray[np.float64]
EXACT = 1e-6
"""Metres, or lengths of quaternions' differences, by which keyed motion may miss the sampled one."""


@frozen
class Times:
    """The frames that are sampled (F,), and seconds of frames."""

    frames: Floats
    rate: float

    def seconds(self, frames: Floats) -> Floats:
        """Seconds since the first frame."""
        return np.asarray((frames - self.frames[0]) / self.rate)


@dataclass
class TrackWriter:
    """Writes one animation; inputs that are the same are written once."""

    writer: GlbWriter
    animation: dict[str, Any]
    times: Times
    _inputs: dict[bytes, int] = field(default_factory=dict)

    def sampled(self, node: int, path: str, data: Floats, keys: Floats | None = None, *, stepped: bool = False) -> None:
        """Write samples (F, k). Of ones that never change one is written; where straight lines through the samples on
        `keys` say the same, only those are; stepped motion is keyed on `keys` alone."""
        frames = self.times.frames
        if np.abs(data - data[0]).max() < 1e-9:
            self._add(node, path, frames[:1], data[:1], "STEP" if stepped else "LINEAR")
            return
        if keys is not None and len(keys):
            at = np.searchsorted(frames, keys)
            fits = bool((at < len(frames)).all()) and np.allclose(frames[np.minimum(at, len(frames) - 1)], keys)
            if stepped and fits:
                self._add(node, path, frames[at], data[at], "STEP")
                return
            at = np.unique(np.concatenate([[0], at, [len(frames) - 1]])) if fits else np.arange(len(frames))
            if len(at) < len(frames) and np.abs(_between(path, frames, frames[at], data[at]) - data).max() < EXACT:
                self._add(node, path, frames[at], data[at], "LINEAR")
                return
        self._add(node, path, frames, data, "LINEAR")

    def curved(self, node: int, path: str, data: Floats, curves: CurveSet, cols: list[int], shift: Floats) -> bool:
        """Write samples (F, 3) as the cubic curves of three channels plus a shift, if those say the same; whether they did.

        glTF's cubic splines are Hermite's: handles of a third of their segments.
        """
        keyed = [curves[c] for c in cols if len(curves[c]) > 1]
        if not keyed or any(c.muted or c.runs_on or not np.array_equal(c.frames, keyed[0].frames) for c in keyed):
            return False
        at = keyed[0].frames
        frames = self.times.frames
        if (
            len(at) > 0.5 * len(frames)
            or at[0] < frames[0]
            or any((c.out_kind == HandleKind.STEPPED).any() for c in keyed)
        ):
            return False
        rows = np.zeros((len(at), 3, 3))
        for n, column in enumerate(cols):
            curve = curves[column]
            if len(curve) > 1:
                keys = gather([curve])
                rows[:, 0, n], rows[:, 1, n], rows[:, 2, n] = keys.in_slope, keys.values, keys.out_slope
            else:
                rows[:, 1, n] = curve.values[0] if len(curve) else 0.0
        rows[:, 1] += shift
        if np.abs(_splined(frames, at, rows) - data).max() > EXACT:
            return False
        rows[:, [0, 2]] *= self.times.rate
        self._add(node, path, at, rows.reshape(-1, 3), "CUBICSPLINE")
        return True

    def _add(self, node: int, path: str, frames: Floats, data: Floats, kind: str) -> None:
        seconds = self.times.seconds(frames).astype(np.float32)
        mark = seconds.tobytes()
        if mark not in self._inputs:
            self._inputs[mark] = self.writer.array(seconds.reshape(-1, 1), "SCALAR", bounds=True)
        shape = {"rotation": "VEC4", "weights": "SCALAR"}.get(path, "VEC3")
        flat = data.reshape(-1, 1) if path == "weights" else data
        output = self.writer.array(flat, shape)
        sampler = {"input": self._inputs[mark], "output": output, "interpolation": kind}
        self.animation["samplers"].append(sampler)
        target = {"node": node, "path": path}
        self.animation["channels"].append({"sampler": len(self.animation["samplers"]) - 1, "target": target})


def _between(path: str, frames: Floats, keys: Floats, data: Floats) -> Floats:
    """Straight lines, or the shortest turns, through keys at frames (F, k)."""
    k = np.clip(np.searchsorted(keys, frames, side="right") - 1, 0, len(keys) - 2)
    share = (frames - keys[k]) / (keys[k + 1] - keys[k])
    if path == "rotation":
        turned = blend(data[k], data[k + 1], share)
        return np.asarray(turned * np.sign((turned * data[k]).sum(-1, keepdims=True)))
    return np.asarray(data[k] + share[:, None] * (data[k + 1] - data[k]))


def _splined(frames: Floats, keys: Floats, rows: Floats) -> Floats:
    """Cubic splines at frames (F, 3) from rows (N, 3, 3): slope in, value, slope out, per frame."""
    k = np.clip(np.searchsorted(keys, frames, side="right") - 1, 0, len(keys) - 2)
    span = (keys[k + 1] - keys[k])[:, None]
    t = np.clip((frames - keys[k])[:, None] / span, 0.0, 1.0)
    return hermite(t, rows[k, 1], span * rows[k, 2], rows[k + 1, 1], span * rows[k + 1, 0])


def stepped_keys(curves: CurveSet, frames: Floats) -> Floats | None:
    """All key frames of a figure whose every curve is stepped, the first frame too; None where any is not, or a key lies
    between the sampled frames."""
    keyed = [c for c in curves.curves if len(c) and not c.muted]
    if not keyed or any(c.runs_on or (c.out_kind[:-1] != HandleKind.STEPPED).any() for c in keyed):
        return None
    at = np.unique(np.concatenate([frames[:1], *[c.frames for c in keyed]]))
    at = at[(at >= frames[0]) & (at <= frames[-1])]
    return at if np.isin(at, frames).all() else None


def own_keys(rig: Rig, curves: CurveSet, joint: int, word: str) -> Floats:
    """The frames on which the channels of a joint's own control are keyed ("rotate", "translate" or "size")."""
    cols = [c for c in own_columns(rig, joint, word) if c >= 0]
    found: Iterable[Floats] = [curves[c].frames for c in cols if len(curves[c])]
    rows = list(found)
    return np.unique(np.concatenate(rows)) if rows else np.zeros(0)


def own_columns(rig: Rig, joint: int, word: str) -> list[int]:
    """The channels x, y, z by which a joint's own control turns, moves or sizes it; -1 where there is none."""
    for index, control in enumerate(rig.controls):
        if control.joint == joint and control.kind in (ControlKind.JOINT, ControlKind.WHOLE):
            found = columns(rig, index, word)
            if max(found) >= 0:
                return found
    return [-1, -1, -1]
