"""Contacts dragged, on the wheel and on the shelf: the foot is timed anew, or with Ctrl only marked otherwise."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from bovrin.craft.cycle.footfalls import contacts_retimed, retimed_contact, set_contacts
from bovrin.errors import BovrinError
from bovrin.shot import Cycle, Shot, Stretch

CTRL = Qt.KeyboardModifier.ControlModifier
ENDS = {"start": (1.0, 0.0), "end": (0.0, 1.0), "whole": (1.0, 1.0)}


class ContactMove:
    """One contact of a foot on its way: `shot_at` gives the shot when it was dragged by so many frames. On a new frame that is
    the contact alone, at once; asked again for the same, the motion that goes with it."""

    def __init__(self, shot: Shot, figure: str, foot: str, span: Stretch, what: str, spans: list[Stretch]) -> None:
        self._shot, self._figure, self._foot, self._what = shot, figure, foot, what
        self._spans = spans
        cycle = shot.cycle(figure)
        self._span = span if cycle is None else in_round(span, cycle, spans)
        self._wanted: tuple[Stretch, bool] | None = None
        self._why = ""
        self._last: tuple[tuple[Stretch, bool], Shot] | None = None

    @property
    def at_rest(self) -> bool:
        """Whether the motion that goes with the contact was given too."""
        return self._wanted is None or (self._last is not None and self._last[0] == self._wanted)

    def shot_at(self, by: float, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        """The shot, and what to say."""
        start, end = self._span
        first, last = ENDS[self._what]
        wanted = (start + first * by, end + last * by)
        marks = bool(modifiers & CTRL)
        made = self._shown((wanted, marks))
        if self._why:
            return made, self._why
        spans = made.contacts(self._figure).get(self._foot, (wanted,))
        shown = min(spans, key=lambda span: abs(span[0] - wanted[0]))
        words = f"{self._foot} is down from {shown[0]:g} to {shown[1]:g}"
        return made, words + (", its motion as it is" if marks else ". Ctrl: only marked so")

    def _shown(self, asked: tuple[Stretch, bool]) -> Shot:
        wanted, marks = asked
        self._why = self._why if self._wanted == asked else ""
        if self._last is not None and self._last[0] == asked:
            self._wanted = asked
            return self._last[1]
        if self._wanted != asked and not marks:
            self._wanted = asked
            own = contacts_retimed(self._shot, self._figure, self._foot, self._span, wanted)
            return self._shot.with_contacts(self._figure, {**self._shot.contacts(self._figure), **own})
        self._wanted = asked
        try:
            self._last = asked, self._made(wanted, marks=marks)
        except BovrinError as error:  # no motion goes with the contact that was shown: let go here, nothing is changed
            self._last, self._why = (asked, self._shot), error.sentence
        return self._last[1]

    def _made(self, wanted: Stretch, *, marks: bool) -> Shot:
        if not marks:
            return retimed_contact(self._shot, self._figure, self._foot, self._span, wanted)
        others = [span for span in self._spans if span != self._span]
        return set_contacts(self._shot, self._figure, self._foot, [*others, wanted])


def in_round(span: Stretch, cycle: Cycle, spans: list[Stretch]) -> Stretch:
    """The contact of a round of which one over the range is a repetition."""
    folded = cycle.folded(span[0])
    return min(spans, key=lambda own: abs((own[0] - folded + cycle.length / 2) % cycle.length - cycle.length / 2))
