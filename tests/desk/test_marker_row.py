"""Markers: added, worded, dragged, listed, jumped and snapped to."""

import pytest
from PyQt6.QtCore import QPointF, Qt
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_strip import card, frames
from tests.desk.test_strip_keys import double_click, type_words

from bovrin.craft.markers import with_markers
from bovrin.desk.strip.marker_row import rows_of
from bovrin.desk.window import Window
from bovrin.shot import Marker

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def words(window: Window) -> list[tuple[float, float, str]]:
    return [(m.start, m.end, m.words) for m in window.session.shot.markers]


def place(window: Window, start: float) -> QPointF:
    row = window.strip.places.markers
    placed = next(p for p in row.placed(window.session.shot.markers) if p.marker.start == start)
    return row.rect(placed, window.strip.places.markers_top()).center()


def test_n_adds_a_marker_and_an_empty_one_is_refused(window: Window, hand: Hand) -> None:
    window.session.go_to(143)
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_N)
    type_words("sets off")
    assert (143, 143, "sets off") in words(window)
    double_click(hand, window.strip, QPointF(window.bottom.scale.x(150), window.strip.places.markers_top() + 5))
    type_words("")
    assert len(words(window)) == 3


def test_a_marker_is_dragged_by_its_ends_and_its_middle(window: Window, hand: Hand) -> None:
    width = window.bottom.scale.per_frame
    at = place(window, 103)
    hand.drag(window.strip, at, at + QPointF(5 * width, 0))
    assert words(window)[0] == (108, 112, "horn sounds")
    right = QPointF(window.bottom.scale.x(112) - 2, at.y())
    hand.drag(window.strip, right, right + QPointF(3 * width, 0))
    assert words(window)[0] == (108, 115, "horn sounds")
    hand.click(window.strip, place(window, 127))
    assert window.session.frame == 127
    hand.key(Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert window.session.frame == 108


def test_a_marker_is_worded_in_place_and_changed_by_its_menu(window: Window, hand: Hand) -> None:
    from bovrin.desk.strip.menus import marker_menu

    double_click(hand, window.strip, place(window, 103))
    type_words("the horn")
    assert words(window)[0][2] == "the horn"
    menu = marker_menu(window.strip, window.session.shot.markers[0], 103)
    next(a for a in menu.actions() if a.text() == "Section").trigger()
    assert window.session.shot.markers[0].kind == "section"
    menu.deleteLater()
    menu = marker_menu(window.strip, window.session.shot.markers[0], 103)
    next(a for a in menu.actions() if a.text() == "Remove").trigger()
    menu.deleteLater()
    assert len(words(window)) == 1


def test_the_list_follows_and_changes(window: Window) -> None:
    panel = open_panel(window, "markers")
    assert [panel.list.item(i).text() for i in range(panel.list.count())] == ["horn sounds", "crate leaves the ground"]
    panel.list.setCurrentRow(1)
    panel._go()
    assert window.session.frame == 127
    panel.end.taken.emit(140.0)
    panel.kinds.button("dialogue").click()
    panel.list.item(1).setText("up it goes")
    marker = window.session.shot.markers[1]
    assert (marker.end, marker.kind, marker.words) == (140, "dialogue", "up it goes")
    panel.end.taken.emit(100.0)
    assert "cannot end" in window.notice.label.text() and window.session.shot.markers[1].end == 140
    panel.remove.click()
    assert panel.list.count() == 1
    window.session.document.undo_stack.undo()
    assert panel.list.count() == 2


def test_cards_snap_to_markers(window: Window, hand: Hand) -> None:
    marker = Marker(138.25, 138.25, "step")
    window.session.do("Mark", lambda shot: with_markers(shot, [marker]))
    at, scale = card(window, 133).center(), window.bottom.scale
    near = QPointF(at.x() + scale.x(138.25) - scale.x(133) + 3, at.y())
    hand.drag(window.strip, at, near)
    assert 138.25 in frames(window)


@pytest.mark.parametrize("per_frame", [0.5, 18.0])
def test_markers_that_overlap_lie_in_rows_of_their_own(per_frame: float) -> None:
    many = tuple(Marker(float(f), float(f + 30), f"line {f}", "dialogue") for f in range(101, 161, 20))
    placed = rows_of((*many, Marker(101, 160, "all", "section")), per_frame)
    assert placed[0].marker.kind == "section" and placed[0].row == 0
    assert max(p.row for p in placed) == 2
