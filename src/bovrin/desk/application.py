"""Starting the window."""

from __future__ import annotations

import gc
import importlib
import sys
import traceback
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QBuffer, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from bovrin import cast
from bovrin.desk.commands.files import offered_to_bring
from bovrin.desk.kit.look import apply_theme, load_fonts
from bovrin.desk.kit.taking_down import take_down
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.files.recovery import LeftBehind, left_behind
from bovrin.desk.state.settings import remembered_theme
from bovrin.desk.window import Window
from bovrin.errors import BovrinError
from bovrin.formats.bringing import ENDINGS as BROUGHT
from bovrin.formats.figures.files import check_free
from bovrin.formats.files import write_atomically
from bovrin.formats.project.store import load
from bovrin.log import log
from bovrin.picture.theme import NIGHT, PAPER, THEMES, Theme

LOOK, MOST_LOOKS = 300, 50
"""Milliseconds between looks at whether the window is painted whole, for a picture of it, and how many there are."""
SWITCH = 0.0005
"""Seconds after which work beside the window lets it go on."""
_STANDS: list[QApplication] = []
"""The application, until the program ends: dropped earlier it would take windows down while it walks over them (PyQt's own walk
goes on from what was freed), so it goes after them, whoever forgets it."""


def make_window(path: Path | None) -> Window:
    """A window with a project in it; without one, the demo.

    While it is made nothing becomes garbage, so the collector waits; what was made is then left out of its rounds, which
    shortens them while something is dragged.
    """
    source = cast.DEMO if path is None or path.suffix.lower() in BROUGHT else path
    gc.disable()
    try:
        return Window(Session(load(source), source))
    finally:
        QTimer.singleShot(0, _collect_again)


def _collect_again() -> None:
    gc.freeze()
    gc.enable()


def dressed_application() -> QApplication:
    """The one QApplication, with fonts and theme."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    _STANDS[:] = [app]
    app.setApplicationName("bovrin")
    sys.setswitchinterval(SWITCH)
    load_fonts()
    chosen = remembered_theme()
    apply_theme(app, _system_theme(app) if chosen is None else THEMES[chosen])
    return app


def _system_theme(app: QApplication) -> Theme:
    """The theme that the system prefers."""
    hints = app.styleHints()
    dark = hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark
    return NIGHT if dark else PAPER


def run(path: Path | None, picture: Path | None = None) -> int:
    """Show the window until it is closed, or write a picture of it and leave."""
    app = dressed_application()
    window = make_window(path)
    _tell_faults(window)
    window.show()
    if picture is not None:
        return _take_picture(app, window, picture)
    window.stage.main.first_drawn.connect(lambda: window.session.background.start(_load_the_rest, lambda _done: None))
    window.files.recovery.tell_open()
    window.files.tell_if_open_elsewhere()
    found = left_behind()
    if found:
        offer_all(window, found)
    elif path is None:
        window.open("start")
    else:
        offered_to_bring(window, path)
    code = app.exec()
    take_down(window)  # while the application stands
    return code


def _load_the_rest() -> None:
    """What a start does without and the first pull would wait for, beside the window once the stage is seen."""
    for name in ("scipy.linalg", "bovrin.figure.body.pull"):
        importlib.import_module(name)


def offer_all(window: Window, found: Sequence[LeftBehind]) -> None:
    """Offer the newest work that can be taken up; what cannot is told."""
    for one in found:
        if one.shot is not None:
            offer(window, one)
            return
    window.notice.say(found[0].fault, calm=False)


def offer(window: Window, found: LeftBehind) -> None:
    """Offer work that an earlier run did not save."""
    assert found.shot is not None
    words = f"Bovrin ended before '{found.shot.title}' was saved. The work is still here."
    choices = (("Take it up", lambda: window.files.take_up(found)), ("Let it go", found.forget))
    window.notice.say(words, calm=True, choices=choices)


def _take_picture(app: QApplication, window: Window, picture: Path) -> int:
    check_free(window.session.shot, window.session.document.path, picture)
    taken = QBuffer()

    def take() -> None:
        waited.append(None)
        if (window.stage.main.picture.at_rest and window.pictures.all_there) or len(waited) > MOST_LOOKS:
            looking.stop()
            window.grab().save(taken, "PNG")
            app.quit()

    waited: list[None] = []
    looking = QTimer()
    looking.timeout.connect(take)
    looking.start(LOOK)
    app.exec()
    window.files.recovery.end()
    write_atomically(picture, taken.data().data())
    return 0


def _tell_faults(window: Window) -> None:
    """A fault that nobody foresaw is told once in the window; its details go to the terminal for a report."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if isinstance(error, BovrinError):
            window.session.voice.fail(error)
            return
        log.error("a fault nobody foresaw", exc_info=(kind, error, trace))
        traceback.print_exception(kind, error, trace)
        window.session.voice.failed.emit(
            "Something went wrong inside Bovrin. Your shot is as it was before; save it under a new name to be safe."
        )

    sys.excepthook = hook
