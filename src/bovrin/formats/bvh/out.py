"""A figure's motion as BVH, as other readers of the format understand it: rest turns are nothing."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.brought.joint_tree import words_of
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.staging import staged
from bovrin.motion.rotations import followed, matrix_euler, turn_only
from bovrin.progress import each, tell
from bovrin.shot import ControlKind, Figure, Rig, Shot

Floats = NDArray[np.float64]

MOVED = 1e-5
"""Metres by which a joint must leave its place in its parent to get channels to move."""
ORDER = "ZXY"
MIRROR = np.diag([-1.0, 1.0, 1.0])
AT_ONCE = 500
"""Frames that are written between two words on how far it is."""


def bvh_text(shot: Shot, figure: str | None = None, *, metres: bool = False) -> str:
    """The motion of one figure over the shot's range: the named one, else the one with the most joints.

    In the units that the figure came in, unless `metres` asks for those.
    """
    if not shot.cast:
        raise BadMotion("the shot has no figure whose motion could be written.", advice="Bring a figure first.")
    whom = shot.figure(figure) if figure is not None else max(shot.cast, key=lambda f: len(f.rig.joints))
    frames = np.array(shot.whole_frames, float)
    tell(0.0)
    world = staged(shot, whom.name, frames).world
    tell(0.2)
    keep = _kept(whom.rig, world)
    offsets, moves, turns = _local(whom, world, keep)
    unit = 1.0 if metres else whom.model.metres
    wide = {n for n in range(len(keep)) if n == 0 or np.abs(moves[:, n] - offsets[n]).max() > MOVED}
    out = io.StringIO()
    out.write("HIERARCHY\n")
    _write_joints(out, whom.rig, keep, offsets / unit, wide)
    written = _as_written(whom.rig, keep)
    out.write(f"MOTION\nFrames: {len(frames)}\nFrame Time: {1 / shot.frame_rate:.8f}\n")
    tell(0.4)
    rows = _rows(written, moves / unit, turns, wide)
    for start in each(range(0, len(rows), AT_ONCE)):
        np.savetxt(out, rows[start : start + AT_ONCE], fmt="%.6f")
    return out.getvalue()


def _kept(rig: Rig, world: Floats) -> list[int]:
    """The joints that are written: one that only carries a whole figure with a single child, and no mesh, is left out."""
    root = 0
    below = [i for i, joint in enumerate(rig.joints) if joint.parent == 0]
    whole = any(c.kind is ControlKind.WHOLE and c.joint == 0 for c in rig.controls)
    if whole and len(below) == 1 and len(rig.joints) > 2:
        root = below[0]
    found = [root]
    for i in range(root + 1, len(rig.joints)):
        if rig.joints[i].parent in found:
            found.append(i)
    if len(found) < len(rig.joints) - (root > 0):
        raise BadMotion("the figure has several roots, which BVH cannot hold.", advice="Hand it on as glTF.")
    return found


def _as_written(rig: Rig, keep: list[int]) -> list[int]:
    """The places in `keep` in the order in which joints are written: each with all below it; ends have no numbers."""
    return [n for n, _ in _walk(rig, keep) if not _is_end(rig, keep[n])]


def _walk(rig: Rig, keep: list[int]) -> list[tuple[int, int]]:
    """The places in `keep`, each followed by all below it, and how deep they lie."""
    place = {joint: n for n, joint in enumerate(keep)}
    below: dict[int, list[int]] = {}
    for n, joint in enumerate(keep[1:], 1):
        below.setdefault(place[rig.joints[joint].parent], []).append(n)
    found, waiting = [], [(0, 0)]
    while waiting:
        n, depth = waiting.pop()
        found.append((n, depth))
        waiting += [(m, depth + 1) for m in reversed(below.get(n, []))]
    return found


def _local(figure: Figure, world: Floats, keep: list[int]) -> tuple[Floats, Floats, Floats]:
    """Offsets at rest (K, 3), places in the parent (F, K, 3) and turns (F, K, 3, 3), metres: the file's joints are level
    with the world at rest, so each turn is what has been turned since."""
    rig = figure.rig
    rest = plan_of(rig).rest_world[keep]
    since = turn_only(world[:, keep, :3, :3]) @ np.swapaxes(turn_only(rest[:, :3, :3]), -1, -2)
    mirrored = np.linalg.det(since) < 0.0
    since = np.where(
        mirrored[..., None, None], since @ MIRROR, since
    )  # turns alone are told: what is mirrored is in the offsets
    places = world[:, keep][..., :3, 3]
    offsets, moves, turns = rest[:, :3, 3].copy(), places.copy(), since.copy()
    offsets[0] = 0.0
    place = {joint: n for n, joint in enumerate(keep)}
    for n, j in enumerate(keep[1:], start=1):
        above = place[rig.joints[j].parent]
        back = np.swapaxes(since[:, above], -1, -2)
        turns[:, n] = back @ since[:, n]
        moves[:, n] = np.einsum("fij,fj->fi", back, places[:, n] - places[:, above])
        offsets[n] = rest[n, :3, 3] - rest[above, :3, 3]
        if mirrored[0, above]:
            offsets[n] = MIRROR @ offsets[n]
    return offsets, moves, turns


def _write_joints(out: io.StringIO, rig: Rig, keep: list[int], offsets: Floats, wide: set[int]) -> None:
    """The joint tree; what has nothing below it gets an end."""
    order = _walk(rig, keep)
    parents = {rig.joints[joint].parent for joint in keep}
    open_ = 0
    for n, depth in order:
        while open_ > depth:
            open_ -= 1
            out.write("\t" * open_ + "}\n")
        tab = "\t" * depth
        if n and _is_end(rig, keep[n]):
            _write_end(out, offsets[n], "\t" * (depth - 1))
            continue
        name = " ".join(rig.joints[keep[n]].name.split()).replace(" ", "_").translate(BRACES) or "joint"
        out.write(f"{tab}{'JOINT' if n else 'ROOT'} {name}\n{tab}{{\n")
        open_ = depth + 1
        x, y, z = offsets[n]
        out.write(f"{tab}\tOFFSET {x:.6f} {y:.6f} {z:.6f}\n")
        turning = " ".join(f"{axis}rotation" for axis in ORDER)
        out.write(
            f"{tab}\tCHANNELS " + (f"6 Xposition Yposition Zposition {turning}\n" if n in wide else f"3 {turning}\n")
        )
        if keep[n] not in parents:
            _write_end(out, np.zeros(3), tab)
    while open_ > 0:
        open_ -= 1
        out.write("\t" * open_ + "}\n")


BRACES = str.maketrans("{}", "()")


def _write_end(out: io.StringIO, offset: Floats, tab: str) -> None:
    x, y, z = offset
    out.write(f"{tab}\tEnd Site\n{tab}\t{{\n{tab}\t\tOFFSET {x:.6f} {y:.6f} {z:.6f}\n{tab}\t}}\n")


def _is_end(rig: Rig, joint: int) -> bool:
    """Whether a joint is only the end of a bone: the last of its chain, called so, and posed by nothing."""
    last = words_of(rig.joints[joint].name)[-1:] == ("end",)
    leaf = not any(other.parent == joint for other in rig.joints)
    return last and leaf and not any(control.joint == joint for control in rig.controls)


def _rows(written: list[int], moves: Floats, turns: Floats, wide: set[int]) -> Floats:
    """The numbers of every frame, in the order of the joints as they are written."""
    angles = followed(matrix_euler(turns, ORDER), ORDER)
    degrees = np.degrees(angles[..., ["XYZ".index(axis) for axis in ORDER]])
    columns: list[Floats] = []
    for n in written:
        if n in wide:
            columns.append(moves[:, n])
        columns.append(degrees[:, n])
    return np.concatenate(columns, axis=1)
