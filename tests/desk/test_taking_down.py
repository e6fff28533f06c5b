"""A window ends whole, whichever way it goes: the program ends without a fault, and says nothing."""

import subprocess
import sys

import pytest

BEGIN = """
import gc
from bovrin.desk.application import dressed_application, make_window
from PyQt6 import sip
app = dressed_application()
window = make_window(None)
window.show()
while not window.stage.main.scene.drawable:
    app.processEvents()
window.run("view.glass")
window.session.go_to(150)
window.run("pose.key")
"""
WAYS = {
    "let go of": "del window; gc.unfreeze(); gc.collect(); app.processEvents()",
    "left open": "",
    "deleted later": "window.deleteLater(); app.processEvents(); app.processEvents()",
    "deleted at once": "sip.delete(window); app.processEvents()",
    "while a save is under way": (
        "import tempfile, pathlib; folder = pathlib.Path(tempfile.mkdtemp());"
        "window.session.background.start(lambda: sum(range(3_000_000)), lambda _done: None);"
        "del window; gc.unfreeze(); gc.collect()"
    ),
    "in a fault": "raise SystemExit(0)",
    "without its application": (
        "del app; gc.collect(); from PyQt6.QtWidgets import QApplication; assert QApplication.instance() is not None"
    ),
    "twice": "window.let_go(); window.let_go()",
}


@pytest.mark.parametrize("way", WAYS)
def test_a_window_ends_whole(way: str) -> None:
    program = [sys.executable, "-X", "faulthandler", "-c", BEGIN + WAYS[way]]
    found = subprocess.run(program, capture_output=True, text=True, timeout=120)
    assert (found.returncode, found.stderr.strip()) == (0, "")
