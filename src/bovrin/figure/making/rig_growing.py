"""A rig with more channels: for every joint that a brought motion moves, turns or sizes, and for meshes' shapes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from bovrin.figure.brought.joint_tree import JointTree
from bovrin.figure.making.rig_making import MOVE, TURN
from bovrin.shot import Channel, Control, ControlKind, Part, Rig, Side, Unit
from bovrin.shot.rig import MORPH

SIZES = (("size across", "size x"), ("size up", "size y"), ("size forward", "size z"))
Sizes = tuple[float, float, float]
EVEN: Sizes = (1.0, 1.0, 1.0)


def with_channels(
    rig: Rig,
    moved: Iterable[int],
    turned: Iterable[int],
    sized: Mapping[int, Sizes] = {},
    orders: Mapping[int, str] = {},
) -> Rig:
    """The rig with channels for every joint that is moved, turned or sized; `sized` says how large each is at rest.

    Joints that no control of the rig turns get one of their own, in a part called "more"; orders are by joint.
    """
    moved, turned = set(moved), set(turned)
    controls = [_grown(c, moved, sized) for c in rig.controls]
    driven = {c.joint for c in controls if _poses_a_joint(c)}
    names = {c.name for c in controls}
    extra: list[Control] = []
    for j in sorted((turned | moved | set(sized)) - driven):
        name = rig.joints[j].name
        free = name if name not in names else f"{name} joint"
        channels = (*(MOVE if j in moved else ()), *TURN, *(_sizes(sized[j]) if j in sized else ()))
        extra.append(Control(free, ControlKind.JOINT, j, channels, orders.get(j, "YXZ")))
        names.add(free)
    if not extra and all(a is b for a, b in zip(controls, rig.controls, strict=True)):
        return rig
    more = range(len(controls), len(controls) + len(extra))
    parts = _with_members(rig.parts, "more", tuple(more)) if extra else rig.parts
    pairs = (*rig.pairs, *_pairs_of(rig, extra))
    return replace(rig, controls=tuple(controls + extra), parts=parts, pairs=pairs)


def _pairs_of(rig: Rig, controls: list[Control]) -> list[tuple[str, str]]:
    """Left and right among some controls, by their joints."""
    tree, names = JointTree(rig.joints), {c.joint: c.name for c in controls}
    return [
        (names[j], names[other])
        for j, (other, _) in tree.pairs.items()
        if j in names and other in names and tree.side(j) is Side.LEFT
    ]


def with_shapes(rig: Rig, shapes: Iterable[tuple[str, float, int]]) -> Rig:
    """The rig with a control for the amounts of meshes' shapes: rows of name, what it is at rest, and carrying joint."""
    by_joint: dict[int, list[Channel]] = {}
    for name, rest, joint in shapes:
        by_joint.setdefault(joint, []).append(Channel(name, MORPH + name, Unit.AMOUNT, rest))
    names = {c.name for c in rig.controls}
    controls, parts = list(rig.controls), rig.parts
    for joint, channels in by_joint.items():
        plain = "shapes" if len(by_joint) == 1 else f"{rig.joints[joint].name} shapes"
        free = plain if plain not in names else f"{plain} of the mesh"
        names.add(free)
        at = next((n for n, p in enumerate(parts) if any(controls[c].joint == joint for c in p.controls)), None)
        parts = _with_members(parts, "shapes" if at is None else parts[at].name, (len(controls),))
        controls.append(Control(free, ControlKind.JOINT, joint, tuple(channels)))
    return replace(rig, controls=tuple(controls), parts=parts) if by_joint else rig


def _grown(control: Control, moved: set[int], sized: Mapping[int, Sizes]) -> Control:
    if not _poses_a_joint(control):
        return control
    has = {channel.technical for channel in control.channels}
    move = tuple(c for c in MOVE if c.technical not in has) if control.joint in moved else ()
    size = _sizes(sized[control.joint]) if control.joint in sized and "size x" not in has else ()
    return replace(control, channels=(*move, *control.channels, *size)) if move or size else control


def _poses_a_joint(control: Control) -> bool:
    """Whether a control turns or moves its joint; amounts of meshes' shapes do neither."""
    return control.kind is ControlKind.JOINT and not all(c.technical.startswith(MORPH) for c in control.channels)


def _sizes(rest: Sizes) -> tuple[Channel, ...]:
    return tuple(Channel(name, word, Unit.AMOUNT, value) for (name, word), value in zip(SIZES, rest, strict=True))


def _with_members(parts: tuple[Part, ...], name: str, members: tuple[int, ...]) -> tuple[Part, ...]:
    at = next((n for n, part in enumerate(parts) if part.name == name), None)
    if at is None:
        return (*parts, Part(name, members))
    grown = replace(parts[at], controls=(*parts[at].controls, *members))
    return (*parts[:at], grown, *parts[at + 1 :])
