"""A shot as glTF 2.0 (GLB): meshes, skins and one animation sampled at every frame."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import FileProblem
from bovrin.figure.solve import joint_matrices
from bovrin.formats.container import GlbWriter
from bovrin.formats.figure_file import add_figure, finish_scene
from bovrin.formats.files import write_atomically
from bovrin.formats.shaped_joints import in_two, rigid, shaped
from bovrin.motion.rotations import matrix_quaternion, unrolled
from bovrin.shot import Figure, Shot

Floats = NDArray[np.float64]


def shot_glb(shot: Shot) -> bytes:
    """The shot's bytes. Joint nodes keep their names; a name that two figures share becomes "figure/joint"."""
    writer = GlbWriter()
    names = [joint.name for figure in shot.cast for joint in figure.rig.joints]
    shared = {name for name in names if names.count(name) > 1}
    nodes = {
        figure.name: add_figure(writer, figure, lambda n, f=figure: f"{f.name}/{n}" if n in shared else n)
        for figure in shot.cast
    }
    if shot.cast:
        writer.document["animations"] = [_animation(writer, shot, nodes)]
        finish_scene(writer)
    return writer.to_bytes()


def _animation(writer: GlbWriter, shot: Shot, nodes: dict[str, list[int]]) -> dict[str, Any]:
    frames = np.array(shot.whole_frames, float)
    seconds = ((frames - frames[0]) / shot.frame_rate).astype(np.float32)
    times = writer.array(seconds.reshape(-1, 1), "SCALAR", bounds=True)
    animation: dict[str, Any] = {"name": f"{shot.title} {shot.take.name}", "channels": [], "samplers": []}
    for figure in shot.cast:
        world = joint_matrices(shot, figure.name, frames)
        _add_shapes(writer, animation, times, figure, world, nodes[figure.name])
        places, turns = _local_motion(figure, rigid(world))
        for j, node in enumerate(nodes[figure.name]):
            _add_channel(writer, animation, times, node, "translation", places[:, j])
            _add_channel(writer, animation, times, node, "rotation", turns[:, j])
    return animation


def _add_shapes(
    writer: GlbWriter, animation: dict[str, Any], times: int, figure: Figure, world: Floats, nodes: list[int]
) -> None:
    """Stretched joints get two nodes of their own, beside the hierarchy, and the skin hangs on those."""
    joints = shaped(world)
    skin = next(s for s in writer.document["skins"] if s["joints"] == nodes)
    skin["joints"] = list(nodes)
    for j in joints:
        outer, scale, inner = in_two(world[:, j, :3, :3])
        name = writer.document["nodes"][nodes[j]]["name"]
        leaf = writer.append("nodes", {"name": f"{name} shape"})
        node = writer.append("nodes", {"name": f"{name} stretch", "children": [leaf]})
        _add_channel(writer, animation, times, node, "translation", world[:, j, :3, 3])
        _add_channel(writer, animation, times, node, "rotation", unrolled(matrix_quaternion(outer)))
        _add_channel(writer, animation, times, node, "scale", scale)
        _add_channel(writer, animation, times, leaf, "rotation", unrolled(matrix_quaternion(inner)))
        skin["joints"] = [leaf if n == nodes[j] else n for n in skin["joints"]]


def _local_motion(figure: Figure, world: Floats) -> tuple[Floats, Floats]:
    """Translations (F, J, 3) and rotations (F, J, 4) relative to parents."""
    parents = np.array([joint.parent for joint in figure.rig.joints])
    local = world.copy()
    held = parents >= 0
    local[:, held] = np.linalg.inv(world[:, parents[held]]) @ world[:, held]
    return local[..., :3, 3], unrolled(matrix_quaternion(local[..., :3, :3]))


def _add_channel(writer: GlbWriter, animation: dict[str, Any], times: int, node: int, path: str, data: Floats) -> None:
    output = writer.array(data.astype(np.float32), "VEC4" if path == "rotation" else "VEC3")
    animation["samplers"].append({"input": times, "output": output, "interpolation": "LINEAR"})
    target = {"node": node, "path": path}
    animation["channels"].append({"sampler": len(animation["samplers"]) - 1, "target": target})


def export(shot: Shot, path: Path) -> None:
    """Write the shot in the format that the file's ending names."""
    ending = path.suffix.lower()
    if ending == ".glb":
        write_atomically(path, shot_glb(shot))
    elif ending == ".bvh":
        from bovrin.formats.bvh_out import bvh_text  # noqa: PLC0415 - kept out of the window's start

        write_atomically(path, bvh_text(shot).encode())
    else:
        raise FileProblem(
            f"'{path.suffix or path.name}' is not an ending that can be exported.",
            where=str(path),
            advice="Use .glb, or .bvh for the motion of one figure.",
        )
