"""Where a figure looks, in the window: the ring before its eyes dragged, a place clicked, blinks and held gazes by command."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication
from tests.craft.pose.test_gaze import off
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.desk.window import Window
from bovrin.figure.staging import stance


@pytest.fixture
def eyed(window: Window) -> Window:
    """The porter before the view, one of his eyes chosen."""
    session = window.session
    session.go_to(101)
    window.stage.look_at_figure("front")
    session.choose("porter", [session.shot.figure("porter").rig.control("left eye")])
    QApplication.processEvents()
    return window


def test_the_ring_is_dragged_and_both_eyes_go_along_as_one_step(eyed: Window, hand: Hand) -> None:
    session, stage = eyed.session, eyed.stage.main
    found = stage.gaze.target()
    assert found is not None
    before = stance(session.shot, "porter", 101).values.copy()
    steps = session.document.undo_stack.count()
    hand.drag(stage, found[2], found[2] + QPointF(30, 12))
    assert session.document.undo_stack.count() == steps + 1
    rig = session.shot.figure("porter").rig
    now = stance(session.shot, "porter", 101).values
    moved = {rig.channel_names[i] for i in np.flatnonzero(np.abs(now - before) > 1e-6)}
    assert {"left eye/turn", "right eye/turn", "left eye/tilt", "right eye/tilt"} <= moved
    assert {name.split("/")[0] for name in moved} <= {"left eye", "right eye", "left lid", "right lid"}
    again = stage.gaze.target()
    assert again is not None and abs(again[2].x() - found[2].x() - 30) < 12
    eyed.run("edit.undo")
    assert np.array_equal(stance(session.shot, "porter", 101).values, before)
    hand.drag(stage, found[2], found[2] + QPointF(60, 0), keys=Qt.KeyboardModifier.AltModifier)
    assert (
        abs(stance(session.shot, "porter", 101).values[rig.channel("head/turn")] - before[rig.channel("head/turn")])
        > 0.01
    )


def test_a_click_says_where_it_looks_also_at_another_figure(eyed: Window, hand: Hand) -> None:
    session, stage = eyed.session, eyed.stage.main
    crate = script.sample(session.shot, "crate", [101]).position[0, 0]
    eyed.run("gaze.look")
    at = stage.scene.on_screen(crate + [0, 0.15, 0])
    hand.click(stage, at)
    assert not stage.gaze.on and session.document.undo_stack.undoText() == "Look there"
    looks = off(session.shot, "porter", 101, crate)
    assert max(looks) < 12 and max(looks) < max(off(script.demo(), "porter", 101, crate))
    eyed.run("gaze.look")
    assert stage.cancel_drag() and not stage.gaze.on


def test_blinks_and_held_gazes(eyed: Window) -> None:
    session = eyed.session
    session.commit("Spline", script.splined(session.shot, "porter"))
    session.go_to(145)
    eyed.run("gaze.blink")
    assert script.values(session.shot, "porter", 147)["left lid/close"] > 100
    session.go_to(123)
    eyed.run("gaze.hold")
    assert session.document.undo_stack.undoText() == "Hold the gaze"
    session.choose("crate")
    eyed.run("gaze.blink")
    assert "has no lids" in eyed.notice.label.text()
    eyed.run("gaze.look")
    assert "does not apply" in eyed.notice.label.text()


def test_the_gaze_is_turned_on_dragged_and_off_without_a_jump(eyed: Window, hand: Hand) -> None:
    session, stage = eyed.session, eyed.stage.main
    rig = session.shot.figure("porter").rig
    before = stance(session.shot, "porter", 101).world
    eyed.run("gaze.on")
    assert [rig.controls[c].name for c in session.controls] == ["gaze"]
    now = stance(session.shot, "porter", 101)
    assert now.values[rig.channel("gaze/look")] == 1
    eyes = [rig.joint("left eye"), rig.joint("right eye")]
    assert np.abs(now.world[eyes, :3, :3] - before[eyes, :3, :3]).max() < 0.12, (
        "they look where they looked, and meet there"
    )
    found = stage.gaze.target()
    assert found is not None
    hand.drag(stage, found[2], found[2] + QPointF(25, 10))
    place = stage.gaze.target()
    assert place is not None and max(off(session.shot, "porter", 101, place[1])) < 0.1
    session.do("Turn", lambda shot: script.set_values(shot, "porter", 101, {"head/turn": 12, "neck/tilt": 6}))
    assert max(off(session.shot, "porter", 101, place[1])) < 0.1, "whatever the head does"
    seen = stance(session.shot, "porter", 101).world[eyes]
    eyed.run("gaze.on")
    after = stance(session.shot, "porter", 101)
    assert after.values[rig.channel("gaze/look")] == 0
    assert np.abs(after.world[eyes] - seen).max() < 1e-6
