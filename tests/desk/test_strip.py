import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand
from tests.strategies import chain_figure

from bovrin import script
from bovrin.craft.keying.lag import poses
from bovrin.desk.strip.view import RULER
from bovrin.desk.window import Window
from bovrin.shot import Shot


def frames(window: Window) -> list[float]:
    return [float(f) for f in poses(window.session.shot, "porter").frames]


def card(window: Window, frame: float):  # type: ignore[no-untyped-def]
    return dict(window.strip.places.card_rects())[frame]


def test_a_card_is_as_wide_as_its_pose_is_held(window: Window) -> None:
    widths = [rect.width() + 2 for _, rect in window.strip.places.card_rects()]
    held = [8, 5, 5, 8, 6, 10, 18]
    assert np.allclose(np.array(widths) / window.bottom.scale.per_frame, held, atol=0.01)


def test_the_whole_range_is_in_sight(window: Window) -> None:
    scale = window.bottom.scale
    assert scale.x(101) > 150 and scale.x(161) <= window.strip.width()
    assert scale.x(161) > window.strip.width() * 0.9


def test_dragging_an_edge_holds_longer_and_moves_the_rest(window: Window, hand: Hand) -> None:
    rect, width = card(window, 119), window.bottom.scale.per_frame
    edge = QPointF(rect.right() - 2, rect.center().y())
    hand.drag(window.strip, edge, edge + QPointF(4 * width, 0))
    assert frames(window) == [101, 109, 114, 119, 131, 137, 147]
    assert window.session.document.undo_stack.count() == 1
    window.session.document.undo_stack.undo()
    assert frames(window) == [101, 109, 114, 119, 127, 133, 143]


def test_dragging_a_card_moves_one_pose(window: Window, hand: Hand) -> None:
    at, width = card(window, 133).center(), window.bottom.scale.per_frame
    hand.drag(window.strip, at, at + QPointF(-3 * width, 0))
    assert frames(window) == [101, 109, 114, 119, 127, 130, 143]
    at = card(window, 130).center()
    hand.drag(window.strip, at, at + QPointF(-30 * width, 0))
    assert frames(window)[5] == 128


@pytest.mark.parametrize("how", ["escape", "right button"])
def test_a_drag_on_the_strip_can_be_put_back(window: Window, hand: Hand, how: str) -> None:
    shot, at = window.session.shot, card(window, 133).center()
    hand.press(window.strip, at)
    hand.move(window.strip, at + QPointF(60, 0))
    assert window.session.document.previewing
    if how == "escape":
        window.strip.setFocus()
        hand.key(Qt.Key.Key_Escape)
    else:
        hand.press(window.strip, at, Qt.MouseButton.RightButton)
    hand.release(window.strip, at + QPointF(60, 0))
    assert window.session.shot is shot and not window.session.document.previewing


def test_a_click_goes_to_the_pose_and_the_ruler_scrubs(window: Window, hand: Hand) -> None:
    hand.click(window.strip, card(window, 127).center())
    assert window.session.frame == 127
    scale = window.bottom.scale
    hand.drag(window.strip, QPointF(scale.x(105), 6), QPointF(scale.x(150), 6))
    assert window.session.frame == 150
    lane = QPointF(scale.x(119) + 3, window.strip.places.lanes_top() + 20)
    hand.click(window.strip, lane)
    assert window.session.frame == 119
    assert window.session.document.undo_stack.count() == 0


def test_arrows_step_by_frame_and_by_pose(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    for key, frame in (
        (Qt.Key.Key_Right, 102), (Qt.Key.Key_Down, 109), (Qt.Key.Key_Down, 114), (Qt.Key.Key_Up, 109), (Qt.Key.Key_Left, 108),
        (Qt.Key.Key_End, 160), (Qt.Key.Key_Up, 143), (Qt.Key.Key_Home, 101), (Qt.Key.Key_Left, 101),
    ):  # fmt: skip
        hand.key(key)
        assert window.session.frame == frame


def test_keys_hold_lengthen_and_remove(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    window.session.go_to(119)
    hand.key(Qt.Key.Key_Plus)
    assert frames(window) == [101, 109, 114, 119, 128, 134, 144]
    hand.key(Qt.Key.Key_Minus)
    hand.key(Qt.Key.Key_Minus)
    assert frames(window) == [101, 109, 114, 119, 126, 132, 142]
    window.session.go_to(123)
    hand.key(Qt.Key.Key_H)
    assert 123 in frames(window)
    hand.key(Qt.Key.Key_Delete)
    assert 123 not in frames(window)
    hand.key(Qt.Key.Key_Delete)
    assert "no pose on this frame" in window.notice.label.text()


def test_pictures_come_to_the_cards(window: Window, qtbot: QtBot) -> None:
    pictures = window.pictures
    pictures.paused = False
    at = window.session.poses.cards.frames
    qtbot.waitUntil(lambda: all(p is not None for p in pictures.pictures(at)), timeout=20000)
    ready = pictures.pictures(at)
    window.session.do(
        "Hold", lambda shot: shot.with_curves("porter", window.session.shot.curves("porter").replaced({}))
    )
    assert all(a is b for a, b in zip(ready, pictures.pictures(at), strict=True))
    first, fourth = ready[0], ready[3]
    assert first is not None and fourth is not None and first != fourth


def test_wheel_with_ctrl_makes_frames_wider(window: Window) -> None:
    scale = window.bottom.scale
    at = scale.x(130)
    before = scale.per_frame
    scale.zoom(1.5, at)
    assert scale.per_frame == pytest.approx(before * 1.5) and scale.x(130) == pytest.approx(at)
    scale.pan(100)
    assert scale.x(130) == pytest.approx(at + 100)
    window.run("time.fit")
    assert scale.per_frame == pytest.approx(before)


def test_an_empty_figure_says_how_to_begin(make, qtbot: QtBot) -> None:  # type: ignore[no-untyped-def]
    window = make(Shot("Bare").with_figure(chain_figure()))
    assert window.strip.places.card_rects() == []
    window.stage.main.setFocus()
    Hand(window).key(Qt.Key.Key_K)
    assert [f for f, _ in window.strip.places.card_rects()] == [101]
    assert window.strip.height() > RULER


@pytest.mark.parametrize("late", [0.5, 2.0])
def test_up_and_down_go_by_cards_and_stop_at_no_late_head(window: Window, hand: Hand, late: float) -> None:
    """Late by half a frame the keys jammed on one frame for good; late by two they stopped where the strip shows no card."""
    window.stage.main.setFocus()
    window.session.do("Late", lambda shot: script.slide(shot, "porter", late, ["head"]))
    cards = window.session.poses.cards.frames.tolist()
    window.session.go_to(101)
    seen = []
    for _ in range(len(cards) - 1):
        hand.key(Qt.Key.Key_Down)
        seen.append(window.session.frame)
    assert seen == cards[1:]
    for frame in reversed(cards[:-1]):
        hand.key(Qt.Key.Key_Up)
        assert window.session.frame == frame
