import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.craft.keying.edits import Scope
from bovrin.desk.stage.drags.handle import RING
from bovrin.desk.stage.drags.handle_places import HandlePlaces, distance
from bovrin.desk.stage.words import chip_words
from bovrin.desk.window import Window
from bovrin.shot import ControlKind

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def joint_on_screen(window: Window, joint: str) -> QPointF:
    motion = script.sample(window.session.shown, "porter", [window.session.frame])
    return window.stage.main.scene.on_screen(motion.position[0, motion.joints.index(joint)])


def choose(window: Window, name: str) -> None:
    figure = window.session.figure
    assert figure is not None
    window.session.choose(figure.name, [figure.rig.control(name)])


def chosen(window: Window) -> list[str]:
    figure = window.session.figure
    assert figure is not None
    return [figure.rig.controls[c].name for c in window.session.controls]


def test_a_click_on_the_hand_chooses_it(window: Window, hand: Hand) -> None:
    window.session.go_to(101)
    hand.click(window.stage.main, joint_on_screen(window, "right hand") + QPointF(-2, 14))
    assert chosen(window) == ["right hand"]
    hand.click(window.stage.main, joint_on_screen(window, "head") + QPointF(0, -14), SHIFT)
    assert chosen(window) == ["right hand", "head"]
    hand.click(window.stage.main, QPointF(30, 200))
    assert chosen(window) == []
    assert window.session.document.undo_stack.count() == 0


def test_dragging_the_square_reaches(window: Window, hand: Hand) -> None:
    session = window.session
    choose(window, "left hand")
    start = window.stage.main.handle.places.points()["square"]
    before = joint_on_screen(window, "left hand")
    hand.drag(window.stage.main, start, start + QPointF(-30, -60))
    after = joint_on_screen(window, "left hand")
    assert (after - before - QPointF(-30, -60)).manhattanLength() < 3
    assert session.document.undo_stack.count() == 1 and session.document.undo_stack.undoText() == "Move left hand"
    session.document.undo_stack.undo()
    assert (joint_on_screen(window, "left hand") - before).manhattanLength() < 0.01


def test_one_press_on_the_figure_chooses_and_drags(window: Window, hand: Hand) -> None:
    start = joint_on_screen(window, "right hand") + QPointF(-2, 14)
    before = joint_on_screen(window, "right hand")
    hand.drag(window.stage.main, start, start + QPointF(-20, -30))
    assert chosen(window) == ["right hand"]
    assert (joint_on_screen(window, "right hand") - before - QPointF(-20, -30)).manhattanLength() < 3


def test_shift_keeps_one_direction_and_ctrl_goes_in_steps(window: Window, hand: Hand) -> None:
    choose(window, "hips")
    start, before = window.stage.main.handle.places.points()["square"], joint_on_screen(window, "hips")
    hand.drag(window.stage.main, start, start + QPointF(-40, -9), SHIFT)
    moved = joint_on_screen(window, "hips") - before
    assert abs(moved.y()) < 1 and moved.x() == pytest.approx(-40, abs=2)
    choose(window, "left hand")
    joint = window.session.shot.figure("porter").rig.joint("left hand")
    was = script.sample(window.session.shot, "porter", [101]).position[0, joint]
    square = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, square, square + QPointF(-20, -40), CTRL)
    way = script.sample(window.session.shot, "porter", [101]).position[0, joint] - was
    assert np.abs(way).max() > 0.04 and np.allclose(way / 0.05, np.round(way / 0.05), atol=1e-3)


def test_the_wrist_picks_the_hand_and_the_middle_of_the_forearm_the_elbow(window: Window) -> None:
    wrist, elbow = joint_on_screen(window, "right hand"), joint_on_screen(window, "right forearm")
    rig = window.session.shot.figure("porter").rig
    for share, control in ((0.0, "right hand"), (0.2, "right hand"), (0.5, "right elbow")):
        found = window.stage.main.scene.control_at(wrist + (elbow - wrist) * share)
        assert found is not None and rig.controls[found[1]].name == control, share


