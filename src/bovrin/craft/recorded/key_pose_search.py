"""The fewest poses that tell a recorded motion: found for every number of poses at once, by dynamic programming.

A motion is a path through all joints' turns, each weighed by how far it swings what hangs on it. The poses between two key
poses lie on the way from the one to the other if those two tell them, however it is timed. I. S. Lim and D. Thalmann,
"Key-posture extraction out of human motion data", 2001; R. Roberts, J. P. Lewis and others, "Optimal and interactive keyframe
selection for motion capture", 2018: a table of what each pair of poses leaves untold, and the cheapest chain through it.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.staging import staged
from bovrin.frozen import frozen
from bovrin.motion.rotations import matrix_quaternion, turn_only, unrolled
from bovrin.shot import Rig, Shot

Floats = NDArray[np.float64]
Small = NDArray[np.float32]

LONGEST = 96
"""Frames between two key poses at most."""
LOOKS = 8
"""Frames between two poses that are looked at."""
JOINTS = 14
"""Joints that are looked at: those that swing most."""
NEAR = 5
"""Frames by which a pose that was found may lie beside the one where the way bends most."""
STILL = 0.005
"""Metres below which a joint's swing tells nothing."""


@frozen
class KeyPoses:
    """For a motion on frames (F,) the best choice of any number of key poses; untold (N,): what each leaves, square metres."""

    frames: Floats
    untold: Floats
    _from: NDArray[np.int32]
    _path: Floats

    @property
    def most(self) -> int:
        """The largest number of poses that was worked out."""
        return len(self.untold) + 1

    @property
    def least(self) -> int:
        """The smallest number: no two lie farther apart than poses are compared."""
        return int(np.isfinite(self.untold).argmax()) + 2

    def of(self, count: int) -> Floats:
        """The frames of so many key poses (count,), first and last among them; of the nearest number there can be."""
        count = int(np.clip(count, self.least, self.most))
        at, found = len(self.frames) - 1, [len(self.frames) - 1]
        for row in range(count - 2, -1, -1):
            at = int(self._from[row, at])
            found.append(at)
        return self.frames[self._at_bends(np.array(found[::-1]))]

    def _at_bends(self, found: NDArray[np.intp]) -> NDArray[np.intp]:
        """Poses moved to where the way bends most near them: farthest from the straight way past them."""
        for _ in range(3):
            before = found.copy()
            for n in range(1, len(found) - 1):
                low, high = max(found[n - 1] + 1, found[n] - NEAR), min(found[n + 1] - 1, found[n] + NEAR)
                near = np.arange(low, high + 1)
                found[n] = near[_off_way(self._path, near, found[n - 1], found[n + 1]).argmax()]
            if np.array_equal(before, found):
                break
        return found


def find_key_poses(
    shot: Shot,
    figure: str,
    frames: Floats,
    most: int | None = None,
    go_on: Callable[[float], bool] = lambda _share: True,
) -> KeyPoses:
    """The key poses of a figure's motion on whole frames (F,), for every number of them up to `most`.

    go_on: told how far the work is, 0 to 1; says whether to go on. BadMotion when it was stopped, or there is no motion.
    """
    if len(frames) < 3:
        raise BadMotion("a motion of three frames at least has key poses to be found.", advice="Choose a longer range.")
    path = _path(shot.figure(figure).rig, staged(shot, figure, frames).world)
    if not path.shape[1]:
        raise BadMotion(f"'{figure}' does not move on these frames.", advice="Choose a range with motion in it.")
    costs = _costs(path, go_on)
    flat = path.reshape(len(path), -1).astype(float)
    return KeyPoses(np.asarray(frames, float), *_chains(costs, min(most or len(frames), len(frames))), flat)


def _off_way(path: Floats, at: NDArray[np.intp], before: int, after: int) -> Floats:
    """How far points (N,) of a path (F, D) are from the straight way between two others."""
    way = path[after] - path[before]
    since = path[at] - path[before]
    share = np.clip(since @ way / max(float(way @ way), 1e-12), 0.0, 1.0)
    return np.asarray(np.linalg.norm(since - share[:, None] * way, axis=1))


