"""How the shot is looked at. Nothing here changes the shot, or is saved with it."""

from __future__ import annotations

from dataclasses import replace

from bovrin.desk.state.choosing.keying import Place
from bovrin.desk.state.looking.arcs import Arcs
from bovrin.desk.state.looking.compared import Compared
from bovrin.desk.state.looking.light_table import LightTable
from bovrin.desk.state.pencil import Pencil
from bovrin.frozen import frozen_equal
from bovrin.measure.proof import Note
from bovrin.shot import Figure

AXES = ("view", "world", "parent", "own")
"""What a handle moves and turns along."""


@frozen_equal
class Looking:
    """clean: handles and words are hidden; follow: the chosen figure is kept in view while it travels; stepped: all is seen
    as if it held; joints: seen through the mesh; balance: where the chosen figure's weight is.

    hidden: figures by name; hidden_parts by figure and part; alone: the only parts that are seen, and whose; traces shown,
    by figure and name. note: the one of the proof that is picked. compared: another take that is seen as well.
    axes: what handles go along; pivot_for_all: chosen controls
    turn about one point; borrowed: a place (metres) that this choice turns about instead.
    """

    clean: bool = False
    follow: bool = False
    stepped: bool = False
    joints: bool = False
    balance: bool = False
    light_table: LightTable = LightTable()
    arcs: Arcs = Arcs()
    compared: Compared | None = None
    note: Note | None = None
    pencil: Pencil = Pencil()
    hidden: frozenset[str] = frozenset()
    hidden_parts: frozenset[Place] = frozenset()
    alone: tuple[str, frozenset[str]] | None = None
    traces: frozenset[Place] = frozenset()
    axes: str = AXES[0]
    pivot_for_all: bool = False
    borrowed: tuple[float, float, float] | None = None

    def for_another_shot(self) -> Looking:
        """What stays when another document comes: the light table, arcs, joints, balance, axes and the pencil."""
        return Looking(
            joints=self.joints,
            balance=self.balance,
            light_table=self.light_table,
            arcs=replace(self.arcs, carrier=""),
            axes=self.axes,
            pencil=replace(self.pencil, on=False),
            pivot_for_all=self.pivot_for_all,
        )

    def everything(self) -> Looking:
        """Nothing is hidden or alone any more."""
        return replace(self, hidden=frozenset(), hidden_parts=frozenset(), alone=None)

    def seen_parts(self, figure: Figure) -> frozenset[int] | None:
        """The parts of a figure that are seen; None: all."""
        names = [part.name for part in figure.rig.parts]
        if self.alone is not None and self.alone[0] == figure.name:
            return frozenset(i for i, name in enumerate(names) if name in self.alone[1])
        gone = {i for i, name in enumerate(names) if (figure.name, name) in self.hidden_parts}
        return frozenset(range(len(names))) - gone if gone else None

    def shows(self, figure: Figure) -> bool:
        """Whether anything of a figure is seen."""
        return figure.name not in self.hidden and (self.alone is None or self.alone[0] == figure.name)
