"""The real window, on the demo, driven by mouse and keys."""

from __future__ import annotations

import gc
import logging
import threading
from collections.abc import Callable, Iterator

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QPointF, Qt, QThread, QTimer
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from bovrin import cast
from bovrin.desk.application import dressed_application
from bovrin.desk.kit.widgets import Panel
from bovrin.desk.state.document.session import Session
from bovrin.desk.window import Window
from bovrin.log import log
from bovrin.picture import renderer
from bovrin.shot import Shot

LEFT = Qt.MouseButton.LeftButton
NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    renderer.SAMPLES = 1  # how smooth edges are is tested elsewhere
    return dressed_application()


def _owned(app: QApplication) -> set[object]:
    """Everything of the window's that must be gone when it is: widgets without a parent, timers that run, threads."""
    kinds: dict[type, bool] = {}
    found: set[object] = {*app.topLevelWidgets(), *threading.enumerate()}
    for one in gc.get_objects():
        kind = type(one)
        if kind not in kinds:
            kinds[kind] = issubclass(kind, QTimer | QThread)
        if kinds[kind] and not sip.isdeleted(one) and (one.isActive() if kind is QTimer else one.isRunning()):
            found.add(one)
    return found


def _named(one: object) -> str:
    return f"{one!r} of {one.parent()!r}" if isinstance(one, QObject) else repr(one)


@pytest.fixture(autouse=True)
def watched_room(qapp: QApplication, caplog: pytest.LogCaptureFixture) -> Iterator[None]:
    """A test that leaves widgets, running timers or threads behind, or notes down a warning, fails and names them."""
    board = qapp.clipboard()
    assert board is not None
    board.clear()
    before = _owned(qapp)
    log.propagate = True
    yield
    for _ in range(3):
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        QApplication.processEvents()
    left = [_named(one) for one in _owned(qapp) - before]
    assert not left, f"left behind: {', '.join(left)}"
    noted = [r.getMessage() for r in caplog.records if r.name == "bovrin" and r.levelno >= logging.WARNING]
    assert not noted, f"noted down: {'; '.join(noted)}"


@pytest.fixture
def make(qtbot: QtBot) -> Iterator[Callable[[Shot], Window]]:
    """Opens windows and closes them again without asking."""
    opened: list[Window] = []

    def open_window(shot: Shot) -> Window:
        window = Window(Session(shot, cast.DEMO))
        window.stage.main.picture.frames_ahead = None  # frames are drawn ahead only where a test asks for it
        window.stage.main.first_drawn.disconnect(window.pictures.begin)  # and pictures of cards
        window.resize(1280, 800)
        window.show()
        qtbot.waitExposed(window)
        window.activateWindow()
        qtbot.waitUntil(lambda: window.stage.main.scene.drawable, timeout=20000)
        opened.append(window)
        return window

    yield open_window
    for window in opened:
        window.ask.unsaved = lambda _title: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
        window.close()
        window.deleteLater()
    QApplication.processEvents()


@pytest.fixture
def window(make: Callable[[Shot], Window], demo: Shot) -> Window:
    return make(demo)


def let_go(session: Session) -> None:
    """Ends a session that no window holds, with all that hangs on it."""
    session.end()
    session.deleteLater()


def open_panel(window: Window, name: str) -> Panel:
    """A panel of the right column, opened if it stands as a title."""
    panel = window.right.open(name)
    QApplication.processEvents()
    return panel


class Hand:
    """A mouse and a keyboard."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def key(self, key: Qt.Key, modifiers: Qt.KeyboardModifier = NONE) -> None:
        """Press and let go of a key, where the focus is."""
        target = QApplication.focusWidget() or self.window
        QTest.keyClick(target, key, modifiers)
        QApplication.processEvents()

    def mouse(
        self,
        widget: QWidget,
        kind: QEvent.Type,
        at: QPointF,
        button: Qt.MouseButton,
        held: Qt.MouseButton,
        keys: Qt.KeyboardModifier,
    ) -> None:
        """One mouse event."""
        QApplication.sendEvent(widget, QMouseEvent(kind, at, widget.mapToGlobal(at), button, held, keys))

    def press(
        self, widget: QWidget, at: QPointF, button: Qt.MouseButton = LEFT, keys: Qt.KeyboardModifier = NONE
    ) -> None:
        self.mouse(widget, QEvent.Type.MouseButtonPress, at, button, button, keys)

    def move(self, widget: QWidget, at: QPointF, held: Qt.MouseButton = LEFT, keys: Qt.KeyboardModifier = NONE) -> None:
        self.mouse(widget, QEvent.Type.MouseMove, at, Qt.MouseButton.NoButton, held, keys)

    def release(
        self, widget: QWidget, at: QPointF, button: Qt.MouseButton = LEFT, keys: Qt.KeyboardModifier = NONE
    ) -> None:
        self.mouse(widget, QEvent.Type.MouseButtonRelease, at, button, Qt.MouseButton.NoButton, keys)

    def click(self, widget: QWidget, at: QPointF, keys: Qt.KeyboardModifier = NONE) -> None:
        """Press and let go on one spot."""
        self.press(widget, at, keys=keys)
        self.release(widget, at, keys=keys)
        QApplication.processEvents()

    def double_click(self, widget: QWidget, at: QPointF, to: QPointF | None = None) -> None:
        """A second press right after a click, let go there, or dragged to another place first."""
        self.mouse(widget, QEvent.Type.MouseButtonDblClick, at, LEFT, LEFT, NONE)
        if to is not None:
            for share in (0.25, 0.5, 0.75, 1.0):
                self.move(widget, at + (to - at) * share)
        self.release(widget, at if to is None else to)
        QApplication.processEvents()

    def drag(
        self,
        widget: QWidget,
        start: QPointF,
        end: QPointF,
        keys: Qt.KeyboardModifier = NONE,
        button: Qt.MouseButton = LEFT,
    ) -> None:
        """Press, move in a few steps, let go."""
        self.press(widget, start, button, keys)
        for step in range(1, 5):
            self.move(widget, start + (end - start) * (step / 4), button, keys)
        self.release(widget, end, button, keys)
        QApplication.processEvents()


@pytest.fixture
def hand(window: Window) -> Hand:
    return Hand(window)


@pytest.fixture
def quiet(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whoever is asked for a file gives none."""
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: ("", ""))
