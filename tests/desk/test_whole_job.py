"""The first slice as an animator does it, by mouse and keys alone."""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_stage import joint_on_screen

from bovrin import script
from bovrin.craft.keying.lag import poses
from bovrin.desk.application import make_window
from bovrin.desk.sheets.hand_on import HandOn
from bovrin.desk.window import Window
from bovrin.formats.side.table import table_text
from bovrin.shot import HandleKind, Shot


def pose_by_hand(window: Window, hand: Hand, frame: int, by: QPointF) -> None:
    """Go to a frame by scrubbing, drag the left hand, and turn the chest with a dot."""
    scale = window.bottom.scale
    hand.drag(window.strip, QPointF(scale.x(frame) + 20, 6), QPointF(scale.x(frame), 6))
    hand.click(window.cast_panel.map, window.cast_panel.map.point_of("left hand"))
    square = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, square, square + by)
    hand.click(window.cast_panel.map, window.cast_panel.map.point_of("chest"))
    dot = window.stage.main.handle.places.points()["right"]
    hand.drag(window.stage.main, dot, dot + QPointF(by.x(), 0))
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_K)


def bare(demo: Shot) -> Shot:
    """The demo's cast without motion, the porter standing at the first frame."""
    shot = Shot("From scratch")
    for figure in demo.cast:
        shot = shot.with_figure(figure)
    return shot


def test_pose_time_break_down_spline_save_and_hand_on(
    make, demo: Shot, tmp_path: Path, qtbot: QtBot, monkeypatch
) -> None:  # type: ignore[no-untyped-def]
    window: Window = make(bare(demo))
    hand = Hand(window)
    window.stage.main.look_from(window.stage.main.scene.view)
    for frame, by in ((101, QPointF(-12, -18)), (113, QPointF(-20, -70)), (125, QPointF(25, -30))):
        pose_by_hand(window, hand, frame, by)
    assert poses(window.session.shot, "porter").frames.tolist() == [101, 113, 125]

    # the poses hold: nothing moves between them
    held = script.sample(window.session.shot, "porter", [113, 119, 124]).position
    assert np.array_equal(held[0], held[1]) and np.array_equal(held[0], held[2])

    # lengthen the second hold by four frames; the third pose moves along
    rect = dict(window.strip.places.card_rects())[113]
    edge = QPointF(rect.right() - 2, rect.center().y())
    hand.drag(window.strip, edge, edge + QPointF(4 * window.bottom.scale.per_frame, 0))
    assert poses(window.session.shot, "porter").frames.tolist() == [101, 113, 129]

    # a breakdown at 119, 70 % for all and 40 % for the head
    hand.key(Qt.Key.Key_3)
    scale, panel = window.bottom.scale, window.right.panel("breakdown")
    hand.drag(window.strip, QPointF(scale.x(125), 6), QPointF(scale.x(119), 6))
    hand.drag(panel.all, QPointF(panel.all.x_of(0.5), 20), QPointF(panel.all.x_of(0.7), 20))
    head = panel.sliders["head"]
    hand.drag(head, QPointF(head.x_of(0.7), 10), QPointF(head.x_of(0.4), 10))
    assert poses(window.session.shot, "porter").frames.tolist() == [101, 113, 119, 129]
    values = [script.values(window.session.shot, "porter", f)["left hand/up"] for f in (113, 119, 129)]
    assert abs((values[1] - values[0]) / (values[2] - values[0]) - 0.7) < 0.01

    # play
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Space)
    assert window.session.playing
    qtbot.waitUntil(lambda: window.session.frame not in (119.0, 120.0), timeout=20000)
    hand.key(Qt.Key.Key_Space)
    assert not window.session.playing

    # spline, and bend a handle
    hand.key(Qt.Key.Key_4)
    QApplication.processEvents()
    hand.click(window.cast_panel.map, window.cast_panel.map.point_of("left hand"))
    buttons = open_panel(window, "span").findChildren(type(window.topbar.find_button))
    spline = next(button for button in buttons if button.text() == "Splined")
    spline.click()
    moving = script.sample(window.session.shot, "porter", [101, 107, 113]).position
    assert np.abs(moving[1] - moving[0]).max() > 1e-3
    row = next(r for r in window.curves.desk.plot.rows() if r.words == "up")
    hand.click(window.curves.desk, QPointF(40, 24 + 17 * 1 + 8))
    hand.click(window.curves.desk, window.curves.desk.plot.key_point(row, 1))
    handle = window.curves.desk.plot.handle_points(row, 1)["out"]
    hand.drag(window.curves.desk, handle, handle + QPointF(5, -25))
    curve = window.session.shot.curves("porter")[row.channel]
    assert curve.out_kind[1] == HandleKind.BY_HAND

    # undo all the way back, and redo
    done, steps = window.session.shot, window.session.document.undo_stack.count()
    window.stage.main.setFocus()
    for _ in range(steps):
        hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(poses(window.session.shot, "porter")) == 0 and not window.session.document.undo_stack.canUndo()
    for _ in range(steps):
        hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert window.session.shot is done

    # save, reopen: the same picture and the same samples
    path = tmp_path / "mine.bovrin.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: (str(path), ""))
    hand.key(Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert path.exists() and window.session.document.undo_stack.isClean()
    again = script.load(path)
    assert table_text(again, ["porter", "crate"]) == table_text(done, ["porter", "crate"])
    for frame in (101, 119, 127):
        pictures = [script.picture(shot, frame, "three-quarter", (320, 240)) for shot in (done, again)]
        assert np.array_equal(*pictures)

    # hand on
    out = tmp_path / "mine.glb"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: (str(out), ""))
    hand.key(Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    (page,) = [child for child in window.findChildren(HandOn) if child.isVisible()]
    QTest.keyClick(page, Qt.Key.Key_Return)
    assert out.read_bytes()[:4] == b"glTF" and "Handed on" in window.notice.label.text()


def test_the_left_hand_reaches_on_the_demo(window: Window, hand: Hand) -> None:
    at = joint_on_screen(window, "left hand")
    window.run("pass.block")
    hand.click(window.cast_panel.map, window.cast_panel.map.point_of("left hand"))
    hand.drag(window.stage.main, window.stage.main.handle.places.points()["square"], at + QPointF(-15, -90))
    assert (joint_on_screen(window, "left hand") - at - QPointF(-15, -90)).manhattanLength() < 3
    assert poses(window.session.shot, "porter").frames.tolist() == [101, 109, 114, 119, 127, 133, 143]


def test_a_window_on_a_file_of_one_s_own(demo: Shot, tmp_path: Path, qtbot: QtBot, qapp: QApplication) -> None:
    path = tmp_path / "own.bovrin.json"
    script.save(script.splined(demo, "porter"), path)
    own = make_window(path)
    qtbot.addWidget(own)
    own.show()
    qtbot.waitExposed(own)
    assert own.session.document.path == path and own.session.shot.title == "Heave the crate"
    QTest.qWait(50)
    own.close()
