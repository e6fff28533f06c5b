"""A shot as glTF 2.0 (GLB): its figures, and an animation for each of its takes."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion, FileProblem
from bovrin.figure.reading.baking import alone, baked
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.staging import Staged, staged
from bovrin.formats.figures.file import brought_extras, finish_scene
from bovrin.formats.files import write_atomically
from bovrin.formats.gltf.container import GlbWriter
from bovrin.formats.gltf.placed import InDocument, placed
from bovrin.formats.gltf.shaped_joints import in_two, rigid, shaped
from bovrin.formats.gltf.tracks import Times, TrackWriter, own_columns, own_keys, stepped_keys
from bovrin.motion.rotations import matrix_quaternion, unrolled
from bovrin.progress import each, part
from bovrin.shot import ControlKind, CurveSet, Figure, Shot

Floats = NDArray[np.float64]
SKEW, RESTS = 1e-6, 1e-6
PATHS, WORDS = ("translation", "rotation", "scale"), ("translate", "rotate", "size")
NOUGHT, HAIR = 1e-24, 1e-9
"""Volumes, and sizes, that count as nothing."""
NOTHING = 1e-7
"""Units, and lengths of quaternions, by which a node may miss its rest and be left to rest."""
PIECE = 2048
"""Frames that are solved at a time."""


def shot_glb(shot: Shot, rate: float | None = None, *, metres: bool = False) -> bytes:
    """The shot's bytes; rate: samples a second, the shot's frame rate when it is not given.

    Joint nodes keep their names; a name that two figures share becomes "figure/joint". A brought figure that is alone is
    written in the units that it came in, unless `metres` asks for those; all else is in metres.
    """
    writer = GlbWriter()
    names = [joint.name for figure in shot.cast if not figure.model.brought for joint in figure.rig.joints]
    shared = {name for name in names if names.count(name) > 1}
    alone = shot.cast[0] if len(shot.cast) == 1 and shot.cast[0].model.brought else None
    unit = 1.0 if alone is None or metres else alone.model.metres
    carried = alone is None or _is_carried(shot, alone)
    cast = [placed(writer, figure, shared, unit, carried=carried) for figure in shot.cast]
    if cast:
        for one in cast:
            _add_figure_motion(writer, shot, one, rate)
        finish_scene(writer, [n for one in cast for n in one.loose])
        if len(cast) > 1:
            for one in each(cast):
                _say_whose(writer, one)
        if alone is not None:
            own = brought_extras(_as_written(cast[0]))
            writer.document.setdefault("extras", {})["bovrin"] = own
    return writer.to_bytes()


def _say_whose(writer: GlbWriter, one: InDocument) -> None:
    """Write on the node that carries a figure what it is, so that a shot with several comes back as it was."""
    node = writer.document["nodes"][one.nodes[0]]
    extras = node.get("extras")
    told = extras if isinstance(extras, dict) else {}
    node["extras"] = {**told, "bovrin": "whole", "figure": brought_extras(_as_written(one))}


def _as_written(one: InDocument) -> Figure:
    """The figure as the written file has it, in its units."""
    nodes = tuple(n for n in one.nodes if n >= 0)
    return replace(one.figure, model=replace(one.figure.model, metres=one.unit, nodes=nodes))


def _is_carried(shot: Shot, figure: Figure) -> bool:
    """Whether the joint that carries a whole figure is keyed in any take."""
    rig = figure.rig
    own = {c for i, control in enumerate(rig.controls) if control.joint == 0 for c in rig.span(i)} - rig.of_followers
    return any(len(take.curves[figure.name][c]) for take in shot.all_takes for c in own)


def _times(shot: Shot, rate: float | None) -> Times:
    if rate is None:
        return Times(np.array(shot.whole_frames, float), shot.frame_rate)
    if not 1 <= rate <= 240:
        raise BadMotion(f"{rate:g} samples a second are not possible.", advice="Use 1 to 240.")
    whole = shot.whole_frames
    step = shot.frame_rate / rate
    return Times(np.arange(whole[0], whole[-1] + 1e-6, step), shot.frame_rate)


def _add_figure_motion(writer: GlbWriter, shot: Shot, one: InDocument, rate: float | None) -> None:
    """One animation for each take, in their order and as long as they are, all figures of the shot that move in it."""
    name = one.figure.name
    keyed = any(len(curve) for take in shot.all_takes for curve in take.curves[name].curves)
    if not keyed and _rests(shot, one):
        return
    shots = [shot.showing(take) for take in shot.all_takes]
    times = [_times(own, rate) for own in shots]
    with part(0.0, 0.3):
        stagings = [staged(own, name, time.frames) for own, time in each(list(zip(shots, times, strict=True)))]
    with part(0.3, 1.0):
        plain = [_told_in_pieces(one, found) for found in each(stagings)]
    skewed = any(parts is None for parts in plain)
    leaves = _add_leaves(writer, one, [found.world for found in stagings]) if skewed else {}
    told = [
        parts if parts is not None and not leaves else _rigidly(one, found.world)
        for parts, found in zip(plain, stagings, strict=True)
    ]
    at_rest = _at_rest(shot, one, told)
    for own, time, found, parts in zip(shots, times, stagings, told, strict=True):
        tracks = _tracks(writer, own, time)
        curves = own.curves(name)
        keys = stepped_keys(curves, time.frames)
        if leaves:
            _write_leaves(tracks, one, found.world, leaves, keys)
        _write_joints(tracks, one, parts, curves, keys, at_rest)
        _write_shapes(tracks, one, found, curves, keys)


def _rests(shot: Shot, one: InDocument) -> bool:
    """Whether a figure without keys stands as its file has it at rest."""
    rig = one.figure.rig
    world = staged(shot, one.figure.name, np.array([shot.first])).world[0]
    return bool(np.abs(world - plan_of(rig).rest_world).max() < RESTS)


def _tracks(writer: GlbWriter, own: Shot, times: Times) -> TrackWriter:
    """The animation of a shot's take, made when the first figure asks for it."""
    animations = writer.document.setdefault("animations", [])
    found = next((a for a in animations if a["name"] == own.take.name), None)
    if found is None:
        extras = {"first": float(times.frames[0]), "frame_rate": own.frame_rate, "loops": own.loops}
        found = {"name": own.take.name, "channels": [], "samplers": [], "extras": extras}
        animations.append(found)
    return TrackWriter(writer, found, times)


