from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu
from tests.desk.conftest import Hand
from tests.desk.test_stage import choose, chosen, joint_on_screen
from tests.rigs import goat

from bovrin.desk.panels.map_shapes import seen_flat, shapes_of
from bovrin.desk.window import Window
from bovrin.shot import Shot

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def test_a_box_chooses_adds_and_takes_away(window: Window, hand: Hand) -> None:
    window.session.go_to(101)
    head = joint_on_screen(window, "head")
    hand.drag(window.stage.main, head + QPointF(-60, -60), head + QPointF(60, -5))
    assert "head" in chosen(window) and "left foot" not in chosen(window)
    first = set(chosen(window))
    foot = joint_on_screen(window, "right foot")
    hand.drag(window.stage.main, QPointF(foot.x() - 60, foot.y() + 60), foot + QPointF(10, -4), SHIFT)
    assert first < set(chosen(window)) and "right foot" in chosen(window)
    hand.drag(window.stage.main, head + QPointF(-60, -60), head + QPointF(60, -5), CTRL)
    assert not first & set(chosen(window)) and "right foot" in chosen(window)
    hand.drag(window.stage.main, QPointF(20, 60), QPointF(60, 120))
    assert chosen(window) == []
    assert window.session.document.undo_stack.count() == 0
    hand.press(window.stage.main, QPointF(20, 60))
    hand.move(window.stage.main, QPointF(90, 160))
    assert window.stage.main.empty.drag is not None
    hand.key(Qt.Key.Key_Escape)
    assert window.stage.main.empty.drag is None


def test_up_down_the_branch_the_part_and_the_other_side(window: Window, hand: Hand) -> None:
    choose(window, "chest")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_PageUp)
    assert chosen(window) == ["spine"]
    hand.key(Qt.Key.Key_PageDown)
    assert chosen(window) == ["chest"]
    hand.key(Qt.Key.Key_PageDown, SHIFT)
    assert {"chest", "neck", "head", "left hand", "right elbow", "left index tip"} <= set(chosen(window))
    assert "hips" not in chosen(window) and "left foot" not in chosen(window)
    choose(window, "left index")
    hand.key(Qt.Key.Key_X)
    assert chosen(window) == ["right index"]
    hand.key(Qt.Key.Key_PageUp, SHIFT)
    rig = window.session.shot.figure("porter").rig
    assert set(chosen(window)) == {rig.controls[c].name for c in rig.parts[rig.part("right hand")].controls}


def test_the_map_with_the_keyboard(window: Window, hand: Hand) -> None:
    figure_map = window.cast_panel.map
    choose(window, "chest")
    figure_map.setFocus()
    frame = window.session.frame
    QTest.keyClick(figure_map, Qt.Key.Key_Down)
    assert chosen(window) == ["spine"]
    QTest.keyClick(figure_map, Qt.Key.Key_Up)
    QTest.keyClick(figure_map, Qt.Key.Key_Up, SHIFT)
    assert len(chosen(window)) == 2 and chosen(window)[0] == "chest"
    QTest.keyClick(figure_map, Qt.Key.Key_Right)
    assert window.session.frame == frame and chosen(window)[0].startswith("left")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Right)
    assert window.session.frame == frame + 1


def test_the_map_takes_away_with_ctrl(window: Window, hand: Hand) -> None:
    figure_map = window.cast_panel.map
    hand.click(figure_map, figure_map.point_of("chest"))
    hand.click(figure_map, figure_map.point_of("head"), SHIFT)
    hand.click(figure_map, figure_map.point_of("chest"), CTRL)
    assert chosen(window) == ["head"]


