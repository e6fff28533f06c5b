import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_stage import choose, chosen
from tools.keys_page import PAGE, page

from bovrin import script
from bovrin.desk.commands.synonyms import ALSO
from bovrin.desk.commands.table import told
from bovrin.desk.sheets.finder import matching
from bovrin.desk.sheets.keys_page import KeysPage
from bovrin.desk.table import BY_ID, TABLE
from bovrin.desk.window import Window


def test_every_command_has_words_and_a_key_that_qt_knows() -> None:
    for command in TABLE:
        assert command.words and command.tip and command.id.startswith(tuple("abcdefghijklmnopqrstuvwxyz"))
        if command.key:
            assert not QKeySequence(command.key).isEmpty()
            assert command.key in told(command)


def test_the_finder_finds_by_words() -> None:
    assert next(c.id for c in matching(TABLE, "breakdown")) == "pose.breakdown"
    assert "motion.spline_all" in {c.id for c in matching(TABLE, "whole spline")}
    assert matching(TABLE, "zebra") == []
    assert set(ALSO) <= {command.id for command in TABLE}
    for words, wanted in {
        "export": "shot.export", "import": "shot.bring", "delete": "pose.remove", "fk": "pose.mode", "ik": "pose.mode",
        "keyframe": "pose.key", "onion skin": "view.light_table", "graph": "pass.spline", "timeline": "time.settings",
        "render": "shot.export", "tween": "pose.breakdown",
    }.items():  # fmt: skip
        assert wanted in {command.id for command in matching(TABLE, words)}, words
    assert len(matching(TABLE, "")) == len(TABLE)


def test_the_finder_runs_what_is_chosen(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    assert window.opening.finder is not None and window.opening.finder.isVisible()
    QTest.keyClicks(window.opening.finder.line, "view: side")
    QTest.keyClick(window.opening.finder.line, Qt.Key.Key_Return)
    assert not window.opening.finder.isVisible() and window.pills.views.button("Side").isChecked()
    window.open("finder")
    QTest.keyClicks(
        window.opening.finder.line, "side"
    )  # "Other side" cannot be done now, so it does not stand in the way
    QTest.keyClick(window.opening.finder.line, Qt.Key.Key_Return)
    assert not window.opening.finder.isVisible()
    window.open("finder")
    QTest.keyClicks(window.opening.finder.line, "undo")
    item = window.opening.finder.list.item(0)
    assert item is not None and not item.flags() & Qt.ItemFlag.ItemIsEnabled
    QTest.keyClick(window.opening.finder.line, Qt.Key.Key_Return)
    assert window.opening.finder.isVisible()
    window.opening.finder.line.setText("zebra")
    assert "zebra" in window.opening.finder.nothing.text() and not window.opening.finder.nothing.isHidden()
    window.opening.finder.close()


def test_the_menu_holds_every_command(window: Window) -> None:
    menu = window.topbar.build_menu()
    words = {a.text().split("\t")[0] for part in menu.actions() for a in part.menu().actions()}  # type: ignore[union-attr]
    assert words == {c.words for c in TABLE}
    menu.deleteLater()


def test_the_page_of_keys(window: Window) -> None:
    page = KeysPage(TABLE, window)
    assert page.table.rowCount() == len(TABLE)
    page.close()
    page.deleteLater()


def test_passes_by_number(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    for key, name, curves in (
        (Qt.Key.Key_3, "Break down", False),
        (Qt.Key.Key_4, "Spline", True),
        (Qt.Key.Key_2, "Block", False),
    ):
        hand.key(key)
        assert window.session.pass_.name == name
        assert window.topbar.pass_buttons[name].isChecked()
        assert window.curves.desk.isVisible() is curves
        assert window.right.panel("breakdown").isVisible() is (name == "Break down")


def test_the_other_side_and_the_default_pose(window: Window, hand: Hand) -> None:
    choose(window, "left hand")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_X)
    assert chosen(window) == ["right hand"]
    hand.key(Qt.Key.Key_0)
    values = window.session.stance().values
    rig = window.session.shot.figure("porter").rig
    assert all(values[i] == rig.channels[i].default for i in rig.span(rig.control("right hand")))
    assert window.session.document.undo_stack.undoText() == "To the default pose"


def test_page_keys_walk_along_the_controls(window: Window, hand: Hand) -> None:
    choose(window, "spine")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_PageDown)
    assert chosen(window) == ["chest"]
    hand.key(Qt.Key.Key_PageUp)
    hand.key(Qt.Key.Key_PageUp)
    assert chosen(window) == ["hips"]


