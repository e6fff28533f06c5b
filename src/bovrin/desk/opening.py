"""Sheets and popovers by the names that commands open them with."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QApplication, QPushButton, QWidget

from bovrin.desk.commands.curves import snap_span
from bovrin.desk.commands.port import Port
from bovrin.desk.kit.look import Look, apply_theme
from bovrin.desk.sheets.finder import Finder
from bovrin.desk.sheets.time_popover import TimePopover
from bovrin.desk.state.files.recent import remembered
from bovrin.desk.state.settings import settings
from bovrin.desk.table import TABLE
from bovrin.desk.topbar import TopBar
from bovrin.errors import BovrinError
from bovrin.picture.theme import NIGHT, PAPER
from bovrin.shot import Figure

if TYPE_CHECKING:
    from bovrin.desk.sheets.drop_popover import DropPopover
    from bovrin.desk.sheets.key_poses_sheet import KeyPosesSheet
    from bovrin.desk.sheets.proof_limits import ProofLimits
    from bovrin.desk.sheets.snap_popover import SnapPopover

# Sheets that are seldom opened are loaded when they are: that keeps them out of the window's start.


class Opening:
    """Opens over a window. What stays open, or is opened often, is kept here."""

    def __init__(self, port: Port, window: QWidget, topbar: TopBar, time_button: QPushButton, stage: QWidget) -> None:
        self._port, self._window, self._topbar = port, window, topbar
        self._time_button, self._stage = time_button, stage
        self.finder: Finder | None = None
        self.time: TimePopover | None = None
        self.start: QWidget | None = None
        self.snap: SnapPopover | None = None
        self.dropped: DropPopover | None = None
        self.key_poses: KeyPosesSheet | None = None
        self.proof_limits: ProofLimits | None = None
        self._sheets: dict[str, Callable[[], object]] = {
            "finder": self._open_finder,
            "hand on": self._open_hand_on,
            "key poses": self._open_key_poses,
            "keys": self._open_keys,
            "proof limits": self._open_proof_limits,
            "set up": self._open_setup,
            "snap": self._open_snap,
            "drop": self._open_drop,
            "start": self._open_start,
            "take name": topbar.take.rename,
            "test drive": self._open_test_drive,
            "theme": self._change_theme,
            "time": self._open_time,
        }

    def open(self, sheet: str) -> None:
        """Open a sheet by its name."""
        self._sheets[sheet]()

    def how_large(self, figure: Figure) -> float | None:
        """Ask how many metres a unit of a figure's file is; None: it is left."""
        from bovrin.desk.sheets.size_sheet import asked_size  # noqa: PLC0415

        return asked_size(figure, self._window)

    def _open_finder(self) -> None:
        if self.finder is None:
            self.finder = Finder(self._port, TABLE, self._window)
        self.finder.open_under(self._topbar.find_button)

    def _open_keys(self) -> None:
        from bovrin.desk.sheets.keys_page import KeysPage  # noqa: PLC0415

        KeysPage(TABLE, self._window).show()

    def _open_time(self) -> None:
        if self.time is None:
            self.time = TimePopover(self._port.session, self._port.player, self._window)
        self.time.open_over(self._time_button)

    def _open_hand_on(self) -> None:
        from bovrin.desk.sheets.hand_on import HandOn  # noqa: PLC0415

        HandOn(self._port.files, self._window).open()

    def _open_setup(self) -> None:
        from bovrin.desk.sheets.flat_setup import FlatSetupSheet  # noqa: PLC0415
        from bovrin.desk.sheets.setup_sheet import SetupSheet  # noqa: PLC0415

        figure = self._port.session.figure
        flat = figure is not None and figure.model.is_flat
        (FlatSetupSheet if flat else SetupSheet)(self._port.session, self._window).open()

    def _open_key_poses(self) -> None:
        from bovrin.desk.sheets.key_poses_sheet import KeyPosesSheet  # noqa: PLC0415

        if self.key_poses is None:
            self.key_poses = KeyPosesSheet(self._port.files, self._stage, self._window)
        self.key_poses.ask()

    def _open_snap(self) -> None:
        from bovrin.desk.sheets.snap_popover import SnapPopover  # noqa: PLC0415

        span = snap_span(self._port.session)
        if span is None:
            return
        if self.snap is None:
            self.snap = SnapPopover(self._port.session, self._window)
        self.snap.ask(span)

    def _open_drop(self) -> None:
        from bovrin.desk.sheets.drop_popover import DropPopover  # noqa: PLC0415

        if self.dropped is None:
            self.dropped = DropPopover(self._port.session, self._window)
        self.dropped.ask()

    def _open_proof_limits(self) -> None:
        from bovrin.desk.sheets.proof_limits import ProofLimits  # noqa: PLC0415

        if self.proof_limits is None:
            self.proof_limits = ProofLimits(self._port.proofread, self._window)
        self.proof_limits.open()

    def _open_test_drive(self) -> None:
        from bovrin.craft.clips.drive import Drive  # noqa: PLC0415
        from bovrin.desk.sheets.driving import TestDrive  # noqa: PLC0415

        session = self._port.session
        try:
            drive = Drive(session.shot, session.figure_name)
        except BovrinError as error:
            session.voice.fail(error)
            return
        TestDrive(session, drive, self._window).open()

    def _open_start(self) -> None:
        from bovrin.desk.sheets.start_page import StartPage  # noqa: PLC0415

        if self.start is None:
            page = StartPage(self._port, remembered(settings()), self._window)
            page.left.connect(self._on_start_left)
            self.start = page

    def _on_start_left(self) -> None:
        self.start = None

    def cover(self) -> None:
        """The window has another size."""
        from bovrin.desk.sheets.start_page import StartPage  # noqa: PLC0415

        if isinstance(self.start, StartPage):
            self.start.cover()

    def _change_theme(self) -> None:
        """Paper to Night and back."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, NIGHT if Look.theme is PAPER else PAPER)
        settings().setValue("theme", Look.theme.name)
        self._port.session.looking_changed.emit()
