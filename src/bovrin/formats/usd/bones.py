"""The skeleton of a figure as USD has it: all joints in their tree, and a bone more where meshes are bound to one in two ways."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import plan_of
from bovrin.formats.usd.looks import apart
from bovrin.shot import CurveSet, Figure, HandleKind

Floats = NDArray[np.float64]

SAME = 1e-9
JUST_BEFORE = 1e-3
"""Frames before a step on which what is held is still there."""


class BoneTree(NamedTuple):
    """Bones (B,) of a skeleton, each after its parent: their paths and names, the rig's joints, their parents (-1: none), how
    they lie when meshes are bound (B, 4, 4); of_bone: by the model's bones, which of these they are."""

    paths: list[str]
    names: list[str]
    joints: NDArray[np.intp]
    parents: NDArray[np.intp]
    binds: Floats
    of_bone: NDArray[np.intp]

    def local(self, world: Floats) -> Floats:
        """Matrices of the rig's joints (F, J, 4, 4) as those of the bones in their parents (F, B, 4, 4)."""
        own = world[:, self.joints]
        local, has = own.copy(), self.parents >= 0
        local[:, has] = np.linalg.inv(own[:, self.parents[has]]) @ own[:, has]
        return local


def bone_tree(figure: Figure) -> BoneTree:
    """The bones of a figure."""
    rig, model = figure.rig, figure.model
    order = _parents_first([joint.parent for joint in rig.joints])
    row = {joint: n for n, joint in enumerate(order)}
    joints, parents = list(order), [row.get(rig.joints[j].parent, -1) for j in order]
    binds = [plan_of(rig).rest_world[j] for j in order]
    of_bone, bound = [row[j] for j in range(len(rig.joints))], dict[int, list[int]]()
    if model.bones is not None and model.binds is not None:
        of_bone = []
        for joint, into in zip(model.bones.tolist(), model.binds, strict=True):
            there = np.linalg.inv(into)
            known = bound.setdefault(joint, [])
            at = next((n for n in known if np.abs(binds[n] - there).max() < SAME), -1)
            if at < 0 and not known:
                at = row[joint]
                binds[at] = there
            elif at < 0:
                at = len(joints)
                joints.append(joint)
                parents.append(row[joint])
                binds.append(there)
            if at not in known:
                known.append(at)
            of_bone.append(at)
    names = [rig.joints[j].name for j in joints]
    paths: list[str] = []
    for n, plain in enumerate(apart(names)):
        paths.append(f"{paths[parents[n]]}/{plain}" if parents[n] >= 0 else plain)
    return BoneTree(
        paths, names, np.array(joints, np.intp), np.array(parents, np.intp), np.array(binds), np.array(of_bone, np.intp)
    )


def _parents_first(parents: list[int]) -> list[int]:
    """All joints, each after its parent, else in their order."""
    found: dict[int, None] = {}

    def add(joint: int) -> None:
        way = []
        while joint >= 0 and joint not in found:
            way.append(joint)
            joint = parents[joint]
        found.update(dict.fromkeys(reversed(way)))

    for joint in range(len(parents)):
        add(joint)
    return list(found)


def held_frames(curves: CurveSet, frames: Floats) -> Floats:
    """Frames to tell a motion on: whole ones, and just before each step, so that what is held is held."""
    steps = [c.frames[1:][c.out_kind[:-1] == HandleKind.STEPPED] for c in curves.curves if len(c) > 1 and not c.muted]
    at = np.unique(np.concatenate(steps)) if steps else np.empty(0)
    at = at[(at > frames[0]) & (at <= frames[-1])]
    return np.unique(np.concatenate([frames, at - JUST_BEFORE, at]))
