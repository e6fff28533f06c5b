"""Many cards and keys at once, and lanes that open."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_stage import choose
from tests.desk.test_strip import card, frames

from bovrin import cast
from bovrin.craft.keying.lag import poses
from bovrin.desk.strip.lanes import LANE
from bovrin.desk.window import Window
from bovrin.formats.project.store import shot_from_bytes
from bovrin.formats.project.text import shot_to_text
from bovrin.shot import KeyRole

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def mark(window: Window, lane: str, frame: float) -> QPointF:
    strip = window.strip
    index = [one.words for one in strip.places.lanes()].index(lane)
    return QPointF(window.bottom.scale.x(frame), strip.places.lane_y(index))


def keys_of(window: Window, channel: str) -> list[float]:
    rig = window.session.shot.figure("porter").rig
    return [float(f) for f in window.session.shot.curves("porter")[rig.channel(channel)].frames]


def double_click(hand: Hand, widget, at: QPointF) -> None:  # type: ignore[no-untyped-def]
    hand.double_click(widget, at)


def type_words(words: str, key: Qt.Key = Qt.Key.Key_Return) -> None:
    field = QApplication.focusWidget()
    QTest.keyClicks(field, words)
    QTest.keyClick(field, key)
    QApplication.processEvents()


def test_shift_chooses_cards_up_to_here_and_they_move_together(window: Window, hand: Hand) -> None:
    width = window.bottom.scale.per_frame
    hand.click(window.strip, card(window, 114).center())
    hand.click(window.strip, card(window, 127).center(), SHIFT)
    assert window.session.keys.cards() == {114, 119, 127}
    at = card(window, 119).center()
    hand.drag(window.strip, at, at + QPointF(2 * width, 0))
    assert frames(window) == [101, 109, 116, 121, 129, 133, 143]
    assert (
        window.session.keys.cards() == {116, 121, 129} and window.session.document.undo_stack.undoText() == "Move poses"
    )
    window.session.document.undo_stack.undo()
    assert frames(window) == [101, 109, 114, 119, 127, 133, 143]


def test_ctrl_and_click_adds_a_card_ctrl_and_drag_copies(window: Window, hand: Hand) -> None:
    width = window.bottom.scale.per_frame
    hand.click(window.strip, card(window, 101).center())
    hand.click(window.strip, card(window, 119).center(), CTRL)
    assert window.session.keys.cards() == {101, 119}
    at = card(window, 119).center()
    hand.drag(window.strip, at, at + QPointF(32 * width, 0), CTRL)
    assert frames(window) == [101, 109, 114, 119, 127, 133, 143, 151]
    values = [window.session.shot.curves("porter")[5].values[n] for n in (3, -1)]
    assert values[0] == values[1]


def test_a_card_takes_the_whole_cast_along_with_shift_or_as_the_shot_has_it(window: Window, hand: Hand) -> None:
    width, session = window.bottom.scale.per_frame, window.session

    def crate() -> list[float]:
        return session.shot.curves("crate").curves[0].frames.tolist()

    before, hints = crate(), window.status.hint
    moved = [129.0 if f == 127 else f for f in before]
    assert moved != before
    at = card(window, 127).center()
    hand.press(window.strip, at)
    hand.move(window.strip, at + QPointF(2 * width, 0))
    assert "whole cast" in hints.text(), "it is offered in words"
    hand.move(window.strip, at + QPointF(2 * width, 0), keys=SHIFT)
    hand.release(window.strip, at + QPointF(2 * width, 0), keys=SHIFT)
    assert crate() == moved and frames(window) == [101, 109, 114, 119, 129, 133, 143]
    window.run("edit.undo")
    assert crate() == before
    pills = open_panel(window, "keys").takes
    pills.button("all").click()
    assert session.shot.retimes_all
    hand.drag(window.strip, at, at + QPointF(2 * width, 0))
    assert crate() == moved, "without Shift"
    again = shot_from_bytes(shot_to_text(session.shot).encode(), cast.DEMO)
    assert again.retimes_all, "it is saved with the shot"


def test_alt_on_an_edge_holds_the_chosen_part_only(window: Window, hand: Hand) -> None:
    choose(window, "head")
    rect, width = card(window, 119), window.bottom.scale.per_frame
    edge = QPointF(rect.right() - 2, rect.center().y())
    hand.drag(window.strip, edge, edge + QPointF(2 * width, 0), ALT)
    assert keys_of(window, "head/tilt")[3:] == [119, 129, 135, 145]
    assert keys_of(window, "hips/up")[3:] == [119, 127, 133, 143]


def test_a_part_that_comes_late_gets_no_card_and_stays_late(window: Window, hand: Hand) -> None:
    choose(window, "head")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Right, CTRL)
    assert keys_of(window, "head/tilt") == [102, 110, 115, 120, 128, 134, 144]
    assert [f for f, _ in window.strip.places.card_rects()] == [101, 109, 114, 119, 127, 133, 143]
    window.session.go_to(119)
    hand.key(Qt.Key.Key_Plus)
    assert keys_of(window, "head/tilt") == [102, 110, 115, 120, 129, 135, 145]
    assert keys_of(window, "hips/up") == [101, 109, 114, 119, 128, 134, 144]


def test_lanes_open_to_controls_and_channels_and_can_be_searched(window: Window, hand: Hand) -> None:
    strip = window.strip
    assert [lane.words for lane in strip.places.lanes()][:2] == ["Body", "Head"]
    hand.click(strip, QPointF(12, strip.places.lane_y(1)))
    assert [lane.words for lane in strip.places.lanes()][2:4] == ["neck", "head"]
    hand.click(strip, QPointF(24, strip.places.lane_y(3)))
    assert "tilt" in [lane.words for lane in strip.places.lanes()]
    hand.click(strip, mark(window, "tilt", 119))
    assert len(window.session.keys) == 1 and window.session.frame == 119
    hand.click(strip, QPointF(12, strip.places.lane_y(1)))
    assert len(strip.places.lanes()) == 8
    strip.lane_search.setFocus()
    QTest.keyClicks(strip.lane_search, "hand tilt")
    assert {lane.words for lane in strip.places.lanes()} == {"left hand tilt", "right hand tilt"}
    strip.lane_search.clear()
    hand.click(strip, QPointF(60, strip.places.lane_y(2)))
    part = window.session.shot.figure("porter").rig.parts[2]
    assert set(window.session.controls) == set(part.controls)


def test_many_open_lanes_scroll(window: Window, hand: Hand) -> None:
    strip = window.strip
    strip.places.open_lane("part body")
    assert strip.places.most_scrolled() > 0
    strip.places.scroll(1e6)
    assert strip.places.scrolled == strip.places.most_scrolled()
    last = len(strip.places.lanes()) - 1
    assert strip.places.lane_y(last) + LANE / 2 <= strip.height()
    strip.places.open_lane("part body")
    assert strip.places.scrolled <= strip.places.most_scrolled()


def test_a_box_over_lanes_chooses_keys_and_alt_scales_about_the_frame(window: Window, hand: Hand) -> None:
    window.session.go_to(119)
    scale = window.bottom.scale
    start = mark(window, "Left arm", 124) + QPointF(0, -6)
    hand.drag(window.strip, start, mark(window, "Right arm", 146) + QPointF(0, 6))
    assert window.session.keys.frames().tolist() == [127, 133, 143] and window.right.panel("chosen keys").isVisible()
    at = mark(window, "Left arm", 143)
    hand.drag(window.strip, at, QPointF(scale.x(131), at.y()), ALT)
    assert keys_of(window, "left hand/up")[-3:] == [123, 126, 131]
    assert keys_of(window, "left foot/up")[-2:] == [133, 143]


def test_keys_of_a_lane_move_and_stop_at_their_neighbours(window: Window, hand: Hand) -> None:
    at = mark(window, "Head", 133)
    hand.drag(window.strip, at, QPointF(window.bottom.scale.x(150), at.y()))
    assert keys_of(window, "head/tilt") == [101, 109, 114, 119, 127, 142, 143]
    assert keys_of(window, "hips/up") == [101, 109, 114, 119, 127, 133, 143]
    assert window.session.keys.frames().tolist() == [142]


def test_escape_leaves_a_box_and_a_drag(window: Window, hand: Hand) -> None:
    shot, at = window.session.shot, mark(window, "Head", 133)
    hand.press(window.strip, at)
    hand.move(window.strip, at + QPointF(80, 0), keys=CTRL)
    assert window.session.document.previewing
    hand.key(Qt.Key.Key_Escape)
    hand.release(window.strip, at)
    assert window.session.shot is shot and not window.session.document.previewing


def test_all_after_and_delete_and_roles(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    window.session.go_to(133)
    hand.key(Qt.Key.Key_Right, CTRL | SHIFT)
    assert window.session.keys.cards() == {133, 143}
    window.run("role.breakdown")
    found = poses(window.session.shot, "porter")
    assert (found.roles[-2:] == KeyRole.BREAKDOWN).all()
    hand.key(Qt.Key.Key_Delete)
    assert frames(window) == [101, 109, 114, 119, 127] and not window.session.keys
    window.session.document.undo_stack.undo()
    window.session.go_to(101)
    hand.key(Qt.Key.Key_Down, SHIFT)
    assert window.session.frame == 109
    hand.key(Qt.Key.Key_Down, CTRL)
    assert window.session.frame == 114
    hand.key(Qt.Key.Key_Down, SHIFT)
    assert window.session.frame == 119


def test_chosen_keys_by_number(window: Window, hand: Hand) -> None:
    panel = open_panel(window, "chosen keys")
    hand.click(window.strip, card(window, 127).center())
    assert not panel.isVisible(), "the card one is on needs no panel"
    hand.click(window.strip, card(window, 143).center(), SHIFT)
    assert panel.isVisible() and "127 to 143" in panel.words.text()
    panel.spread.click()
    assert frames(window)[-3:] == [127, 135, 143]
    panel.first.taken.emit(129.0)
    assert frames(window)[-3:] == [129, 137, 145]
    window.session.go_to(129)
    panel.scale.taken.emit(200.0)
    assert frames(window)[-3:] == [129, 145, 161] and window.session.shot.last == 161


def test_a_card_is_named_where_it_lies(window: Window, hand: Hand) -> None:
    double_click(hand, window.strip, card(window, 119).center())
    type_words("down he goes")
    assert [c.name for c in window.session.shot.cards("porter") if c.frame == 119] == ["down he goes"]
    window.session.go_to(109)
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_F2)
    type_words("never mind", Qt.Key.Key_Escape)
    assert [c.name for c in window.session.shot.cards("porter") if c.frame == 109] == ["notice"]


@pytest.mark.parametrize("lane", ["Body", "Head"])
def test_the_menus_of_the_strip_hold_what_applies(window: Window, hand: Hand, lane: str) -> None:
    from PyQt6.QtWidgets import QMenu

    for at in (
        card(window, 119).center(),
        mark(window, lane, 119),
        QPointF(window.bottom.scale.x(112), window.strip.places.chart_top() + 9),
    ):
        hand.press(window.strip, at, Qt.MouseButton.RightButton)
        menus = [m for m in window.strip.findChildren(QMenu) if m.isVisible()]
        assert menus and all(a.text() for a in menus[0].actions() if not a.isSeparator() and a.menu() is None)
        menus[0].close()
        QApplication.processEvents()


def test_a_card_s_menu_eases_its_span_by_a_strength(window: Window, hand: Hand) -> None:
    from bovrin.desk.strip.menus import card_menu

    menu = card_menu(window.strip, 133)
    inner = next(a.menu() for a in menu.actions() if a.text() == "Ease out")
    assert inner is not None
    next(a for a in inner.actions() if a.text() == "75%").trigger()
    curve = window.session.shot.curves("porter")[window.session.shot.figure("porter").rig.channel("hips/up")]
    at = curve.index_at(133)
    assert at is not None and curve.free[at] and not curve.joined[at]
    assert curve.out_length[at] == pytest.approx(10 * 1.75 / 3)
    menu.deleteLater()


def test_a_chart_is_copied_to_another_span(window: Window, hand: Hand) -> None:
    from bovrin import script

    window.run("motion.spline_all")
    ladders = {one.start: one for one in window.strip.places.chart.ladders()}
    window.strip.apply_preset(ladders[119], "thirds to end")
    copied = tuple(script.chart(window.session.shot, "porter", 119, 127))
    window.session.change_clipboard(chart=copied)
    window.strip.paste_chart({one.start: one for one in window.strip.places.chart.ladders()}[133])
    wanted = np.interp(np.linspace(0, 1, 11), np.linspace(0, 1, 9), copied)
    assert np.abs(np.array(script.chart(window.session.shot, "porter", 133, 143)) - wanted).max() < 0.01


def test_what_is_removed_is_what_one_sees(window: Window, hand: Hand) -> None:
    hand.click(window.strip, card(window, 119).center())
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Down)
    assert window.session.frame == 127 and not window.session.keys
    hand.key(Qt.Key.Key_Delete)
    assert frames(window) == [101, 109, 114, 119, 133, 143]


def test_escape_lets_go_of_chosen_keys(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_A, CTRL)
    assert window.session.keys
    hand.key(Qt.Key.Key_Escape)
    assert not window.session.keys and not window.right.panel("chosen keys").isVisible()
    hand.click(window.strip, card(window, 119).center())
    hand.click(window.strip, card(window, 133).center(), SHIFT)
    window.session.go_to(140)
    assert window.session.keys.cards() == {119, 127, 133}, "several stay chosen"
