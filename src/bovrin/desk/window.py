"""The window: everything put together, and what needs a person's answer."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QEvent, QObject, QSettings, QStandardPaths, Qt
from PyQt6.QtGui import QCloseEvent, QKeyEvent, QKeySequence, QResizeEvent, QShortcut, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from bovrin.desk.bottom import Bottom
from bovrin.desk.cast_panel import CastPanel
from bovrin.desk.commands import BY_ID, COMMANDS, tooltip
from bovrin.desk.finder import Finder, KeysPage
from bovrin.desk.flip import Flip
from bovrin.desk.front_glass import FrontGlass, StageArea
from bovrin.desk.look import Look, apply_theme
from bovrin.desk.notice import Notice
from bovrin.desk.playback import Player
from bovrin.desk.recent import remember, remembered
from bovrin.desk.recovery import Recovery
from bovrin.desk.right_column import RightColumn
from bovrin.desk.session import Session
from bovrin.desk.shot_files import ShotFiles
from bovrin.desk.stage import Stage
from bovrin.desk.start_page import StartPage
from bovrin.desk.strip import PoseStrip
from bovrin.desk.surface import Surface
from bovrin.desk.time_popover import TimePopover
from bovrin.desk.topbar import TopBar
from bovrin.desk.waiting import wait_for_the_rest
from bovrin.desk.widgets import Pills, Toggles, muted
from bovrin.picture.theme import NIGHT, PAPER, THEMES
from bovrin.picture.view import VIEWS

if TYPE_CHECKING:
    from bovrin.desk.curve_desk import CurveDesk
    from bovrin.desk.start_page import StartPage


def settings() -> QSettings:
    """Remembered sizes and the theme."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericConfigLocation)
    return QSettings(f"{folder}/bovrin/window.ini", QSettings.Format.IniFormat)


