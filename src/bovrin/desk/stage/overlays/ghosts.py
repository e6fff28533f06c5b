"""The drawings on the light table, as outlines under the figure."""

from __future__ import annotations

from bovrin.desk.state.looking.light_table import LightTable
from bovrin.figure.staging import stance
from bovrin.picture.item import Ghost, Item
from bovrin.picture.theme import Theme, rgb
from bovrin.shot import Figure, Shot


def ghosts(
    table: LightTable,
    shot: Shot,
    figure: Figure,
    shown: list[tuple[float, bool, float]],
    frame: float,
    theme: Theme,
    joint: int,
) -> list[Ghost]:
    """The drawings on the table for one figure; lined up, each lies so that a joint is where it is on this frame."""
    here = stance(shot, figure.name, frame).seen(joint)
    found = []
    for at, before, strength in shown:
        drawn = stance(shot, figure.name, at)
        world = drawn.world
        if table.lined_up:
            world = world.copy()
            world[:, :3, 3] += here - world[joint, :3, 3]
        item = Item(figure, world, drawn.values)
        found.append(Ghost(item, rgb(theme.before if before else theme.after), strength))
    return found
