"""The take that is compared with, on the stage: outlines over this one, or its figures beside."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bovrin.desk.kit.look import Look
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.compared import Counterpart
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.staging import stances
from bovrin.picture.item import Ghost, Item, item_of
from bovrin.picture.theme import rgb
from bovrin.picture.view import View
from bovrin.shot import Shot

Floats = NDArray[np.float64]

APART, OVER = 1.1, 0.85
"""How far beside this take another stands, in its own widths, and how strong its outline is over this one."""


class OtherTake:
    """What is seen of it now, or on another frame of this take; nothing, unless it is wanted there."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._counterpart = Counterpart()

    def over(self, frame: float | None = None) -> list[Ghost]:
        """Its actors as outlines."""
        compared = self.session.looking.compared
        if compared is None or compared.beside:
            return []
        return [Ghost(item, rgb(Look.theme.after), OVER) for item in self._actors(frame)]

    def beside(self, view: View, frame: float | None = None) -> list[Item]:
        """Its actors, to the right of these as a view looks at them."""
        compared = self.session.looking.compared
        if compared is None or not compared.beside:
            return []
        actors = self._actors(frame)
        way = _apart(actors) * np.array([math.cos(view.yaw), 0.0, -math.sin(view.yaw)])
        return [_moved(item, way) for item in actors]

    def _actors(self, frame: float | None) -> list[Item]:
        """Where they are; whoever moves in neither take stands there once."""
        session, looking = self.session, self.session.looking
        shown = session.shown
        there = self._counterpart.at(shown, looking.compared, session.frame if frame is None else frame)
        if there is None:
            return []
        shot, at = there
        actors = [f for f in shot.cast if looking.shows(f) and not f.is_set and _acts(shown, shot, f.name)]
        where = stances(shot, [figure.name for figure in actors], at)
        return [item_of(figure, where[figure.name]) for figure in actors]


def _acts(one: Shot, other: Shot, name: str) -> bool:
    """Whether a figure is anywhere else in one of two takes than where it stands in both."""
    both = one.curves(name).curves, other.curves(name).curves
    if one.lanes(name) or other.lanes(name) or any(len(curve) > 1 for curves in both for curve in curves):
        return True
    return any(not np.array_equal(mine.values, its.values) for mine, its in zip(*both, strict=True))


def _apart(items: list[Item]) -> float:
    """Metres at which actors do not hide one another: as wide as the widest stands at rest."""
    wide = [np.ptp(plan_of(item.figure.rig).rest_world[:, :3, 3], axis=0) for item in items]
    return max((APART * float(max(size[0], size[2], 0.5 * size[1])) for size in wide), default=0.0)


def _moved(item: Item, way: Floats) -> Item:
    """A figure as it stands, elsewhere."""
    world = item.world.copy()
    world[:, :3, 3] += way
    return Item(item.figure, world, item.values)
