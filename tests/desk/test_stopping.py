"""Stop stops: in every place of the window that waits, the work ends soon, nothing is half-done, and closing waits for it."""

import ast
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QProgressDialog, QPushButton
from pytestqt.qtbot import QtBot

import bovrin.desk
from bovrin import script
from bovrin.desk.kit import waiting
from bovrin.desk.state.files.bringing import bring_in, carry
from bovrin.desk.window import Window
from bovrin.formats import files as door
from bovrin.progress import go_on, tell
from bovrin.shot import Shot


def places_that_wait() -> set[str]:
    """The files of the window in which something is waited for: calls of `wait`, by whatever name it is held."""
    found = set()
    root = Path(bovrin.desk.__file__).parent
    for path in root.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "attr", "") in ("wait", "_wait") and node.args:
                found.add(path.name)
    return found


def test_this_survey_knows_every_place_that_waits() -> None:
    assert places_that_wait() == {"files.py", "bringing.py", "proofread.py", "key_poses_sheet.py", "polish_table.py"}


@pytest.fixture
def slow(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every word that a work says of how far it is takes a while."""
    monkeypatch.setattr(waiting, "SOON", 60)

    class Heard(waiting.Steps):
        def __call__(self, share: float) -> bool:
            time.sleep(0.002)
            return super().__call__(share)

    monkeypatch.setattr(waiting, "Steps", Heard)


def stop_soon(taken: list[float]) -> QTimer:
    """Presses Stop as soon as it is there."""
    timer = QTimer()

    def press() -> None:
        for widget in QApplication.topLevelWidgets():
            for dialog in [widget, *widget.findChildren(QProgressDialog)]:
                if isinstance(dialog, QProgressDialog) and dialog.isVisible() and not taken:
                    taken.append(time.monotonic())
                    button = dialog.findChild(QPushButton)
                    assert button is not None
                    button.click()

    timer.timeout.connect(press)
    timer.start(5)
    return timer


@pytest.fixture
def project(window: Window, demo: Shot, tmp_path: Path) -> Path:
    path = tmp_path / "shot.bovrin.json"
    script.save(script.add_figure(script.splined(demo, "porter"), "cast:porter"), path)
    script.export(script.demo("goat"), tmp_path / "goat.glb")
    assert window.files.open(path)
    return path


ACTIONS: dict[str, Callable[[Window, Path], object]] = {
    "save": lambda w, p: w.files.save(p),
    "open": lambda w, p: w.files.open(p),
    "hand on": lambda w, p: w.files.export(p.with_name("out.glb")),
    "clips": lambda w, p: w.files.import_clips(p),
    "bring": lambda w, p: bring_in(w.files, p.with_name("goat.glb"), lambda _figure: 1.0),
    "carry": lambda w, p: carry(w.files, "porter 2"),
}


@pytest.mark.parametrize("name", sorted(ACTIONS))
def test_stop(name: str, window: Window, project: Path, slow: None) -> None:
    session = window.session
    session.go_to(150)
    window.run("pose.key")
    shot, before = session.shot, {p.name: p.read_bytes() for p in project.parent.iterdir() if p.is_file()}
    taken: list[float] = []
    timer = stop_soon(taken)
    ACTIONS[name](window, project)
    ended = time.monotonic()
    timer.stop()
    assert taken, "there was no Stop to press"
    assert ended - taken[0] < 3.0, "the aim is 0.3 s; this bound is for a busy machine"
    assert session.shot is shot and not session.document.undo_stack.isClean()
    assert {p.name: p.read_bytes() for p in project.parent.iterdir() if p.is_file()} == before
    assert "topped" in window.notice.label.text()


def test_the_bar_fills(window: Window, project: Path, slow: None) -> None:
    seen: list[int] = []
    timer = QTimer()

    def look() -> None:
        for dialog in window.findChildren(waiting._Progress):
            seen.append(dialog._bar.value())

    timer.timeout.connect(look)
    timer.start(10)
    assert window.files.save(project)
    timer.stop()
    assert len(set(seen)) > 4 and seen == sorted(seen)


def test_closing_waits_for_what_is_written(
    window: Window, project: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    """Asked to close in the first moments of a slow save: the file is whole, the window is gone, nothing goes on."""
    session = window.session
    session.go_to(150)
    window.run("pose.key")
    real = door.os.fsync

    def slow_disk(handle: int) -> None:
        time.sleep(0.4)
        real(handle)

    monkeypatch.setattr(door.os, "fsync", slow_disk)
    closed: list[bool] = []
    QTimer.singleShot(20, lambda: closed.append(window.close()))
    assert window.files.save(project)
    assert closed == [False] and window.isVisible()
    qtbot.waitUntil(lambda: not window.isVisible(), timeout=10000)
    assert script.keys(script.load(project), "porter", "hips/up")[-1] >= 150


def test_clicks_made_while_it_waits_come_after(window: Window, project: Path) -> None:
    """What is typed in the first half second changes nothing that is being written."""
    order: list[str] = []

    def work() -> bool:
        for _ in range(20):
            time.sleep(0.005)
            tell(0.5)
            go_on()
        order.append("work")
        return True

    QTimer.singleShot(10, lambda: order.append("timer"))
    assert window.waiting("Something…", work)
    assert order == ["timer", "work"] and window.waiting.words == ""
