"""The window: everything put together. It is the port through which commands reach the desk."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QEvent, QMimeData, QPoint, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QResizeEvent, QShortcut, QShowEvent
from PyQt6.QtWidgets import QApplication, QMainWindow, QMenu, QSplitter, QVBoxLayout, QWidget

from bovrin.desk.bottom import Bottom
from bovrin.desk.coming_back import ComingBack
from bovrin.desk.commands.cast import dropped_as, take_dropped
from bovrin.desk.commands.files import may_leave
from bovrin.desk.keyboard import Keyboard
from bovrin.desk.kit.asking import Asking
from bovrin.desk.kit.menus import popup
from bovrin.desk.kit.notice import Notice
from bovrin.desk.kit.taking_down import ends_whole, take_down
from bovrin.desk.kit.waiting import Waiting
from bovrin.desk.opening import Opening
from bovrin.desk.panels.cast_panel import CastPanel
from bovrin.desk.panels.cycles.cycle_panel import CyclePanel
from bovrin.desk.passes.registry import on_desk
from bovrin.desk.right_column import RightColumn
from bovrin.desk.stage.drags.navigation import SpaceBar
from bovrin.desk.stage.front_glass import StageArea
from bovrin.desk.stage_pills import StagePills
from bovrin.desk.state.book import Book
from bovrin.desk.state.choosing.favours import Favours
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.files.files import Files
from bovrin.desk.state.files.recent import remember
from bovrin.desk.state.files.waiting import WaitingChanges
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.state.looking.proofread import Proofread
from bovrin.desk.state.player import Player
from bovrin.desk.state.settings import settings
from bovrin.desk.status_line import StatusLine
from bovrin.desk.table import BY_ID, SECOND_KEYS, TABLE, changes_by_letter
from bovrin.desk.topbar import TopBar
from bovrin.errors import BovrinError
from bovrin.shot import Figure

if TYPE_CHECKING:
    from bovrin.desk.curves.area import CurveArea
    from bovrin.desk.strip.strip import PoseStrip

SMALLEST = 1000, 640
WIDTHS, HEIGHTS = [180, 780, 292], [412, 312]


class Window(QMainWindow):
    """One session, shown."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._gone = False
        self.session = session
        session.setParent(self)
        self.ask, self.waiting = Asking(self), Waiting(self, session.background)
        self.player = Player(session)
        self.files = Files(session, self.waiting)
        self.book, self.favours, self.pictures = Book(session.voice.tell), Favours(session), CardPictures(session)
        self.proofread = Proofread(session, self.waiting)
        self._waiting_changes = WaitingChanges(session)
        self._build()
        self._add_shortcuts()
        self.opening = Opening(self, self, self.topbar, self.status.time, self.stage)
        self.keyboard = Keyboard(
            self,
            session,
            self.space,
            lambda: self.run("time.play"),
            self.stage.cancel_drag,
            lambda: self.opening.start,
            self.stage.main,
        )
        self._connect()
        self._restore()
        self._coming_back = ComingBack(session, self.files, self.stage, self.bottom, self.player)
        self._was_shown = False
        ends_whole(self)

    @property
    def curves(self) -> CurveArea:
        """The curves, made when they are first needed."""
        return self.bottom.curves

    @property
    def strip(self) -> PoseStrip:
        """The pose strip."""
        return self.bottom.strip

    # -- layout -------------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        session = self.session
        self.resize(1280, 800)
        self.setMinimumSize(*SMALLEST)
        self.setAcceptDrops(True)
        self.space = SpaceBar()
        self.stage = StageArea(session, self.space)
        self.notice = Notice(self.stage.main)
        self.pills = StagePills(session, self.stage, self.run)
        self.cast_panel = CastPanel(session, self.run)
        self.bottom = Bottom(session, self.player, self.pictures, self.run)
        self.right = RightColumn(self)
        self.topbar = TopBar(self)
        self.status = StatusLine(session, self.player, self.run)
        self.upper = QSplitter(Qt.Orientation.Horizontal)
        for widget, width in zip((self.cast_panel, self.stage, self.right), WIDTHS, strict=True):
            self.upper.addWidget(widget)
            widget.setMinimumWidth(min(width, 320) if widget is self.stage else min(width, 150))
        self.upper.setSizes(WIDTHS)
        self.upper.setStretchFactor(1, 1)
        self.halves = QSplitter(Qt.Orientation.Vertical)
        self.halves.addWidget(self.upper)
        self.halves.addWidget(self.bottom)
        self.halves.setStretchFactor(0, 1)
        self.halves.setSizes(HEIGHTS)
        for splitter in (self.upper, self.halves):
            splitter.setHandleWidth(8)
            splitter.setChildrenCollapsible(False)
        central = QWidget()
        column = QVBoxLayout(central)
        column.setContentsMargins(8, 0, 8, 0)
        column.setSpacing(0)
        column.addWidget(self.topbar)
        column.addWidget(self.halves, 1)
        column.addWidget(self.status)
        self.setCentralWidget(central)

    def _connect(self) -> None:
        session, voice, document = self.session, self.session.voice, self.session.document
        voice.told.connect(lambda words: self.notice.say(words, calm=True))
        voice.hushed.connect(self.notice.hide)
        voice.failed.connect(lambda words: self.notice.say(words, calm=False))
        voice.offered.connect(lambda words, choices: self.notice.say(words, calm=True, choices=choices))
        self.files.opened.connect(self._on_opened)
        self.proofread.asked.connect(lambda: self.right.open("proof"))
        session.going.form_asked.connect(self._on_cycle_asked)
        session.going.laid_out.connect(self.strip.see_range)
        document.file_changed.connect(lambda: remember(settings(), document.path))
        for signal in (document.file_changed, document.undo_stack.indexChanged):
            signal.connect(self._on_file_changed)
        session.pass_changed.connect(self._on_pass_changed)
        self.pictures.paused = True
        self.stage.main.first_drawn.connect(self.pictures.begin)
        self.stage.main.picture.frames_ahead = self.player.frames
        self._on_file_changed()
        self._on_pass_changed()

    def _on_file_changed(self, _index: int = 0) -> None:
        self.setWindowTitle(f"{self.session.shot.title}[*] — Bovrin")
        self.setWindowModified(not self.session.document.undo_stack.isClean())

    def _on_opened(self) -> None:
        self.player.stop()
        self.strip.see_range()

    def _on_cycle_asked(self) -> None:
        panel = self.right.open("cycle")
        assert isinstance(panel, CyclePanel)
        panel.ask()

    def _on_pass_changed(self) -> None:
        """What the pass lays over the stage."""
        overlays = on_desk(self.session.pass_).overlays
        for stage in (self.stage.main, self.stage.glass.stage):
            stage.lay_over(overlays)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.opening.cover()
        if self.notice.isVisible():
            self.notice.place()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.bottom.scale.set_width(self.strip.width())
        self.strip.see_range()
        if not self._was_shown:
            self._was_shown = True
            self._coming_back.restore()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Files that something can be made of are taken."""
        if event is not None and any(map(dropped_as, _files_of(event.mimeData()))):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        paths = [path for path in _files_of(event.mimeData()) if dropped_as(path)]
        event.acceptProposedAction()
        QTimer.singleShot(0, lambda: take_dropped(self, paths))  # who dropped them does not wait for what is asked here

    def changeEvent(self, event: QEvent | None) -> None:
        """A key let go over another window is never heard of here."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.keyboard.flip.end()

    # -- commands -----------------------------------------------------------------------------------------------------

    def _add_shortcuts(self) -> None:
        keys = [(command.key, command.id) for command in TABLE if command.key and command.key != "Space"]
        for key, command_id in (*keys, *SECOND_KEYS.items()):
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.activated.connect(lambda c=command_id: self._run_by_key(c))

    def _run_by_key(self, command: str) -> None:
        """Do a command whose key was pressed. A letter that changes the shot says what it did; while it plays it does nothing."""
        session = self.session
        if not changes_by_letter(BY_ID[command]):
            self.run(command)
            return
        if session.playing:
            session.voice.tell(f"It plays: stop it (Space) before '{BY_ID[command].words}'.")
            return
        heard: list[object] = []
        signals = (session.voice.told, session.voice.failed, session.voice.offered)
        for signal in signals:
            signal.connect(heard.append)
        stack, step = session.document.undo_stack, session.document.undo_stack.index()
        self.run(command)
        for signal in signals:
            signal.disconnect(heard.append)
        if stack.index() > step and not heard:
            session.voice.tell(f"{stack.undoText()} ({BY_ID[command].key}). Undo takes it back.")

    def run(self, command: str) -> None:
        """Do a command, if it applies now. What goes wrong is told here."""
        wanted = BY_ID[command]
        if not wanted.applies(self.session):
            self.session.voice.tell(f"'{wanted.words}' does not apply now.")
            return
        try:
            wanted.run(self)
        except BovrinError as error:
            self.session.preview(None)
            self.session.voice.fail(error)

    def open(self, sheet: str) -> None:
        """Open a sheet or a popover by its name."""
        self.opening.open(sheet)

    def how_large(self, figure: Figure) -> float | None:
        """Ask how many metres a unit of a figure's file is; None: it is left."""
        return self.opening.how_large(figure)

    def next_panel(self) -> None:
        """Take the keyboard to the next panel."""
        panels: list[tuple[QWidget, QWidget]] = [(p, p.fold) for p in self.right.open_panels() if p.fold is not None]
        curves = [self.curves.desk] if self.bottom.made_curves is not None and self.curves.isVisible() else []
        left, below = (self.stage.main, self.cast_panel.list, self.cast_panel.map), (self.strip, *curves)
        places = [*((w, w) for w in left), *panels, *((w, w) for w in below)]
        focus = QApplication.focusWidget()
        here = next((n for n, (place, _) in enumerate(places) if place is focus or place.isAncestorOf(focus)), -1)
        places[(here + 1) % len(places)][1].setFocus(Qt.FocusReason.TabFocusReason)

    def show_menu(self, menu: QMenu) -> None:
        """Show a menu of the cast under the cast, or under the button of the start page that asked for it."""
        page = self.opening.start
        button = None if page is None else page.focusWidget()
        under = self.cast_panel.list if button is None else button
        popup(menu, under.mapToGlobal(QPoint(8, under.height())), self)

    # -- coming and going ---------------------------------------------------------------------------------------------

    def _restore(self) -> None:
        kept = settings()
        for name, restore in (
            ("geometry", self.restoreGeometry),
            ("upper", self.upper.restoreState),
            ("rows", self.halves.restoreState),
        ):
            state = kept.value(name)
            if isinstance(state, QByteArray):
                restore(state)
        panels = kept.value("panels")
        if isinstance(panels, str):
            self.right.restore(panels)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if self.waiting.words:  # what is written is written whole; then this comes again
            event.ignore()
            self.waiting.afterwards(self.close)
            self.session.voice.tell(f"{self.waiting.words} Bovrin closes when that is done.")
            return
        if not may_leave(self):
            event.ignore()
            return
        self.player.stop()
        self._coming_back.keep()
        kept = settings()
        kept.setValue("geometry", self.saveGeometry())
        kept.setValue("upper", self.upper.saveState())
        kept.setValue("rows", self.halves.saveState())
        kept.setValue("panels", self.right.kept())
        kept.sync()
        self.files.recovery.end()
        self.let_go()
        event.accept()

    def let_go(self) -> None:
        """Nothing goes on any more. Work that was not saved stays with what is kept for recovery."""
        if not self._gone:
            self._gone = True
            self.player.stop()
            self.session.end()
            self.keyboard.end()

    def __del__(self) -> None:
        take_down(self)


def _files_of(data: QMimeData | None) -> list[Path]:
    """The files of this machine that something holds."""
    return [] if data is None else [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