def _path(rig: Rig, world: Floats) -> Small:
    """The way (F, G, 4) of what moves: joints' own turns as quaternions times twice their levers, and places, metres."""
    parents = np.array([joint.parent for joint in rig.joints])
    turns = turn_only(world[..., :3, :3])
    above = np.where(parents[:, None, None] >= 0, np.swapaxes(turns[:, parents], -1, -2), np.eye(3))
    own = unrolled(matrix_quaternion(above @ turns))
    levers = _levers(rig)
    groups = own * 2.0 * levers[:, None]
    swing = np.linalg.norm(np.ptp(groups, axis=0), axis=-1)
    chosen = [j for j in np.argsort(-swing)[:JOINTS].tolist() if swing[j] > STILL]
    top = next((j for j in range(len(parents)) if np.ptp(world[:, j, :3, 3], axis=0).max() > STILL), None)
    found = [groups[:, j] for j in chosen]
    if top is not None:
        found.append(np.concatenate([world[:, top, :3, 3], np.zeros((len(world), 1))], 1))
    return np.stack(found, 1).astype(np.float32) if found else np.zeros((len(world), 0, 4), np.float32)


def _levers(rig: Rig) -> Floats:
    """How far what hangs on each joint reaches from it (J,), metres, at rest."""
    places = plan_of(rig).rest_world[:, :3, 3]
    reach = np.full(len(places), 0.02)
    for j in range(len(places)):
        at = rig.joints[j].parent
        while at >= 0:
            reach[at] = max(reach[at], float(np.linalg.norm(places[j] - places[at])))
            at = rig.joints[at].parent
    return reach


def _costs(path: Small, go_on: Callable[[float], bool]) -> Small:
    """What the poses on i and i + l leave untold of those between (F, L + 1): the squares of how far the farthest group is
    from the way, summed; infinite beyond the end."""
    count, length = len(path), min(LONGEST, len(path) - 1)
    costs = np.full((count, length + 1), np.inf, np.float32)
    costs[: count - 1, 1] = 0.0
    radius = np.linalg.norm(path, axis=-1)
    turning = np.ptp(radius, axis=0) < 1e-4  # quaternions stay on their sphere, places do not
    for span in range(2, length + 1):
        if not go_on(span / length):
            raise BadMotion("looking for key poses was stopped.", advice="Nothing was changed.")
        inner = np.unique(np.linspace(1, span - 1, min(LOOKS, span - 1)).round().astype(int))
        starts = np.arange(count - span)
        off = _off(path, starts, span, inner, turning, radius[0])
        costs[starts, span] = (off * off).mean(1) * (span - 1)
    return costs


def _off(
    path: Small, starts: NDArray[np.intp], span: int, inner: NDArray[np.intp], turning: NDArray[np.bool_], radius: Small
) -> Small:
    """How far the farthest group is from the way between two poses, on some frames between (S, I), metres."""
    a, b = path[starts], path[starts + span]
    way = b - a
    between = path[starts[:, None] + inner]
    share = np.einsum("sigc,sgc->si", between - a[:, None], way)
    share = np.clip(share / np.maximum(np.einsum("sgc,sgc->s", way, way), 1e-12)[:, None], 0.0, 1.0)
    told = a[:, None] + share[..., None, None] * way[:, None]
    size = np.sqrt((told[:, :, turning] ** 2).sum(-1, keepdims=True))
    told[:, :, turning] *= radius[turning][:, None] / np.maximum(size, 1e-9)
    return np.asarray(np.sqrt(((between - told) ** 2).sum(-1)).max(-1))


def _chains(costs: Small, most: int) -> tuple[Floats, NDArray[np.int32]]:
    """What the best chain of 2, 3 … poses leaves untold, and for each number and end the pose before it."""
    count, length = costs.shape[0], costs.shape[1] - 1
    steps = np.arange(1, length + 1)
    ends = np.arange(count)
    before = ends[:, None] - steps
    there = before >= 0
    price = np.where(there, costs[np.maximum(before, 0), steps], np.inf)
    now = np.full(count, np.inf)
    now[0] = 0.0
    untold, came = [], []
    for _ in range(most - 1):
        tried = np.where(there, now[np.maximum(before, 0)], np.inf) + price
        best = tried.argmin(1)
        now = tried[ends, best]
        came.append((ends - steps[best]).astype(np.int32))
        untold.append(float(now[-1]))
    return np.array(untold), np.array(came)
