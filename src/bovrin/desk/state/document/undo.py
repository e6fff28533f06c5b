"""The undo steps: one shot for another, and as many of them as there is room for."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QUndoCommand, QUndoStack

from bovrin.frozen import frozen
from bovrin.shot import Shot
from bovrin.shot.curve import COLUMN_TYPES, CurveSet

ALWAYS = 200
"""Steps that are kept in any case."""
AT_ONCE = 50
"""Steps that are let go of at once."""
ARRAY = 112
"""Bytes of an array besides its numbers."""

Show = Callable[[Shot, float], object]


@frozen
class Step:
    """What an undo step is made of: words, the shots before and after, the frame it happened on, and its size."""

    words: str
    old: Shot
    new: Shot
    frame: float
    size: int


class SwapShot(QUndoCommand):
    """The one undo step there is. `show` puts a shot on the desk; it is not asked while steps are only put in order."""

    def __init__(self, step: Step, show: Show, steps: UndoSteps) -> None:
        super().__init__(step.words)
        self.step, self._show, self._steps = step, show, steps

    def undo(self) -> None:
        if not self._steps.quiet:
            self._show(self.step.old, self.step.frame)

    def redo(self) -> None:
        if not self._steps.quiet:
            self._show(self.step.new, self.step.frame)


class UndoSteps:
    """A stack of steps that share what did not change; beyond a bound in bytes the oldest are let go of."""

    def __init__(self, parent: QObject, show: Show, bound: int) -> None:
        self.stack = QUndoStack(parent)
        self.bound = bound
        self.quiet = False
        self._show = show

    def push(self, words: str, old: Shot, new: Shot, frame: float) -> None:
        """One step more; it is done at once."""
        self.stack.push(SwapShot(Step(words, old, new, frame, own_size(old, new)), self._show, self))
        if len(self._commands()) > ALWAYS + AT_ONCE and self.size() > self.bound:
            self._let_go()

    def give_room(self, bound: int) -> None:
        """Another bound in bytes, at once."""
        self.bound = bound
        if len(self._commands()) > ALWAYS and self.size() > bound:
            self._let_go()

    def size(self) -> int:
        """Bytes that the steps take up together."""
        return sum(command.step.size for command in self._commands())

    def _commands(self) -> list[SwapShot]:
        found = (self.stack.command(i) for i in range(self.stack.count()))
        return [command for command in found if isinstance(command, SwapShot)]

    def _let_go(self) -> None:
        """The oldest steps leave: as many as bring the rest under the bound, in a round number, never the latest ones."""
        steps = [command.step for command in self._commands()]
        clean, size, gone = self.stack.cleanIndex(), self.size(), 0
        while gone < len(steps) - ALWAYS and (size > self.bound or gone % AT_ONCE):
            size -= steps[gone].size
            gone += 1
        self.quiet = True
        blocked = self.stack.blockSignals(True)
        self.stack.clear()
        if clean == 0 or clean < gone:
            self.stack.resetClean()
        for index, step in enumerate(steps[gone:], gone + 1):
            self.stack.push(SwapShot(step, self._show, self))
            if index == clean:
                self.stack.setClean()
        if clean == gone and gone:
            self.stack.resetClean()
        self.stack.blockSignals(blocked)
        self.quiet = False


def own_size(old: Shot, new: Shot) -> int:
    """Bytes of the curves of a shot that it does not share with the one before."""
    size = 1_000
    for take in new.all_takes:
        before = next((t for t in old.all_takes if t.name == take.name), old.take)
        for name, curves in take.curves.items():
            was = before.curves.get(name)
            if was is not curves:
                size += _unshared(was, curves)
    return size


def _unshared(old: CurveSet | None, new: CurveSet) -> int:
    others = old.curves if old is not None and len(old) == len(new) else (None,) * len(new)
    size = 8 * len(new)
    for was, now in zip(others, new.curves, strict=True):
        if was is not now:
            columns = (
                getattr(now, name) for name in COLUMN_TYPES if getattr(now, name) is not getattr(was, name, None)
            )
            size += 400 + sum(ARRAY + column.nbytes for column in columns)
    return size
