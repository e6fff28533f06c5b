"""What followers hang on besides the channels: time as they count it, their settings, and the links of a chain."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.rest_space import own_channels, put_turn
from bovrin.motion.evaluate import curve_values
from bovrin.motion.rotations import euler_matrix, quaternion_matrix
from bovrin.shot import CurveSet, Follower, Rig, Shot
from bovrin.shot.follower import KINDS, WEIGHT, settings_of

Floats = NDArray[np.float64]

FINE = 1.0 / 60.0
"""Seconds from step to step of what is worked out over time, whatever the frame rate."""
MOST_STEPS = 20_000
"""Steps, at most: in takes of more than five minutes they are longer."""


def grid_over(seconds: float) -> Floats:
    """The times (N + 1,), seconds, of steps that go on for at least so long."""
    step = max(FINE, seconds / MOST_STEPS)
    return np.asarray(np.arange(int(np.ceil(seconds / step)) + 2) * step)


class Rules(NamedTuple):
    """The followers of a figure that count, in their order, and their time: frame `first` is its beginning, frames a second, and
    after how many frames it comes round (0: never)."""

    followers: tuple[Follower, ...]
    first: float
    rate: float
    period: float

    def seconds(self, frames: Floats) -> Floats:
        """The time of frames (F,); within one round where it comes round."""
        return np.asarray((self.folded(frames) - self.first) / self.rate)

    def folded(self, frames: Floats) -> Floats:
        """The frames (F,) of the first round that are as frames (F,) are, where it comes round; else the same."""
        if not self.period or ((frames >= self.first) & (frames < self.first + self.period)).all():
            return frames
        return np.asarray(self.first + np.mod(frames - self.first, self.period))

    @property
    def round(self) -> float:
        """The seconds of a round; 0 where there is none."""
        return self.period / self.rate


def following_of(shot: Shot, figure: str) -> Rules | None:
    """The followers of a figure that count in the shot's take; None where there are none."""
    own = tuple(one for one in shot.followers(figure) if one.on)
    if not own:
        return None
    cycle = shot.cycle(figure)
    if cycle is not None:
        return Rules(own, cycle.first, shot.frame_rate, cycle.length)
    period = shot.last + 1.0 - shot.first if shot.loops else 0.0
    return Rules(own, shot.first, shot.frame_rate, period)


class Links(NamedTuple):
    """A follower's controls in the order in which one carries the other: indices, which of them carries each (-1: none), which is
    the first of its chain, and how many links it is from that, of `total`."""

    controls: tuple[int, ...]
    above: tuple[int, ...]
    first: tuple[int, ...]
    depth: tuple[int, ...]
    total: int


@cached_by_identity
def links_of(rig: Rig, controls: tuple[str, ...]) -> Links:
    """The links of a follower."""
    chosen = sorted((rig.control(name) for name in controls), key=lambda c: (rig.controls[c].joint, c))
    by_joint = {rig.controls[c].joint: n for n, c in enumerate(chosen)}
    above, first, depth = list[int](), list[int](), list[int]()
    for control in chosen:
        joint = rig.joints[rig.controls[control].joint].parent
        while joint >= 0 and joint not in by_joint:
            joint = rig.joints[joint].parent
        above.append(by_joint[joint] if joint >= 0 else -1)
        first.append(first[above[-1]] if above[-1] >= 0 else len(first))
        depth.append(depth[above[-1]] + 1 if above[-1] >= 0 else 0)
    return Links(tuple(chosen), tuple(above), tuple(first), tuple(depth), max(depth) + 1)


class Told:
    """What a follower is told on frames: its settings (F,) by name, within their bounds. It keeps no other channels."""

    def __init__(self, follower: Follower, own: Floats) -> None:
        self._settings = {one.name: (n, one) for n, one in enumerate(settings_of(follower.kind))}
        self.kind, self.own = follower.kind, own

    @staticmethod
    def of(rig: Rig, follower: Follower, values: Floats) -> Told:
        """What it is told by channel values (F, C)."""
        span = rig.span(rig.control(follower.name))
        return Told(follower, values[:, span.start : span.stop].copy())

    def __getitem__(self, name: str) -> Floats:
        at, setting = self._settings[name]
        return np.minimum(np.maximum(self.own[:, at], setting.low), setting.high)

    @property
    def weight(self) -> Floats:
        """How far it counts (F,)."""
        return self[WEIGHT]

    def share(self, name: str, depth: int, count: int) -> Floats:
        """What a link gets (F,) when the last of so many gets a setting's share of what the first one does."""
        return 1.0 + (self[name] - 1.0) * (depth / max(count - 1, 1))

    def axis(self) -> Floats:
        """The unit axis (F, 3) in the figure's space; 0 where none is told."""
        axis = np.stack([self["about x"], self["about y"], self["about z"]], -1)
        size = np.linalg.norm(axis, axis=-1, keepdims=True)
        return np.asarray(axis / np.where(size > 1e-12, size, 1.0))


_OFTEN = {kind: one for kind, told in KINDS.items() for one in told if one.name == "how often"}


def rounds(curves: CurveSet, rig: Rig, follower: Follower, time: Rules, seconds: Floats) -> Floats:
    """How many rounds have gone by at times (F,), since how often it goes round may change; in a loop a whole number of them."""
    column = rig.channel(f"{follower.name}/how often")
    setting, curve = _OFTEN[follower.kind], curves[column]
    if len(curve) < 2:
        steady = float(curve.values[0]) if len(curve) else rig.channels[column].default
        steady = min(max(steady, setting.low), setting.high)
        return seconds * (steady * _closing(time.round * steady))

    def often(at: Floats) -> Floats:
        found = curve_values(curve, time.first + at * time.rate)
        return np.asarray(np.clip(found, setting.low, setting.high))

    grid = grid_over(max(float(seconds.max(initial=0.0)), time.round))
    step_long, a_second = float(grid[1]), often(grid)
    gone = np.concatenate([[0.0], np.cumsum((a_second[1:] + a_second[:-1]) / 2 * step_long)])

    def since(at: Floats) -> Floats:
        step = np.clip((at // step_long).astype(int), 0, len(grid) - 2)
        part = (often(at) + a_second[step]) / 2 * (at - grid[step])
        return np.asarray(np.where(at < 0.0, at * a_second[0], gone[step] + part))

    if time.round and (seconds < 0.0).any():  # delays reach back into the round before
        whole = float(since(np.array([time.round]))[0])
        before = np.floor(seconds / time.round)
        return (since(seconds - before * time.round) + before * whole) * _closing(whole)
    return since(seconds) * (_closing(float(since(np.array([time.round]))[0])) if time.round else 1.0)


def _closing(whole: float) -> float:
    """By what rounds are stretched so that a loop has a whole number of them."""
    return max(round(whole), 1.0) / whole if whole > 0.0 else 1.0


def turn_more(rig: Rig, control: int, values: Floats, added: Floats, rows: Floats) -> None:
    """Turn a control's values (F, C) on by unit quaternions (F, 4) in its own axes, where rows (F,) say so."""
    some = np.flatnonzero(rows)
    if not len(some):
        return
    part = values[some]
    own = euler_matrix(own_channels(rig, control, "rotate", part), rig.controls[control].order)
    put_turn(rig, control, part, own @ quaternion_matrix(added[some]))
    values[some] = part