Parts = tuple[Floats, Floats, Floats]


def _told_in_pieces(one: InDocument, found: Staged) -> Parts | None:
    """What `_told_plainly` says of a whole take, solved some frames at a time: matrices of a long one would fill the memory."""
    pieces: list[Parts] = []
    for start in each(range(0, len(found.frames), PIECE)):
        parts = _told_plainly(one, solve(found.rig, found.values[start : start + PIECE]))
        if parts is None:
            return None
        pieces.append(parts)
    places, turns, sizes = (np.concatenate(columns) for columns in zip(*pieces, strict=True))
    return places, unrolled(turns), sizes


def _told_plainly(one: InDocument, world: Floats, *, anyhow: bool = False) -> Parts | None:
    """Places (F, J, 3), turns (F, J, 4) and sizes (F, J, 3) of the nodes; None where some joint is skewed, unless it is told
    anyhow."""
    parents = np.array([joint.parent for joint in one.figure.rig.joints])
    grown = world.copy()
    grown[..., :3, :3] *= one.grow[:, None, None]
    local = grown.copy()
    has_parent = parents >= 0
    local[:, ~has_parent, :3] /= one.unit
    local[:, has_parent] = _inverse(grown[:, parents[has_parent]]) @ grown[:, has_parent]
    linear = local[..., :3, :3]
    product = np.swapaxes(linear, -1, -2) @ linear
    sizes = np.sqrt(np.diagonal(product, axis1=-2, axis2=-1))
    off = np.abs(product - sizes[..., None] * sizes[..., None, :] * np.eye(3)).max((-1, -2))
    if not anyhow and (off > SKEW * (sizes.max(-1) ** 2)).any():
        return None
    sizes = sizes * _signs(linear)
    turns = unrolled(matrix_quaternion(_turned(linear, sizes)))
    return local[..., :3, 3].copy(), turns, sizes


def _rigidly(one: InDocument, world: Floats) -> Parts:
    """The same of joints without what skews them."""
    parts = _told_plainly(one, rigid(world), anyhow=True)
    assert parts is not None
    return parts


