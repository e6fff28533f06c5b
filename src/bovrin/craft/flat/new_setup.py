"""Another setup for a flat figure: pivots, what hangs on what, which way it faces, how large; its motion goes along by name."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.flat.bends import bent_figure
from bovrin.craft.hanging.bake import nothing_hung
from bovrin.errors import BadFigure
from bovrin.figure.flat.assembling import FlatSetup, bent_parts, set_up
from bovrin.shot import CHANGED, Figure, Shot
from bovrin.shot.regrown import with_channels_of


def figure_set_up(figure: Figure, setup: FlatSetup) -> Figure:
    """A flat figure taken for what an animator says; parts that bent bend again."""
    check_setup(setup)
    made = set_up(figure, setup)
    for part, points in bent_parts(figure).items():
        made = bent_figure(made, part, points)
    return replace(made, source=figure.source.removesuffix(CHANGED) + CHANGED)


def with_flat_setup(shot: Shot, figure: str, setup: FlatSetup) -> Shot:
    """The shot with a flat figure taken for something else; the channels that it has still keep their keys."""
    made = figure_set_up(shot.figure(figure), setup)
    return with_channels_of(nothing_hung(shot, figure), made)


def check_setup(setup: FlatSetup) -> None:
    """BadFigure where parts hang in a circle, or none or several carry all."""
    parents = dict(setup.parents)
    tops = [name for name, parent in parents.items() if not parent]
    if len(tops) != 1:
        raise BadFigure(
            f"{len(tops) or 'no'} parts hang on nothing.", advice="One part carries all others: hang the rest on it."
        )
    for name in parents:
        at, steps = name, 0
        while at:
            at, steps = parents.get(at, ""), steps + 1
            if steps > len(parents):
                raise BadFigure(f"the part '{name}' hangs on itself.", advice="Hang it on another part.")
    if not 1e-3 <= setup.size <= 1e3:
        raise BadFigure("the figure would be too small or too large.", advice="Give a height between 1 mm and 1 km.")
