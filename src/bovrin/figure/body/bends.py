"""How the joints of a rig give way when the whole body is posed, as the rig says or guessed from its build."""

from __future__ import annotations

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import columns, special_column
from bovrin.shot import Bend, ChannelRole, ControlKind, Rig


@cached_by_identity
def bends_of(rig: Rig) -> dict[int, Bend]:
    """How each joint gives way: as the rig says, or guessed from its build when it says nothing."""
    if rig.bends:
        return {bend.joint: bend for bend in rig.bends}
    helpers = {follow.joint for follow in rig.follows}
    trunk = {j for limb in rig.limbs for j in ancestors(rig, limb.upper)[1:]}
    ends = {limb.end for limb in rig.limbs}
    found = {}
    moving = movers(rig)
    for index, control in enumerate(rig.controls):
        joint = control.joint
        below_end = any(j in ends for j in ancestors(rig, joint)[1:])
        if control.kind not in (ControlKind.JOINT, ControlKind.WHOLE) or joint in helpers or below_end:
            continue
        turns = max(columns(rig, index, "rotate")) >= 0 and control.kind is ControlKind.JOINT
        stiff = (3.0 if joint in trunk else 1.0) if turns else 0.0
        found[joint] = Bend(joint, (stiff, stiff, stiff), move=9.0 if joint in moving else 0.0)
    return found


def movers(rig: Rig) -> set[int]:
    """The joints that carry the body about: the topmost below the whole figure's that moves, or else the root."""
    own = {
        c.joint
        for i, c in enumerate(rig.controls)
        if c.kind is ControlKind.JOINT and min(columns(rig, i, "translate")) >= 0
    }
    carrying = {j for j in own if any(j in ancestors(rig, limb.upper) for limb in rig.limbs)}
    return carrying or {c.joint for c in rig.controls if c.kind is ControlKind.WHOLE}


def upright_joints(rig: Rig) -> list[int]:
    """The joints of torso and head that keep their attitude in the world when they can: those that can be anchored."""
    bends, carrying = bends_of(rig), movers(rig)
    found = {
        control.joint
        for index, control in enumerate(rig.controls)
        if control.kind is ControlKind.JOINT and special_column(rig, index, ChannelRole.ANCHOR) >= 0
    }
    return sorted(j for j in found if j in bends and j not in carrying)


def ancestors(rig: Rig, joint: int) -> list[int]:
    """A joint and all above it, nearest first."""
    found = []
    while joint >= 0:
        found.append(joint)
        joint = rig.joints[joint].parent
    return found
