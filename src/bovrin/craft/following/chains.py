"""Which controls follow together: chains, and those of the other side."""

from __future__ import annotations

from collections.abc import Iterable

from bovrin.shot import ControlKind, Rig


def chain_below(rig: Rig, controls: Iterable[str]) -> tuple[str, ...]:
    """Some controls, by name, from the first link on; one that is alone with those that hang below it in a single row."""
    chosen = sorted((rig.control(name) for name in dict.fromkeys(controls)), key=lambda c: (rig.controls[c].joint, c))
    if len(chosen) == 1 and rig.controls[chosen[0]].kind is ControlKind.JOINT:
        driven = {c.joint: i for i, c in enumerate(rig.controls) if c.kind is ControlKind.JOINT and c.limb < 0}
        while len(below := _next(rig, driven, rig.controls[chosen[-1]].joint)) == 1:
            chosen.append(below[0])
    return tuple(rig.controls[c].name for c in chosen)


def _next(rig: Rig, driven: dict[int, int], joint: int) -> list[int]:
    """The controls next below a joint."""
    found = list[int]()
    for child, one in enumerate(rig.joints):
        if one.parent == joint:
            found += [driven[child]] if child in driven else _next(rig, driven, child)
    return found


def across(rig: Rig, controls: Iterable[str]) -> tuple[str, ...] | None:
    """Controls of the other side; None where one of them stands in the middle."""
    other = [rig.other_side(rig.control(name)) for name in controls]
    return None if None in other else tuple(rig.controls[c].name for c in other if c is not None)
