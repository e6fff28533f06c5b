"""What an edit keys, and changes that wait for K."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_stage import choose
from tests.desk.test_strip import frames

from bovrin.craft.keying.edits import Scope
from bovrin.craft.keying.unkeyed import unkeyed_at
from bovrin.desk.window import Window


def keyed_parts(window: Window, frame: float) -> set[str]:
    figure = window.session.shot.figure("porter")
    curves = window.session.shot.curves("porter")
    return {
        part.name
        for n, part in enumerate(figure.rig.parts)
        if any(curves[i].index_at(frame) is not None for i in figure.rig.part_channels(n))
    }


def pull(window: Window, hand: Hand, control: str) -> None:
    choose(window, control)
    square = window.stage.main.handle.places.points()["square"]
    hand.drag(window.stage.main, square, square + QPointF(10, -30))


@pytest.mark.parametrize("command", ["pose.key", "pose.breakdown", "pose.hold", "motion.twos"])
def test_every_tool_obeys_what_keys_go_on(window: Window, hand: Hand, command: str) -> None:
    window.session.go_to(123)
    choose(window, "head")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_W)
    assert window.session.keying.scope is Scope.PART and window.right.panel("keys").pills.button("part").isChecked()
    window.run(command)
    assert keyed_parts(window, 123) == {"head"}
    hand.key(Qt.Key.Key_W)
    window.session.go_to(130)
    window.run("motion.fours" if command == "motion.twos" else command)
    frame = 131 if command == "motion.twos" else 130
    rig = window.session.shot.figure("porter").rig
    curves = window.session.shot.curves("porter")
    own = set(rig.span(rig.control("head")))
    assert {i for i, c in enumerate(curves.curves) if c.index_at(frame) is not None} == own


def test_a_change_waits_for_k(window: Window, hand: Hand) -> None:
    window.right.panel("keys").only_k.click()
    window.session.go_to(138)
    before = window.session.stance().values.copy()
    pull(window, hand, "left hand")
    session = window.session
    assert unkeyed_at(session.shot, "porter", 138) is not None
    changed = session.stance().values.copy()
    assert np.abs(changed - before).max() > 0.01
    session.go_to(150)
    assert "not keyed yet" in window.notice.label.text()
    session.go_to(138)
    assert np.array_equal(session.stance().values, changed), "moving on loses nothing"
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_K)
    assert session.shot.unkeyed == () and 138 in frames(window)
    assert np.array_equal(session.stance().values, changed)


def test_a_pose_that_is_keyed_already_makes_no_step_and_says_so(window: Window, hand: Hand) -> None:
    window.session.go_to(119)
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_K)
    assert window.session.document.undo_stack.count() == 0 and "119 is keyed" in window.notice.label.text()


def test_a_change_is_dropped_with_d_and_undo_brings_it_back(window: Window, hand: Hand) -> None:
    window.run("keys.only_k")
    window.session.go_to(127)
    before = window.session.stance().values.copy()
    pull(window, hand, "left hand")
    pull(window, hand, "right hand")
    changed = window.session.stance().values.copy()
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_D)
    assert np.array_equal(window.session.stance().values, before) and 127 in frames(window)
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert np.array_equal(window.session.stance().values, changed)
    hand.key(Qt.Key.Key_D)
    hand.key(Qt.Key.Key_D)
    assert "Nothing on this frame waits" in window.notice.label.text()


def test_retiming_keys_what_waited_and_says_so(window: Window, hand: Hand) -> None:
    window.run("keys.only_k")
    window.session.go_to(123)
    pull(window, hand, "left hand")
    window.run("pose.longer")
    assert window.session.shot.unkeyed == () and "keyed now as well" in window.notice.label.text()
    assert 123 in frames(window)
    window.session.document.undo_stack.undo()
    assert unkeyed_at(window.session.shot, "porter", 123) is not None


def test_push_past_and_settle_are_two_gestures(window: Window, hand: Hand) -> None:
    session = window.session
    rig = session.shot.figure("porter").rig
    up = rig.channel("hips/up")
    window.stage.main.setFocus()
    session.go_to(133)
    start, meant = (session.shot.curves("porter")[up].values[n] for n in (4, 5))
    hand.key(Qt.Key.Key_E)
    assert session.stance().values[up] == pytest.approx(start + 1.2 * (meant - start))
    session.go_to(137)
    hand.key(Qt.Key.Key_E, Qt.KeyboardModifier.ShiftModifier)
    pushed = start + 1.2 * (meant - start)
    assert session.stance().values[up] == pytest.approx(pushed + 0.3 * (meant - pushed))
    assert session.document.undo_stack.count() == 2


def test_push_by_slider_is_live(window: Window, hand: Hand) -> None:
    window.run("pass.break_down")
    window.session.go_to(133)
    panel = open_panel(window, "breakdown")
    assert panel.push.isVisible() and not panel.all.isVisible() and "key pose" in panel.words.text()
    slider = panel.push.slider
    y = slider.height() / 2
    hand.press(slider, QPointF(slider.x_of(0), y))
    hand.move(slider, QPointF(slider.x_of(0.4), y))
    assert window.session.document.previewing
    hand.release(slider, QPointF(slider.x_of(0.4), y))
    assert [c.pushed for c in window.session.shot.cards("porter") if c.frame == 133] == [pytest.approx(0.4)]
    window.session.go_to(136)
    assert panel.settle.isVisible()


def test_groups_and_fills_in_the_breakdown_panel(window: Window, hand: Hand) -> None:
    from bovrin import script
    from bovrin.craft.pose.groups import keep_group

    rig = window.session.shot.figure("porter").rig
    window.run("pass.break_down")
    chosen = [rig.control(c) for c in ("left hand", "right hand")]
    window.session.do("Group", lambda shot: keep_group(shot, "Hands", "porter", chosen))
    window.session.go_to(130)
    panel = open_panel(window, "breakdown")
    box = panel.groups["Hands"].box
    box.setFocus()
    QTest.keyClicks(box, "10 * 2 %")
    QTest.keyClick(box, Qt.Key.Key_Return)
    assert not box.hasFocus(), "Return gives the keyboard back"
    values = [script.values(window.session.shot, "porter", f) for f in (127, 130, 133)]
    shares = {c: (values[1][c] - values[0][c]) / (values[2][c] - values[0][c]) for c in ("left hand/up", "hips/up")}
    assert shares["left hand/up"] == pytest.approx(0.2) and shares["hips/up"] == pytest.approx(0.5)
    window.session.go_to(110)
    window.session.go_to(130)
    assert panel.groups["Hands"].box.value() == pytest.approx(20), "it remembers"
    window.session.go_to(138)
    panel.fills.button("twos").click()
    assert frames(window)[-6:] == [133, 135, 137, 139, 141, 143]


def test_saving_keys_what_waited(window: Window, hand: Hand, tmp_path: Path) -> None:
    window.run("keys.only_k")
    window.session.go_to(138)
    pull(window, hand, "left hand")
    assert window.files.save(tmp_path / "waits.bovrin.json")
    assert window.session.shot.unkeyed == () and "138 is keyed now" in window.notice.label.text()
    assert window.session.document.undo_stack.isClean() and 138 in frames(window)
