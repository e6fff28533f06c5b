"""Named groups of controls: kept with the shot, used on any figure with controls of the same names."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from bovrin.errors import BadMotion, UnknownName
from bovrin.shot import Group, Rig, Shot


def keep_group(shot: Shot, name: str, figure: str, controls: Iterable[int]) -> Shot:
    """Keep controls of a figure as a group; one of that name is replaced."""
    words = name.strip()
    rig = shot.figure(figure).rig
    names = tuple(rig.controls[i].name for i in controls)
    if not words:
        raise BadMotion("a group needs a name.", advice="Type one, such as 'upper body'.")
    if not names:
        raise BadMotion("there is nothing chosen to keep as a group.", advice="Choose some controls first.")
    kept = tuple(group for group in shot.groups if group.name != words)
    return replace(shot, groups=(*kept, Group(words, names)))


def remove_group(shot: Shot, name: str) -> Shot:
    """Forget a group; its controls stay."""
    group_named(shot, name)
    return replace(shot, groups=tuple(group for group in shot.groups if group.name != name))


def group_named(shot: Shot, name: str) -> Group:
    """The group of that name."""
    for group in shot.groups:
        if group.name == name:
            return group
    known = ", ".join(group.name for group in shot.groups) or "none yet"
    raise UnknownName(f"there is no group '{name}'.", advice=f"Groups: {known}.")


def group_controls(rig: Rig, group: Group) -> tuple[list[int], list[str]]:
    """The controls of a group that a rig has, and the names of those it does not have."""
    known = {control.name: i for i, control in enumerate(rig.controls)}
    return [known[n] for n in group.controls if n in known], [n for n in group.controls if n not in known]
