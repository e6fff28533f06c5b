"""What keys do wherever the focus is: Space, Tab, Escape, and which keys the focused widget has before the shortcuts."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QMainWindow,
    QWidget,
)

from bovrin.desk.kit.gesture import cancel_under_way
from bovrin.desk.kit.surface import Surface
from bovrin.desk.panels.figure_map import FigureMap
from bovrin.desk.stage.drags.navigation import SpaceBar
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.flip import Flip

Key = Qt.Key
ENTER = (Key.Key_Return, Key.Key_Enter)
GOES = (QEvent.Type.Hide, QEvent.Type.EnabledChange)
STEPS = (Key.Key_Up, Key.Key_Down, Key.Key_Space)


class Keyboard(QObject):
    """Watches the application's keys for one window. `play`: what Space does; `put_back`: what Escape does on the stage;
    `cover`: what lies over the whole window, if anything does; `home`: the widget that has the keyboard at first, and again
    whenever the one that has it goes away."""

    def __init__(
        self,
        window: QMainWindow,
        session: Session,
        space: SpaceBar,
        play: Callable[[], object],
        put_back: Callable[[], bool],
        cover: Callable[[], QWidget | None],
        home: QWidget,
    ) -> None:
        super().__init__(window)
        self._home = home
        home.setFocus(Qt.FocusReason.OtherFocusReason)
        self._window, self._session, self.space = window, session, space
        self._play, self._put_back, self._cover = play, put_back, cover
        self.flip = Flip(session)
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    def end(self) -> None:
        """The window closes."""
        app = QApplication.instance()
        assert app is not None
        app.removeEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if sip.isdeleted(self._window):  # what is left of it goes now
            return False
        if isinstance(event, QKeyEvent):
            return self._window.isActiveWindow() and self._on_key(event, QApplication.focusWidget())
        if event is not None and event.type() == QEvent.Type.Polish and isinstance(watched, QAbstractButton):
            self._leave_keyboard(watched)
        if event is not None and event.type() in GOES and isinstance(watched, QWidget):
            self._come_home(watched)
        return False

    def _come_home(self, gone: QWidget) -> None:
        """What has the keyboard in this window goes out of sight or cannot be used any more: the stage has it now.

        Otherwise whatever comes next in the order of Tab would, a button mostly, and Space would press that.
        """
        focus = self._window.focusWidget()
        if focus is None or focus is self._home or not (gone is focus or gone.isAncestorOf(focus)):
            return
        if self._window.isAncestorOf(gone) and self._home.isVisible() and not (gone.isVisible() and gone.isEnabled()):
            self._home.setFocus(Qt.FocusReason.OtherFocusReason)

    def _leave_keyboard(self, button: QAbstractButton) -> None:
        """A click on a button of the desk leaves the keyboard where it is; Tab and F6 take it there."""
        if self._window.isAncestorOf(button) and button.focusPolicy() & Qt.FocusPolicy.ClickFocus:
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def _on_key(self, event: QKeyEvent, focus: QWidget | None) -> bool:
        """Whether a key was dealt with here."""
        cover = self._cover()
        if cover is not None:
            return _kept_from_shortcuts(event) if cover.isAncestorOf(focus) or focus is cover else False
        if isinstance(focus, QLineEdit):
            return False
        if event.type() == QEvent.Type.ShortcutOverride and _wants(focus, event.key()):
            event.accept()
            return True
        if isinstance(focus, QAbstractButton) and event.key() in (Key.Key_Space, *ENTER):
            return self._on_button(event, focus)
        if event.key() in (Key.Key_Tab, Key.Key_Backtab) and self._flips(focus):
            return self._on_flip(event)
        if event.key() == Key.Key_Space and not isinstance(focus, QAbstractSpinBox | QComboBox):
            return self._on_space(event)
        if event.type() == QEvent.Type.KeyPress and event.key() == Key.Key_Escape:
            return cancel_under_way() | self._put_back() or self._let_go_of_keys()
        return False

    def _on_button(self, event: QKeyEvent, button: QAbstractButton) -> bool:
        """Space and Return press the button that has the keyboard."""
        if event.type() == QEvent.Type.KeyPress and not event.isAutoRepeat():
            button.animateClick()
        event.accept()
        return True

    def _let_go_of_keys(self) -> bool:
        """Escape with nothing under way: no key is chosen any more. Says whether one was."""
        chosen = bool(self._session.keys)
        self._session.keys.clear()
        return chosen

    def _on_space(self, event: QKeyEvent) -> bool:
        """Space plays, or turns the view while it is held and the mouse drags."""
        space = self.space
        if event.isAutoRepeat():
            return event.type() in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease)
        if event.type() == QEvent.Type.KeyPress:
            if not space.held:
                space.held, space.used = True, False
            return True
        if event.type() == QEvent.Type.KeyRelease:
            if space.held:
                space.held = False
                if not space.used:
                    self._play()
            return True
        return False

    def _flips(self, focus: QWidget | None) -> bool:
        """Whether Tab flips poses: over the drawing surfaces. In panels it goes from field to field."""
        return self.flip.held or isinstance(focus, Surface | None)

    def _on_flip(self, event: QKeyEvent) -> bool:
        if event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            if not event.isAutoRepeat():
                self.flip.start(back=event.key() == Key.Key_Tab)
            event.accept()
        elif event.type() == QEvent.Type.KeyRelease and not event.isAutoRepeat():
            self.flip.end()
        return True


def _wants(focus: QWidget | None, key: int) -> bool:
    """Whether the focused widget has a key before the shortcuts do."""
    if isinstance(focus, FigureMap):
        return focus.wants_key(key)
    return isinstance(focus, QAbstractSpinBox | QComboBox) and key in STEPS


def _kept_from_shortcuts(event: QKeyEvent) -> bool:
    """What lies over the window has all keys but those with Ctrl, which open, find and leave."""
    if event.type() == QEvent.Type.ShortcutOverride and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
        event.accept()
        return True
    return False
