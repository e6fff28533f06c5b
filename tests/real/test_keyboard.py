"""Who has the keyboard, tried with keys that come through the X server."""

from collections.abc import Callable

from tests.real.conftest import Desk

FOCUS = "QApplication.focusWidget() is window.stage.main"


def test_after_a_start_space_plays_and_tab_flips(start: Callable[..., Desk]) -> None:
    desk = start("demo")
    assert desk.ask(FOCUS)
    desk.keys("space")
    desk.until("window.session.playing")
    desk.keys("space")
    desk.until("not window.session.playing")
    desk.keys("Home", "Down")
    desk.hand("keydown", "Tab")
    desk.until("window.keyboard.flip.held")
    desk.hand("keyup", "Tab")
    desk.until("not window.keyboard.flip.held")


def test_when_what_has_the_keyboard_goes_away_the_stage_has_it(start: Callable[..., Desk]) -> None:
    desk = start("demo")
    desk.keys("Right", "3")
    desk.until("window.session.pass_.name == 'Break down'")
    slider = "window.right.panel('breakdown').all"
    desk.ask(f"{slider}.setFocus() or 1")
    desk.until(f"window.isAncestorOf(QApplication.focusWidget()) and not ({FOCUS})")
    desk.keys("2")
    desk.until(FOCUS)
    desk.keys("space")
    desk.until("window.session.playing")
