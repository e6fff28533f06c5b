"""The test drive in the real window: steered by keys and by a drag, driven again, kept, left."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from tests.cycles import alone, cycle_of

from bovrin.craft.clips.keeping import clip_of, with_clip
from bovrin.desk.sheets.driving import TestDrive
from bovrin.desk.window import Window
from bovrin.picture.view import VIEWS

LEFT = Qt.MouseButton.LeftButton
NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def sheet(window: Window) -> TestDrive:
    shot = alone("porter")
    for name, frames, gait in (("walk", 30, "walk"), ("run", 18, "run")):
        source = cycle_of("porter", gait, frames, 0.9)
        shot = with_clip(shot, clip_of(source, "porter", name, 101, 101 + frames, loop=True))
    window.session.replace(shot, None)
    window.session.choose("porter")
    window.run("cycle.drive")
    found = window.findChild(TestDrive)
    assert found is not None
    found.halt()
    return found


def gone(sheet: TestDrive, frames: int) -> np.ndarray:
    """How far the root goes while so many frames pass."""
    before = sheet.steps[-1].places[0]
    for _ in range(frames):
        sheet.advance()
    return np.asarray(sheet.steps[-1].places[0] - before)


def test_keys_and_a_drag_steer(sheet: TestDrive) -> None:
    assert np.abs(gone(sheet, 6)).max() < 1e-9, "nobody steers"
    QTest.keyPress(sheet, Qt.Key.Key_W)
    ahead = gone(sheet, 48)
    seen = VIEWS["three-quarter"].project(np.array([np.zeros(3), ahead]), (800, 500))
    across, down = (seen[1] - seen[0])[:2]
    assert down < -5 and abs(across) < 0.5 * abs(down), "W goes up the picture, after a turn"
    QTest.keyPress(sheet, Qt.Key.Key_Shift)
    assert np.hypot(*gone(sheet, 48)[[0, 2]]) > 1.2 * np.hypot(*ahead[[0, 2]]) > 0.5, "Shift runs"
    QTest.keyRelease(sheet, Qt.Key.Key_Shift)
    QTest.keyRelease(sheet, Qt.Key.Key_W)
    gone(sheet, 60)
    assert np.abs(gone(sheet, 6)).max() < 0.02, "let go, it stands"
    QTest.mousePress(sheet.view, LEFT, NONE, QPoint(200, 200))
    QTest.mouseMove(sheet.view, QPoint(200, 300))
    back = gone(sheet, 60)
    QTest.mouseRelease(sheet.view, LEFT, NONE, QPoint(200, 300))
    assert back[[0, 2]] @ ahead[[0, 2]] < 0, "a drag toward you brings it back"


def test_driven_again_and_kept(sheet: TestDrive, window: Window) -> None:
    session = window.session
    shot = session.shot
    QTest.keyPress(sheet, Qt.Key.Key_Right)
    gone(sheet, 40)
    QTest.keyRelease(sheet, Qt.Key.Key_Right)
    first = np.array([step.places for step in sheet.steps])
    QTest.mouseClick(sheet.again, LEFT)
    for _ in range(len(first)):
        sheet.advance()
    assert np.array_equal(np.array([step.places for step in sheet.steps]), first)
    assert session.shot == shot, "nothing of the shot changed"
    QTest.mouseClick(sheet.keep, LEFT)
    assert session.shot.take.name == "drive"
    window.run("edit.undo")
    assert session.shot == shot


def test_slots_are_chosen_and_a_bad_choice_said(sheet: TestDrive) -> None:
    box = sheet.choices["walk"]
    box.setCurrentText("none")
    sheet.choices["run"].setCurrentText("none")
    box.activated.emit(0)
    assert "no clip that goes" in sheet.view.words
    assert box.currentText() == "walk", "what was driven still is"
    box.setCurrentText("run")
    box.activated.emit(1)
    assert sheet.slots["walk"] == "run"


def test_no_clip_is_said_and_opens_nothing(window: Window) -> None:
    window.session.replace(alone("porter"), None)
    window.session.choose("porter")
    said: list[str] = []
    window.session.voice.failed.connect(said.append)
    window.run("cycle.drive")
    assert window.findChild(TestDrive) is None
    assert "no clip that goes" in said[0]


def test_left_by_escape_it_stands_still(sheet: TestDrive) -> None:
    sheet._timer.start()
    QTest.keyClick(sheet, Qt.Key.Key_Escape)
    assert not sheet.isVisible() and not sheet._timer.isActive()
