"""The timing chart on the strip, and a shot finished on twos without a curve."""

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand
from tests.desk.test_stage import choose, joint_on_screen

from bovrin import script
from bovrin.craft.between.ladder import Ladder
from bovrin.craft.keying.lag import poses
from bovrin.desk.strip.chart_row import HEIGHT, ChartRow
from bovrin.desk.window import Window
from bovrin.shot import HandleKind, KeyRole, Shot


def ladder(window: Window, start: float) -> Ladder:
    return next(one for one in window.strip.places.chart.ladders() if one.start == start)


def at(window: Window, x: float) -> QPointF:
    return QPointF(x, window.strip.places.chart_top() + HEIGHT / 2)


def drag_rung(window: Window, hand: Hand, start: float, frame: float, share: float) -> None:
    chart, one = window.strip.places.chart, ladder(window, start)
    here = next((s for f, s in one.rungs() if f == frame), 0.0)
    hand.drag(window.strip, at(window, chart.x_of(one, here)), at(window, chart.x_of(one, share)))


def test_a_breakdown_is_favoured_anew_by_its_rung(window: Window, hand: Hand) -> None:
    one = ladder(window, 109)
    assert one.stepped and [f for f, _ in one.rungs()] == [114]
    drag_rung(window, hand, 109, 114, 0.25)
    assert script.chart(window.session.shot, "porter", 109, 119)[5] == pytest.approx(0.25, abs=0.02)
    assert (
        window.session.document.undo_stack.undoText() == "Timing chart"
        and window.session.document.undo_stack.count() == 1
    )
    found = poses(window.session.shot, "porter")
    assert found.frames.tolist() == [101, 109, 114, 119, 127, 133, 143]
    assert found.roles[2] == KeyRole.BREAKDOWN


def test_an_empty_stepped_span_gets_a_breakdown_from_its_ring(window: Window, hand: Hand) -> None:
    drag_rung(window, hand, 133, 138, 0.6)
    assert 138 in poses(window.session.shot, "porter").frames
    assert script.chart(window.session.shot, "porter", 133, 143)[5] == pytest.approx(0.6, abs=0.02)


def test_a_rung_of_an_eased_span_hits_its_share_and_leaves_the_poses(window: Window, hand: Hand) -> None:
    window.run("motion.spline_all")
    before = script.sample(window.session.shot, "porter", [133, 143]).position
    drag_rung(window, hand, 133, 137, 0.75)
    after = script.sample(window.session.shot, "porter", [133, 143]).position
    assert script.chart(window.session.shot, "porter", 133, 143)[4] == pytest.approx(0.75, abs=0.02)
    assert np.abs(after - before).max() < 1e-9


def test_a_rung_can_be_put_back(window: Window, hand: Hand) -> None:
    shot, chart = window.session.shot, window.strip.places.chart
    one = ladder(window, 109)
    start = at(window, chart.x_of(one, one.rungs()[0][1]))
    hand.press(window.strip, start)
    hand.move(window.strip, start + QPointF(-30, 0))
    assert window.session.document.previewing
    hand.key(Qt.Key.Key_Escape)
    assert window.session.shown is shot
    hand.release(window.strip, start)
    assert window.session.shot is shot


def test_charts_by_name(window: Window, hand: Hand) -> None:
    window.run("motion.spline_all")
    window.strip.apply_preset(ladder(window, 133), "slow in")
    shares = script.chart(window.session.shot, "porter", 133, 143)
    t = np.linspace(0, 1, 11)
    assert np.abs(np.array(shares) - (1 - (1 - t) ** 2)).max() < 0.01
    assert window.session.document.undo_stack.undoText() == "Chart: slow in"


def test_the_chart_is_the_chosen_part_s(window: Window, hand: Hand) -> None:
    choose(window, "head")
    assert window.strip.places.chart.part() == "head"
    hand.mouse(
        window.strip,
        QEvent.Type.MouseMove,
        at(window, window.bottom.scale.x(112)),
        Qt.MouseButton.NoButton,
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
    )
    assert "Timing chart of the head" in window.status.hint.text()


def test_a_shot_is_finished_on_twos_and_no_curve_is_touched(make, demo: Shot, qtbot: QtBot) -> None:  # type: ignore[no-untyped-def]
    bare = Shot("On twos", last=160)
    for figure in demo.cast:
        bare = bare.with_figure(figure)
    window: Window = make(bare)
    hand = Hand(window)
    session = window.session
    for frame, way in ((101, QPointF(0, 4)), (121, QPointF(0, 40)), (141, QPointF(25, 10)), (157, QPointF(-10, -12))):
        session.go_to(frame)
        choose(window, "hips")
        square = window.stage.main.handle.places.points()["square"]
        hand.drag(window.stage.main, square, square + way)
        choose(window, "head")
        dot = window.stage.main.handle.places.points()["right"]
        hand.drag(window.stage.main, dot, dot + QPointF(20 + frame - 121, 0))
    assert poses(session.shot, "porter").frames.tolist() == [101, 121, 141, 157]
    for frame in (105, 125, 145):
        session.go_to(frame)
        window.run("motion.fours")
    drag_rung(window, hand, 101, 109, 0.2)
    drag_rung(window, hand, 121, 133, 0.85)
    choose(window, "head")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    for frame in (105, 125, 145):
        session.go_to(frame)
        window.run("motion.twos")
    session.go_to(121)
    hand.key(Qt.Key.Key_Plus)
    rig = session.shot.figure("porter").rig
    hips, head = (session.shot.curves("porter")[rig.channel(c)] for c in ("hips/up", "head/turn"))
    assert 102 in head.frames and 102 not in hips.frames
    assert np.diff(hips.frames).max() <= 3 and hips.frames[-1] == 158
    assert all(
        (c.out_kind == HandleKind.STEPPED).all() and not c.free.any()
        for c in session.shot.curves("porter").curves
        if len(c)
    )
    hand.key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: session.frame not in (121.0, 122.0), timeout=20000)
    hand.key(Qt.Key.Key_Space)
    QTest.qWait(10)
    assert session.pass_.name == "Block"


def test_a_chart_waits_while_a_pose_is_dragged_and_is_right_once_it_is_let_go(window: Window, hand: Hand) -> None:
    stage, chart = window.stage.main, window.strip.places.chart
    window.session.go_to(119)
    at = joint_on_screen(window, "hips") + QPointF(0, -8)
    hand.press(stage, at)
    before = chart.ladders()
    hand.move(stage, at + QPointF(0, 20))
    hand.move(stage, at + QPointF(0, 40))
    assert window.session.document.previewing
    assert [one.shares.tolist() for one in chart.ladders()] == [one.shares.tolist() for one in before]
    hand.release(stage, at + QPointF(0, 40))
    fresh = ChartRow(window.session, chart.scale).ladders()
    assert [one.shares.tolist() for one in chart.ladders()] == [one.shares.tolist() for one in fresh]
