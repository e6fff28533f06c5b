"""From starting the interpreter to the first painted window, against a bare window that imports the same libraries."""

from __future__ import annotations

import os
import subprocess
import sys

from benchmarks.row import Row, compare

BARE = """
import os
import numpy, moderngl
from PyQt6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
class Bare(QMainWindow):
    def paintEvent(self, event):
        os._exit(0)
window = Bare()
window.resize(1280, 800)
window.show()
app.exec()
"""

OURS = """
import gc, os
gc.disable()  # as the command line does
from bovrin.desk.application import dressed_application, make_window
app = dressed_application()
window = make_window(None)
painted = window.LAST.paintEvent
def paint(event):
    painted(event)
    if READY:
        os._exit(0)
window.LAST.paintEvent = paint
window.show()
app.exec()
"""


def _run(code: str) -> None:
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    subprocess.run([sys.executable, "-c", code], check=True, env=environment, stderr=subprocess.DEVNULL)


def rows() -> list[Row]:
    """To the window with everything but the stage's picture, and to that picture, which follows at once.

    Panels are painted from the top; the pose strip is the last.
    """
    window = OURS.replace("LAST", "strip").replace("READY", "True")
    picture = OURS.replace("LAST", "stage.main").replace("READY", "window.stage.main.scene.drawable")
    return [
        compare("start to the first painted window, with the demo", 2.5, lambda: _run(window), lambda: _run(BARE), 5),
        compare("start to the first picture on the stage", 3.0, lambda: _run(picture), lambda: _run(BARE), 5),
    ]
