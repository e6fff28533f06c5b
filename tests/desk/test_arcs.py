"""Arcs over the stage: seen, gone along, dragged, kept."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.desk.stage.overlays.arcs import ArcDots, Drawn
from bovrin.desk.window import Window
from bovrin.errors import BadMotion
from bovrin.formats.project.store import load
from bovrin.formats.project.text import shot_to_text
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot, Spot

SHIFT, ALT = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier
FIGURE = "porter"


@pytest.fixture
def polish(window: Window) -> Window:
    window.run("motion.spline_all")
    window.run("pass.polish")
    session = window.session
    session.choose(FIGURE, [session.shot.figure(FIGURE).rig.control("left hand")])
    session.go_to(123)
    window.stage.main.setFocus()
    Hand(window).key(Qt.Key.Key_A)
    QApplication.processEvents()
    return window


def arc(window: Window, number: int = 0) -> Drawn:
    dots = next(o for o in window.stage.main.overlays if isinstance(o, ArcDots))
    return dots.drawn()[number]


def dot(window: Window, frame: float) -> QPointF:
    one = arc(window)
    x, y = one.dots[int(np.flatnonzero(one.arc.frames == frame)[0])]
    return QPointF(x, y)


def inward(window: Window, frame: float) -> QPointF:
    """A way toward the shoulder, since his arms are nearly straight."""
    shoulder = script.sample(window.session.shot, FIGURE, [frame])
    place = shoulder.position[0, shoulder.joints.index("left upper arm")]
    return (window.stage.main.scene.on_screen(place) - dot(window, frame)) * 0.2


def poses(shot: Shot, frames: np.ndarray) -> np.ndarray:
    return channel_values(shot.curves(FIGURE), shot.figure(FIGURE).rig, frames)


def keyed(shot: Shot) -> np.ndarray:
    return np.unique(np.concatenate([curve.frames for curve in shot.curves(FIGURE).curves]))


def test_a_dot_for_each_frame_around_and_a_click_goes_there(polish: Window, hand: Hand) -> None:
    session, stage = polish.session, polish.stage.main
    one = arc(polish)
    assert one.arc.frames.tolist() == list(range(111, 136))
    motion = script.sample(session.shot, FIGURE, one.arc.frames)
    assert np.allclose(one.arc.position, motion.position[:, motion.joints.index("left hand")])
    hand.move(stage, dot(polish, 131), held=Qt.MouseButton.NoButton)
    step = np.linalg.norm(one.arc.position[21] - one.arc.position[20]) * 100
    assert f"left hand on frame 131 · {step:.1f} cm to the next" in polish.status.hint.text()
    hand.click(stage, dot(polish, 131))
    assert session.frame == 131 and session.document.undo_stack.undoText() != "Drag the arc of left hand"
    panel = polish.right.panel("arcs")
    panel.span.button("shot").click()
    assert arc(polish).arc.frames.tolist() == list(session.shot.whole_frames)
    hand.key(Qt.Key.Key_A)
    assert not session.looking.arcs.on and not panel.on.isChecked()


def test_a_dot_between_poses_goes_under_the_pointer_and_every_pose_stays(polish: Window, hand: Hand) -> None:
    session, stage = polish.session, polish.stage.main
    before, at, way = session.shot, dot(polish, 130), inward(polish, 130)
    hand.drag(stage, at, at + way)
    assert (dot(polish, 130) - at - way).manhattanLength() < 1.5
    assert session.frame == 123, "the frame that is looked at stays"
    assert session.document.undo_stack.undoText() == "Drag the arc of left hand"
    assert np.array_equal(keyed(session.shot), keyed(before)), "no key comes"
    assert np.abs(poses(session.shot, keyed(before)) - poses(before, keyed(before))).max() < 1e-6
    others = [i for i, n in enumerate(session.shot.figure(FIGURE).rig.channel_names) if not n.startswith("left hand/")]
    assert all(session.shot.curves(FIGURE)[i] is before.curves(FIGURE)[i] for i in others)
    session.document.undo_stack.undo()
    assert session.shot is before


def test_shift_puts_a_breakdown_and_a_pose_is_posed(polish: Window, hand: Hand) -> None:
    session, stage = polish.session, polish.stage.main
    before, at = session.shot, dot(polish, 130)
    hand.drag(stage, at, at + QPointF(12, -12), keys=SHIFT)
    assert 130 in keyed(session.shot) and session.poses.cards.frames.tolist().count(130) == 1
    session.document.undo_stack.undo()
    at, way = dot(polish, 133), inward(polish, 133)
    hand.drag(stage, at, at + way)
    assert (dot(polish, 133) - at - way).manhattanLength() < 1.5
    others = keyed(before)[keyed(before) != 133]
    assert np.abs(poses(session.shot, others) - poses(before, others)).max() < 1e-6


def test_escape_puts_it_back_and_the_whole_body_follows_with_alt(polish: Window, hand: Hand) -> None:
    session, stage = polish.session, polish.stage.main
    before, at = session.shot, dot(polish, 133)
    hand.press(stage, at)
    hand.move(stage, at + QPointF(30, 0))
    hand.move(stage, at + QPointF(40, 0))
    assert session.shown is not before
    hand.key(Qt.Key.Key_Escape)
    hand.release(stage, at + QPointF(40, 0))
    assert session.shown is before and session.shot is before
    hand.drag(stage, at, at + QPointF(40, 0), keys=ALT)
    hips = session.shot.figure(FIGURE).rig.joint("hips")
    moved = [script.sample(s, FIGURE, [133]).position[0, hips] for s in (before, session.shot)]
    assert np.linalg.norm(moved[0] - moved[1]) > 0.001


def test_what_is_keyed_only_by_k_is_not_left_to_k_on_another_frame(polish: Window, hand: Hand) -> None:
    session, stage = polish.session, polish.stage.main
    session.change_keying(only_k=True)
    at = dot(polish, 133)
    hand.drag(stage, at, at + QPointF(12, 0))
    assert not session.shot.unkeyed and session.document.undo_stack.undoText() == "Drag the arc of left hand"


def test_arcs_are_kept_with_the_shot_named_by_a_spot_and_forgotten(polish: Window, hand: Hand, tmp_path: Path) -> None:
    session, stage, panel = polish.session, polish.stage.main, polish.right.panel("arcs")
    panel.keep.click()
    assert [spot[:2] for spot in session.shot.spots] == [(FIGURE, "left hand")]
    panel.keep.click()
    assert len(session.shot.spots) == 1, "the same point only once"
    panel.spot.click()
    head = session.shot.figure(FIGURE).rig.joint("head")
    hand.click(stage, stage.scene.on_screen(session.stance().seen(head) + [0, 0.1, 0]))
    assert [spot.joint for spot in session.shot.spots] == ["left hand", "head"]
    assert session.shot.spots[1].at != (0, 0, 0) and len({spot.pencil for spot in session.shot.spots}) == 2
    session.choose(FIGURE)
    assert len({id(one.spot) for one in (arc(polish, 0), arc(polish, 1))}) == 2
    script.save(session.shot, tmp_path / "kept.bovrin.json")
    assert load(tmp_path / "kept.bovrin.json").spots == session.shot.spots
    panel.list.setCurrentRow(0)
    panel.forget.click()
    assert [spot.joint for spot in session.shot.spots] == ["head"]
    polish.run("arcs.forget")
    assert session.shot.spots == ()
    session.document.undo_stack.undo()
    assert len(session.shot.spots) == 1


def test_relative_arcs_lie_where_the_joint_is_now_and_can_be_dragged(polish: Window, hand: Hand) -> None:
    session, stage, panel = polish.session, polish.stage.main, polish.right.panel("arcs")
    panel.seen.button("relative").click()
    assert session.looking.arcs.carrier == "chest" and panel.carrier.isVisible()
    own = script.arc(session.shot, FIGURE, "left hand", arc(polish).arc.frames, relative_to="chest")
    assert np.allclose(arc(polish).arc.position, own.position)
    here = session.stance().world[session.shot.figure(FIGURE).rig.joint("left hand"), :3, 3]
    n = int(np.flatnonzero(arc(polish).arc.frames == 123)[0])
    assert np.allclose(arc(polish).shown[n], here, atol=1e-9), "the dot of now is where the hand is"
    at = dot(polish, 130)
    hand.drag(stage, at, at + QPointF(-8, -6))
    assert (dot(polish, 130) - at - QPointF(-8, -6)).manhattanLength() < 1.5


def test_a_joint_that_is_gone_and_a_range_outside_are_met(polish: Window, tmp_path: Path) -> None:
    session, panel = polish.session, polish.right.panel("arcs")
    gone = Spot(FIGURE, "third arm")
    session.do("Keep", lambda shot: replace(shot, spots=(gone,), second=(900.0, 950.0)))
    assert "no such joint" in panel.list.item(0).text()
    panel.span.button("range").click()
    polish.stage.main.repaint()
    dots = next(o for o in polish.stage.main.overlays if isinstance(o, ArcDots))
    assert dots.drawn() == [] and dots.hit(QPointF(100, 100)) is None
    text = shot_to_text(session.shot).replace('"figure": "porter"', '"figure": "nobody"')
    (tmp_path / "odd.bovrin.json").write_text(text)
    with pytest.raises(BadMotion, match="not in the cast"):
        load(tmp_path / "odd.bovrin.json")


def test_a_bow_is_dragged_on_the_stage(polish: Window, hand: Hand) -> None:
    session, stage = polish.session, polish.stage.main
    session.choose(FIGURE, [session.shot.figure(FIGURE).rig.control("hips")])
    session.go_to(123)
    before = session.shot
    polish.run("arcs.bow_by_hand")
    start = dot(polish, 123)
    hand.drag(stage, start, start + QPointF(6, 0))
    assert session.document.undo_stack.undoText() == "On an arc" and session.shot is not before
    frames = np.arange(119.0, 128.0)
    was, now = (script.arc(shot, FIGURE, "hips", frames).position for shot in (before, session.shot))
    assert np.abs((was - now)[[0, -1]]).max() < 1e-6
    right = stage.scene.view.axes()[0]
    assert (now - was)[4] @ right > 0.002, "to the side to which it was dragged"
