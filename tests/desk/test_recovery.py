import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from bovrin import script
from bovrin.desk.application import offer, offer_all
from bovrin.desk.state.files import recovery
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.window import Window
from bovrin.errors import CannotWrite
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
        while not any(recovery.folder().glob("*/work")) and time.monotonic() - waited < 20:
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


def raised(window: Window, by: float) -> None:
    window.session.do("Raise", lambda shot: script.set_values(shot, "porter", 119, {"hips/up": by}))


def killed(window: Window) -> None:
    """As if the window had been killed: what it wrote stays, and nothing of it lives."""
    place = window.files.recovery.place
    for file in (place / "work", place / "here"):
        if file.exists():
            head, _, rest = file.read_bytes().partition(b"\n")
            file.write_bytes(json.dumps({**json.loads(head), "began": "0"}).encode() + b"\n" + rest)


def test_the_file_follows_an_edit_and_goes_with_a_save(window: Window, tmp_path: Path, qtbot: QtBot) -> None:
    edit(window)
    qtbot.waitUntil(window.files.recovery.file.exists, timeout=20000)
    head, _, project = window.files.recovery.file.read_bytes().partition(b"\n")
    assert json.loads(head)["pid"] == os.getpid() and b'"title": "Heave the crate"' in project
    assert window.files.save(tmp_path / "safe.bovrin.json")
    assert not window.files.recovery.file.exists()


def test_undoing_everything_leaves_nothing_to_recover(window: Window, qtbot: QtBot) -> None:
    edit(window)
    qtbot.waitUntil(window.files.recovery.file.exists, timeout=20000)
    window.session.document.undo_stack.undo()
    assert not window.files.recovery.file.exists()


def test_edits_that_never_stop_are_kept_all_the_same(window: Window, qtbot: QtBot) -> None:
    """An edit every fifth of a second for two and a half seconds: what was written last is at most two seconds old."""
    made: dict[float, float] = {}
    began = time.monotonic()
    for n in range(12):
        value = 0.001 * (n + 1)
        raised(window, value)
        made[value] = time.monotonic()
        qtbot.wait(200)
    assert window.files.recovery.file.exists()
    done = time.monotonic()
    killed(window)
    (found,) = recovery.left_behind()
    assert found.shot is not None
    kept = script.values(found.shot, "porter", 119)["hips/up"]
    held_up = done - began - 12 * 0.2  # by a busy machine
    assert done - made[min(made, key=lambda v: abs(v - kept))] < 2.0 + held_up


def test_let_it_go_forgets(window: Window, demo: Shot) -> None:
    folder = recovery.folder()
    folder.mkdir(parents=True, exist_ok=True)
    lost = script.lengthen(demo, "porter", 101, 5)
    from bovrin.formats.project.text import shot_to_text

    (folder / "1.json").write_text(json.dumps({"pid": 1, "began": "0", "path": None, "project": shot_to_text(lost)}))
    (found,) = recovery.left_behind()
    assert found.shot is not None and script.keys(found.shot, "porter", "hips/up")[1] == 114, "also of an older Bovrin"
    offer(window, found)
    window.notice.buttons[1].click()
    assert recovery.left_behind() == []
    assert window.session.shot is demo


@pytest.mark.parametrize(
    "content", ["{ half a fi", "", "[]", '{"pid": []}', "[" * 100_000, '{"pid": 1, "began": "0", "path": 5}\n{']
)
def test_a_damaged_one_is_told_once_and_set_aside(window: Window, content: str) -> None:
    place = recovery.folder() / "some run"
    place.mkdir(parents=True)
    (place / "work").write_text(content)
    (found,) = recovery.left_behind()
    offer_all(window, [found])
    assert "set aside" in window.notice.label.text() and not window.notice.buttons
    assert recovery.left_behind() == [], "the next start hears no more of it"
    assert (recovery.folder() / "some run.damaged" / "work").read_text() == content, "and it is kept"


