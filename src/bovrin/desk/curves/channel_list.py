"""The list of channels on the left of the curves: which are listed, where, and which of them are drawn."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QWidget

from bovrin.desk.state.choosing.channel_rows import Heading, Row, is_still, rows_of
from bovrin.desk.state.document.session import Session
from bovrin.shot import Rig

ROW, TOP = 17, 24


class ChannelList:
    """Channels of all chosen controls, as they are searched and picked. `fit`: what follows when others are drawn."""

    def __init__(self, session: Session, host: QWidget, fit: Callable[[], object]) -> None:
        self.session, self._host, self._fit = session, host, fit
        self.search = ""
        self.hides_still = False
        self.scrolled = 0.0
        self.picked: set[int] = set()
        self._rig: Rig | None = None

    def rows(self) -> list[Row]:
        """The channels listed: of all chosen controls, that match the search and, when asked, that change."""
        figure = self.session.figure
        if figure is not None and figure.rig is not self._rig:  # channels have other numbers: none is picked any more
            self._rig, self.picked = figure.rig, set()
        rows = rows_of(self.session)
        words = self.search.lower().split()
        if words:
            rows = [r for r in rows if all(w in f"{r.control} {r.words} {r.technical}".lower() for w in words)]
        curves = self.session.curves
        return rows if curves is None or not self.hides_still else [r for r in rows if not is_still(curves[r.channel])]

    def drawn(self) -> list[Row]:
        """The channels whose curves are drawn: all that are listed, or the ones picked in the list."""
        rows = self.rows()
        return [row for row in rows if row.channel in self.picked] or rows

    def lines(self) -> list[Row | Heading]:
        """The list: channels under the names of their controls; one control's name stands above the list."""
        rows = self.rows()
        controls = dict.fromkeys(row.control for row in rows)
        if len(controls) < 2:
            return list(rows)
        found: list[Row | Heading] = []
        for control in controls:
            found += [Heading(control.capitalize()), *(row for row in rows if row.control == control)]
        return found

    def line_at(self, y: float) -> Row | Heading | None:
        """The line of the list at a height."""
        index = int((y - TOP + self.scrolled) // ROW)
        lines = self.lines()
        return lines[index] if y >= TOP and 0 <= index < len(lines) else None

    def line_top(self, index: int) -> float:
        """Where a line of the list begins."""
        return TOP - self.scrolled + index * ROW

    def scroll(self, by: float) -> None:
        """Scroll the list by pixels, as far as it goes."""
        most = max(len(self.lines()) * ROW + TOP - self._host.height() + 4, 0.0)
        self.scrolled = min(max(self.scrolled + by, 0.0), most)
        self._host.update()

    def pick(self, channels: set[int], *, add: bool = False) -> None:
        """See only these channels, add them or take them away; those alone already: all again."""
        self.picked = (self.picked ^ channels) if add else (set() if self.picked == channels else channels)
        self._fit()

    def set_listing(self, *, search: str | None = None, hides_still: bool | None = None) -> None:
        """What the list shows."""
        self.search = self.search if search is None else search
        self.hides_still = self.hides_still if hides_still is None else hides_still
        self.picked &= {row.channel for row in self.rows()}
        self.scroll(0.0)
        self._fit()

    def begin_anew(self) -> None:
        """Other controls are chosen."""
        self.picked = set()
        self.scrolled = 0.0
        self._fit()
