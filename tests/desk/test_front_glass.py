import numpy as np
from PyQt6.QtCore import QPointF, Qt
from tests.desk.conftest import Hand
from tests.desk.test_stage import choose

from bovrin import script
from bovrin.desk.window import Window


def test_posing_in_the_front_glass(window: Window, hand: Hand, qtbot) -> None:  # type: ignore[no-untyped-def]
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_G)
    glass = window.stage.glass
    assert glass.isVisible() and window.pills.looks.button("Front glass").isChecked()
    qtbot.waitUntil(lambda: glass.stage.scene.drawable, timeout=20000)
    choose(window, "left hand")
    joint = window.session.shot.figure("porter").rig.joint("left hand")
    before = script.sample(window.session.shot, "porter", [101]).position[0, joint]
    square = glass.stage.handle.places.points()["square"]
    hand.drag(glass.stage, square, square + QPointF(6, -14))
    way = script.sample(window.session.shot, "porter", [101]).position[0, joint] - before
    assert way[1] > 0.03 and abs(way[2]) < 0.02, "it moves in the glass's own plane"
    assert window.session.document.undo_stack.undoText() == "Move left hand"
    shot = window.session.shot
    hand.press(glass.stage, glass.stage.handle.places.points()["square"])
    hand.move(glass.stage, glass.stage.handle.places.points()["square"] + QPointF(10, 10))
    hand.key(Qt.Key.Key_Escape)
    assert window.session.shown is shot


def test_it_looks_from_any_side_and_grows(window: Window, hand: Hand) -> None:
    window.run("view.glass")
    glass = window.stage.glass
    main = window.stage.main.scene.view
    small = glass.width()
    glass.look_from("side")
    assert glass.side.text() == "Side"
    hand.drag(glass.stage, QPointF(30, 120), QPointF(70, 120), button=Qt.MouseButton.MiddleButton)
    assert glass.side.text() == "Free" and window.stage.main.scene.view == main
    glass.enlarge.click()
    assert abs(glass.width() - window.stage.width() / 2) <= 3 and glass.width() > small
    assert abs(window.stage.main.width() - glass.width()) <= 4, "both are seen side by side"
    window.resize(1400, 850)
    assert abs(glass.width() - window.stage.width() / 2) <= 3
    glass.enlarge.click()
    assert glass.width() == small
    window.run("view.glass")
    assert not glass.isVisible()


def test_the_joints_show_through_the_mesh(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    window.stage.main.repaint()
    plain = window.stage.main.grab().toImage()
    hand.key(Qt.Key.Key_J, Qt.KeyboardModifier.ShiftModifier)
    assert window.session.looking.joints
    shown = window.stage.main.grab().toImage()
    a, b = (np.frombuffer(i.constBits().asstring(i.sizeInBytes()), np.uint8) for i in (plain, shown))
    assert (a != b).sum() > 500