def _inverse(matrices: Floats) -> Floats:
    """The way back from spaces (..., 4, 4); one that somebody sized to nothing, to hide what is in it, has one too."""
    size = np.abs(np.linalg.det(matrices[..., :3, :3]))
    flat = ~(
        (size >= NOUGHT) & np.isfinite(matrices).all((-1, -2)) & np.isfinite(size)
    )  # what is no number is flat too
    try:
        if not flat.any():
            return np.asarray(np.linalg.inv(matrices))
        result = np.empty_like(matrices)
        result[~flat] = np.linalg.inv(matrices[~flat])
    except np.linalg.LinAlgError:  # numbers so far apart that one is lost beside another
        result, flat = np.empty_like(matrices), np.ones_like(flat)
    there = np.nan_to_num(matrices[flat], posinf=0.0, neginf=0.0)
    back = np.linalg.pinv(there[:, :3, :3])
    result[flat] = np.eye(4)
    result[flat, :3, :3] = back
    result[flat, :3, 3] = -(back @ there[:, :3, 3:])[..., 0]
    return result


def _turned(linear: Floats, sizes: Floats) -> Floats:
    """Turns (..., 3, 3) without their sizes; what has no size is not turned."""
    nothing = (np.abs(sizes) < HAIR).any(-1)
    turns = linear / np.where(np.abs(sizes) < HAIR, 1.0, sizes)[..., None, :]
    turns[nothing] = np.eye(3)
    return np.asarray(turns)


def _signs(linear: Floats) -> Floats:
    """Which axis is mirrored (..., 3): none, or the one that leaves the least of a turn."""
    signs = np.ones(linear.shape[:-1])
    flipped = np.linalg.det(linear) < 0
    if flipped.any():
        diagonal = np.diagonal(linear, axis1=-2, axis2=-1)
        signs[flipped, diagonal[flipped].mean(0).argmin()] = -1.0
    return signs


def _at_rest(shot: Shot, one: InDocument, all_parts: list[Parts]) -> set[tuple[int, str]]:
    """The joints, and what of them ("translate", "rotate", "size"), that are where their nodes rest in every take, unkeyed."""
    name, rig = one.figure.name, one.figure.rig
    found: set[tuple[int, str]] = set()
    for n, word in enumerate(WORDS):
        off = np.max([np.abs(parts[n] - one.rest[n]).max((0, 2)) for parts in all_parts], 0)
        if word == "rotate":  # a quaternion and its opposite are one turn
            off = np.minimum(off, np.max([np.abs(parts[n] + one.rest[n]).max((0, 2)) for parts in all_parts], 0))
        found |= {(int(j), word) for j in np.flatnonzero(off < NOTHING * (1.0 + np.abs(one.rest[n]).max()))}
    for index, control in enumerate(rig.controls):
        if control.kind not in (ControlKind.JOINT, ControlKind.WHOLE):
            continue
        for column, channel in zip(rig.span(index), control.channels, strict=True):
            if any(len(take.curves[name][column]) for take in shot.all_takes):
                found.discard((control.joint, channel.technical.split()[0]))
    return found


def _tell_in_parts(node: dict[str, Any], rest: list[Floats]) -> None:
    """What is animated has no matrix, but a place, a turn and a size."""
    if node.pop("matrix", None) is not None:
        for path, value in zip(PATHS, rest, strict=True):
            node[path] = value.tolist()


def _write_joints(
    tracks: TrackWriter,
    one: InDocument,
    parts: Parts,
    curves: CurveSet,
    stepped: Floats | None,
    at_rest: set[tuple[int, str]],
) -> None:
    places, turns, sizes = parts
    rig = one.figure.rig
    for j, node in enumerate(one.nodes):
        if node < 0:
            continue
        told = zip(PATHS, (places[:, j], turns[:, j], sizes[:, j]), WORDS, strict=True)
        rows = [(path, data, word) for path, data, word in told if (j, word) not in at_rest]
        if rows:
            _tell_in_parts(tracks.writer.document["nodes"][node], [part[j] for part in one.rest])
        for path, data, word in rows:
            if stepped is not None:
                tracks.sampled(node, path, data, stepped, stepped=True)
                continue
            if path == "translation" and _curved(tracks, one, j, data, curves):
                continue
            tracks.sampled(node, path, data, own_keys(rig, curves, j, word))


def _curved(tracks: TrackWriter, one: InDocument, joint: int, data: Floats, curves: CurveSet) -> bool:
    """Write a node's places by the curves of its own control, where its space is a metre to the unit."""
    cols = own_columns(one.figure.rig, joint, "translate")
    if min(cols) < 0 or abs(one.room[joint] - 1.0) > 1e-12:
        return False
    return tracks.curved(
        one.nodes[joint], "translation", data, curves, cols, np.array(one.figure.rig.joints[joint].translation)
    )


