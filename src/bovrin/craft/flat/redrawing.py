"""A flat figure whose drawing was drawn over: parts and drawings go by their names, motion and setup are kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from bovrin.craft.flat.bends import bent_figure
from bovrin.errors import BadFigure
from bovrin.figure.flat.assembling import assembled, bent_parts, facing_now, layers_now, setup_now
from bovrin.figure.flat.guess import Masks, parents_of, pivots_of
from bovrin.figure.flat.layers import DrawnPart, Lie
from bovrin.shot import CHANGED, Curve, CurveSet, Figure, Shot, Take, Unit
from bovrin.shot.regrown import with_channels_of


class Redrawn(NamedTuple):
    """A shot with a figure drawn anew, and what that changed, in words."""

    shot: Shot
    told: list[str]


def redrawn(shot: Shot, name: str, layers: Sequence[DrawnPart], masks: Masks) -> Redrawn:
    """A shot in which a flat figure's parts are as they are drawn now. Parts of the same name keep what they hang on, where they
    turn and their keys; new ones are guessed; what is gone is told."""
    old = shot.figure(name)
    drawn = old.model.drawn
    if drawn is None:
        raise BadFigure(f"'{name}' was not brought from a drawing.", advice="Bring it anew.")
    lie = Lie(facing_now(old), drawn.middle, drawn.ground, old.model.metres)
    setup = setup_now(old)
    known, spots = dict(setup.parents), dict(setup.pivots)
    names = {layer.name for layer in layers}
    told_layers = []
    for layer in layers:
        if layer.name in known:
            x, y = spots[layer.name]
            pivot = (x / lie.metres + lie.middle, y / lie.metres + lie.ground)
            parent = known[layer.name] if known[layer.name] in names else ""
            layer = DrawnPart(layer.name, layer.drawings, parent or layer.parent, pivot)
        told_layers.append(layer)
    body = next((part for part, parent in setup.parents if not parent), "")
    parents = parents_of(told_layers, masks, body)
    pivots = pivots_of(told_layers, parents, masks)
    made = assembled(name, told_layers, parents, pivots, lie, old.source)
    model = replace(made.model, drawn=drawn)
    made = replace(made, model=model, colour=old.colour, source=old.source.removesuffix(CHANGED) + CHANGED)
    for part, points in bent_parts(old).items():
        if part in names:
            made = bent_figure(made, part, points)
    changed = with_channels_of(_chosen_by_name(shot, old, made), made)
    return Redrawn(changed, _differences(old, layers))


def _chosen_by_name(shot: Shot, old: Figure, new: Figure) -> Shot:
    """The shot whose keys of drawings stand for the same names in the new figure; what is gone is shown as at rest."""
    numbers: dict[int, np.ndarray] = {}
    for n, channel in enumerate(old.rig.channels):
        name = old.rig.channel_names[n]
        if channel.unit is Unit.CHOICE and name in new.rig.channel_names:
            choices = new.rig.channels[new.rig.channel(name)].choices
            if choices != channel.choices:
                numbers[n] = np.array([choices.index(c) if c in choices else 0 for c in channel.choices], float)
    if not numbers:
        return shot

    def told(take: Take) -> Take:
        curves = take.curves[old.name]
        own = tuple(_told(c, numbers[n]) if n in numbers else c for n, c in enumerate(curves.curves))
        return take.acted(old.name, curves=CurveSet(own))

    return replace(shot, take=told(shot.take), takes=tuple(told(take) for take in shot.takes))


def _told(curve: Curve, numbers: np.ndarray) -> Curve:
    if not len(curve):
        return curve
    at = np.clip(np.rint(curve.values), 0, len(numbers) - 1).astype(int)
    return curve.changed(values=numbers[at])


def _differences(old: Figure, layers: Sequence[DrawnPart]) -> list[str]:
    """What is new, and what is gone, in words."""
    before = {layer.name: [p.name for p in layer.drawings] for layer in layers_now(old)}
    now = {layer.name: [p.name for p in layer.drawings] for layer in layers}
    told = [f"The part '{n}' is new." for n in now if n not in before]
    told += [f"The part '{n}' is gone, and its keys with it; undo brings it back." for n in before if n not in now]
    for name in before.keys() & now.keys():
        told += [f"'{name}' has a new drawing, '{d}'." for d in now[name] if d not in before[name]]
        gone = [d for d in before[name] if d not in now[name]]
        told += [f"The drawing '{d}' of '{name}' is gone; its first one is shown instead." for d in gone]
    return told
