"""The motion shelf in the real window: clips kept, laid, dragged, faded, muted, changed, keyed on top of, turned into keys."""

from dataclasses import replace
from pathlib import Path
from threading import current_thread, main_thread

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot
from tests.craft.clips.test_clips import shelf as clips
from tests.cycles import alone, cycle_of, lively, places

from bovrin import script as bv
from bovrin.craft.clips import to_keys
from bovrin.desk.panels.cycles.clips_panel import ClipsPanel
from bovrin.desk.shelf.lane_rows import LaneRows
from bovrin.desk.state.shelf import Place
from bovrin.desk.window import Window
from bovrin.shot import Laid, Shot

LEFT = Qt.MouseButton.LeftButton
NONE, CTRL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier
EVERY = np.arange(101.0, 260.0)


def put(window: Window, shot: Shot) -> tuple[LaneRows, ClipsPanel]:
    window.session.replace(shot, None)
    window.session.choose("porter")
    window.run("pass.cycle")
    panel = window.right.open("clips")
    assert isinstance(panel, ClipsPanel)
    window.strip.see_range()
    QTest.qWait(30)
    return window.bottom.shelf.lanes, panel


def laid(window: Window, lane: int = 0, number: int = 0) -> Laid:
    return window.session.shot.lanes("porter")[lane].laid[number]


def drag(rows: LaneRows, start: QPointF, by: float, up: float = 0.0, modifiers: Qt.KeyboardModifier = NONE) -> None:
    """Press on a place and let go so many frames later, so many lanes higher."""
    end = start + QPointF(by * rows.scale.per_frame, -up * 43.0)
    QTest.mousePress(rows, LEFT, modifiers, start.toPoint())
    for share in (0.5, 1.0):
        rows._gesture.move(start + (end - start) * share, modifiers)
    QTest.mouseRelease(rows, LEFT, modifiers, end.toPoint())


def middle(rows: LaneRows, window: Window, lane: int = 0, number: int = 0) -> QPointF:
    return rows.box(lane, laid(window, lane, number)).center()


def end(rows: LaneRows, window: Window, lane: int = 0, number: int = 0) -> QPointF:
    box = rows.box(lane, laid(window, lane, number))
    return QPointF(box.right() - 2, box.center().y())


def walked() -> Shot:
    return replace(bv.lay_clip(clips(), "porter", "walk", 101, repeats=3), last=240.0)


def test_a_cycle_is_kept_and_laid_in_place_of_its_keys(window: Window) -> None:
    shot = lively(cycle_of("porter", "walk", 32, 0.8), "porter")
    rows, panel = put(window, shot)
    assert panel.empty.isVisible() and not panel.list.isVisible()
    QTest.mouseClick(panel.keep, LEFT)
    assert [clip.name for clip in window.session.shot.clips] == ["walk"]
    window.session.go_to(101)
    QTest.mouseClick(panel.lay, LEFT)
    frames = np.arange(101.0, 133.0, 0.5)
    assert np.abs(places(window.session.shot, "porter", frames) - places(shot, "porter", frames)).max() < 1e-9
    assert window.session.shelf.place == Place(0, 0) and panel.rows["strength"].isVisible()
    drag(rows, end(rows, window), 64)
    assert laid(window).repeats == pytest.approx(3.0)
    QTest.mouseClick(panel.keys, LEFT)
    assert not window.session.shot.lanes("porter") and len(bv.keys(window.session.shot, "porter", "chest/turn")) > 8
    for _ in range(4):
        window.run("edit.undo")
    assert window.session.shot is shot


def test_bars_are_moved_trimmed_slowed_and_put_on_another_lane(window: Window) -> None:
    rows, _ = put(window, walked())
    drag(rows, middle(rows, window), 12)
    assert (laid(window).at, laid(window).repeats) == (113, 3)
    drag(rows, end(rows, window), -16)
    assert laid(window).repeats == pytest.approx(2.5)
    drag(rows, end(rows, window), 80, modifiers=CTRL)
    assert laid(window).speed == pytest.approx(0.5) and laid(window).repeats == pytest.approx(2.5)
    box = rows.box(0, laid(window))
    drag(rows, QPointF(box.left() + 2, box.center().y()), 32)
    assert laid(window).at == 145 and laid(window).end == pytest.approx(113 + 160)
    drag(rows, middle(rows, window), 0.0, up=1.0)
    assert len(window.session.shot.lanes("porter")) == 1, "the only clip stays on the lowest lane"
    window.session.go_to(120)
    window.session.shelf.choose_clip("nod")
    window.session.shelf.choose(None)
    window.run("clip.lay")
    drag(rows, middle(rows, window, 0, 0), 0.0, up=1.0)
    assert [len(lane.laid) for lane in window.session.shot.lanes("porter")] == [1, 1]
    steps = window.session.document.undo_stack.count()
    for _ in range(steps):
        window.run("edit.undo")
    assert laid(window) is walked().lanes("porter")[0].laid[0] or laid(window).at == 101