def _write_shapes(
    tracks: TrackWriter, one: InDocument, found: Staged, curves: CurveSet, stepped: Floats | None
) -> None:
    rig = one.figure.rig
    if not one.shapes or not rig.morph_columns:
        return
    amounts = found.amounts
    for node, names in one.shapes:
        own = amounts[:, [rig.morph_names[name] for name in names]]
        keys = [curves[rig.morph_columns[rig.morph_names[n]]].frames for n in names]
        at = stepped if stepped is not None else np.unique(np.concatenate(keys))
        tracks.sampled(node, "weights", own, at, stepped=stepped is not None)


Leaves = dict[int, tuple[int, int]]


def _add_leaves(writer: GlbWriter, one: InDocument, worlds: list[Floats]) -> Leaves:
    """Skewed joints get two nodes of their own, beside the hierarchy; skins and rigid meshes hang on those."""
    joints = sorted({int(j) for world in worlds for j in shaped(world)})
    found: Leaves = {}
    nodes = writer.document["nodes"]
    for j in joints:
        name = nodes[one.nodes[j]].get("name", f"joint {j}")
        leaf = writer.append("nodes", {"name": f"{name} shape", **_even(float(one.grow[j]))})
        outer = writer.append("nodes", {"name": f"{name} stretch", "children": [leaf]})
        found[j] = (outer, leaf)
        for skin in one.skins:
            skin["joints"] = [leaf if n == one.nodes[j] else n for n in skin.get("joints", [])]
        own = nodes[one.nodes[j]]
        if "mesh" in own and "skin" not in own:
            for key in ("mesh", "weights"):
                if key in own:
                    nodes[leaf][key] = own.pop(key)
            one.shapes = [(leaf if n == one.nodes[j] else n, names) for n, names in one.shapes]
    return found


def _even(size: float) -> dict[str, Any]:
    return {} if size == 1.0 else {"scale": [size] * 3}


def _write_leaves(tracks: TrackWriter, one: InDocument, world: Floats, leaves: Leaves, stepped: Floats | None) -> None:
    for j, (outer_node, leaf) in leaves.items():
        outer, scale, inner = in_two(world[:, j, :3, :3])
        rows = (
            (outer_node, "translation", world[:, j, :3, 3]),
            (outer_node, "rotation", unrolled(matrix_quaternion(outer))),
            (outer_node, "scale", scale),
            (leaf, "rotation", unrolled(matrix_quaternion(inner))),
        )
        for node, path, data in rows:
            tracks.sampled(node, path, data, stepped, stepped=stepped is not None)


def export(
    shot: Shot,
    path: Path,
    rate: float | None = None,
    *,
    metres: bool = False,
    travel: bool = True,
    clip: str | None = None,
) -> None:
    """Write the shot in the format that the file's ending names. rate: samples a second where motion is not keyed.

    metres: even where a figure came in other units; else a .glb of one brought figure, and a .bvh, are in those. travel: whether
    whole figures go over the ground. clip: that clip alone; else a .glb has each as an animation besides the takes.
    """
    ending = path.suffix.lower()
    shot = baked(shot if clip is None else alone(shot, clip), travel=travel, clips=clip is None and ending == ".glb")
    if any(figure.model.is_flat for figure in shot.cast):
        from bovrin.formats.flat.by_joints import told_by_joints  # noqa: PLC0415 - kept out of the window's start

        shot = told_by_joints(shot)
    if ending == ".glb":
        write_atomically(path, shot_glb(shot, rate, metres=metres))
    elif ending == ".bvh":
        from bovrin.formats.bvh.out import bvh_text  # noqa: PLC0415 - kept out of the window's start

        write_atomically(path, bvh_text(shot, metres=metres).encode())
    elif ending in (".usd", ".usda", ".usdc", ".usdz"):
        from bovrin.formats.usd.out import write_usd  # noqa: PLC0415 - kept out of the window's start

        write_usd(shot, path)
    else:
        raise FileProblem(
            f"'{path.suffix or path.name}' is not an ending that can be exported.",
            where=str(path),
            advice="Use .glb, .usda, or .bvh for the motion of one figure.",
        )
