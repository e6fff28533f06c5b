import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from bovrin import script
from bovrin.desk.application import offer
from bovrin.desk.state import recovery
from bovrin.desk.window import Window
from bovrin.shot import Shot

CRASH = """
import sys
from PyQt6.QtCore import QTimer
from bovrin.desk.application import dressed_application, make_window
app = dressed_application()
window = make_window(None)
window.show()
window.session.go_to(151)
window.run("pose.key")
print("edited", flush=True)
app.exec()
"""


def test_work_survives_a_kill(make, demo: Shot, qtbot: QtBot) -> None:  # type: ignore[no-untyped-def]
    """Killed without warning two seconds after an edit; the next window offers the edit back."""
    with subprocess.Popen(
        [sys.executable, "-c", CRASH], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=dict(os.environ)
    ) as process:
        assert process.stdout is not None and process.stdout.readline() == b"edited\n"
        waited = time.monotonic()
        while not any(recovery.folder().glob("*.json")) and time.monotonic() - waited < 20:
            time.sleep(0.1)
        assert recovery.left_behind() == []  # still alive: its work is its own
        process.send_signal(signal.SIGKILL)
        process.wait()
    found = recovery.left_behind()
    assert len(found) == 1
    window: Window = make(demo)
    offer(window, found[0])
    assert "still here" in window.notice.label.text()
    assert [b.text() for b in window.notice.buttons] == ["Take it up", "Let it go"]
    window.notice.buttons[0].click()
    assert 151 in script.keys(window.session.shot, "porter", "hips/up")
    assert not window.session.document.undo_stack.isClean()
    assert recovery.left_behind() == []


def edit(window: Window) -> None:
    window.session.go_to(152)
    window.run("pose.key")


def test_the_file_follows_an_edit_and_goes_with_a_save(window: Window, tmp_path: Path, qtbot: QtBot) -> None:
    edit(window)
    qtbot.waitUntil(window.files.recovery.file.exists, timeout=2000)
    content = json.loads(window.files.recovery.file.read_text())
    assert content["pid"] == os.getpid() and '"title": "Heave the crate"' in content["project"]
    assert window.files.save(tmp_path / "safe.bovrin.json")
    assert not window.files.recovery.file.exists()


def test_undoing_everything_leaves_nothing_to_recover(window: Window, qtbot: QtBot) -> None:
    edit(window)
    qtbot.waitUntil(window.files.recovery.file.exists, timeout=2000)
    window.session.document.undo_stack.undo()
    assert not window.files.recovery.file.exists()


def test_let_it_go_forgets(window: Window, demo: Shot) -> None:
    folder = recovery.folder()
    folder.mkdir(parents=True)
    lost = script.lengthen(demo, "porter", 101, 5)
    from bovrin.formats.project import shot_to_text

    (folder / "1.json").write_text(json.dumps({"pid": 1, "began": "0", "path": None, "project": shot_to_text(lost)}))
    (folder / "2.json").write_text("{ half a fi")
    found = recovery.left_behind()
    assert len(found) == 1 and script.keys(found[0].shot, "porter", "hips/up")[1] == 114
    offer(window, found[0])
    window.notice.buttons[1].click()
    assert recovery.left_behind() == [] and (folder / "2.json").exists()
    assert window.session.shot is demo


def test_a_folder_that_cannot_be_written_is_told_once(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    said: list[str] = []
    window.session.voice.told.connect(said.append)
    monkeypatch.setattr(window.files.recovery, "file", Path("/proc/none/x.json"))
    edit(window)
    window.files.recovery.write()
    window.files.recovery.write()
    assert len(said) == 1 and "Save often" in said[0]