def test_a_one_shot_clip_is_trimmed_and_held(window: Window) -> None:
    rows, _ = put(window, replace(bv.lay_clip(clips(), "porter", "nod", 110), last=160.0))
    drag(rows, end(rows, window), -6)
    assert laid(window).last == pytest.approx(10) and laid(window).hold == 0
    drag(rows, end(rows, window), 20)
    assert laid(window).hold == pytest.approx(20) and laid(window).last == pytest.approx(10)
    box = rows.box(0, laid(window))
    drag(rows, QPointF(box.left() + 2, box.center().y()), 4)
    assert laid(window).first == pytest.approx(4) and laid(window).at == 114


def test_clips_that_overlap_fade_and_a_drag_is_put_back(window: Window) -> None:
    rows, _ = put(window, replace(bv.lay_clip(walked(), "porter", "run", 197, repeats=3), last=260.0))
    before = window.session.shot
    drag(rows, middle(rows, window, 0, 1), -20)
    first, second = window.session.shot.lanes("porter")[0].laid
    assert second.at == 177 < first.end
    path = places(window.session.shot, "porter", np.arange(150.0, 215.0, 0.5))
    assert np.linalg.norm(np.diff(path, axis=0), axis=2).max() < 0.1
    rows.grab()
    window.run("edit.undo")
    start = middle(rows, window, 0, 1)
    QTest.mousePress(rows, LEFT, NONE, start.toPoint())
    rows._gesture.move(start - QPointF(120, 0), NONE)
    assert window.session.document.previewing
    QTest.mousePress(rows, Qt.MouseButton.RightButton, NONE, start.toPoint())
    QTest.mouseRelease(rows, LEFT, NONE, start.toPoint())
    assert window.session.shot is before and not window.session.document.previewing
    window.session.go_to(170)
    window.run("clip.fade")
    assert window.session.shot.lanes("porter")[0].laid[1].at == 170


def test_settings_of_a_laid_clip_are_dragged_typed_and_switched(window: Window) -> None:
    rows, panel = put(window, walked())
    QTest.mouseClick(rows, LEFT, NONE, middle(rows, window).toPoint())
    assert window.session.shelf.place == Place(0, 0)
    field = panel.rows["strength"].field
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "50")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert laid(window).strength == pytest.approx(0.5)
    panel.rows["speed"].slider.resize(120, 20)
    slider = panel.rows["speed"].slider
    QTest.mousePress(slider, LEFT, NONE, QPoint(int(slider.x_of(0.5)), 10))
    assert window.session.document.previewing
    QTest.mouseRelease(slider, LEFT, NONE, QPoint(int(slider.x_of(0.5)), 10))
    assert laid(window).speed == pytest.approx(1.5, abs=0.08)
    QTest.mouseClick(panel.toggles["backwards"], LEFT)
    assert laid(window).backwards
    QTest.mouseClick(panel.toggles["added"], LEFT)
    assert laid(window).how == "added"
    panel.repeats.setFocus()
    panel.repeats.selectAll()
    QTest.keyClicks(panel.repeats, "1.5")
    QTest.keyClick(panel.repeats, Qt.Key.Key_Return)
    assert laid(window).repeats == pytest.approx(1.5)
    said: list[str] = []
    window.session.voice.failed.connect(said.append)
    panel.repeats.setFocus()
    panel.repeats.selectAll()
    QTest.keyClicks(panel.repeats, "0")
    QTest.keyClick(panel.repeats, Qt.Key.Key_Return)
    assert said and laid(window).repeats == pytest.approx(1.5)


