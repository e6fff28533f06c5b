"""A program of its own: a window opened and closed many times with all that hangs on one, a collection forced between any two
steps, while frames are drawn ahead, shots exchanged, a save and an export under way. Prints megabytes and threads each time."""

from __future__ import annotations

import gc
import os
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QCoreApplication, QEvent, QTimer
from PyQt6.QtWidgets import QApplication, QDialog, QMessageBox

from bovrin import script
from bovrin.desk.application import dressed_application
from bovrin.desk.kit.memory import give_back
from bovrin.desk.sheets.setup_sheet import SetupSheet
from bovrin.desk.state.document.session import Session
from bovrin.desk.window import Window
from bovrin.formats import files


def go_on(app: QApplication, seconds: float) -> None:
    """The window's own loop for a while, and what is deleted later is."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.002)
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def put_away(app: QApplication) -> None:
    """Close every sheet that is open over a window."""
    for sheet in app.topLevelWidgets():
        for dialog in [sheet, *sheet.findChildren(QDialog)]:
            if isinstance(dialog, QDialog):
                dialog.close()


def steps_in(window: Window, app: QApplication, folder: Path, number: int) -> list[Callable[[], object]]:
    """All that is done in one window."""
    return [
        window.show,
        lambda: go_on(app, 0.15),
        lambda: window.run("view.glass"),
        lambda: window.session.go_to(120),
        lambda: window.run("pose.key"),
        lambda: window.stage.main.picture._draw_ahead(),
        lambda: window.run("cycle.drive"),
        lambda: go_on(app, 0.05),
        lambda: put_away(app),
        lambda: SetupSheet(window.session, window).open() if number % 3 == 0 else None,
        lambda: go_on(app, 0.05),
        lambda: put_away(app),
        lambda: window.files.open(folder / "goat.bovrin.json"),
        lambda: go_on(app, 0.05),
        lambda: window.run("pose.key"),
        lambda: window.files.export(folder / "out.glb"),
        lambda: window.run("time.play"),
        lambda: go_on(app, 0.05),
        lambda: QTimer.singleShot(5 * (number % 8), window.close),
        lambda: window.files.save(folder / "other.bovrin.json"),  # asked to close in the middle of it
        lambda: go_on(app, 0.1),
    ]


def round_(app: QApplication, folder: Path, number: int) -> None:
    """One window and all that is done in it."""
    source = folder / f"{('heave', 'across')[number % 2]}.bovrin.json"
    window = Window(Session(script.load(source), source))
    window.ask.unsaved = lambda _title: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    window.resize(1000 + 7 * (number % 9), 760)
    for step in steps_in(window, app, folder, number):
        step()
        gc.collect()
    window.close()
    window.deleteLater()


def main(count: int) -> None:
    """So many windows."""
    app = dressed_application()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for place in ("STATE", "CONFIG", "DATA", "CACHE"):
            os.environ[f"XDG_{place}_HOME"] = name
        for demo in ("heave", "goat", "across"):
            script.save(script.demo(demo), folder / f"{demo}.bovrin.json")
        real = files.os.fsync
        files.os.fsync = lambda handle: (time.sleep(0.05), real(handle))[1]
        for number in range(count):
            round_(app, folder, number)
            go_on(app, 0.02)
            gc.collect()
            give_back()
            pages = int(Path("/proc/self/statm").read_text().split()[1])
            print(number, round(pages * os.sysconf("SC_PAGE_SIZE") / 1e6), threading.active_count(), flush=True)


if __name__ == "__main__":
    main(int(sys.argv[1]))