class Window(ShotFiles):
    """One session, shown."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session: Session = session
        self.player: Player = Player(session)
        self.recovery = Recovery(session)
        self.flip = Flip(session)
        self.finder: Finder | None = None
        self.time: TimePopover | None = None
        self.start: StartPage | None = None
        self.setWindowTitle("Bovrin")
        self.resize(1280, 800)
        self._build()
        self._add_shortcuts()
        session.told.connect(lambda words: self.notice.say(words, calm=True))
        session.failed.connect(lambda words: self.notice.say(words, calm=False))
        session.offered.connect(lambda words, button, run: self.notice.say(words, calm=True, choices=((button, run),)))
        session.hint_changed.connect(self.hint.setText)
        session.file_changed.connect(self._on_file_changed)
        session.file_changed.connect(lambda: remember(settings(), session.path))
        session.undo_stack.indexChanged.connect(self._on_file_changed)
        self.player.changed.connect(self._on_file_changed)
        self._on_file_changed()
        self._restore()
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    @property
    def curve_desk(self) -> CurveDesk:
        """The curve desk, made when it is first needed."""
        return self.bottom.curves

    # -- layout -------------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        session = self.session
        self.stage = Stage(session)
        self.notice = Notice(self.stage)
        self.cast_panel = CastPanel(session)
        self.cast_panel.map.run = self.run
        self.bottom: Bottom = Bottom(session, self.player)
        cards = self.bottom.strip.pictures
        cards.held = True
        self.stage.first_drawn.connect(lambda: setattr(cards, "held", False))
        self.right: RightColumn = RightColumn(session, cards, self.run)
        self.glass: FrontGlass = FrontGlass(session, self.stage)
        self.strip: PoseStrip = self.bottom.strip
        self.strip.run = self.run
        self.bottom.run = self.run
        self.stage_area = StageArea(self.stage, self.glass)
        self._add_stage_pills()
        self.topbar: TopBar = TopBar(self)
        self.upper = QSplitter(Qt.Orientation.Horizontal)
        for widget, width in ((self.cast_panel, 180), (self.stage_area, 780), (self.right, 292)):
            self.upper.addWidget(widget)
            widget.setMinimumWidth(min(width, 320) if widget is self.stage_area else min(width, 150))
        self.upper.setSizes([180, 780, 292])
        self.upper.setStretchFactor(1, 1)
        self.halves = QSplitter(Qt.Orientation.Vertical)
        self.halves.addWidget(self.upper)
        self.halves.addWidget(self.bottom)
        self.halves.setStretchFactor(0, 1)
        self.halves.setSizes([412, 312])
        for splitter in (self.upper, self.halves):
            splitter.setHandleWidth(8)
            splitter.setChildrenCollapsible(False)
        central = QWidget()
        column = QVBoxLayout(central)
        column.setContentsMargins(8, 0, 8, 0)
        column.setSpacing(0)
        column.addWidget(self.topbar)
        column.addWidget(self.halves, 1)
        column.addWidget(self._status_line())
        self.setCentralWidget(central)

    def _add_stage_pills(self) -> None:
        row = QWidget(self.stage_area)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 10, 12, 0)
        self.views = Pills(
            [name.capitalize() for name in VIEWS],
            lambda w: self.run(f"view.{w.lower()}"),
            [tooltip(f"view.{n}") for n in VIEWS],
        )
        line.addWidget(self.views, 1)
        toggles = {
            "Light table": "view.light_table",
            "Front glass": "view.glass",
            "Joints": "show.joints",
            "As stepped": "motion.look_stepped",
        }
        self.looks = Toggles(toggles, self.run, tooltip)
        line.addWidget(self.looks)
        self.stage_pills = row
        self.stage.view_changed.connect(self._on_view_changed)
        self.session.look_changed.connect(self._on_view_changed)
        self._on_view_changed()

    def _status_line(self) -> QWidget:
        line = QWidget()
        line.setFixedHeight(24)
        row = QHBoxLayout(line)
        row.setContentsMargins(8, 0, 8, 2)
        self.hint = muted()
        self.hint.setObjectName("Hint")
        row.addWidget(self.hint, 1)
        self.state = QPushButton()
        self.state.setObjectName("State")
        self.state.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.state.setToolTip(tooltip("time.settings"))
        self.state.clicked.connect(lambda: self.run("time.settings"))
        row.addWidget(self.state)
        return line

    def _on_view_changed(self) -> None:
        name = next((n for n, v in VIEWS.items() if v == self.stage.view), "")
        self.views.show_chosen(name.capitalize())
        self.looks.show_on("As stepped", on=self.session.look_stepped)
        self.looks.show_on("Light table", on=self.session.light_table.on)
        self.looks.show_on("Joints", on=self.session.showing.joints)
        self.looks.show_on("Front glass", on=self.glass.isVisible())
        self.stage_pills.setVisible(not self.session.clean)
        self.stage_pills.raise_()

    def _on_file_changed(self, _index: int = 0) -> None:
        saved = "saved" if self.session.undo_stack.isClean() else "not saved · recovery on"
        how = "second range" if self.player.second else self.player.mode
        rate = f"{self.session.shot.frame_rate:g} fps · {how}"
        if self.session.playing or self.player.shown:
            rate += f" · {self.player.dropped} dropped"
        self.state.setText(f"{saved} · {rate}")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.stage_pills.setFixedWidth(self.stage_area.width())
        if self.start is not None:
            self.start.cover()
        if self.notice.isVisible():
            self.notice.place()

    def see_range(self) -> None:
        """Fit the strip to the shot's range, with a little air."""
        shot = self.session.shot
        self.bottom.scale.show_range(shot.first, shot.last + 1)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.bottom.scale.set_width(self.strip.width())
        self.see_range()
        self.stage_pills.setFixedWidth(self.stage_area.width())

    # -- commands -----------------------------------------------------------------------------------------------------

    def _add_shortcuts(self) -> None:
        for command in COMMANDS:
            if command.key and command.key != "Space":
                shortcut = QShortcut(QKeySequence(command.key), self)
                shortcut.activated.connect(lambda c=command.id: self.run(c))
        also = QShortcut(QKeySequence("="), self)
        also.activated.connect(lambda: self.run("pose.longer"))

    def run(self, command_id: str) -> None:
        """Do a command, if it applies now."""
        command = BY_ID[command_id]
        if command.applies(self.session):
            command.run(self)
        else:
            self.session.tell(f"'{command.words}' does not apply now.")

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Space plays, or turns the view while it is held and the mouse drags. Escape ends a drag wherever the focus is."""
        if (
            isinstance(event, QKeyEvent)
            and self.isActiveWindow()
            and not isinstance(QApplication.focusWidget(), QLineEdit)
        ):
            if event.type() == QEvent.Type.ShortcutOverride and self.cast_panel.map.hasFocus():
                if self.cast_panel.map.wants_key(event.key()):
                    event.accept()
                    return True
            elif event.type() == QEvent.Type.ShortcutOverride and isinstance(
                QApplication.focusWidget(), QAbstractSpinBox
            ):
                if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Space):
                    event.accept()
                    return True
            elif event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab) and self._flips():
                return self._on_flip(event)
            elif event.key() == Qt.Key.Key_Space and not isinstance(QApplication.focusWidget(), QAbstractSpinBox):
                return self._on_space(event)
            elif event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:
                places = (self.stage, self.glass, self.strip, self.right.poses.cards, *self.bottom.surfaces())
                return any(place.cancel_drag() for place in places) or self._let_go_of_keys()
        return super().eventFilter(watched, event)

    def _let_go_of_keys(self) -> bool:
        """Escape with nothing under way: no key is chosen any more. Says whether one was."""
        chosen = bool(self.session.keys)
        self.session.keys.clear()
        return chosen

    def _on_space(self, event: QKeyEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and not event.isAutoRepeat():
            if not self.stage.space_held:
                self.stage.space_held, self.stage.space_used = True, False
            return True
        if event.type() == QEvent.Type.KeyRelease and not event.isAutoRepeat():
            if self.stage.space_held:
                self.stage.space_held = False
                if not self.stage.space_used:
                    self.run("time.play")
            return True
        return event.type() in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease)

    def _flips(self) -> bool:
        """Whether Tab flips poses: over the drawing surfaces. In panels it goes from field to field."""
        return self.flip.held or isinstance(QApplication.focusWidget(), Surface | None)

    def _on_flip(self, event: QKeyEvent) -> bool:
        if event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            if not event.isAutoRepeat():
                self.flip.start(back=event.key() == Qt.Key.Key_Tab)
            event.accept()
        elif event.type() == QEvent.Type.KeyRelease and not event.isAutoRepeat():
            self.flip.end()
        return True

    def changeEvent(self, event: QEvent | None) -> None:
        """A key let go over another window is never heard of here."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.flip.end()

    def open_start(self) -> None:
        """Show the start page."""
        from bovrin.desk.start_page import StartPage  # noqa: PLC0415 - kept out of the window's start

        if self.start is None:
            self.start = StartPage(self, remembered(settings()))

    def open_finder(self) -> None:
        """Show the command finder."""
        if self.finder is None:
            self.finder = Finder(self)
        self.finder.open_under(self.topbar.find_button)

    def open_time(self) -> None:
        """Show range and speed."""
        if self.time is None:
            self.time = TimePopover(self.session, self.player, self)
        self.time.open_over(self.state)

    def held(self) -> float:
        """The frame of the card that is held now."""
        return self.session.card_poses.held_at(self.session.frame) or self.session.frame

    def open_keys(self) -> None:
        """Show the page of keys."""
        page = KeysPage(self)
        page.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        page.show()

    def change_theme(self) -> None:
        """Paper to Night and back."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, NIGHT if Look.theme is PAPER else PAPER)
        settings().setValue("theme", Look.theme.name)
        self.topbar.refresh_signs()
        self.bottom.refresh_signs()
        self.session.look_changed.emit()

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
        folded = kept.value("folded")
        if isinstance(folded, str):
            self.right.fold(folded)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if not self.may_leave():
            event.ignore()
            return
        self.player.stop()
        self.strip.holds.wait()
        wait_for_the_rest()
        kept = settings()
        kept.setValue("geometry", self.saveGeometry())
        kept.setValue("upper", self.upper.saveState())
        kept.setValue("rows", self.halves.saveState())
        kept.setValue("folded", self.right.folded())
        kept.sync()
        self.recovery.end()
        self.session.end()
        app = QApplication.instance()
        assert app is not None
        app.removeEventFilter(self)
        event.accept()


def remembered_theme() -> str:
    """The theme of last time."""
    name = settings().value("theme")
    return name if isinstance(name, str) and name in THEMES else PAPER.name
