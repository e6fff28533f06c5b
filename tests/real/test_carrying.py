"""The porter carries the crate, by mouse and keys: hung on the chest, both hands on it, dragged along, let go of, taken back."""

from collections.abc import Callable

from tests.real.conftest import Desk

WORLD = (
    "(lambda found: found.world[0, found.rig.joint({1!r})])"
    "(sys.modules['bovrin.figure.staging'].staged(window.session.shown, {0!r}, window.session.frame))"
)
PLACE = "[float(x) for x in " + WORLD + "[:3, 3]]"
ON_SCREEN = (
    "(lambda p, top: [round(top.x() + p.x()), round(top.y() + p.y())])"
    "(window.stage.main.scene.on_screen("
    + WORLD
    + "[:3, 3]), window.stage.main.mapToGlobal(window.stage.main.rect().topLeft()))"
)
HUNG = "[one.onto for one in window.session.shot.attachments({0!r})]"


def _off(desk: Desk) -> list[float]:
    """Where both hands are from the crate."""
    crate = desk.ask(PLACE.format("crate", "crate"))
    hands = (desk.ask(PLACE.format("porter", f"{side} hand")) for side in ("left", "right"))
    return [sum((a - b) ** 2 for a, b in zip(hand, crate, strict=True)) ** 0.5 for hand in hands]


def _hang(desk: Desk, figure: str, control: str, on: tuple[str, str]) -> None:
    desk.ask(f"window.session.choose({figure!r}, [window.session.shot.figure({figure!r}).rig.control({control!r})])")
    desk.click(desk.at("window.stage.main", 12, "it.height() - 90"), 2)  # the keyboard is the stage's
    desk.keys("shift+a")
    desk.until("window.stage.main.hang.what == 'hang'")
    desk.click(tuple(desk.ask(ON_SCREEN.format(*on))))
    desk.until(f"len(window.session.shot.attachments({figure!r})) > 0 and window.stage.main.hang.what == ''")


def test_both_hands_on_the_crate(start: Callable[..., Desk]) -> None:
    desk = start("demo")
    desk.ask("window.run('pass.block')")
    desk.ask("window.session.go_to(133)")
    _hang(desk, "crate", "whole crate", ("porter", "head"))
    assert desk.ask(HUNG.format("crate"))[0].endswith("of porter")
    for hand in ("left hand", "right hand"):
        _hang(desk, "porter", hand, ("crate", "crate"))
    assert desk.ask(HUNG.format("porter")) == ["the crate", "the crate"]
    before, crate = _off(desk), desk.ask(PLACE.format("crate", "crate"))
    desk.ask("window.session.choose('porter', [window.session.shot.figure('porter').rig.control('hips')])")
    x, y = desk.ask(ON_SCREEN.format("porter", "hips"))
    desk.drag((x, y), (x + 30, y + 24))
    desk.until("not window.session.document.previewing")
    moved = desk.ask(PLACE.format("crate", "crate"))
    assert max(abs(a - b) for a, b in zip(moved, crate, strict=True)) > 0.01, "it comes along"
    assert max(abs(a - b) for a, b in zip(_off(desk), before, strict=True)) < 0.02, "both hands stay on it"
    desk.ask("window.session.go_to(143)")
    desk.ask("window.session.choose('crate', ()) or window.right.open('attachments')")
    here = desk.ask(PLACE.format("crate", "crate"))
    steps = desk.ask("window.session.document.undo_stack.index()")
    desk.click(desk.at("window.right.panel('attachments').buttons['hang.let_go']"))
    desk.until(f"window.session.document.undo_stack.index() == {steps + 1}")
    there = desk.ask(PLACE.format("crate", "crate"))
    assert max(abs(a - b) for a, b in zip(here, there, strict=True)) < 1e-6, "nothing moves where it is let go of"
    for _ in range(5):
        desk.keys("ctrl+z")
    desk.until("not window.session.shot.attachments('crate') and not window.session.shot.attachments('porter')")