def test_what_does_not_apply_says_so(window: Window) -> None:
    window.session.choose("porter", [])
    window.run("pose.default")
    assert "does not apply" in window.notice.label.text()
    window.run("edit.undo")
    assert window.session.document.undo_stack.count() == 0


def test_undo_and_redo_carry_names(window: Window) -> None:
    window.session.go_to(150)
    window.run("pose.key")
    assert "Key pose" in window.topbar.undo.toolTip() and window.topbar.undo.isEnabled()
    window.topbar.undo.click()
    assert "Key pose" in window.topbar.redo.toolTip() and not window.topbar.undo.isEnabled()


def test_numbers_are_typed_with_units(window: Window) -> None:
    choose(window, "hips")
    panel = open_panel(window, "values")
    box = next(b for b in panel.boxes.values() if b.accessibleName() == "up")
    assert box.text().endswith(" cm")
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, "-12.5")
    QTest.keyClick(box, Qt.Key.Key_Return)
    QApplication.processEvents()
    rig = window.session.shot.figure("porter").rig
    assert abs(window.session.stance().values[rig.channel("hips/up")] + 0.125) < 1e-9
    assert window.session.document.undo_stack.undoText() == "Set hips up"
    window.session.go_to(119)
    assert abs(box.value() - 100 * window.session.stance().values[rig.channel("hips/up")]) < 1e-6 and box.value() < -20


def test_arrows_in_a_number_box_stay_there(window: Window, hand: Hand) -> None:
    choose(window, "hips")
    QApplication.processEvents()
    box = next(iter(window.right.panel("values").boxes.values()))
    box.setFocus()
    before = window.session.frame
    QTest.keyClick(box, Qt.Key.Key_Up)
    assert window.session.frame == before and window.session.document.undo_stack.count() == 1


def test_commands_are_the_ones_the_table_names() -> None:
    assert BY_ID["pose.key"].key == "K" and BY_ID["view.fit"].key == "V" and BY_ID["help.find"].key == "Ctrl+K"


def test_takes_are_chosen_from_the_top_bar(window: Window, qtbot: QtBot) -> None:
    """A new take is a copy that goes its own way; the menu goes back; undo brings both back."""
    session = window.session
    first = session.shot.take.name
    before = session.shot.curves("porter")
    window.run("take.new")
    made = session.shot.take.name
    assert made != first and made in window.topbar.take.text()
    window.run("take.rename")
    field = window.topbar.findChild(QLineEdit)
    assert field is not None
    qtbot.keyClicks(field, "slower")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.shot.take.name == "slower"
    session.go_to(119)
    assert session.do("Reset", lambda shot: script.set_values(shot, "porter", 119, {"hips/up": 0.0}))
    menu = window.topbar.take.build_menu()
    row = next(a for a in menu.actions() if a.text() == f"Take {first}")
    row.trigger()
    assert session.shot.take.name == first and session.shot.curves("porter") is before
    window.run("take.next")
    assert session.shot.take.name != first
    window.run("take.remove")
    names = {take.name for take in session.shot.all_takes}
    session.document.undo_stack.undo()
    assert {take.name for take in session.shot.all_takes} > names


def test_the_page_of_keys_is_the_table_s() -> None:
    assert PAGE.read_text() == page()


@pytest.mark.parametrize("width", [1000, 1080, 1280])
def test_the_finder_s_words_are_never_cut(width: int, window: Window) -> None:
    window.resize(width, 800)
    QApplication.processEvents()
    button = window.topbar.find_button
    assert button.width() >= button.sizeHint().width() and button.text().startswith("Find")
    assert ("Ctrl+K" in button.text()) or width < 1280
