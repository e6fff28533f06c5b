"""Work beside the window: the latest of its name wins, faults are noted, nothing outlives the window; thousands of edits."""

import gc
import random
import threading
import time
from collections.abc import Iterator
from typing import ClassVar

import pytest
from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QApplication, QProgressBar, QProgressDialog
from pytestqt.qtbot import QtBot

from bovrin import script
from bovrin.desk.kit.background import Background
from bovrin.desk.kit.waiting import Steps
from bovrin.desk.strip import holds_row
from bovrin.desk.window import Window
from bovrin.log import log


@pytest.fixture
def background(qapp: QApplication) -> Iterator[Background]:
    host = QObject()
    made = Background(host)
    yield made
    made.end()
    host.deleteLater()


def test_of_those_that_wait_the_latest_is_done_and_told(background: Background, qtbot: QtBot) -> None:
    go, done, told = threading.Event(), [], []

    def work(n: int) -> int:
        go.wait(5)
        done.append(n)
        return n

    for n in range(20):
        background.latest("count", lambda n=n: work(n), told.append)
    go.set()
    qtbot.waitUntil(lambda: told == [19], timeout=20000)
    assert done == [0, 19], "what nobody wants any more is not begun"


def test_what_came_is_told_on_the_windows_thread_and_after_starting(background: Background, qtbot: QtBot) -> None:
    told: list[threading.Thread] = []
    background.start(lambda: None, lambda _f: told.append(threading.current_thread()))
    time.sleep(0.05)
    assert told == [], "also work that is done at once"
    qtbot.waitUntil(lambda: bool(told), timeout=20000)
    assert told == [threading.main_thread()]


def test_a_fault_is_noted_and_the_name_is_free_again(
    background: Background, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    noted: list[str] = []
    monkeypatch.setattr(log, "exception", lambda words, name: noted.append(name))
    background.latest("faulty", lambda: 1 // 0, lambda _r: pytest.fail("told"))
    qtbot.waitUntil(lambda: noted == ["faulty"], timeout=20000)
    told: list[int] = []
    background.latest("faulty", lambda: 3, told.append)
    qtbot.waitUntil(lambda: told == [3], timeout=20000)


def test_nothing_is_told_after_the_end(background: Background) -> None:
    go = threading.Event()
    background.start(lambda: go.wait(2), lambda _f: pytest.fail("told"))
    background.latest("other", lambda: 1, lambda _r: pytest.fail("told"))
    threading.Timer(0.05, go.set).start()
    background.end()
    QApplication.processEvents()
    background.start(lambda: 1, lambda _f: pytest.fail("begun"))


@pytest.mark.parametrize("count", [60, pytest.param(4000, marks=pytest.mark.sweep)])
def test_edits_over_rows_that_are_measured_aside(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, count: int
) -> None:
    """Edits, undo and repaints in any order, each of which wants the row anew."""
    monkeypatch.setattr(holds_row, "MANY", 1)
    session, row, rng = window.session, window.strip.places.holds, random.Random(4)
    for _ in range(count):
        what = rng.random()
        if what < 0.6:
            value = {"hips/up": rng.uniform(-0.1, 0.1)}
            session.do("Edit", lambda shot, v=value: script.set_values(shot, "porter", 119, v))
        elif what < 0.8:
            session.document.undo_stack.undo()
        elif what < 0.9:
            QApplication.processEvents()
        else:
            row.stretches(rng.choice([None, "left arm"]))
    wanted = row.stretches(None)
    monkeypatch.setattr(holds_row, "MANY", 10**9)
    qtbot.waitUntil(lambda: not session.background.busy("holds"), timeout=20000)
    row._kept = None
    at_once = row.stretches(None)
    assert at_once and (not wanted or wanted == at_once)


class Ring:
    """Something that lies in a circle, as widgets and what is drawn with do, and tells on which thread it dies."""

    died: ClassVar[list[threading.Thread]] = []

    def __init__(self) -> None:
        self.me = self

    def __del__(self) -> None:
        Ring.died.append(threading.current_thread())


def test_what_lies_in_circles_dies_on_the_windows_thread(background: Background, qtbot: QtBot) -> None:
    """Work beside the window allocates much; a widget that died there took the window with it."""
    Ring.died.clear()
    told: list[object] = []
    for _ in range(50):
        Ring()
    background.start(lambda: len([[n] for n in range(300_000)]), told.append)
    qtbot.waitUntil(lambda: bool(told), timeout=20000)
    gc.collect()
    assert len(Ring.died) == 50 and set(Ring.died) == {threading.main_thread()}
    assert gc.isenabled(), "sweeping goes on when nothing is beside the window"


def test_a_bar_says_how_far_it_is_and_is_still_when_it_is_over(window: Window) -> None:
    """A timer that went on behind a closed bar set it once more, let its own end through meanwhile, and took the window along."""
    steps, seen, was_seen = Steps(), list[int](), threading.Event()

    def work() -> str:
        steps(0.6)
        was_seen.wait(20)
        return "done"

    def look() -> None:
        seen.extend(bar.value() for bar in window.findChildren(QProgressBar))
        if 60 in seen:
            was_seen.set()

    looking = QTimer(window)
    looking.timeout.connect(look)
    looking.start(20)
    assert window.waiting("A long one…", work, steps) == "done"
    looking.stop()
    assert was_seen.is_set()
    left = window.findChildren(QProgressDialog)
    assert left and not any(timer.isActive() for dialog in left for timer in dialog.findChildren(QTimer))
    for _ in range(20):
        QApplication.processEvents()
        time.sleep(0.02)
