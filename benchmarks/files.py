"""Opening a large project against parsing its JSON."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.formats.project.store import shot_from_bytes
from bovrin.formats.project.text import shot_to_text
from bovrin.shot import Curve, CurveSet, HandleKind, Shot


def large_shot(keys: int) -> Shot:
    """The demo with so many keys on the porter, handles of all kinds."""
    shot = script.demo()
    channels = len(shot.figure("porter").rig.channels)
    each = keys // channels + 1
    rng = np.random.default_rng(3)
    curves = []
    for _ in range(channels):
        kinds = rng.choice([HandleKind.NO_OVERSHOOT, HandleKind.BY_HAND, HandleKind.STEPPED], each).astype(np.uint8)
        columns = {n: rng.normal(size=each) for n in ("values", "in_slope", "out_slope")}
        curves.append(
            Curve(
                frames=101 + np.arange(each, dtype=float),
                in_kind=np.where(kinds == HandleKind.STEPPED, 1, kinds),
                out_kind=kinds,
                in_length=np.ones(each),
                out_length=np.ones(each),
                joined=np.ones(each, bool),
                free=np.zeros(each, bool),
                role=np.zeros(each, np.uint8),
                **columns,
            )
        )
    return shot.with_curves("porter", CurveSet(tuple(curves)))


def rows() -> list[Row]:
    """One row."""
    data = shot_to_text(large_shot(100_000)).encode()
    where = Path("large.bovrin.json")
    return [
        compare(
            "opening a project of 100,000 keys", 1.0, lambda: shot_from_bytes(data, where), lambda: json.loads(data), 8
        )
    ]
