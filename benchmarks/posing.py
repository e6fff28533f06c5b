"""Whole-body posing, mirroring and the pose book."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from tests.pulls import held_place

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.craft.pose.body import BodyDrag
from bovrin.craft.pose.mirror import mirror
from bovrin.figure.body.bends import bends_of
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.stance import Stance
from bovrin.motion.evaluate import channel_values
from bovrin.motion.rotations import rotation_vector
from bovrin.shot import Rig

Floats = NDArray[np.float64]

JOINTS = ("left hand", "right hand", "hips", "chest", "head", "left foot", "left forearm", "right shin")
ANCHORS = ("left foot", "right foot", "right hand", "head")


@dataclass
class Figures:
    """What 100 random drags with random anchors on the porter came to."""

    milliseconds: list[float] = field(default_factory=list)
    plain: list[float] = field(default_factory=list)
    drift: float = 0.0
    way_back: float = 0.0
    past_limit: float = 0.0


def random_drags(count: int = 100) -> Figures:
    """Out in five steps and back the same way, three anchors each."""
    shot = script.demo()
    rig = shot.figure("porter").rig
    poses = channel_values(shot.curves("porter"), rig, [101, 109, 114, 119, 127, 133, 143])
    rng = np.random.default_rng(11)
    found = Figures()
    for _ in range(count):
        values = poses[rng.integers(len(poses))]
        name = str(rng.choice(JOINTS))
        held = [rig.joint(str(a)) for a in rng.permutation(ANCHORS) if a != name][:3]
        way = rng.normal(size=3)
        _one_drag(rig, values, rig.joint(name), held, way / np.linalg.norm(way) * rng.uniform(0.05, 0.25), found)
    return found


def _one_drag(rig: Rig, values: Floats, joint: int, held: list[int], way: Floats, found: Figures) -> None:
    start = Stance(rig, values)
    drag = BodyDrag(Stance(rig, values), joint, held)
    seen: dict[float, Floats] = {}
    for share in (0.2, 0.6, 1.0, 0.6, 0.2, 0.0):
        began = time.perf_counter()
        solve(rig, values[None])
        found.plain.append((time.perf_counter() - began) * 1000)
        began = time.perf_counter()
        drag.to(start.place(joint) + way * share)
        found.milliseconds.append((time.perf_counter() - began) * 1000)
        changes = drag.settle(start.place(joint) + way * share)
        new = values.copy()
        for column, value in changes.items():
            new[column] = value
        world = Stance(rig, new).rigid
        found.drift = max(
            found.drift,
            *(float(np.linalg.norm(held_place(rig, world, a) - held_place(rig, start.rigid, a))) for a in held),
        )
        again = seen.get(share, start.rigid if share == 0.0 else None)
        if again is not None:
            gap = np.linalg.norm(world[:, :3, 3] - again[:, :3, 3], axis=1).max()
            found.way_back = max(found.way_back, float(gap))
        seen[share] = world
        found.past_limit = max(found.past_limit, _past_limit(rig, start.rigid, world, set(held)))


def _past_limit(rig: Rig, start: Floats, world: Floats, held: set[int]) -> float:
    """How far a joint that gives way has gone past its limits, or past where it was when that was further, radians."""
    rest = plan_of(rig).rest_local
    middles = {limb.middle for limb in rig.limbs}
    worst = 0.0
    for joint, bend in bends_of(rig).items():
        if joint in middles or joint in held or any(joint == limb.end for limb in rig.limbs):
            continue
        parent = rig.joints[joint].parent
        turns = [
            rotation_vector(rest[joint, :3, :3].T @ w[parent, :3, :3].T @ w[joint, :3, :3]) for w in (start, world)
        ]
        low, high = np.minimum(bend.low, turns[0]), np.maximum(bend.high, turns[0])
        worst = max(worst, float((low - turns[1]).max()), float((turns[1] - high).max()))
    return worst


BOOK = """
import time
from PyQt6.QtCore import QTimer
from PyQt6.QtTest import QTest
from bovrin import script
from bovrin.desk.application import dressed_application, make_window
from bovrin.desk.state.book import own_book
demo = script.demo()
rng_poses = [script.copy_pose(demo, "porter", f).named(f"pose {n}") for n, f in enumerate([101 + n % 60 for n in range(200)])]
app = dressed_application()
window = make_window(None)
window.show()
QTest.qWait(1500)
own_book().parent.mkdir(parents=True, exist_ok=True)
script.save_poses(rng_poses, own_book())
ticks = []
timer = QTimer()
timer.setInterval(0)
timer.timeout.connect(lambda: ticks.append(time.perf_counter()))
timer.start()
QTest.qWait(100)
ticks.clear()
ticks.append(time.perf_counter())
window.book.open(own_book())
QTest.qWait(2500)
print(max(b - a for a, b in zip(ticks, ticks[1:])) * 1000)
timer.stop()
window.close()
window.deleteLater()
QTest.qWait(50)
del timer, window
"""


def book_block() -> float:
    """The longest time, ms, that the window is busy while a book of 200 poses opens and its pictures come."""
    with tempfile.TemporaryDirectory() as folder:
        env = dict(os.environ, QT_QPA_PLATFORM="offscreen")
        env |= {f"XDG_{name}_HOME": folder for name in ("DATA", "CONFIG", "STATE", "CACHE")}
        done = subprocess.run([sys.executable, "-c", BOOK], env=env, capture_output=True, text=True, check=True)
    return float(done.stdout.split()[-1])


def rows() -> list[Row]:
    """Three rows, and the figures of the drags in words."""
    shot = script.splined(script.demo(), "porter")
    rig = shot.figure("porter").rig
    frames = np.linspace(101, 160, 240)
    many = channel_values(shot.curves("porter"), rig, frames)
    drags = random_drags()
    step, plain = statistics.median(drags.milliseconds), statistics.median(drags.plain)
    print(
        f"100 random drags: anchors drift at most {drags.drift * 1000:.3f} mm, out and back differ by at most "
        f"{drags.way_back * 1000:.3f} mm, limits are passed by at most {np.degrees(drags.past_limit):.3f}°; "
        f"a step takes {step:.1f} ms (95 of 100 under {np.percentile(drags.milliseconds, 95):.1f} ms)"
    )
    block = book_block()
    return [
        Row("whole-body drag step over one solve", round(step / plain, 3), 12.0, round(step, 3), round(plain, 3)),
        compare(
            "mirror of 240 frames over one solve", 3.0, lambda: mirror(shot, "porter", frames), lambda: solve(rig, many)
        ),
        Row("pose book of 200, longest block over 50 ms", round(block / 50, 3), 1.0, round(block, 1), 50.0),
    ]
