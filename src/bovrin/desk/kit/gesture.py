"""One gesture of the pointer: pressed, moved past a threshold, then previewed as it goes, and committed or put back."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Generic, NamedTuple, Protocol, TypeVar

from PyQt6.QtCore import QPointF, Qt, QTimer

from bovrin.errors import BovrinError

Value = TypeVar("Value")
Taken = TypeVar("Taken", contravariant=True)
Modifiers = Qt.KeyboardModifier

THRESHOLD = 4.0
"""Pixels a press may wander before it is a drag."""
SLICE, LAST_SLICES = 16, 30
"""Milliseconds after which a drag that is not at rest goes on by itself, and how often it does so at most when it is let go."""


class Drag(Generic[Value]):
    """One drag, from press to release. `words` names the undo step; `frame`: the frame it edits, if it edits one."""

    words: str = ""
    frame: float | None = None

    @property
    def at_rest(self) -> bool:
        """Whether it has got to where the pointer is; if not, a step at the same place goes on."""
        return True

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Value | None, str]:
        """What the pointer's place gives (None: nothing to preview), and what to say. BovrinError when it gives nothing."""
        raise NotImplementedError

    def done(self) -> None:
        """It was let go, and what it gave was taken over."""

    def put_back(self) -> None:
        """It was given up."""


class Target(Protocol[Taken]):
    """What gestures work on."""

    def preview(self, value: Taken | None) -> object:
        """Show a provisional value; None: put everything back."""

    def commit(self, words: str, value: Taken) -> bool:
        """Take a value over; says whether anything changed."""

    def hint(self, words: str) -> object:
        """Say how far it has gone."""

    def fail(self, error: BovrinError) -> object:
        """Say what went wrong."""


def _no_click() -> None:
    """A press that means nothing by itself."""


class Gesture(Generic[Value]):
    """One press at a time. Below the threshold it is a click, beyond it a drag."""

    current: ClassVar[Gesture | None] = None  # type: ignore[type-arg]
    """The gesture under way: there is one pointer."""

    def __init__(self, target: Target[Value], threshold: float = THRESHOLD) -> None:
        self._target, self._threshold = target, threshold
        self._click: Callable[[], object] = _no_click
        self.frame: float | None = None
        """The frame that the drag edits, or the last one edited."""
        self._reset()

    def _reset(self) -> None:
        self.drag: Drag[Value] | None = None
        self.pressed: QPointF | None = None
        self.moved = False
        self._nearest = self._threshold
        self._value: Value | None = None
        self._last: tuple[QPointF, Modifiers] | None = None
        self._fault: BovrinError | None = None
        if Gesture.current is self:
            Gesture.current = None

    @property
    def active(self) -> bool:
        """Whether the pointer is down."""
        return self.pressed is not None

    def press(
        self,
        at: QPointF,
        modifiers: Modifiers = Modifiers.NoModifier,
        drag: Drag[Value] | None = None,
        click: Callable[[], object] = _no_click,
    ) -> None:
        """The pointer goes down; without a threshold the drag begins at once."""
        self._reset()
        self.pressed, self.drag, self._click = at, drag, click
        self.frame = None if drag is None else drag.frame
        Gesture.current = self
        if self._threshold <= 0:
            self.move(at, modifiers)

    def second_click(self, does: Callable[[], object]) -> None:
        """The second press in a row: let go without a move it does this; moved, it is dragged as ever. So it has a threshold,
        also where drags begin at once."""
        if self.active:
            self._click, self.moved, self._nearest = does, False, max(self._threshold, THRESHOLD)
        else:
            does()

    def move(self, at: QPointF, modifiers: Modifiers) -> bool:
        """The pointer has moved; says whether a drag is under way."""
        if self.pressed is None:
            return False
        if not self.moved and (at - self.pressed).manhattanLength() < self._nearest:
            return False
        self.moved = True
        if self.drag is not None:
            self._step(self.drag, at, modifiers)
            self._go_on_soon()
        return True

    def _go_on_soon(self) -> None:
        """What a step did not get done goes on once the window has time, as long as the pointer rests."""
        if self.drag is None or self.drag.at_rest:
            return
        drag, last = self.drag, self._last

        def go_on() -> None:
            if self.drag is drag and self._last is last and last is not None:
                self._step(drag, *last)
                if self._fault is None:
                    self._go_on_soon()

        QTimer.singleShot(SLICE, go_on)

    def _step(self, drag: Drag[Value], at: QPointF, modifiers: Modifiers) -> None:
        """One step; where it gives nothing, what it gave before stays and the reason is said."""
        self._last = (at, modifiers)
        try:
            value, words = drag.step(at, modifiers)
        except BovrinError as error:
            self._fault = error
            self._target.hint(error.sentence)
            return
        self._fault = None
        if value is not None:
            self._value = value
            self._target.preview(value)
        self._target.hint(words)

    def release(self) -> None:
        """The pointer goes up: a click, or what the drag gave is taken over."""
        if self.pressed is None:
            return
        self._go_to_rest()
        drag, value, fault, moved, click = self.drag, self._value, self._fault, self.moved, self._click
        self._reset()
        if not moved:
            click()
        elif drag is None:
            return
        elif value is None:
            if fault is not None:
                self._target.fail(fault)
            drag.done()
        elif self._target.commit(drag.words, value):
            drag.done()

    def _go_to_rest(self) -> None:
        for _ in range(LAST_SLICES):
            if self.drag is None or self._last is None or self.drag.at_rest:
                return
            self._step(self.drag, *self._last)

    def cancel(self) -> bool:
        """Put everything back; says whether a drag was there to be put back."""
        drag = self.drag
        self._reset()
        if drag is None:
            return False
        drag.put_back()
        self._target.preview(None)
        return True


class Press(NamedTuple, Generic[Value]):
    """What comes of a press: a drag, and what it means when it stays a click."""

    drag: Drag[Value] | None = None
    click: Callable[[], object] = _no_click


def cancel_under_way() -> bool:
    """Put back whatever is dragged now; says whether anything was."""
    return Gesture.current is not None and Gesture.current.cancel()
