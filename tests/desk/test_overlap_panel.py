"""Overlap by the mouse: the chain that is chosen, in its order, and holds that stay alive."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.craft.lag import lags_at
from bovrin.desk.panels.overlap_panel import OverlapPanel
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
