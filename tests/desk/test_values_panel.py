import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import open_panel
from tests.desk.test_stage import choose

from bovrin import script
from bovrin.desk.kit.numbers import typed_number
from bovrin.desk.window import Window
from bovrin.errors import BadMotion
from bovrin.shot import Unit


@pytest.mark.parametrize(
    ("text", "unit", "now", "value"),
    [
        ("12", Unit.LENGTH, 0, 12),
        ("1.2 m", Unit.LENGTH, 0, 120),
        ("35mm + 2cm", Unit.LENGTH, 0, 5.5),
        ("12,5", Unit.LENGTH, 0, 12.5),
        ("+5", Unit.LENGTH, 10, 15),
        ("-5", Unit.LENGTH, 10, -5),
        ("*2", Unit.ANGLE, 15, 30),
        ("/ 4", Unit.ANGLE, 20, 5),
        ("90° / 2", Unit.ANGLE, 0, 45),
        ("0.25 turn", Unit.ANGLE, 0, 90),
        ("(10 + 2) * 3 deg", Unit.ANGLE, 0, 36),
        ("120 %", Unit.AMOUNT, 100, 120),
    ],
)
def test_sums_and_units(text: str, unit: Unit, now: float, value: float) -> None:
    assert typed_number(text, unit, now) == pytest.approx(value)


@pytest.mark.parametrize(
    "text", ["", "up", "80 cm 100", "3 cm(2)", "1/0", "2**9", "__import__('os')", "1e999", "3 kg", "1;2", "9" * 99]
)
def test_what_is_no_number_is_refused_in_a_sentence(text: str) -> None:
    with pytest.raises(BadMotion, match="is not a number"):
        typed_number(text, Unit.LENGTH, 1.0)


def box_of(window: Window, name: str):  # type: ignore[no-untyped-def]
    return next(b for b in open_panel(window, "values").boxes.values() if b.accessibleName().endswith(name))


def write(box, words: str) -> None:  # type: ignore[no-untyped-def]
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, words)
    QTest.keyClick(box, Qt.Key.Key_Return)
    QApplication.processEvents()


def values(window: Window) -> dict[str, float]:
    return script.values(window.session.shot, "porter", window.session.frame)


def test_typing_goes_to_every_chosen_control(window: Window) -> None:
    rig = window.session.shot.figure("porter").rig
    window.session.choose("porter", [rig.control("spine"), rig.control("chest")])
    assert "and 1 more" in window.right.panel("values").name.text()
    write(box_of(window, "turn"), "30/2")
    assert values(window)["spine/turn"] == values(window)["chest/turn"] == pytest.approx(15)
    assert window.session.document.undo_stack.count() == 1


def test_a_wrong_number_is_said_and_nothing_changes(window: Window) -> None:
    choose(window, "hips")
    shot = window.session.shot
    write(box_of(window, "up"), "high")
    assert window.session.shot is shot and "'high' is not a number" in window.notice.label.text()
    QTest.keyClick(box_of(window, "up"), Qt.Key.Key_Escape)
    assert box_of(window, "up").text().endswith("cm")


def test_switches_are_pressed(window: Window) -> None:
    choose(window, "left hand")
    panel = open_panel(window, "values")
    anchor = next(b for b in panel.switches.values() if b.accessibleName() == "anchor")
    anchor.click()
    assert values(window)["left hand/anchor"] == 1 and anchor.text() == "on"
    reach = next(b for b in panel.switches.values() if b.accessibleName() == "reach")
    before = script.sample(window.session.shot, "porter", [101]).position
    reach.click()
    after = script.sample(window.session.shot, "porter", [101]).position
    assert values(window)["left hand/reach"] == 0 and abs(after - before).max() < 1e-4


def test_the_gauge_warns_and_another_order_is_one_click(window: Window) -> None:
    choose(window, "chest")
    panel = open_panel(window, "values")
    assert not panel._gauge_row.isVisible() and panel.order.currentText() == "YXZ"
    write(box_of(window, "tilt"), "84")
    assert panel._gauge_row.isVisible() and "Turn and roll nearly line up" in panel.gauge.text()
    before = script.sample(window.session.shot, "porter", range(101, 160)).position
    panel.better.click()
    QApplication.processEvents()
    after = script.sample(window.session.shot, "porter", range(101, 160)).position
    assert abs(after - before).max() < 1e-6 and not panel._gauge_row.isVisible()
    assert panel.order.currentText() != "YXZ" and "Rotation order" in window.session.document.undo_stack.undoText()
    window.session.document.undo_stack.undo()
    assert panel.order.currentText() == "YXZ"


def test_what_is_typed_is_keyed_though_it_is_there_already(window: Window) -> None:
    """A contact at 0 could not be typed on a frame that was at 0 by itself."""
    window.run("motion.spline_all")
    choose(window, "hips")
    window.session.go_to(112)
    assert 112 not in script.keys(window.session.shot, "porter", "hips/up")
    now = values(window)["hips/up"]
    box = box_of(window, "up")
    write(box, f"{now * 100!r}")
    assert 112 in script.keys(window.session.shot, "porter", "hips/up")
    assert values(window)["hips/up"] == pytest.approx(now, abs=1e-12)
    steps = window.session.document.undo_stack.count()
    box.setFocus()
    QTest.keyClick(box, Qt.Key.Key_Return)
    assert window.session.document.undo_stack.count() == steps, "Return alone types nothing"
