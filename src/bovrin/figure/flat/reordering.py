"""A figure with more joints: all that names joints by number goes along."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.shot import Figure, Foot, Joint, Limb, Rig

Ints = NDArray[np.intp]
Away = tuple[float, float, float]


def with_joints(figure: Figure, new: tuple[Joint, ...], moved: Mapping[int, tuple[int, Away]]) -> tuple[Figure, Ints]:
    """The figure with joints more, numbered after those that are there, and the order (J,) in which all stand now. moved:
    joints that hang on another from now on, and how far from it, metres."""
    joints = [*figure.rig.joints, *new]
    for n, (parent, away) in moved.items():
        joints[n] = replace(joints[n], parent=parent, translation=away)
    order = _parents_first(joints)
    at = np.empty(len(joints), np.intp)
    at[order] = np.arange(len(joints))
    rig = _renumbered(figure.rig, joints, order, at)
    pieces = tuple(replace(p, joints=at[p.joints.astype(np.intp)].astype(np.uint16)) for p in figure.model.pieces)
    return replace(figure, rig=rig, model=replace(figure.model, pieces=pieces)), order


def _parents_first(joints: list[Joint]) -> Ints:
    order: list[int] = []
    placed: set[int] = set()
    waiting = list(range(len(joints)))
    while waiting:
        ready = [n for n in waiting if joints[n].parent < 0 or joints[n].parent in placed]
        order += ready
        placed |= set(ready)
        waiting = [n for n in waiting if n not in placed]
    return np.array(order, np.intp)


def _renumbered(rig: Rig, joints: list[Joint], order: Ints, at: Ints) -> Rig:
    def j(number: int) -> int:
        return int(at[number])

    def limb(own: Limb) -> Limb:
        foot = Foot(own.foot.heel, own.foot.ball, j(own.foot.toes)) if own.foot else None
        anchors = tuple(j(n) for n in own.pole_anchors)
        upper, middle, end = j(own.upper), j(own.middle), j(own.end)
        return replace(own, upper=upper, middle=middle, end=end, pole_anchors=anchors, foot=foot)

    return replace(
        rig,
        joints=tuple(replace(joints[n], parent=j(joints[n].parent) if joints[n].parent >= 0 else -1) for n in order),
        controls=tuple(replace(c, joint=j(c.joint)) for c in rig.controls),
        limbs=tuple(limb(own) for own in rig.limbs),
        follows=tuple(replace(f, joint=j(f.joint), leader=j(f.leader)) for f in rig.follows),
        bends=tuple(replace(b, joint=j(b.joint)) for b in rig.bends),
        setup="",
    )
