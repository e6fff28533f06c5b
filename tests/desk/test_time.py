"""Range and speed, playing there and back, frames in front, spans by strength."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from tests.desk.conftest import Hand, let_go, open_panel
from tests.desk.test_playback import Clock, after

from bovrin.craft.ranges import set_rate, set_second
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.player import BACK_AND_FORTH, ONCE, Player, frame_after
from bovrin.desk.strip.layout import RULER
from bovrin.desk.window import Window
from bovrin.shot import Shot

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.mark.parametrize("rate", [12, 24, 25, 29.97, 48, 60])
def test_it_plays_at_true_speed_at_any_rate(demo: Shot, qapp, rate: float) -> None:  # type: ignore[no-untyped-def]
    session = Session(set_rate(demo, rate))
    player = Player(session, Clock())
    player.play()
    assert after(player, 0.5) == 101 + int(0.5 * rate)
    let_go(session)


def test_once_stops_at_the_end_and_back_and_forth_turns(demo: Shot, qapp) -> None:  # type: ignore[no-untyped-def]
    session = Session(set_second(demo, (110.0, 113.0)))
    player = Player(session, Clock())
    player.second = True
    player.set_mode(BACK_AND_FORTH)
    player.play()
    seen = [session.frame] + [after(player, 1 / 24 + 1e-9) for _ in range(7)]
    assert seen == [110, 111, 112, 113, 112, 111, 110, 111]
    player.set_mode(ONCE)
    player.stop()
    session.go_to(111)
    player.play()
    assert [after(player, 1 / 24 + 1e-9) for _ in range(3)] == [112, 113, 113] and not session.playing
    let_go(session)


@pytest.mark.parametrize("mode", ["in a loop", "once", "back and forth"])
def test_one_frame_plays_too(mode: str) -> None:
    assert [frame_after(n, 0, 1, mode) for n in range(4)] == [0, 0, 0, 0]


def test_the_range_is_dragged_and_shift_keeps_a_second_one(window: Window, hand: Hand) -> None:
    scale, y = window.bottom.scale, RULER - 4
    hand.drag(window.strip, QPointF(scale.x(160), y), QPointF(scale.x(150), y))
    assert (window.session.shot.first, window.session.shot.last) == (101, 150)
    hand.drag(window.strip, QPointF(scale.x(120), 6), QPointF(scale.x(130), 6), SHIFT)
    assert window.session.shot.second == (120, 130)
    hand.drag(window.strip, QPointF(scale.x(130), y), QPointF(scale.x(136), y))
    assert window.session.shot.second == (120, 136)
    window.run("time.second")
    assert window.player.range() == (120, 136)
    window.session.document.undo_stack.undo()
    window.session.document.undo_stack.undo()
    assert window.session.shot.second is None and window.player.range() == (101, 150)


def test_range_and_speed_by_number(window: Window) -> None:
    window.run("time.settings")
    sheet = window.opening.time
    assert sheet is not None and sheet.isVisible()
    sheet.last.taken.emit(143.0)
    sheet.rates.button("12").click()
    assert window.session.shot.last == 143 and window.session.shot.frame_rate == 12
    assert "43 frames · 3.58 s" in sheet.length.text() and "12 fps" in window.status.time.text()
    sheet.first.taken.emit(500.0)
    assert window.session.shot.first == 101 and "before it begins" in window.notice.label.text()
    sheet.hide()


def test_frames_in_front_never_go_below_nought(window: Window) -> None:
    window.run("time.settings")
    sheet = window.opening.time
    assert sheet is not None
    for _ in range(10):
        sheet._on_front()
    shot = window.session.shot
    assert shot.first == 0 and shot.last == 160 + 19 and window.session.poses.cards.frames[0] == 120
    sheet.hide()


def test_the_current_frame_is_typed(window: Window) -> None:
    field = window.bottom.transport.frame
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "120+7")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.session.frame == 127 and field.text() == "127"
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "soon")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.session.frame == 127 and "not a number" in window.notice.label.text()


def test_a_span_eases_by_strengths(window: Window, hand: Hand) -> None:
    window.run("pass.spline")
    window.session.go_to(136)
    panel = open_panel(window, "span")
    assert "133 to 143" in panel.words.text() and panel.kind.button("held").isChecked()
    panel.kind.button("eased").click()
    for row, percent in ((panel.out, "80"), (panel.into, "0")):
        row.box.setFocus()
        QTest.keyClicks(row.box, percent)
        QTest.keyClick(row.box, Qt.Key.Key_Return)
    values = [window.session.shot.curves("porter")]
    from bovrin.motion.evaluate import channel_values

    rig = window.session.shot.figure("porter").rig
    up = channel_values(values[0], rig, np.arange(133, 144))[:, rig.channel("hips/forward")]
    shares = (up - up[0]) / (up[-1] - up[0])
    assert shares[3] < 0.15 and 1 - shares[9] > 0.1, "slow out, straight in"
    window.session.go_to(110)
    window.session.go_to(136)
    assert panel.out.box.value() == pytest.approx(80) and panel.into.box.value() == pytest.approx(0)
    panel.kind.button("held").click()
    assert not panel.out.isEnabled()


def test_holds_and_moves_stand_under_the_cards(window: Window) -> None:
    rows = window.strip.places.holds.stretches(None)
    assert sum(s.frames for s in rows) == 60 and [s.frames for s in rows if not s.moving][:2] == [8, 4]
    assert window.strip.places.holds.words(None).startswith("Held ")