def test_the_map_s_menu_hides_locks_and_shows_alone(window: Window, hand: Hand) -> None:
    figure_map = window.cast_panel.map
    at = figure_map.point_of("left forearm")

    def open_menu() -> dict[str, object]:
        point = QPoint(round(at.x()), round(at.y()))
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, point, figure_map.mapToGlobal(point))
        QApplication.sendEvent(figure_map, event)
        menu = figure_map.findChildren(QMenu)[-1]
        actions = {a.text(): a for a in menu.actions()}
        menu.hide()
        return actions

    open_menu()["Hide the left arm"].trigger()  # type: ignore[attr-defined]
    showing = window.session.looking
    assert ("porter", "left arm") in showing.hidden_parts
    assert window.stage.main.scene.control_at(joint_on_screen(window, "left forearm")) != ("porter", 0)
    open_menu()["Show the left arm"].trigger()  # type: ignore[attr-defined]
    open_menu()["Show only the left arm"].trigger()  # type: ignore[attr-defined]
    items = window.stage.main.scene.items()
    assert [i.figure.name for i in items] == ["porter"]
    assert 0 < items[0].figure.model.triangle_count < 1500
    open_menu()["Show everything"].trigger()  # type: ignore[attr-defined]
    assert len(window.stage.main.scene.items()) == len(window.session.shot.cast)
    open_menu()["Lock the left arm"].trigger()  # type: ignore[attr-defined]
    assert ("porter", "left arm") in window.session.keying.locked


def test_the_cast_s_eye_hides_a_figure(window: Window) -> None:
    window.cast_panel.eyes["crate"].click()
    assert "crate" not in [i.figure.name for i in window.stage.main.scene.items()]
    window.cast_panel.eyes["crate"].click()
    assert len(window.stage.main.scene.items()) == len(window.session.shot.cast)


def test_groups_are_kept_recalled_added_and_taken_away(window: Window, hand: Hand) -> None:
    groups = window.cast_panel.groups
    groups.keep_button.click()
    assert "Choose the parts" in window.notice.label.text()
    choose(window, "chest")
    rig = window.session.shot.figure("porter").rig
    window.session.choose("porter", [rig.control("chest"), rig.control("head")])
    groups.keep_button.click()
    QTest.keyClicks(groups.field, "top")
    QTest.keyClick(groups.field, Qt.Key.Key_Return)
    assert list(groups.pills) == ["top"] and window.session.document.undo_stack.undoText() == "Keep group top"
    choose(window, "left foot")
    hand.click(groups.pills["top"], QPointF(8, 8), SHIFT)
    assert chosen(window) == ["left foot", "chest", "head"]
    hand.click(groups.pills["top"], QPointF(8, 8), CTRL)
    assert chosen(window) == ["left foot"]
    hand.click(groups.pills["top"], QPointF(8, 8))
    assert chosen(window) == ["chest", "head"]
    groups.show_alone("top")
    assert window.session.looking.alone == ("porter", frozenset({"body", "head"}))
    window.cast_panel.list.setCurrentRow(1)
    hand.click(groups.pills["top"], QPointF(8, 8))
    assert "none of the parts" in window.notice.label.text()
    groups.remove("top")
    assert groups.pills == {}


def test_a_goat_has_a_map_of_its_own(make) -> None:  # type: ignore[no-untyped-def]
    figure = goat()
    window: Window = make(Shot("goat").with_figure(figure))
    assert len(shapes_of(figure)) == len(figure.rig.joints) - 1
    places = {figure.rig.joints[s.joint].name: (s.start + s.end) / 2 for s in shapes_of(figure)}
    hooves = [places[f"{side} {leg} hoof"] for side in ("left", "right") for leg in ("fore", "hind")]
    gaps = [abs(a - b).max() for i, a in enumerate(hooves) for b in hooves[:i]]
    assert min(gaps) > 0.03, "four feet are four places on the map"
    figure_map = window.cast_panel.map
    assert figure_map.control_at(figure_map.point_of("left fore hoof")) == figure.rig.control("left fore foot")
    import numpy as np

    assert seen_flat(np.zeros((3, 3))).shape == (3, 2)


def test_a_click_on_one_of_several_chosen_leaves_that_one(window: Window, hand: Hand) -> None:
    """A top and its contacts moved together: what was chosen stayed so until something else was."""
    session, stage, rig = window.session, window.stage.main, window.session.figure.rig
    both = [rig.control(name) for name in ("left hand", "right hand")]
    session.choose("porter", both)
    place = stage.scene.on_screen(session.stance().seen(rig.joint("left hand")))
    hits = [place + QPointF(x, y) for x in (0, 4, -4, 8) for y in (0, 5, 10, -5)]
    at = next(p for p in hits if (hit := stage.hit_at(p)) is not None and hit[1].what == ("porter", both[0]))
    hand.click(stage, at)
    assert session.controls == (both[0],)
