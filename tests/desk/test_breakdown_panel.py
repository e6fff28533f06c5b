import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.craft.keying.lag import poses
from bovrin.desk.window import Window
from bovrin.shot import KeyRole


@pytest.fixture
def panel(window: Window):  # type: ignore[no-untyped-def]
    window.run("pass.break_down")
    window.session.go_to(123)
    return window.right.panel("breakdown")


def share(window: Window, channel: str) -> float:
    a, x, b = (script.values(window.session.shown, "porter", f)[channel] for f in (119, 123, 127))
    return (x - a) / (b - a)


def at(slider, favour: float) -> QPointF:  # type: ignore[no-untyped-def]
    return QPointF(slider.x_of(favour), slider.height() / 2)


def test_a_drag_is_live_and_one_step(window: Window, hand: Hand, panel) -> None:  # type: ignore[no-untyped-def]
    hand.press(panel.all, at(panel.all, 0.5))
    hand.move(panel.all, at(panel.all, 0.2))
    assert share(window, "left hand/up") == pytest.approx(0.2, abs=0.01)
    assert window.session.document.previewing
    hand.move(panel.all, at(panel.all, 0.7))
    hand.release(panel.all, at(panel.all, 0.7))
    assert share(window, "left hand/up") == pytest.approx(0.7, abs=0.01)
    assert window.session.document.undo_stack.count() == 1
    found = poses(window.session.shot, "porter")
    assert found.roles[found.frames == 123] == KeyRole.BREAKDOWN


def test_a_part_of_its_own(window: Window, hand: Hand, panel) -> None:  # type: ignore[no-untyped-def]
    hand.drag(panel.all, at(panel.all, 0.5), at(panel.all, 0.7))
    hand.drag(panel.sliders["head"], at(panel.sliders["head"], 0.7), at(panel.sliders["head"], 0.4))
    assert share(window, "beard/open") == pytest.approx(0.4, abs=0.01)
    assert share(window, "left hand/up") == pytest.approx(0.7, abs=0.01)
    assert panel.rows["head"].box.value() == 40 and panel.rows["body"].box.value() == 70


def test_past_both_ends(window: Window, hand: Hand, panel) -> None:  # type: ignore[no-untyped-def]
    for favour, pointer in ((-0.2, -0.4), (1.25, 1.5)):
        hand.drag(panel.all, at(panel.all, 0.5), at(panel.all, pointer))  # past the end it follows half the way
        assert share(window, "left hand/up") == pytest.approx(favour, abs=0.011)
    hand.drag(panel.all, at(panel.all, 0.5), QPointF(4000, 10))
    assert panel.all.favour == pytest.approx(1.3)


def test_typed_and_preset(window: Window, panel) -> None:  # type: ignore[no-untyped-def]
    panel.rows["left arm"].box.setFocus()
    panel.rows["left arm"].box.selectAll()
    QTest.keyClicks(panel.rows["left arm"].box, "35")
    QTest.keyClick(panel.rows["left arm"].box, Qt.Key.Key_Return)
    assert share(window, "left hand/up") == pytest.approx(0.35)
    box, shot = panel.rows["left arm"].box, window.session.shot
    assert not box.hasFocus(), "Return gives the keyboard back"
    box.setFocus()
    QTest.keyClicks(box, "much")
    QTest.keyClick(box, Qt.Key.Key_Return)
    assert window.session.shot is shot and "not a number" in window.notice.label.text()
    QTest.keyClick(box, Qt.Key.Key_Escape)
    box.setFocus()
    QTest.keyClicks(box, "45 / 2")
    QTest.keyClick(box, Qt.Key.Key_Return)
    assert share(window, "left hand/up") == pytest.approx(0.225)
    panel.presets.button("Third").click()
    assert share(window, "left hand/up") == pytest.approx(1 / 3)


def test_escape_puts_it_back(window: Window, hand: Hand, panel) -> None:  # type: ignore[no-untyped-def]
    shot = window.session.shot
    hand.press(panel.all, at(panel.all, 0.5))
    hand.move(panel.all, at(panel.all, 0.9))
    QTest.keyClick(panel.all, Qt.Key.Key_Escape)
    hand.release(panel.all, at(panel.all, 0.9))
    assert window.session.shot is shot and not window.session.document.previewing


def test_outside_two_poses_it_says_what_to_do(window: Window, panel) -> None:  # type: ignore[no-untyped-def]
    window.session.go_to(150)
    assert "between two poses" in panel.words.text() and not panel.all.isVisible()
    window.session.go_to(130)
    assert panel.all.isVisible() and "127" in panel.words.text() and "133" in panel.words.text()


def test_an_existing_breakdown_shows_its_favour(window: Window, hand: Hand, panel) -> None:  # type: ignore[no-untyped-def]
    hand.drag(panel.all, at(panel.all, 0.5), at(panel.all, 0.25))
    window.session.go_to(110)
    window.session.go_to(123)
    assert panel.all.favour == pytest.approx(0.25, abs=0.03)
    before = len(poses(window.session.shot, "porter"))
    hand.drag(panel.all, at(panel.all, 0.25), at(panel.all, 0.6))
    assert len(poses(window.session.shot, "porter")) == before


def test_b_in_another_pass_keeps_the_motion_as_it_is(window: Window, hand: Hand) -> None:
    window.run("motion.spline_all")
    window.session.go_to(123)
    before = window.session.stance().values.copy()
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_B)
    found = poses(window.session.shot, "porter")
    assert found.roles[found.frames == 123] == KeyRole.BREAKDOWN
    rig = window.session.shot.figure("porter").rig
    hips = rig.channel("hips/up")
    assert window.session.stance().values[hips] == pytest.approx(before[hips], abs=0.02)
    assert np.isfinite(window.session.stance().values).all()


def test_a_second_click_goes_halfway_and_a_second_press_that_moves_drags(window: Window, hand: Hand, panel) -> None:  # type: ignore[no-untyped-def]
    """Sliders are dragged from the press on: the second press of a double click must not be taken for such a drag."""
    slider = panel.all
    hand.click(slider, at(slider, 0.8))
    assert share(window, "left hand/up") == pytest.approx(0.8, abs=0.02)
    hand.double_click(slider, at(slider, 0.8))
    assert slider.favour == slider.neutral == 0.5
    assert share(window, "left hand/up") == pytest.approx(0.5, abs=0.01)
    hand.click(slider, at(slider, 0.8))
    hand.double_click(slider, at(slider, 0.8), at(slider, 0.3))
    assert share(window, "left hand/up") == pytest.approx(0.3, abs=0.02)
