"""Manners of the hand: what is dragged right after a click, what Shift does, what a second click tells."""

from collections.abc import Callable

from tests.real.conftest import Desk

SQUARE = (
    "(lambda p, top: [round(top.x() + p.x()), round(top.y() + p.y())])"
    "(window.stage.main.handle.places.points()['square'], window.stage.main.mapToGlobal(window.stage.main.rect().topLeft()))"
)
UP = "__import__('bovrin.script').script.values(window.session.shown, 'porter', window.session.frame)['left hand/up']"


def test_a_drag_right_after_a_click_and_a_second_click(start: Callable[..., Desk]) -> None:
    desk = start("demo")
    desk.ask("window.session.choose('porter', (window.session.figure.rig.control('left hand'),))")
    desk.until("'square' in window.stage.main.handle.places.points()")
    x, y = desk.ask(SQUARE)
    before = desk.ask(UP)
    moves = [word for n in range(1, 7) for word in ("mousemove", x, y - 6 * n, "sleep", 0.02)]
    desk.hand(
        "mousemove", x, y, "sleep", 0.1, "click", 1, "sleep", 0.08, "mousedown", 1, "sleep", 0.04, *moves, "mouseup", 1
    )
    desk.until("not window.session.document.previewing and window.session.document.undo_stack.count() == 1")
    assert desk.ask(UP) > before + 0.02
    x, y = desk.ask(SQUARE)
    desk.hand("mousemove", x, y, "sleep", 0.6, "click", 1, "sleep", 0.08, "click", 1)
    desk.until("'Back at the default' in window.notice.label.text()")
    assert desk.ask(UP) == 0
    desk.keys("ctrl+z", "ctrl+z")
    desk.until("window.session.document.undo_stack.index() == 0")
    assert abs(desk.ask(UP) - before) < 1e-12
    desk.keys("ctrl+y")
    desk.until("window.session.document.undo_stack.index() == 1")


def test_letters_say_what_they_did_and_do_nothing_while_it_plays(start: Callable[..., Desk]) -> None:
    desk = start("demo")
    desk.ask("window.session.choose('porter', (window.session.figure.rig.control('left hand'),))")
    desk.keys("o")
    desk.until("window.session.document.undo_stack.count() == 1")
    desk.until("'Undo takes it back' in window.notice.label.text() or 'fours' in window.notice.label.text()")
    desk.keys("space")
    desk.until("window.session.playing")
    desk.keys("j", "m", "f", "r", "k")
    desk.until("'It plays' in window.notice.label.text()")
    assert desk.ask("window.session.playing and window.session.document.undo_stack.count() == 1")
    desk.keys("space")
    desk.until("not window.session.playing")
