"""Overlap by the mouse: the chain that is chosen, in its order, and holds that stay alive."""

import numpy as np
import pytest
from PyQt6.QtCore import QModelIndex, QPointF
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.craft.keying.lag import lags_at
from bovrin.desk.panels.overlap_panel import OverlapPanel
from bovrin.desk.strip.words import hover_words
from bovrin.desk.window import Window


@pytest.fixture
def overlap(window: Window) -> OverlapPanel:
    window.run("motion.spline_all")
    window.run("pass.polish")
    found = window.right.open("overlap")
    assert isinstance(found, OverlapPanel)
    session = window.session
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control(name) for name in ("spine", "chest", "neck", "head")])
    session.go_to(119)
    QApplication.processEvents()
    return found


def late(panel: OverlapPanel, channel: str, frame: float = 119) -> float:
    shot = panel.session.shown
    return float(lags_at(shot.curves("porter"), frame)[shot.figure("porter").rig.channel(channel)])


def test_the_chain_is_named_and_delayed_live_as_one_step(overlap: OverlapPanel, hand: Hand) -> None:
    session, slider = overlap.session, overlap.rows["delay"].slider
    assert overlap.chain.text() == "spine > chest > neck > head"
    before = session.shot
    hand.press(slider, QPointF(slider.x_of(0.5), 10))
    hand.move(slider, QPointF(slider.x_of(0.62), 10))
    link = late(overlap, "chest/turn")
    assert 0.5 < link < 1.0 and late(overlap, "head/turn") == pytest.approx(3 * link)
    assert session.shot is before
    hand.release(slider, QPointF(slider.x_of(0.62), 10))
    assert late(overlap, "head/turn") == pytest.approx(3 * link) and late(overlap, "spine/turn") == 0
    assert session.document.undo_stack.undoText() == "Delay" and overlap.rows["delay"].share() == 0
    session.document.undo_stack.undo()
    assert session.shot is before


def test_drag_and_overshoot_leave_poses(overlap: OverlapPanel) -> None:
    session = overlap.session
    for name in ("drag", "overshoot"):
        before = session.shot
        overlap.rows[name].typed.emit(80)
        assert session.shot is not before, name
        for frame in (109.0, 119.0, 127.0, 133.0):
            now = script.values(session.shot, "porter", frame)
            assert now == pytest.approx(script.values(before, "porter", frame), abs=1e-6)


def test_without_a_chain_it_says_how_to_choose_one(overlap: OverlapPanel) -> None:
    overlap.session.choose("porter", [overlap.session.controls[0]])
    assert "Shift and click" in overlap.chain.text() and not overlap.rows["delay"].isEnabled()
    assert overlap.rows["drift on"].isEnabled()


def test_a_held_pose_drifts_and_the_stop_is_broken_up(overlap: OverlapPanel) -> None:
    session = overlap.session
    session.choose("porter")
    session.go_to(143)
    assert "Hold from 143 to 160" in overlap.span.text()
    before = session.shot
    overlap.rows["drift on"].typed.emit(10)
    assert session.document.undo_stack.undoText() == "Drift on"
    one, two = (script.sample(s, "porter", np.arange(143.0, 161)) for s in (before, session.shot))
    head, foot = one.joints.index("head"), one.joints.index("left foot")
    assert np.abs(two.position[:, head] - one.position[:, head]).max() > 0.002
    assert np.abs(two.position[:, foot] - one.position[:, foot]).max() < 1e-4
    session.document.undo_stack.undo()
    session.go_to(127)
    overlap.break_up.click()
    assert late(overlap, "hips/up", 127) == -1 and late(overlap, "left index/curl", 127) == 1


def test_the_chain_s_order_is_dragged(overlap: OverlapPanel) -> None:
    session, order = overlap.session, overlap.order
    assert order.names() == ["spine", "chest", "neck", "head"]
    model = order.model()
    assert model is not None and model.moveRow(
        QModelIndex(), 3, QModelIndex(), 0
    )  # what a drag of the last row to the top does
    QApplication.processEvents()
    rig = session.shot.figure("porter").rig
    assert [rig.controls[c].name for c in session.controls] == ["head", "spine", "chest", "neck"]
    assert overlap.chain.text() == "head > spine > chest > neck"
    overlap.rows["delay"].typed.emit(0.5)
    assert (late(overlap, "head/turn"), late(overlap, "neck/turn")) == (0, 1.5)
    session.choose("porter", [rig.control("head")])
    assert order.isHidden()


def test_the_chart_says_how_late_parts_are(overlap: OverlapPanel, window: Window) -> None:
    overlap.rows["delay"].typed.emit(0.5)
    rows = {(frame, part): lag for frame, part, lag in window.strip.places.chart.lags()}
    assert rows[(119.0, "head")] == pytest.approx(1.5) and rows[(119.0, "body")] == pytest.approx(0.5)
    window.run("pass.block")
    QApplication.processEvents()
    strip = window.strip
    at = QPointF(strip.scale.x(120.5) + 8, strip.places.chart_top() + 5)
    assert "head +1.5" in hover_words(strip.places, at)[1]


def test_a_drift_is_dragged_on_the_stage(overlap: OverlapPanel, window: Window, hand: Hand) -> None:
    session, stage = window.session, window.stage.main
    session.choose("porter", ())
    session.go_to(150)
    before = session.shot
    feet = script.sample(before, "porter", [150, 158]).position
    overlap.by_hand.click()
    centre = QPointF(stage.width() / 2, stage.height() / 2)
    hand.drag(stage, centre, centre + QPointF(0, 14))
    assert session.document.undo_stack.undoText() == "Drift by hand", window.notice.label.text()
    motion = script.sample(session.shot, "porter", [150, 158])
    hips, foot = motion.joints.index("hips"), motion.joints.index("left foot")
    down = motion.position[1, hips, 1] - feet[1, hips, 1]
    assert -0.12 < down < -0.005 and np.abs(motion.position[:, foot] - feet[:, foot]).max() < 1e-4
    session.document.undo_stack.undo()
    assert session.shot is before
    overlap.by_hand.click()
    hand.press(stage, centre)
    hand.move(stage, centre + QPointF(0, 30))
    assert session.seen is not session.shot and stage.cancel_drag() and session.seen is session.shot
    overlap.by_hand.click()
    assert stage.cancel_drag() and not stage.way.what