def test_a_clip_is_weighed_by_a_line_over_its_bar(window: Window, qtbot: QtBot) -> None:
    rows, panel = put(window, bv.lay_clip(walked(), "porter", "run", 121, lane=1, repeats=3.0))
    window.session.shelf.choose(Place(1, 0))
    window.session.go_to(125)
    window.run("clip.weight")
    assert np.allclose(laid(window, 1).weight.frames, [0, 4]) and np.allclose(laid(window, 1).weight.values, 1)
    top = rows.weight._points(laid(window, 1), rows.box(1, laid(window, 1)))[0]
    drag(rows, top, 0, up=-0.9)
    assert laid(window, 1).weight.values[0] == 0.0 and laid(window, 1).weight.values[1] == 1.0
    still = places(walked(), "porter", np.array([121.0]))
    assert np.abs(places(window.session.shot, "porter", np.array([121.0])) - still).max() < 1e-9, (
        "nothing of it is seen"
    )
    own = rows.box(1, laid(window, 1))
    line = QPointF(rows.scale.x(140), own.top() + 5)
    QTest.mouseDClick(rows, LEFT, NONE, line.toPoint())
    QTest.mouseRelease(rows, LEFT, NONE, line.toPoint())
    assert np.allclose(laid(window, 1).weight.frames, [0, 4, 19])
    window.session.go_to(140)
    field = panel.rows["weight"].field
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "40")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert np.allclose(laid(window, 1).weight.values, [0, 1, 0.4]), "the key on this frame"
    window.session.go_to(101)
    window.run("clip.weight")
    assert len(laid(window, 1).weight) == 3, "where it does not lie it is not weighed"
    for _ in range(2):
        rows.weight.take_away(0)
    assert len(laid(window, 1).weight) == 1 and laid(window, 1).weight.values[0] == pytest.approx(0.4)
    for _ in range(6):
        window.run("edit.undo")
    assert not len(laid(window, 1).weight)
    window.pictures.begin()
    qtbot.waitUntil(lambda: not panel.list.item(0).icon().isNull(), timeout=20000)


def test_a_stretch_becomes_keys_and_chosen_keys_count_instead(window: Window) -> None:
    _, panel = put(window, walked())
    session = window.session
    before = session.shot
    session.do("Range", lambda shot: replace(shot, second=(110.0, 120.0)))
    window.run("clip.to_keys_all")
    assert session.shot.lanes("porter"), "clips lie on outside the second range"
    frames = np.arange(102.0, 190.0)
    assert np.abs(places(session.shot, "porter", frames) - places(before, "porter", frames)).max() < 2e-3
    keys = set(bv.keys(session.shot, "porter", "hips/up"))
    assert {float(f) for f in range(110, 121)} <= keys
    window.run("edit.undo")
    assert not panel.instead.isVisible(), "nothing is chosen"
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control("head")])
    session.go_to(115)
    assert panel.instead.isVisible() and not panel.instead.isChecked()
    head = session.stance().values[list(rig.span(rig.control("head")))]
    QTest.mouseClick(panel.instead, LEFT)
    assert panel.instead.isChecked() and "head/turn" in session.shot.take.of("porter").instead
    assert np.abs(session.stance().values[list(rig.span(rig.control("head")))] - head).max() < 1e-9
    QTest.mouseClick(panel.instead, LEFT)
    assert not session.shot.take.of("porter").instead and not panel.instead.isChecked()


def test_what_takes_long_is_worked_out_beside_the_window(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    shot = walked()
    put(window, shot)
    where: list[bool] = []
    work = to_keys.clips_to_keys
    monkeypatch.setattr(
        to_keys, "clips_to_keys", lambda *a, **k: where.append(current_thread() is main_thread()) or work(*a, **k)
    )
    window.run("clip.to_keys")
    assert where == [False]
    assert not window.session.shot.lanes("porter") and window.session.document.undo_stack.count() == 1
    window.session.document.undo_stack.undo()
    assert window.session.shot.lanes("porter") == shot.lanes("porter")


def test_lanes_are_silenced_and_clips_taken_off_named_and_forgotten(window: Window) -> None:
    rows, panel = put(window, walked())
    QTest.mouseClick(rows, LEFT, NONE, rows.ear(0).center().toPoint())
    assert window.session.shot.lanes("porter")[0].muted
    assert np.ptp(places(window.session.shot, "porter", EVERY), axis=0).max() == 0
    QTest.mouseClick(rows, LEFT, NONE, rows.ear(0).center().toPoint())
    assert not window.session.shot.lanes("porter")[0].muted
    names = [panel.list.item(n).text() for n in range(panel.list.count())]  # type: ignore[union-attr]
    item = panel.list.item(names.index("walk"))
    assert item is not None
    item.setText("trudge")
    assert laid(window).clip == "trudge" and bv.clips(window.session.shot) == ["nod", "run", "trudge"]
    QTest.mouseClick(rows, LEFT, NONE, middle(rows, window).toPoint())
    rows.setFocus()
    QTest.keyClick(rows, Qt.Key.Key_Delete)
    assert not window.session.shot.lanes("porter") and "trudge" in bv.clips(window.session.shot)
    window.run("edit.undo")
    window.session.shelf.choose_clip("trudge")
    QTest.mouseClick(panel.forget, LEFT)
    assert not window.session.shot.lanes("porter") and "trudge" not in bv.clips(window.session.shot)
    window.run("edit.undo")
    assert laid(window).clip == "trudge"


def test_what_is_posed_over_clips_is_where_it_was_put(window: Window) -> None:
    put(window, walked())
    session = window.session
    session.go_to(120)
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control("head")])
    window.run("pass.cycle")
    from bovrin.craft.keying.edits import Scope, edited
    from bovrin.desk.state.document.editing import commit_edit

    wanted = 0.4
    i = rig.channel("head/turn")
    style = session.keying.style_in(session.pass_)
    commit_edit(session, "Turn", edited(session.shot, "porter", 120, {i: wanted}, Scope.TOUCHED, style))
    assert session.stance().values[i] == pytest.approx(wanted)
    window.grab()