def test_work_is_let_go_of_only_when_it_is_safe_again(
    window: Window, make: Callable[[Shot], Window], demo: Shot, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Taken up with a full disk: the only copy stays."""
    raised(window, 0.05)
    qtbot.waitUntil(window.files.recovery.file.exists, timeout=20000)
    killed(window)
    (found,) = recovery.left_behind()
    other = make(demo)

    def full(*_args: object) -> None:
        raise CannotWrite("no room")

    monkeypatch.setattr(recovery, "write_atomically", full)
    other.files.take_up(found)
    assert found.file.exists() and other.session.shot.title == demo.title
    monkeypatch.undo()
    other.files.take_up(found)
    assert not found.file.exists() and other.files.recovery.file.exists()


def test_a_figure_whose_file_is_gone_comes_back_with_the_work(
    window: Window, tmp_path: Path, qtbot: QtBot, make: Callable[[Shot], Window], demo: Shot
) -> None:
    """Also one with a setup that was not saved yet."""
    from tests.formats import gltf_maker

    (tmp_path / "two.glb").write_bytes(gltf_maker.figure(gltf_maker.TWO_LEGS).glb())
    assert bring(window.files, tmp_path / "two.glb", tmp_path / "two.bovrin.json")
    name = window.session.figure_name
    window.session.do("Up", lambda shot: script.set_values(shot, name, 101, {"Kern/up": 0.25}))
    qtbot.waitUntil(window.files.recovery.file.exists, timeout=20000)
    killed(window)
    for file in tmp_path.glob("*.glb"):
        file.unlink()
    (found,) = recovery.left_behind()
    other = make(demo)
    other.files.take_up(found)
    assert script.values(other.session.shot, name, 101)["Kern/up"] == pytest.approx(0.25)
    assert other.session.figure.model.triangle_count > 0
    assert other.files.save(tmp_path / "again.bovrin.json")
    assert script.values(script.load(tmp_path / "again.bovrin.json"), name, 101)["Kern/up"] == pytest.approx(0.25)


def test_another_window_on_the_same_project_is_known(
    window: Window, make: Callable[[Shot], Window], demo: Shot
) -> None:
    other = make(demo)
    place, path = other.files.recovery.place, window.session.document.path
    assert path is not None
    other.files.recovery.tell_open()
    assert recovery.open_elsewhere(path, window.files.recovery.place)
    assert not recovery.open_elsewhere(path, place) or window.files.recovery.place.exists()
    other.files.recovery.end()
    window.files.recovery.end()
    assert not recovery.open_elsewhere(path, place)


def test_a_folder_that_cannot_be_written_is_told_once(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    said: list[str] = []
    window.session.voice.told.connect(said.append)
    monkeypatch.setattr(window.files.recovery, "place", Path("/proc/none"))
    edit(window)
    assert not window.files.recovery.write()
    window.files.recovery.write()
    assert len(said) == 1 and "Save often" in said[0]


BUSY = """
import random, sys, time
from pathlib import Path
from PyQt6.QtCore import QTimer
from bovrin import script
from bovrin.desk.application import dressed_application, make_window
app = dressed_application()
window = make_window(None)
window.show()
rng, count = random.Random(int(sys.argv[1])), [0]
pace = rng.choice([0.1, 0.3, 0.7, 1.5])
folder = Path(sys.argv[2])

def work():
    count[0] += 1
    what = rng.random()
    if what < 0.1:
        window.files.save(folder / "busy.bovrin.json")
    elif what < 0.15:
        window.files.export(folder / "busy.glb")
    elif what < 0.2:
        window.session.document.undo_stack.undo()
    else:
        value = count[0] * 0.0001
        window.session.do("Edit", lambda shot: script.set_values(shot, "porter", 119, {"hips/up": value}))
    now = script.values(window.session.shot, "porter", 119)["hips/up"]
    print(time.monotonic(), round(now, 6), flush=True)

timer = QTimer()
timer.timeout.connect(work)
timer.start(int(pace * 1000))
app.exec()
"""


@pytest.mark.sweep
@pytest.mark.parametrize("seed", range(24))
def test_a_kill_at_any_moment_loses_two_seconds_at_most(tmp_path: Path, seed: int) -> None:
    """Edits, saves and exports at some pace in a real window, killed at some moment."""
    rng = np.random.default_rng(seed)
    with subprocess.Popen(
        [sys.executable, "-c", BUSY, str(seed), str(tmp_path)],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        env=dict(os.environ),
    ) as process:
        assert process.stdout is not None
        told: list[tuple[float, float]] = []
        stop = None
        while stop is None or time.monotonic() < stop:
            moment, value = (float(x) for x in process.stdout.readline().split())
            told.append((moment, value))
            stop = stop or moment + rng.uniform(1.0, 8.0)
        process.send_signal(signal.SIGKILL)
        killed_at = time.monotonic()
        process.wait()
    kept = tmp_path / "busy.bovrin.json"
    found = recovery.left_behind()
    assert len(found) <= 1, "it is offered once"
    shots = [found[0].shot] if found else [script.load(kept)] if kept.exists() else [script.demo()]
    assert shots[0] is not None
    if kept.exists():
        script.load(kept)
    there = script.values(shots[0], "porter", 119)["hips/up"]
    at_least = [value for moment, value in told if moment < killed_at - 2.0][-1:]
    later = {value for moment, value in told if moment >= killed_at - 2.0}
    assert not at_least or any(abs(there - v) < 1e-6 for v in {*at_least, *later})


def test_what_cannot_be_kept_is_told_whatever_it_is_and_tried_again(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_args: object) -> bytes:
        raise RuntimeError("no such thing")

    monkeypatch.setattr(recovery, "AGAIN", 50)
    real = recovery.unsaved_bytes
    monkeypatch.setattr(recovery, "unsaved_bytes", broken)
    edit(window)
    qtbot.waitUntil(lambda: "cannot be kept safe" in window.notice.label.text(), timeout=10_000)
    assert not window.files.recovery.file.exists()
    monkeypatch.setattr(recovery, "unsaved_bytes", real)
    qtbot.waitUntil(window.files.recovery.file.exists, timeout=10_000)
