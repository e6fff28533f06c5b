"""Recorded motion in hands: its key poses found by a slider, looked at, kept as a take, worked on."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from tests.craft.test_key_pose_search import recorded

from bovrin import script
from bovrin.craft.lag import card_poses_of
from bovrin.desk.commands.files import bring_as_project
from bovrin.desk.sheets.key_poses_sheet import KeyPosesSheet
from bovrin.desk.state.bringing import bring
from bovrin.desk.window import Window


@pytest.fixture
def moves(window: Window, tmp_path: Path) -> tuple[Window, list[float]]:
    """A window with a recording that was brought, and the poses that are in it."""
    shot, known = recorded(2)
    script.export(shot, tmp_path / "moves.bvh")
    assert bring(window.files, tmp_path / "moves.bvh", tmp_path / "moves.bovrin.json")
    QApplication.processEvents()
    return window, known


def opened(window: Window) -> KeyPosesSheet:
    window.run("motion.find_poses")
    sheet = window.opening.key_poses
    assert sheet is not None and sheet.isVisible()
    return sheet


def strip_frames(window: Window) -> list[float]:
    return [f for f, _ in window.strip.places.card_rects()]


def test_from_few_to_many_live_and_kept_as_a_take(moves: tuple[Window, list[float]]) -> None:
    window, known = moves
    session, recording = window.session, window.session.shot
    sheet = opened(window)
    assert "cm off" in sheet.off.text()
    for _ in range(200):
        if sheet.slider.value() == len(known):
            break
        QTest.keyClick(sheet.slider, Qt.Key.Key_Left if sheet.slider.value() > len(known) else Qt.Key.Key_Right)
    assert np.abs(np.array(sheet.poses()) - known).max() <= 1
    assert strip_frames(window) == sheet.poses(), "the strip shows them at once"
    assert session.shot is recording, "nothing is changed yet"
    poses = sheet.poses()
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    assert not sheet.isVisible() and session.shot.take.name == "A in poses"
    assert card_poses_of(session.shot.curves("moves")).frames.tolist() == poses
    assert session.shot.with_take("A").curves("moves") is recording.curves("moves")
    session.go_to(poses[2])
    window.run("pose.longer")
    assert card_poses_of(session.shot.curves("moves")).frames[3] == poses[3] + 1, "one blocks on them"
    window.run("edit.undo")
    window.run("edit.undo")
    assert session.shot is recording


def test_escape_leaves_the_recording_as_it_was(moves: tuple[Window, list[float]]) -> None:
    window, _ = moves
    shot = window.session.shot
    sheet = opened(window)
    sheet.slider.setValue(sheet.slider.value() + 3)
    assert window.session.shown is not shot
    QTest.keyClick(sheet, Qt.Key.Key_Escape)
    assert not sheet.isVisible() and window.session.shown is shot and len(window.session.shot.all_takes) == 1
    sheet = opened(window)
    window.session.do("Other", lambda s: script.set_values(s, "moves", 120, {"hips/up": 0.1}))
    assert not sheet.isVisible(), "what was found is of another motion"


def test_what_does_not_move_is_told(window: Window) -> None:
    window.session.choose("steps")
    window.run("motion.find_poses")
    sheet = window.opening.key_poses
    assert sheet is not None and not sheet.isVisible() and "does not move" in window.notice.label.text()


def test_another_rate_is_asked_about(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "fast.bvh"
    script.export(recorded(1, count=3)[0], path)
    lines = path.read_text().splitlines()
    path.write_text(
        "\n".join(f"Frame Time: {1 / 120:.6f}" if line.startswith("Frame Time") else line for line in lines)
    )
    asked: list[tuple[str, ...]] = []

    def which(_title: str, words: str, answers: tuple[str, ...]) -> int | None:
        asked.append((words, *answers))
        return (None, 0, 1)[len(asked) - 1]

    monkeypatch.setattr(window.ask, "which", which)
    monkeypatch.setattr(window.ask, "file_to_write", lambda *_args: tmp_path / "fast.bovrin.json")
    before = window.session.shot
    assert not bring_as_project(window, path) and window.session.shot is before
    assert bring_as_project(window, path) and window.session.shot.frame_rate == 24
    assert bring_as_project(window, path) and window.session.shot.frame_rate == 120
    assert "120 frames a second" in asked[0][0]
