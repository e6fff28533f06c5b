"""A motion brought as a figure, and every tool tried on it."""

import time
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QProgressDialog, QPushButton
from tests.desk.changes import survey
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.window import Window
from bovrin.errors import FileProblem
from bovrin.progress import go_on
from bovrin.shot import Shot


@pytest.fixture
def brought(window: Window, demo: Shot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Window:
    path = tmp_path / "heave.bvh"
    script.export(script.splined(demo, "porter"), path)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: (str(tmp_path / "heave.bovrin.json"), ""))
    window.run("shot.bring")
    window.activateWindow()  # other windows of the run may have come to the front meanwhile
    QApplication.processEvents()
    return window


def choose(window: Window, control: str) -> None:
    window.session.choose("heave", [window.session.shot.figure("heave").rig.control(control)])
    QApplication.processEvents()


def test_a_motion_becomes_a_project_with_a_figure(brought: Window, tmp_path: Path) -> None:
    assert "two-legged figure" in brought.notice.label.text() and "60 frames" in brought.notice.label.text()
    assert (tmp_path / "heave.glb").exists() and brought.session.document.path == tmp_path / "heave.bovrin.json"
    assert [lane.words for lane in brought.strip.places.lanes()][:3] == ["Body", "Head", "Left leg"]
    assert (brought.session.shot.first, brought.session.shot.last) == (101, 160)


def test_it_is_posed_by_its_limbs_and_by_its_joints(brought: Window, hand: Hand) -> None:
    session = brought.session
    session.go_to(120)
    choose(brought, "left_forearm")
    brought.run("pose.mode")  # its limbs reach as they come; now joint by joint
    dot = brought.stage.main.handle.places.points()["right"]
    before = session.stance().values.copy()
    hand.drag(brought.stage.main, dot, dot + QPointF(30, 0))
    assert np.abs(session.stance().values - before).max() > 0.05
    choose(brought, "left_hand")
    brought.run("pose.mode")
    motion = script.sample(session.shot, "heave", [120])
    choose(brought, "left hand goal")
    square = brought.stage.main.handle.places.points()["square"]
    hand.drag(brought.stage.main, square, square + QPointF(0, -40))
    after = script.sample(session.shot, "heave", [120])
    at = after.joints.index("left_hand")
    assert after.position[0, at, 1] > motion.position[0, at, 1] + 0.05


def test_its_curves_and_breakdowns_work(brought: Window, hand: Hand) -> None:
    brought.run("pass.spline")
    choose(brought, "hips")
    assert [row.words for row in brought.curves.desk.plot.rows()][:3] == ["across", "up", "forward"]
    brought.session.go_to(130)
    brought.run("trace.keep")
    brought.stage.setFocus()
    hand.key(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    brought.run("keys.raise")
    assert brought.session.document.undo_stack.undoText() == "Raise keys"


@pytest.mark.sweep
def test_no_command_fails_on_it(brought: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: ("", ""))
    assert "pose.key" in survey(brought, "heave", ("hips", "left hand goal"), (125.0,))
    assert np.isfinite(brought.session.stance().values).all()


def test_a_broken_motion_leaves_the_shot_as_it_was(window: Window, tmp_path: Path) -> None:
    shot = window.session.shot
    path = tmp_path / "broken.bvh"
    path.write_text("HIERARCHY ROOT")
    assert not bring(window.files, path, tmp_path / "x.bovrin.json")
    assert window.session.shot is shot and "not a BVH" in window.notice.label.text()
    assert not (tmp_path / "x.bovrin.json").exists()


def test_work_that_takes_long_can_be_stopped(window: Window) -> None:
    """After half a second the window says what goes on; Stop ends the work."""
    ended: list[bool] = []

    def work() -> None:
        try:
            while True:
                time.sleep(0.005)
                go_on()
        finally:
            ended.append(True)

    def press_stop() -> None:
        found = [w for w in QApplication.topLevelWidgets() if isinstance(w, QProgressDialog) and w.isVisible()]
        if not found:
            return
        looking.stop()
        (dialog,) = found
        assert dialog.labelText() == "Waiting…"
        (stop,) = dialog.findChildren(QPushButton)
        QTest.mouseClick(stop, Qt.MouseButton.LeftButton)

    looking = QTimer()
    looking.timeout.connect(press_stop)
    looking.start(20)
    window.waiting("Waiting…", work)
    assert ended
    assert window.waiting("Quick", lambda: 7) == 7
    with pytest.raises(FileProblem):
        window.waiting("Faulty", lambda: script.load("/nowhere"))
