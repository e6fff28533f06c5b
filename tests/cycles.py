"""Shots with cycles, and what an independent eye sees of them: places of joints, from sampled motion alone."""

from functools import cache

import numpy as np

from bovrin import script as bv
from bovrin.craft.clips.drive import Steer
from bovrin.shot import Shot

PORTER_LEGS = ("left leg", "right leg")
MIRROR = np.array([-1.0, 1.0, 1.0])


@cache
def alone(name: str) -> Shot:
    """A shot that holds the porter or the goat and no motion."""
    source = bv.demo() if name == "porter" else bv.demo("goat")
    return Shot("walk").with_figure(source.figure(name))


def cycle_of(name: str, gait: str, frames: int, stride: float, spot: bool = False) -> Shot:
    """A new cycle of the porter or the goat."""
    return bv.new_cycle(alone(name), name, gait, frames, stride, spot=spot)


def lively(shot: Shot, name: str) -> Shot:
    """A cycle whose body acts."""
    for way, amount in (("twist", 8.0), ("weight", 3.0), ("bounce", 2.0), ("lean", 5.0)):
        shot = bv.set_body_way(shot, name, way, amount)
    return shot


def nudged(shot: Shot, name: str, seed: int, by: float = 0.015, count: int = 6) -> Shot:
    """A cycle whose feet were moved about on some frames, so that they slide."""
    rng = np.random.default_rng(seed)
    cycle = shot.cycle(name)
    assert cycle is not None
    goals = [c for c in bv.channels(shot, name) if "foot" in c and c.split("/")[1] in ("forward", "across")]
    for _ in range(count):
        frame = float(rng.integers(int(cycle.first) + 1, int(cycle.last)))
        now = bv.values(shot, name, frame)
        some = [c for c in goals if rng.random() < 0.5]
        shot = bv.set_values(shot, name, frame, {c: now[c] + float(rng.normal(0, by)) for c in some})
    return shot


def places(shot: Shot, name: str, frames: np.ndarray) -> np.ndarray:
    """Where joints are (F, J, 3)."""
    return np.asarray(bv.sample(shot, name, frames).position)


def off_mirror(shot: Shot, name: str, start: float, end: float, step: float = 1.0) -> float:
    """Metres by which the second half of a cycle that goes along z is not its first mirrored, beside where the figure stands."""
    half = (end - start) / 2
    frames = np.arange(start, start + half, step)
    names = bv.sample(shot, name, frames[:1]).joints
    swap = {"left": "right", "right": "left"}
    other = [names.index(" ".join(swap.get(word, word) for word in joint.split(" "))) for joint in names]
    first, second = places(shot, name, frames), places(shot, name, frames + half)
    first, second = first - first[:, :1], second - second[:, :1]
    return float(np.abs(first[:, other] * MIRROR - second).max())


def slid(shot: Shot, name: str, foot: str, start: float, end: float, ground: float = 0.0, step: float = 1.0) -> float:
    """Metres that a foot goes over the ground, which goes so far a frame along z, from start to end: of heel and ball the lower
    one on each frame, from sampled joints and the rig's rest alone."""
    rig = shot.figure(name).rig
    limb = next(limb for limb in rig.limbs if limb.name == foot)
    assert limb.foot is not None
    frames = np.arange(start, end + 1e-9, step)
    motion = bv.sample(shot, name, frames)
    from scipy.spatial.transform import Rotation

    rest = bv.sample(alone(name), name, [101.0])
    points = []
    sole = rest.position[0, limb.end, 1] + limb.foot.heel[1]
    for joint, offset in (
        (limb.end, limb.foot.heel),
        (limb.foot.toes, (0.0, sole - rest.position[0, limb.foot.toes, 1], 0.0)),
    ):
        back = Rotation.from_quat(rest.rotation[0, joint]).inv().apply(offset)
        points.append(motion.position[:, joint] + Rotation.from_quat(motion.rotation[:, joint]).apply(back))
    steps = np.diff(np.stack(points), axis=1)[..., [0, 2]] - np.array([0.0, ground * step])
    high = np.stack([np.maximum(p[:-1, 1], p[1:, 1]) for p in points])
    size = np.linalg.norm(steps, axis=2) + np.where(high > high.min(0) + 1e-3, 1e3, 0.0)
    bears = np.take_along_axis(steps, size.argmin(0)[None, :, None], 0)[0]
    return float(np.linalg.norm(np.cumsum(bears, axis=0), axis=1).max(initial=0.0))


def steered(seed: int, seconds: float = 20.0, rate: float = 24.0) -> list[Steer]:
    """Somebody steers: a new direction, haste or rest every half a second to two."""
    rng = np.random.default_rng(seed)
    found: list[Steer] = []
    while len(found) < seconds * rate:
        angle, size = rng.uniform(-np.pi, np.pi), rng.choice([0.0, 0.6, 1.0, 1.0])
        one = Steer(size * np.sin(angle), size * np.cos(angle), bool(rng.random() < 0.3), bool(rng.random() < 0.3))
        found += [one] * int(rng.integers(12, 48))
    return found[: int(seconds * rate)]