def test_a_ring_leaves_what_is_not_chosen_to_the_pointer_on_it(window: Window) -> None:
    scene, rig = window.stage.main.scene, window.session.shot.figure("porter").rig
    met = 0
    for chosen_one in (c.name for c in rig.controls if c.kind is ControlKind.JOINT):
        choose(window, chosen_one)
        points = window.stage.main.handle.places.points()
        for other, control in enumerate(rig.controls):
            at = scene.on_screen(HandlePlaces(scene).place_of(other))
            off_ring = abs(distance(at, points["centre"]) - RING * scene.handle_size) if "centre" in points else 99.0
            grips = min(distance(at, p) for p in points.values())
            if (
                control.name != chosen_one
                and 2 < off_ring < 6
                and grips > 20
                and scene.control_at(at) == ("porter", other)
            ):
                hit = window.stage.main.hit_at(at)
                assert hit is not None and hit[1].what == ("porter", other), (chosen_one, control.name)
                met += 1
    assert met > 0


def test_the_ring_turns_about_the_line_of_sight(window: Window, hand: Hand) -> None:
    choose(window, "chest")
    points = window.stage.main.handle.places.points()
    centre = points["centre"]
    before = script.sample(window.session.shot, "porter", [101])
    hand.drag(window.stage.main, centre + QPointF(31.1, -31.1), centre + QPointF(44, 2))
    after = script.sample(window.session.shot, "porter", [101])
    head = before.joints.index("head")
    assert (
        window.stage.main.scene.on_screen(after.position[0, head])
        - window.stage.main.scene.on_screen(before.position[0, head])
    ).x() > 3
    assert window.session.document.undo_stack.undoText() == "Turn chest"


def test_a_dot_spins(window: Window, hand: Hand) -> None:
    choose(window, "head")
    before = script.values(window.session.shot, "porter", 101)["head/turn"]
    start = window.stage.main.handle.places.points()["right"]
    hand.drag(window.stage.main, start, start + QPointF(40, 0), CTRL)
    assert abs(script.values(window.session.shot, "porter", 101)["head/turn"] - before) > 10


@pytest.mark.parametrize("how", ["escape", "right button"])
def test_a_drag_can_be_put_back(window: Window, hand: Hand, how: str) -> None:
    choose(window, "hips")
    shot = window.session.shot
    start = window.stage.main.handle.places.points()["square"]
    hand.press(window.stage.main, start)
    hand.move(window.stage.main, start + QPointF(0, 60))
    assert window.session.document.previewing and window.session.shown is not shot
    if how == "escape":
        hand.key(Qt.Key.Key_Escape)
    else:
        hand.press(window.stage.main, start + QPointF(0, 60), Qt.MouseButton.RightButton)
    assert window.session.shown is shot and not window.session.document.previewing
    hand.release(window.stage.main, start + QPointF(0, 60))
    assert window.session.shot is shot and window.session.document.undo_stack.count() == 0


def test_double_click_resets(window: Window, hand: Hand) -> None:
    choose(window, "left hand")
    at = window.stage.main.handle.places.points()["square"]
    hand.double_click(window.stage.main, at)
    values = script.values(window.session.shot, "porter", 101)
    assert values["left hand/across"] == values["left hand/up"] == 0
    assert values["left hand/roll"] == pytest.approx(-16)


def test_what_will_be_keyed_is_said_before(window: Window, hand: Hand) -> None:
    choose(window, "left hand")
    assert chip_words(window.session) == (
        "Left hand · reach · anchored: left foot, right foot · keys the whole figure in the pose at 101"
    )
    window.session.go_to(105)
    assert "new held pose at 105" in chip_words(window.session)
    window.session.change_keying(scope=Scope.TOUCHED)
    window.run("pass.spline")
    assert "only what is touched: new eased pose at 105" in chip_words(window.session)
    square = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, square, square + QPointF(0, -40))
    rig = window.session.shot.figure("porter").rig
    keyed = [
        n
        for n, c in zip(rig.channel_names, window.session.shot.curves("porter").curves, strict=True)
        if c.index_at(105) is not None
    ]
    assert keyed and all(n.startswith("left hand/") for n in keyed)


def test_the_middle_button_turns_and_slides_the_view(window: Window, hand: Hand) -> None:
    view, at = window.stage.main.scene.view, QPointF(400, 200)
    hand.drag(window.stage.main, at, at + QPointF(80, 0), button=Qt.MouseButton.MiddleButton)
    assert (
        window.stage.main.scene.view.yaw == pytest.approx(view.yaw - 0.64)
        and window.stage.main.scene.view.target == view.target
    )
    view = window.stage.main.scene.view
    hand.drag(window.stage.main, at, at + QPointF(0, 50), SHIFT, Qt.MouseButton.MiddleButton)
    assert window.stage.main.scene.view.target[1] > view.target[1] and window.stage.main.scene.view.yaw == view.yaw
    assert window.session.document.undo_stack.count() == 0


