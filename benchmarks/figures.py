"""Opening a brought figure against reading its file with a general glTF library."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
import pygltflib
from tests.formats import gltf_maker as make

from benchmarks.row import Row, compare
from bovrin.formats.gltf.figure import shot_from_gltf


def five_megabytes() -> bytes:
    """A two-legged figure of 90,000 vertices, a picture, and a motion of 240 frames."""
    maker = make.figure(make.TWO_LEGS)
    rng = np.random.default_rng(0)
    count = 75_000
    attributes = {
        "POSITION": maker.array(rng.normal(0, 0.4, (count, 3))),
        "NORMAL": maker.array(np.tile([0.0, 1.0, 0.0], (count, 1))),
        "TEXCOORD_0": maker.array(rng.random((count, 2))),
        "JOINTS_0": maker.array(rng.integers(0, len(make.TWO_LEGS), (count, 4)), "u1"),
        "WEIGHTS_0": maker.array(np.tile([0.4, 0.3, 0.2, 0.1], (count, 1))),
    }
    faces = maker.array(rng.integers(0, count, 300_000), "u4")
    mesh = maker.add("meshes", primitives=[{"attributes": attributes, "indices": faces}])
    maker.add("nodes", name="cloud", mesh=mesh, skin=0)
    times = np.arange(240) / 24
    turns = np.tile([0.0, 0.0, 0.0, 1.0], (240, 1))
    turns[:, 0] = 0.2 * np.sin(times)
    turns /= np.linalg.norm(turns, axis=1, keepdims=True)
    maker.animate("sway", *((name, "rotation", "LINEAR", times, turns) for name in make.TWO_LEGS))
    return maker.glb()


def rows() -> list[Row]:
    """One row: open it, rig, curves and all."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "figure.glb"
        path.write_bytes(five_megabytes())
        size = path.stat().st_size / 1e6
        return [
            compare(
                f"open a {size:.1f} MB GLB over pygltflib",
                1.6,
                lambda: shot_from_gltf(path),
                lambda: pygltflib.GLTF2().load(str(path)),
                10,
            )
        ]
