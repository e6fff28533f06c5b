"""The keyboard in the real window: buttons, F6, and Space elsewhere."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand

from bovrin.desk.kit.widgets import Panel
from bovrin.desk.window import Window


def panel_of(window: Window) -> Panel | None:
    focus = QApplication.focusWidget()
    return next((panel for panel in window.right.open_panels() if panel.isAncestorOf(focus)), None)


def test_space_and_return_press_the_button_that_has_the_keyboard(window: Window, hand: Hand, qtbot: QtBot) -> None:
    button: QAbstractButton = window.pills.views.button("Side")
    for key in (Qt.Key.Key_Space, Qt.Key.Key_Return):
        window.run("view.front")
        assert not button.isChecked()
        button.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(button, key)
        qtbot.waitUntil(button.isChecked, timeout=20000)
        assert not window.session.playing
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Space)
    assert window.session.playing, "elsewhere Space plays"
    hand.key(Qt.Key.Key_Space)


def test_a_click_on_a_button_leaves_the_keyboard_where_it_was(window: Window) -> None:
    window.stage.main.setFocus()
    QTest.mouseClick(window.pills.views.button("Side"), Qt.MouseButton.LeftButton)
    assert window.stage.main.hasFocus()


def test_f6_goes_from_panel_to_panel_and_round(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    panels, seen = window.right.open_panels(), []
    assert len(panels) >= 2
    for _ in range(20):
        hand.key(Qt.Key.Key_F6)
        if window.stage.main.hasFocus():
            break
        seen.append(panel_of(window))
    assert window.stage.main.hasFocus(), "it comes round"
    assert [panel for panel in seen if panel is not None] == panels


def test_f6_goes_on_from_inside_a_panel(window: Window, hand: Hand) -> None:
    first, second, *_ = window.right.open_panels()
    inside = next(
        w for w in first.findChildren(QAbstractButton) if w is not first.fold and w.isVisible() and w.isEnabled()
    )
    inside.setFocus(Qt.FocusReason.TabFocusReason)
    hand.key(Qt.Key.Key_F6)
    assert panel_of(window) is second