def test_the_shelf_of_nobody_and_of_a_crate_is_calm(window: Window) -> None:
    rows, panel = put(window, walked())
    window.session.choose("")
    window.grab()
    window.session.replace(bv.demo(), None)
    window.session.choose("crate")
    window.run("clip.lay")
    window.run("clip.fade")
    window.run("clip.remove")
    window.run("clip.forget")
    window.grab()
    assert not window.session.document.undo_stack.count() and rows.needed_height() > 0 and panel.empty.isVisible()


def test_clips_of_another_project_come_in(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    other = tmp_path / "other.bovrin.json"
    bv.save(clips(), other)
    said: list[str] = []
    window.session.voice.failed.connect(said.append)
    _, panel = put(window, alone("porter"))
    monkeypatch.setattr(window.ask, "file_to_open", lambda *_: other)
    before = window.session.shot
    QTest.mouseClick(panel.bring, LEFT)
    assert [clip.name for clip in window.session.shot.clips] == ["nod", "run", "walk"]
    assert panel.list.count() == 3
    window.run("edit.undo")
    assert window.session.shot is before
    other.write_text(other.read_text()[:-400])
    QTest.mouseClick(panel.bring, LEFT)
    assert said and window.session.shot is before, "a cut-off file is told, and changes nothing"


def test_motions_of_a_file_come_in_as_clips(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    said: list[str] = []
    window.session.voice.told.connect(said.append)
    window.session.voice.failed.connect(said.append)
    moving, cut = tmp_path / "in a hurry.glb", tmp_path / "cut.glb"
    bv.export(replace(bv.open_loop(cycle_of("porter", "walk", 20, 0.9), "porter"), last=121.0), moving)
    cut.write_bytes(moving.read_bytes()[:7000])
    _, panel = put(window, alone("porter"))
    window.session.choose("")
    monkeypatch.setattr(window.ask, "file_to_open", lambda *_: moving)
    QTest.mouseClick(panel.bring, LEFT)
    assert "Choose the figure" in said[-1] and not window.session.shot.clips
    window.session.choose("porter")
    QTest.mouseClick(panel.bring, LEFT)
    assert [clip.name for clip in window.session.shot.clips] == ["in a hurry"] and "1 clip" in said[-1]
    assert len(window.session.shot.cast) == 1 and window.session.shot.clips[0].loops
    monkeypatch.setattr(window.ask, "file_to_open", lambda *_: cut)
    before = window.session.shot
    QTest.mouseClick(panel.bring, LEFT)
    assert window.session.shot is before and "cut.glb" in said[-1]
    window.run("edit.undo")
    assert not window.session.shot.clips


@pytest.mark.parametrize(("button", "left"), [("Keep them on top", True), ("Keep them instead", True), ("", False)])
def test_keys_that_give_way_are_told_and_can_be_kept(window: Window, button: str, left: bool) -> None:
    shot = bv.set_values(clips(), "porter", 101.0, {"hips/up": 3.0, "head/turn": 20.0})
    put(window, shot)
    before = window.session.shot
    window.session.go_to(101)
    window.run("clip.lay")
    count = window.session.document.undo_stack.count()
    assert "gave way to" in window.notice.label.text()
    if button:
        choice = next(b for b in window.notice.buttons if b.text() == button)
        QTest.mouseClick(choice, LEFT)
    assert window.session.document.undo_stack.count() == count
    assert bool(bv.keys(window.session.shot, "porter", "head/turn")) == left
    assert bool(window.session.shot.take.of("porter").instead) == (button == "Keep them instead")
    window.session.document.undo_stack.undo()
    assert window.session.shot is before
