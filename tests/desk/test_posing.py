"""Posing as an animator does it, by mouse and keys."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_stage import choose, chosen, joint_on_screen
from tests.pulls import anchor_place
from tests.rigs import goat, one_bone

from bovrin import script
from bovrin.craft.keying.edits import Scope
from bovrin.craft.pose.body import anchored
from bovrin.desk.stage.overlays.chip import chip
from bovrin.desk.window import Window
from bovrin.shot import Shot

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def places(window: Window, frame: float, *joints: str) -> np.ndarray:
    motion = script.sample(window.session.shot, "porter", [frame])
    return motion.position[0, [motion.joints.index(j) for j in joints]]


def balls(window: Window) -> np.ndarray:
    """What both feet stand on now; heels may have risen from it."""
    stance = window.session.stance()
    return np.array([anchor_place(stance, stance.rig.joint(name)) for name in ("left foot", "right foot")])


def values(window: Window) -> dict[str, float]:
    return script.values(window.session.shot, window.session.figure_name, window.session.frame)


def test_a_pose_in_twelve_gestures(window: Window, hand: Hand) -> None:
    """Crouch, hands to the crate, an elbow out, head turned, mirrored, kept, and put on another frame at 60 %."""
    gestures = 0
    session, stage = window.session, window.stage.main
    session.go_to(101)
    feet = balls(window)
    hips = places(window, 101, "hips")[0]

    def drag(start: QPointF, way: QPointF, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        nonlocal gestures
        gestures += 1
        hand.drag(stage, start, start + way, keys)

    drag(joint_on_screen(window, "hips") + QPointF(0, -8), QPointF(0, 55))  # crouch by the body
    assert places(window, 101, "hips")[0, 1] < hips[1] - 0.15
    assert np.abs(balls(window) - feet).max() < 1e-3

    before = places(window, 101, "left hand", "right hand")
    at = joint_on_screen(window, "right hand") + QPointF(-2, 12)  # hands to the crate: one pulled, one by its handle
    drag(at, QPointF(40, -10))
    gestures += 1
    hand.click(window.cast_panel.map, window.cast_panel.map.point_of("left hand"))
    drag(stage.handle.places.points()["square"], QPointF(0, -30))
    assert np.linalg.norm(places(window, 101, "left hand", "right hand") - before, axis=1).min() > 0.03
    assert np.abs(balls(window) - feet).max() < 1e-3

    hands = places(window, 101, "left hand", "right hand")
    gestures += 1
    hand.click(window.cast_panel.map, window.cast_panel.map.point_of("left forearm"))
    elbow = places(window, 101, "left forearm")[0]
    drag(stage.handle.places.points()["square"], QPointF(25, -25))  # the elbow, not the hands
    assert np.linalg.norm(places(window, 101, "left forearm")[0] - elbow) > 0.02
    assert np.abs(places(window, 101, "left hand", "right hand") - hands).max() < 1e-3

    gestures += 1
    hand.click(window.cast_panel.map, window.cast_panel.map.point_of("head"))
    turn = values(window)["head/turn"]
    drag(stage.handle.places.points()["right"], QPointF(40, 0))
    assert abs(values(window)["head/turn"] - turn) > 5

    stage.setFocus()
    before = values(window)
    gestures += 1
    hand.key(Qt.Key.Key_M)
    after = values(window)
    assert after["head/turn"] == pytest.approx(-before["head/turn"])
    assert after["left hand/up"] == pytest.approx(before["right hand/up"])

    gestures += 1
    hand.key(Qt.Key.Key_B, CTRL)
    cards = open_panel(window, "poses").cards
    assert len(cards.book.poses) == 1

    session.go_to(143)
    start, goal = values(window)["hips/up"], after["hips/up"]
    gestures += 1
    at = cards.card_rect(1).center()
    hand.drag(cards, at, at + QPointF(72, 0))
    assert values(window)["hips/up"] == pytest.approx(start + 0.6 * (goal - start), abs=2e-3)
    assert session.document.undo_stack.undoText() == "Pose: pose 101 60%"
    assert gestures <= 12


def test_pulling_the_figure_anchors_what_was_pulled(window: Window, hand: Hand) -> None:
    rig = window.session.shot.figure("porter").rig
    at = joint_on_screen(window, "right hand") + QPointF(-2, 10)
    hand.drag(window.stage.main, at, at + QPointF(-20, -60))
    held = [rig.joints[j].name for j in anchored(window.session.stance())]
    assert held == ["right hand", "left foot", "right foot"] or set(held) == {"right hand", "left foot", "right foot"}
    was = places(window, 101, "right hand")
    hips = joint_on_screen(window, "hips") + QPointF(0, -6)
    hand.drag(window.stage.main, hips, hips + QPointF(15, 25))
    assert np.abs(places(window, 101, "right hand") - was).max() < 1e-3
    window.stage.main.setFocus()
    choose(window, "right hand")
    hand.key(Qt.Key.Key_R)
    assert values(window)["right hand/anchor"] == 0
    hand.key(Qt.Key.Key_R, SHIFT)
    assert anchored(window.session.stance()) == []
    hand.key(Qt.Key.Key_R, SHIFT)
    assert "Nothing is anchored" in window.notice.label.text()
    window.session.go_to(119)
    assert len(anchored(window.session.stance())) == 2, "anchors belong to each pose"


def test_a_pull_out_and_back_is_nothing(window: Window, hand: Hand) -> None:
    stage = window.stage.main
    before = places(window, 101, "head", "left hand", "hips")
    at = joint_on_screen(window, "chest")
    hand.press(stage, at)
    for way in (QPointF(30, 10), QPointF(60, 30), QPointF(30, 10), QPointF(0, 0)):
        hand.move(stage, at + way)
    hand.release(stage, at)
    assert np.abs(places(window, 101, "head", "left hand", "hips") - before).max() < 1e-3


def test_many_pulls_come_to_the_pose_of_one_and_a_leap_arrives(window: Window, hand: Hand) -> None:
    window.session.go_to(101)
    at, ways = joint_on_screen(window, "hips") + QPointF(0, -8), (QPointF(0, 30), QPointF(10, -10), QPointF(-10, -20))
    before = values(window)
    pulled = places(window, 101, "hips")[0]
    for way in ways:
        choose(window, "head")  # the handle of what is chosen lies over its skin
        hand.drag(window.stage.main, at, at + way)  # in one leap: what is not done in a step is done when it is let go
        at = at + way
        assert np.linalg.norm(places(window, 101, "hips")[0] - pulled) > 0.02
        pulled = places(window, 101, "hips")[0]
    now = values(window)
    assert max(abs(now[name] - before[name]) for name in before if not name.endswith("/anchor")) < 0.2


def test_the_hand_follows_its_bone_and_alt_keeps_its_angle(window: Window, hand: Hand) -> None:
    turned = {}
    for keys in (Qt.KeyboardModifier.NoModifier, ALT):
        choose(window, "left hand")
        before = script.sample(window.session.shot, "porter", [101])
        square = window.stage.main.handle.places.points()["square"]
        hand.drag(window.stage.main, square, square + QPointF(20, -70), keys)
        after = script.sample(window.session.shot, "porter", [101])
        j = before.joints.index("left hand")
        turned[keys] = 1 - abs(before.rotation[0, j] @ after.rotation[0, j])
        window.session.document.undo_stack.undo()
    assert turned[ALT] < 1e-9 < 1e-3 < turned[Qt.KeyboardModifier.NoModifier]


def test_shift_stretches_a_limb_and_bones(window: Window, hand: Hand) -> None:
    choose(window, "left hand")
    square = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, square, square + QPointF(90, 60), SHIFT)
    assert values(window)["left elbow/upper length"] > 1.05
    assert window.stage.main.says == ""


@pytest.mark.parametrize(
    ("name", "stays"), [("head", "turns about its joint"), ("left hand", "reach no farther"), ("hips", "")]
)
def test_what_stays_behind_the_pointer_says_why(window: Window, hand: Hand, name: str, stays: str) -> None:
    """A bone that only turns, and an arm that is out, do not get to where they are led: never silently."""
    session, stage = window.session, window.stage.main
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control(name)])
    QApplication.processEvents()
    start = stage.handle.places.points()["square"]
    hand.press(stage, start)
    for step in range(1, 6):
        hand.move(stage, start + QPointF(0, -60.0 * step))
    assert (stays in stage.says) if stays else "behind" not in stage.says
    hand.release(stage, start + QPointF(0, -300))


def test_a_limb_changes_its_mode_without_a_jump(window: Window, hand: Hand) -> None:
    window.session.go_to(119)
    choose(window, "left hand")
    before = places(window, 119, "left hand", "left forearm", "left index tip")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_J)
    assert chosen(window) == ["left wrist"] and "joints" in chip(window.session, "")
    assert np.abs(places(window, 119, "left hand", "left forearm", "left index tip") - before).max() < 1e-4
    square = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, square, square + QPointF(-10, -40))
    assert np.linalg.norm(places(window, 119, "left hand")[0] - before[0]) > 0.03
    hand.key(Qt.Key.Key_J)
    assert chosen(window) == ["left hand"]
    choose(window, "chest")
    hand.key(Qt.Key.Key_J)
    assert "a part of a limb" in window.notice.label.text()


def test_axes_and_their_arms(window: Window, hand: Hand) -> None:
    choose(window, "hips")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Q)
    assert window.session.looking.axes == "world"
    before = places(window, 101, "hips")[0]
    tip = window.stage.main.handle.places.points()["y"]
    hand.drag(window.stage.main, tip, tip + QPointF(10, 40), CTRL)
    way = places(window, 101, "hips")[0] - before
    assert abs(way[0]) < 1e-9 and abs(way[2]) < 1e-9 and way[1] < -0.04
    assert way[1] / 0.05 == pytest.approx(round(way[1] / 0.05))
    for axes in ("parent", "own"):
        hand.key(Qt.Key.Key_Q)
        assert (
            window.session.looking.axes == axes and {"x", "y", "z"} <= window.stage.main.handle.places.points().keys()
        )
        dot = window.stage.main.handle.places.points()["up"]
        hand.drag(window.stage.main, dot, dot + QPointF(0, 20))
    hand.key(Qt.Key.Key_Q)
    assert "x" not in window.stage.main.handle.places.points()


def test_turning_goes_about_the_axes_that_are_shown(window: Window, hand: Hand) -> None:
    choose(window, "whole figure")
    window.session.change_looking(axes="world")
    before = values(window)
    dot = window.stage.main.handle.places.points()["right"]
    hand.drag(window.stage.main, dot, dot + QPointF(30, 0))
    after = values(window)
    assert abs(after["whole figure/turn"] - before["whole figure/turn"]) > 10
    assert after["whole figure/tilt"] == pytest.approx(0, abs=1e-6)


def test_a_borrowed_pivot_serves_one_edit(window: Window, hand: Hand) -> None:
    choose(window, "left foot")
    stage = window.stage.main
    stage.setFocus()
    hand.key(Qt.Key.Key_P)
    toes = joint_on_screen(window, "left toes")
    hand.click(stage, toes)
    assert window.session.looking.borrowed is not None
    pivot = window.session.looking.borrowed
    before = places(window, 101, "left toes", "left foot")
    ring = stage.handle.places.points()["centre"] + QPointF(44, 0)
    hand.drag(stage, ring, ring + QPointF(-16, -36))
    after = places(window, 101, "left toes", "left foot")
    gap = [np.linalg.norm(p - pivot, axis=1) for p in (before, after)]
    assert np.abs(gap[0] - gap[1]).max() < 2e-3 and np.linalg.norm(after[1] - before[1]) > 0.02
    choose(window, "chest")
    assert window.session.looking.borrowed is None
    choose(window, "left foot")
    hand.key(Qt.Key.Key_P)
    assert stage.pivot.on
    hand.key(Qt.Key.Key_Escape)
    assert not stage.pivot.on


def test_several_turn_about_their_own_or_one_pivot(window: Window, hand: Hand) -> None:
    def turned(together: bool) -> np.ndarray:
        choose(window, "left foot")
        rig = window.session.shot.figure("porter").rig
        window.session.choose("porter", [rig.control("left foot"), rig.control("right foot")])
        window.session.change_looking(pivot_for_all=together)
        before = places(window, 101, "left foot", "right foot")
        dot = window.stage.main.handle.places.points()["right"]
        hand.drag(window.stage.main, dot, dot + QPointF(30, 0))
        moved = np.linalg.norm(places(window, 101, "left foot", "right foot") - before, axis=1)
        window.session.document.undo_stack.undo()
        return moved

    assert turned(together=False).max() < 1e-6
    apart = turned(together=True)
    assert apart.min() > 0.01 and apart[0] == pytest.approx(apart[1], rel=0.2)


def test_size_and_stretch_by_the_corner(window: Window, hand: Hand) -> None:
    window.cast_panel.list.setCurrentRow(1)
    choose(window, "whole crate")
    corner = window.stage.main.handle.places.points()["size"]
    hand.drag(window.stage.main, corner, corner + QPointF(20, 20))
    assert values(window)["whole crate/size"] > 1.2
    corner = window.stage.main.handle.places.points()["size"]
    hand.drag(window.stage.main, corner, corner + QPointF(-12, -12), SHIFT)
    assert values(window)["whole crate/stretch"] < 0.95
    corner = window.stage.main.handle.places.points()["size"]

    hand.double_click(window.stage.main, corner)
    assert values(window)["whole crate/size"] == values(window)["whole crate/stretch"] == 1


def test_copy_paste_and_paste_mirrored(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_V, CTRL)
    assert "no copied pose" in window.notice.label.text()
    window.session.go_to(119)
    hand.key(Qt.Key.Key_C, CTRL)
    then = values(window)
    window.session.go_to(151)
    hand.key(Qt.Key.Key_V, CTRL)
    assert values(window)["left hand/up"] == pytest.approx(then["left hand/up"])
    hand.key(Qt.Key.Key_V, CTRL | SHIFT)
    assert values(window)["right hand/up"] == pytest.approx(then["left hand/up"])
    window.cast_panel.list.setCurrentRow(1)
    hand.key(Qt.Key.Key_V, CTRL)
    assert "none of the controls" in window.notice.label.text()


def test_only_the_part_is_mirrored_when_keys_go_on_parts(window: Window, hand: Hand) -> None:
    window.session.go_to(133)
    choose(window, "left hand")
    window.session.change_keying(scope=Scope.PART)
    before = values(window)
    window.run("pose.mirror_to_right")
    after = values(window)
    assert after["right hand/up"] == pytest.approx(before["left hand/up"])
    assert all(after[n] == before[n] for n in after if n.startswith(("left ", "chest", "right foot")))
    window.run("pose.mirror_keys")
    assert window.session.document.undo_stack.undoText() == "Mirror all keys"


def test_a_fenced_frame(window: Window, hand: Hand) -> None:
    window.run("motion.spline_all")
    window.session.go_to(122)
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_F)
    assert {121.0, 122.0, 123.0} <= set(script.keys(window.session.shot, "porter", "hips/up"))
    assert window.session.document.undo_stack.undoText() == "Fence this frame"


def test_a_locked_part_says_so_and_stays(window: Window, hand: Hand) -> None:
    choose(window, "left hand")
    window.run("show.lock")
    shot = window.session.shot
    square = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, square, square + QPointF(0, -40))
    assert window.session.shot is shot and "'left arm' is locked" in window.notice.label.text()
    window.run("pose.default")
    assert window.session.shot is shot
    at = joint_on_screen(window, "chest")
    before = {n: v for n, v in values(window).items() if n.startswith(("left hand", "left elbow", "left shoulder"))}
    hand.drag(window.stage.main, at, at + QPointF(20, 10))
    assert window.session.shot is not shot
    assert all(values(window)[n] == v for n, v in before.items())
    choose(window, "left hand")
    window.run("show.lock")
    hand.drag(window.stage.main, square, square + QPointF(0, -20))
    assert values(window)["left hand/up"] != before["left hand/up"]


@pytest.mark.sweep
@pytest.mark.parametrize("figure", [goat(), goat(6), one_bone()])
def test_other_builds_are_posed_with_the_same_commands(make, figure) -> None:  # type: ignore[no-untyped-def]
    window: Window = make(Shot("other").with_figure(figure))
    session = window.session
    session.choose(figure.name, [1])
    window.run("pose.key")
    for command in (
        "pose.mirror", "pose.mirror_to_right", "pose.mode", "pose.match", "pose.anchor", "pose.release", "pose.fence",
        "pose.copy", "pose.paste", "pose.paste_mirrored", "pose.default", "pose.default_figure", "pose.keep", "pose.unroll",
        "choose.up", "choose.down", "choose.branch", "choose.part", "choose.other_side", "handle.axes", "show.alone",
        "show.alone", "show.hide", "show.all", "show.joints", "view.glass", "view.fit", "pose.mode_span",
    ):  # fmt: skip
        window.run(command)
        window.stage.main.repaint()
        window.stage.glass.repaint()
        window.cast_panel.map.repaint()
    for control in range(len(figure.rig.controls)):
        session.choose(figure.name, [control])
        points = window.stage.main.handle.places.points()
        assert "square" in points
        for grip in ("square", "up", "ring", "size"):
            if grip in points:
                hand = Hand(window)
                hand.drag(window.stage.main, points[grip], points[grip] + QPointF(9, 7))
    QApplication.processEvents()
    assert np.isfinite(session.stance().values).all()


def test_with_nothing_chosen_every_tool_says_so(window: Window) -> None:
    window.session.choose("porter", [])
    for command in (
        "choose.branch",
        "choose.part",
        "handle.pivot",
        "show.alone",
        "pose.mode",
        "pose.anchor",
        "show.lock",
    ):
        window.notice.hide()
        window.run(command)
        assert window.notice.label.text() and window.notice.isVisible(), command
    window.session.change_looking(hidden={"porter", "crate"})
    window.stage.main.repaint()
    window.run("show.all")
    assert window.session.looking.hidden == set()
