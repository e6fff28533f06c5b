"""Who must be known before whom where figures hang on one another: one graph over the whole cast, by figure and control."""

from __future__ import annotations

from bovrin.errors import BadMotion
from bovrin.figure.stages.hanging import Hook, joints_moved, joints_needed
from bovrin.figure.stages.layers import layers_of
from bovrin.shot import TO_GROUND, Attachment, Shot

Way = tuple[tuple[str, Attachment], ...]


def hooks_of(shot: Shot, figure: str, joint: int | None = None, way: Way = ()) -> tuple[Hook, ...]:
    """The attachments of a figure in the order in which they are put, or those alone that take one of its joints anywhere, each
    with what its carrier hangs on in turn. BadMotion where anything would hang on itself, by whatever way."""
    own = _in_order(shot, figure, way)
    if joint is not None:
        own = _that_move(shot, figure, own, joint)
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
    return Hook(one, (shot.curves(one.carrier), rig, layers_of(shot, one.carrier), hooks), joint)


def _that_move(shot: Shot, figure: str, own: list[Attachment], joint: int) -> list[Attachment]:
    """Those of some attachments, in order, that take a joint along, and those that these hang on in their own figure."""
    rig, wanted, found = shot.figure(figure).rig, {joint}, list[Attachment]()
    for one in reversed(own):
        if joints_moved(rig, rig.control(one.control)) & wanted:
            found.append(one)
            wanted |= joints_needed(rig, figure, one)
    return found[::-1]


def _in_order(shot: Shot, figure: str, way: Way) -> list[Attachment]:
    """The attachments of a figure, each after those that move what it needs. All of one control stand together."""
    rig = shot.figure(figure).rig
    by_control: dict[int, list[Attachment]] = {}
    for one in shot.attachments(figure):
        by_control.setdefault(rig.control(one.control), []).append(one)
    needs = {c: frozenset().union(*(joints_needed(rig, figure, one) for one in own)) for c, own in by_control.items()}
    left, found = sorted(by_control), list[Attachment]()
    while left:
        free = [c for c in left if not any(joints_moved(rig, other) & needs[c] for other in left if other != c)]
        free = [c for c in free if not _on_itself(shot, figure, c, by_control[c])]
        if not free:
            raise _circle((*way, *((figure, by_control[c][0]) for c in left)))
        found += [one for c in free for one in by_control[c]]
        left = [c for c in left if c not in free]
    return found


def _on_itself(shot: Shot, figure: str, control: int, own: list[Attachment]) -> bool:
    rig = shot.figure(figure).rig
    moved = joints_moved(rig, control)
    return any(one.carrier == figure and rig.joint(one.joint) in moved for one in own)


def _circle(way: Way) -> BadMotion:
    steps = ", ".join(f"{one.control} of {figure} on {one.onto}" for figure, one in way)
    return BadMotion(
        f"{way[0][1].control} of {way[0][0]} would hang on itself: {steps}.",
        advice="Hang it on something else, or let go of one of these first.",
    )
