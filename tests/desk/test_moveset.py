"""A moveset built in the real window from an empty shot by mouse and keys, and a run from poses with counts."""

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit
from tests.cycles import alone, cycle_of, lively, places, slid

from bovrin import script as bv
from bovrin.desk.panels.cycles.clips_panel import ClipsPanel
from bovrin.desk.panels.cycles.cycle_panel import CyclePanel
from bovrin.desk.panels.pose_book_panel import PoseBookPanel
from bovrin.desk.shelf.lane_rows import LaneRows
from bovrin.desk.window import Window

LEFT = Qt.MouseButton.LeftButton
NONE = Qt.KeyboardModifier.NoModifier


def typed(field: QLineEdit, text: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def longer(rows: LaneRows, window: Window, number: int, frames: float) -> None:
    """Drag the right end of a bar of the lowest lane."""
    box = rows.box(0, window.session.shot.lanes("porter")[0].laid[number])
    start = QPointF(box.right() - 2, box.center().y())
    end = start + QPointF(frames * rows.scale.per_frame, 0)
    QTest.mousePress(rows, LEFT, NONE, start.toPoint())
    rows._gesture.move(end, NONE)
    QTest.mouseRelease(rows, LEFT, NONE, end.toPoint())


def test_a_moveset_from_one_walk(window: Window) -> None:
    """Forward, measured; aside by muting and keying anew; to keys; kept; faded; no foot slides."""
    session = window.session
    session.replace(alone("porter"), None)
    session.choose("porter")
    window.run("pass.cycle")
    wheel = window.right.open("cycle")
    assert isinstance(wheel, CyclePanel)
    QTest.qWait(20)
    typed(wheel.form.frames, "32")
    typed(wheel.form.stride, "80")
    QTest.mouseClick(wheel.form.lay, LEFT)
    stride = bv.stride(session.shot, "porter")
    assert (stride.length, stride.period) == (pytest.approx(0.8), 32)
    clips = window.right.open("clips")
    assert isinstance(clips, ClipsPanel)
    QTest.qWait(20)
    QTest.mouseClick(clips.keep, LEFT)
    QTest.mouseClick(clips.lay, LEFT)
    window.run("clip.remove")
    assert not session.shot.lanes("porter") and not any(len(c) for c in session.shot.curves("porter").curves)
    window.run("clip.left")
    lanes = session.shot.lanes("porter")
    assert len(lanes) == 2 and lanes[0].laid[0].mute and lanes[1].laid[0].clip == "walk left"
    QTest.mouseClick(clips.keys, LEFT)
    keyed = session.shot
    frames = np.arange(101.0, 165.0)
    assert (
        np.ptp(places(keyed, "porter", frames)[:, 0, 2]) < 1e-6
        and np.ptp(places(keyed, "porter", frames)[:, 0, 0]) > 0.3
    )
    session.do("Range", lambda shot: replace(shot, second=(101.0, 133.0)))
    QTest.mouseClick(clips.keep, LEFT)
    names = [clip.name for clip in session.shot.clips]
    assert "clip" in names
    session.do("Whole", lambda shot: bv.keep_clip(shot, "porter", "aside", 101, 133, loop=True))
    session.do(
        "Empty", lambda shot: shot.with_curves("porter", shot.figure("porter").no_motion()).with_contacts("porter", {})
    )
    rows = window.bottom.shelf.lanes
    session.go_to(101)
    session.shelf.choose_clip("walk")
    QTest.mouseClick(clips.lay, LEFT)
    window.strip.see_range()
    longer(rows, window, 0, 48)
    session.go_to(165)
    session.shelf.choose(None)
    session.shelf.choose_clip("aside")
    QTest.mouseClick(clips.lay, LEFT)
    longer(rows, window, 1, 64)
    session.go_to(166)
    window.run("clip.fade")
    shot = session.shot
    worst = max(
        slid(shot, "porter", foot, *span)
        for foot, spans in bv.contacts(shot, "porter").items()
        for span in spans
        if span[1] - span[0] > 2
    )
    assert worst < 5e-3
    steps = np.linalg.norm(np.diff(places(shot, "porter", np.arange(101.0, 220.0, 0.5)), axis=0), axis=2)
    assert steps.max() < 0.08
    while session.document.undo_stack.canUndo():
        window.run("edit.undo")
    assert not session.shot.clips and not session.shot.lanes("porter")


def test_a_run_from_poses_with_counts(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    source = lively(cycle_of("porter", "run", 16, 1.0, spot=True), "porter")
    session = window.session
    session.replace(source, None)
    session.choose("porter")
    window.run("pass.cycle")
    book = window.right.open("poses")
    assert isinstance(book, PoseBookPanel)
    for frame, count in ((101, 12), (103, 14), (105, 16), (107, 18), (109, 20), (111, 22), (113, 24), (115, 26)):
        session.go_to(frame)
        window.run("pose.keep")
        QTest.qWait(5)
        typed(book.reference, str(count))
    assert [pose.reference for pose in window.book.poses] == [12, 14, 16, 18, 20, 22, 24, 26]
    session.replace(alone("porter"), None)
    session.choose("porter")
    asked: list[int] = []

    def number(_title: str, _words: str, now: int, _least: int, _most: int) -> int:
        asked.append(now)
        return 16

    monkeypatch.setattr(window.ask, "number", number)
    QTest.mouseClick(book.lay_out, LEFT)
    shot, cycle = session.shot, session.shot.cycle("porter")
    assert asked == [16] and cycle is not None and (cycle.first, cycle.last) == (101, 117)
    for frame in (101, 103, 105, 107, 115):
        for channel in ("left foot/forward", "right foot/up", "chest/turn", "hips/up"):
            wanted = bv.values(source, "porter", frame)[channel]
            assert bv.values(shot, "porter", frame)[channel] == pytest.approx(wanted, abs=1e-6)
    window.run("cycle.plant")
    assert max(bv.slide_of(session.shot, "porter").values()) < 1e-3
    window.run("cycle.travel")
    assert bv.stride(session.shot, "porter").length == pytest.approx(1.0, abs=0.05)
    assert np.ptp(places(session.shot, "porter", np.arange(101.0, 133.0))[:, 0, 2]) > 1.5
