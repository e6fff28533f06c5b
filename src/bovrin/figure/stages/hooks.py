"""Who must be known before whom where figures hang on one another: one graph over the whole cast, by figure and control."""

from __future__ import annotations

from bovrin.caching import cached_by_identity
from bovrin.errors import BadMotion
from bovrin.figure.stages.following import following_of
from bovrin.figure.stages.hanging import Hook, joints_moved, joints_needed
from bovrin.figure.stages.layers import layers_of
from bovrin.shot import TO_GROUND, Attachment, ControlKind, Rig, Shot

Way = tuple[tuple[str, Attachment], ...]


def hooks_of(shot: Shot, figure: str, joint: int | None = None, way: Way = ()) -> tuple[Hook, ...]:
    """The attachments of a figure in the order in which they are put, or those alone that take one of its joints anywhere, each
    with what its carrier hangs on in turn. BadMotion where anything would hang on itself, by whatever way."""
    rig, attachments = shot.figure(figure).rig, shot.attachments(figure)
    own = _in_order(rig, figure, attachments)
    if len(own) < len(attachments):
        left = [one for one in attachments if one not in own]
        raise _circle((*way, *((figure, one) for one in left)))
    if joint is not None:
        own = _that_move(rig, figure, own, joint)
    return tuple(_hook(shot, figure, one, way) for one in own)


def check_hanging(shot: Shot) -> None:
    """BadMotion where anything hangs on itself in any take of a shot."""
    for take in shot.all_takes:
        if any(own.attachments for own in take.acting.values()):
            one = shot.showing(take)
            for figure in one.cast:
                hooks_of(one, figure.name)


def _hook(shot: Shot, figure: str, one: Attachment, way: Way) -> Hook:
    if one.carrier == TO_GROUND:
        return Hook(one, None, -1)
    rig = shot.figure(one.carrier).rig
    joint = rig.joint(one.joint)
    if one.carrier == figure:
        return Hook(one, None, joint)
    if any(name == figure and before.control == one.control for name, before in way):
        raise _circle((*way, (figure, one)))
    hooks = hooks_of(shot, one.carrier, joint, (*way, (figure, one))) if shot.attachments(one.carrier) else ()
    carried = (shot.curves(one.carrier), rig, layers_of(shot, one.carrier), hooks, following_of(shot, one.carrier))
    return Hook(one, carried, joint)


@cached_by_identity
def _that_move(rig: Rig, figure: str, own: tuple[Attachment, ...], joint: int) -> tuple[Attachment, ...]:
    """Those of some attachments, in order, that take a joint along, and those that these hang on in their own figure."""
    wanted, found = {joint}, list[Attachment]()
    for one in reversed(own):
        if joints_moved(rig, rig.control(one.control)) & wanted:
            found.append(one)
            wanted |= joints_needed(rig, figure, one)
    return tuple(found[::-1])


@cached_by_identity
def _in_order(rig: Rig, figure: str, attachments: tuple[Attachment, ...]) -> tuple[Attachment, ...]:
    """The attachments of a figure, each after those that move what it needs, and all of one control together; without those that
    can have no place, since they hang on one another or on themselves."""
    by_control: dict[int, list[Attachment]] = {}
    for one in attachments:
        by_control.setdefault(rig.control(one.control), []).append(one)
    needs = {c: frozenset().union(*(joints_needed(rig, figure, one) for one in own)) for c, own in by_control.items()}
    left, found = sorted(by_control), list[Attachment]()
    while True:
        free = [c for c in left if not any(_goes_first(rig, other, c, needs[c]) for other in left if other != c)]
        free = [c for c in free if not _on_itself(rig, figure, c, by_control[c])]
        if not free:
            return tuple(found)
        found += [one for c in free for one in by_control[c]]
        left = [c for c in left if c not in free]


def _goes_first(rig: Rig, other: int, control: int, needs: frozenset[int]) -> bool:
    """Whether a control must be put before another: it moves what that needs, or is the goal of its limb."""
    what = rig.controls[control]
    goal = what.kind is ControlKind.POLE and rig.limbs[what.limb].goal == other
    return goal or bool(joints_moved(rig, other) & needs)


def _on_itself(rig: Rig, figure: str, control: int, own: list[Attachment]) -> bool:
    moved = joints_moved(rig, control)
    return any(one.carrier == figure and rig.joint(one.joint) in moved for one in own)


def _circle(way: Way) -> BadMotion:
    steps = ", ".join(f"{one.control} of {figure} on {one.onto}" for figure, one in way)
    return BadMotion(
        f"{way[0][1].control} of {way[0][0]} would hang on itself: {steps}.",
        advice="Hang it on something else, or let go of one of these first.",
    )
