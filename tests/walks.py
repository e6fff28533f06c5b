"""A walk as a BVH of another figure, made up: feet that stand still, roll over the ball, and swing."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from tests.formats import gltf_maker as make

from bovrin import script
from bovrin.shot import Shot

STEP, STEPS, STRIDE = 14, 6, 0.5
"""Frames in a step, steps, and metres that a foot goes in two steps."""


def walk(folder: Path) -> Shot:
    """Brought back from a BVH: a figure of other proportions than the porter's that walks along +z."""
    source = folder / "walker.glb"
    source.write_bytes(make.figure(make.TWO_LEGS).glb())
    shot = script.bring(source, 1.0)
    from dataclasses import replace

    shot = replace(shot, last=shot.first + STEP * STEPS)
    for f in range(STEP * STEPS + 1):
        values = {
            "Kern/forward": STRIDE * f / STEP / 2,
            "Kern/up": -0.05 + 0.012 * np.cos(2 * np.pi * f / STEP),
            "Kern/across": 0.02 * np.sin(np.pi * f / STEP),
            "Kern/turn": 5 * np.sin(np.pi * f / STEP),
            "Stock_2/turn": -9 * np.sin(np.pi * f / STEP),
        }
        for side, late in (("left", 0), ("right", STEP)):
            values |= _foot(side, f + late, late)
            swing = np.sin(np.pi * f / STEP) * (1 if side == "left" else -1)
            values |= {f"{side} hand goal/reach": 0.0}
            values |= {
                f"Oben.{side[0].upper()}/tilt": 20 * swing,
                f"Oben.{side[0].upper()}/roll": -60 * (1 if side == "left" else -1),
            }
        shot = script.set_values(shot, "walker", shot.first + f, values)
    path = folder / "walk.bvh"
    script.export(script.splined(shot, "walker"), path)
    return script.bring(path)


def _foot(side: str, f: int, late: int) -> dict[str, float]:
    cycle, t = divmod(f, 2 * STEP)
    start = STRIDE * cycle - STRIDE * late / STEP / 2 + STRIDE / 4
    if t < STEP:
        roll = max(t - STEP + 4, 0) * 6.0
        return {f"{side} foot goal/forward": start, f"{side} foot goal/up": 0.0, f"{side} foot goal/ball": roll}
    u = (t - STEP) / STEP
    eased = u - np.sin(2 * np.pi * u) / 2 / np.pi
    return {
        f"{side} foot goal/forward": start + STRIDE * eased,
        f"{side} foot goal/up": 0.09 * np.sin(np.pi * u) ** 2,
        f"{side} foot goal/ball": 24.0 * (1 - u) ** 2,
    }
