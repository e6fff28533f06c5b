"""The narrow port through which commands reach the desk."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtWidgets import QMenu

from bovrin.desk.kit.asking import Asking
from bovrin.desk.state.book import Book
from bovrin.desk.state.choosing.channel_rows import Row
from bovrin.desk.state.choosing.favours import Favours
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.files.files import Files
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.state.looking.proofread import Proofread
from bovrin.desk.state.player import Player
from bovrin.picture.view import View
from bovrin.shot import Figure


class StageDoor(Protocol):
    """What commands ask of the stage."""

    def fit(self) -> None:
        """See what is chosen, again everything."""

    def look_from(self, view: View) -> None:
        """Look from elsewhere."""

    def see_all(self) -> None:
        """See everything in the cast."""

    def look_at_figure(self, side: str) -> None:
        """See the chosen figure from its own front or side."""

    def ask_place(self, what: str) -> None:
        """Let the next click say where the "pivot", the "spot" of an arc, or the "gaze" is."""

    def toggle_glass(self) -> None:
        """Open or close the front glass."""


class StripDoor(Protocol):
    """What commands ask of the pose strip."""

    def see_range(self) -> None:
        """Fit the strip to the shot's range."""

    def rename_card(self, frame: float) -> None:
        """Type the name of a card in its place."""

    def new_marker(self, frame: float) -> None:
        """Type the words of a new marker in its place."""


class CurvesDoor(Protocol):
    """What commands ask of the curve desk."""

    def in_sight(self) -> bool:
        """Whether curves are seen."""

    def has_keyboard(self) -> bool:
        """Whether keys go to the curves."""

    def under_pointer(self) -> bool:
        """Whether the pointer is over the curves."""

    def fit(self) -> None:
        """Fit the chosen keys, again all curves."""

    def picked_channels(self) -> list[int]:
        """The channels that are picked in the list."""

    def listed_rows(self) -> list[Row]:
        """The channels that are listed."""

    def drawn_rows(self) -> list[Row]:
        """The channels whose curves are drawn."""

    def toggle_still(self) -> None:
        """List only channels that change, or all again."""

    def toggle_one_height(self) -> None:
        """All curves at one height, or each at its own."""

    def toggle_speed(self) -> None:
        """Show or hide the speed strip."""


class Port(Protocol):
    """What commands may use: the state, the rooms' doors, sheets by name, and a way to ask."""

    @property
    def session(self) -> Session: ...
    @property
    def player(self) -> Player: ...
    @property
    def files(self) -> Files: ...
    @property
    def book(self) -> Book: ...
    @property
    def favours(self) -> Favours: ...
    @property
    def pictures(self) -> CardPictures: ...
    @property
    def proofread(self) -> Proofread: ...
    @property
    def ask(self) -> Asking: ...
    @property
    def stage(self) -> StageDoor: ...
    @property
    def strip(self) -> StripDoor: ...
    @property
    def curves(self) -> CurvesDoor: ...

    def run(self, command: str) -> object:
        """Do another command."""

    def open(self, sheet: str) -> object:
        """Open a sheet or a popover by its name."""

    def how_large(self, figure: Figure) -> float | None:
        """Ask how many metres a unit of a figure's file is; None: it is left."""

    def next_panel(self) -> object:
        """Take the keyboard to the next panel."""

    def show_menu(self, menu: QMenu) -> object:
        """Show a menu of the cast."""

    def close(self) -> object:
        """Leave."""
