import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from tests.desk.conftest import Hand

from bovrin.desk.commands.spans import spline_span
from bovrin.desk.window import Window
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, HandleKind


@pytest.fixture
def desk(window: Window):  # type: ignore[no-untyped-def]
    window.run("motion.spline_all")
    window.run("pass.spline")
    rig = window.session.shot.figure("porter").rig
    window.session.choose("porter", [rig.control("left hand")])
    from PyQt6.QtWidgets import QApplication

    QApplication.processEvents()
    return window.curves.desk


def up(window: Window) -> Curve:
    rig = window.session.shot.figure("porter").rig
    return window.session.shown.curves("porter")[rig.channel("left hand/up")]


def row_of(desk, words: str):  # type: ignore[no-untyped-def]
    return next(r for r in desk.plot.rows() if r.words == words)


def test_it_lists_the_channels_of_the_chosen_control(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    assert [r.words for r in desk.plot.rows()] == ["across", "up", "forward", "turn", "tilt", "roll", "reach", "anchor"]
    window.session.choose("porter", [])
    assert desk.plot.rows() == []


def alone(window: Window, hand: Hand, desk, words: str) -> None:  # type: ignore[no-untyped-def]
    from bovrin.desk.curves.channel_list import ROW, TOP

    index = [r.words for r in desk.plot.rows()].index(words)
    hand.click(desk, QPointF(40, TOP + index * ROW + ROW / 2))


def test_a_key_is_dragged_in_time_and_value(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    alone(window, hand, desk, "up")
    assert [r.words for r in desk.plot.shown_rows()] == ["up"]
    start = desk.plot.key_point(row_of(desk, "up"), 4)
    width = window.bottom.scale.per_frame
    value = up(window).values[4]
    end_value = desk.plot.value_at(start.y() - 30) / 100
    hand.drag(desk, start, start + QPointF(2 * width, -30))
    assert up(window).frames.tolist() == [101, 109, 114, 119, 129, 133, 143]
    assert up(window).values[4] == pytest.approx(end_value, abs=1e-6) and end_value > value
    window.session.document.undo_stack.undo()
    assert up(window).values[4] == value


def test_a_handle_bends_the_curve(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    alone(window, hand, desk, "up")
    row = row_of(desk, "up")
    hand.click(desk, desk.plot.key_point(row, 5))
    handle = desk.plot.handle_points(row, 5)["out"]
    before = float(curve_values(up(window), [137])[0])
    hand.drag(desk, handle, handle + QPointF(0, -40))
    assert up(window).out_kind[5] == HandleKind.BY_HAND
    assert float(curve_values(up(window), [137])[0]) > before + 0.01
    assert window.session.document.undo_stack.undoText() == "Bend a curve"
    tip = desk.plot.handle_points(row, 5)["out"]
    assert (tip - handle - QPointF(0, -40)).manhattanLength() < 2


def test_double_click_lets_a_handle_find_its_slope(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    test_a_handle_bends_the_curve(window, hand, desk)
    at = desk.plot.handle_points(row_of(desk, "up"), 5)["out"]
    hand.double_click(desk, at)
    assert up(window).out_kind[5] == HandleKind.NO_OVERSHOOT


@pytest.mark.parametrize("word", ["smooth", "flat", "linear", "stepped", "by hand", "no overshoot"])
def test_handle_kinds_as_buttons(window: Window, hand: Hand, desk, word: str) -> None:  # type: ignore[no-untyped-def]
    hand.click(desk, desk.plot.key_point(row_of(desk, "up"), 3))
    window.curves.handles.kinds.button(word).click()
    (channel,) = desk.plot.chosen_indices()
    chosen = window.session.shot.curves("porter")[channel]
    assert HandleKind(int(chosen.out_kind[3])).name.lower().replace("_", " ") == word


def test_split_and_free_handles(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    alone(window, hand, desk, "up")
    row = row_of(desk, "up")
    hand.click(desk, desk.plot.key_point(row, 4))
    window.curves.handles.split.click()
    window.curves.handles.free.click()
    assert not up(window).joined[4] and up(window).free[4]
    handle = desk.plot.handle_points(row, 4)["out"]
    inward = up(window).in_slope[4], up(window).in_kind[4]
    hand.drag(desk, handle, handle + QPointF(18, -20))
    assert (up(window).in_slope[4], up(window).in_kind[4]) == inward
    assert up(window).out_length[4] > 2.2
    window.curves.handles.split.click()
    assert up(window).joined[4]


def test_a_box_chooses_keys_and_del_removes_them(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    alone(window, hand, desk, "up")
    scale = window.bottom.scale
    hand.drag(desk, QPointF(scale.x(116), desk.height() - 3), QPointF(scale.x(130), 3))
    assert set(window.session.keys.frames().tolist()) == {119, 127}
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Delete)
    assert up(window).frames.tolist() == [101, 109, 114, 133, 143]
    assert 119 in window.session.poses.cards.frames


def test_shift_adds_keys_and_moves_them_together(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    alone(window, hand, desk, "up")
    row = row_of(desk, "up")
    hand.click(desk, desk.plot.key_point(row, 3))
    hand.click(desk, desk.plot.key_point(row, 4), Qt.KeyboardModifier.ShiftModifier)
    values = up(window).values.copy()
    at = desk.plot.key_point(row, 4)
    hand.drag(desk, at, at + QPointF(0, -25))
    moved = up(window).values - values
    assert moved[3] == pytest.approx(moved[4]) and moved[3] > 0.005 and np.count_nonzero(moved) == 2


def test_a_drag_on_the_curves_can_be_put_back(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    shot = window.session.shot
    at = desk.plot.key_point(row_of(desk, "up"), 4)
    hand.press(desk, at)
    hand.move(desk, at + QPointF(30, -30))
    assert window.session.document.previewing
    desk.setFocus()
    hand.key(Qt.Key.Key_Escape)
    hand.release(desk, at + QPointF(30, -30))
    assert window.session.shot is shot and set(window.session.keys.frames().tolist()) == {127}


def test_fit_shows_every_value(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    desk._low, desk._high = 1000, 1001
    desk.plot.fit()
    for row in desk.plot.shown_rows():
        for value in desk.plot.curve(row.channel).values:
            assert 0 <= desk.plot.y_of(value * row.factor) <= desk.height()


def test_held_or_eased_by_button(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    window.session.go_to(121)
    window.run("motion.step_span")
    assert up(window).out_kind.tolist() == [1, 1, 1, HandleKind.STEPPED, 1, 1, 1]
    spline_span(window.session)
    assert (up(window).out_kind != HandleKind.STEPPED).all()
    window.run("motion.step_all")
    assert (up(window).out_kind == HandleKind.STEPPED).all()