def test_space_and_drag_turns_the_view_and_does_not_play(window: Window, hand: Hand) -> None:
    from PyQt6.QtTest import QTest

    window.stage.main.setFocus()
    yaw = window.stage.main.scene.view.yaw
    QTest.keyPress(window.stage.main, Qt.Key.Key_Space)
    hand.drag(window.stage.main, QPointF(60, 300), QPointF(120, 300))
    QTest.keyRelease(window.stage.main, Qt.Key.Key_Space)
    assert window.stage.main.scene.view.yaw != yaw and not window.session.playing


def test_views_by_name_and_fit(window: Window, hand: Hand) -> None:
    for name in ("front", "side", "top", "three-quarter"):
        window.pills.views.button(name.capitalize()).click()
        assert window.pills.views.button(name.capitalize()).isChecked()
    choose(window, "left hand")
    window.run("view.fit")
    close = window.stage.main.scene.view.distance
    centre = window.stage.main.scene.on_screen(window.stage.main.handle.places.place_of(window.session.controls[0]))
    assert 0 < centre.x() < window.stage.main.width() and 0 < centre.y() < window.stage.main.height()
    window.run("view.fit")
    assert window.stage.main.scene.view.distance > close


def test_a_clean_view_hides_the_handle(window: Window, hand: Hand) -> None:
    choose(window, "left hand")
    window.run("view.clean")
    assert window.stage.main.handle.places.points() == {} and not window.pills.isVisible()
    window.run("view.clean")
    assert "square" in window.stage.main.handle.places.points()


def test_looking_at_steps_changes_the_picture_and_not_the_shot(window: Window, hand: Hand) -> None:
    window.run("motion.spline_all")
    shot = window.session.shot
    window.session.go_to(123)
    moving = window.session.stance().values.copy()
    window.run("motion.look_stepped")
    held = window.session.stance().values
    assert np.abs(moving - held).max() > 0.01 and window.session.shot is shot
    choose(window, "hips")
    start = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, start, start + QPointF(0, 30))
    assert window.session.shot is shot and "as stepped" in window.notice.label.text()
    window.run("motion.look_stepped")
    assert np.array_equal(window.session.stance().values, moving)


def test_the_pointer_s_line_says_what_a_drag_does(window: Window, hand: Hand) -> None:
    choose(window, "left hand")
    points = window.stage.main.handle.places.points()
    for name, words in (("square", "Drag the square"), ("right", "spin"), ("up", "tip"), ("ring", "round the ring")):
        at = points[name]
        QApplication.sendEvent(
            window.stage.main,
            QMouseEvent(
                QEvent.Type.MouseMove,
                at,
                window.stage.mapToGlobal(at),
                Qt.MouseButton.NoButton,
                Qt.MouseButton.NoButton,
                Qt.KeyboardModifier.NoModifier,
            ),
        )
        assert words in window.status.hint.text(), name


def test_the_map_chooses_the_same_controls(window: Window, hand: Hand) -> None:
    figure_map = window.cast_panel.map
    for joint, control in (
        ("chest", "chest"),
        ("left thigh", "left knee"),
        ("right forearm", "right elbow"),
        ("head", "head"),
    ):
        hand.click(figure_map, figure_map.point_of(joint))
        assert chosen(window) == [control], joint
    hand.click(figure_map, figure_map._whole_rect().center(), SHIFT)
    assert chosen(window) == ["head", "whole figure"]


def test_another_figure_is_chosen_in_the_cast(window: Window, hand: Hand) -> None:
    window.cast_panel.list.setCurrentRow(1)
    assert window.session.figure_name == "crate" and len(window.session.poses.cards) == 5
    choose(window, "whole crate")
    start = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, start, start + QPointF(0, -40))
    assert script.values(window.session.shot, "crate", 101)["whole crate/up"] > 0.1


def test_without_graphics_the_window_says_so(make, demo, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    from bovrin.desk.stage import stage
    from bovrin.errors import NoPicture

    window = make(demo)

    def refuse() -> None:
        raise NoPicture("no pictures can be drawn on this machine.", advice="Install the EGL library.")

    monkeypatch.setattr(stage, "shared_renderer", refuse)
    window.stage.main.scene.drawable = False
    window.stage.main._start_drawing()
    window.stage.main.repaint()
    assert "Install the EGL library" in window.stage.main._fault
    assert window.stage.main.scene.control_at(QPointF(300, 200)) is None
    window.session.go_to(104)
    window.run("pose.key")
    assert window.session.document.undo_stack.count() == 1
