"""A cut-out by mouse and keys: a part taken hold of on the stage, drawings swapped and run, the pile dragged in, undone."""

from collections.abc import Callable

from tests.real.conftest import Desk

from bovrin import cast

JOINT = (
    "(lambda it, p, o: [p.x() + o.x(), p.y() + o.y()])(window.stage.main, "
    "window.stage.main.scene.on_screen(window.session.stance().world[window.session.figure.rig.joint('{0}'), :3, 3]), "
    "window.stage.main.mapToGlobal(window.stage.main.rect().topLeft()))"
)
SHEET = "window.right.panel('drawings').sheet"
CARD = "[c.rect.center() for c in it.cards() if (c.part, c.drawing) == ('{0}', '{1}')][0].{2}()"
SHOWN = "[sys.modules['bovrin.script'].drawing(window.session.shot, 'heron', '{0}', f) for f in {1}]"
PILE = "window.right.panel('in front').pile"
ORDER = "sys.modules['bovrin.script'].stacking(window.session.shot, 'heron', 113)"


def card(desk: Desk, part: str, drawing: str) -> tuple[int, int]:
    return desk.at(SHEET, CARD.format(part, drawing, "x"), CARD.format(part, drawing, "y"))


def row(desk: Desk, name: str) -> tuple[int, int]:
    item = f"[{PILE}.item(n) for n in range({PILE}.count()) if {PILE}.item(n).text() == '{name}'][0]"
    spot = f"{PILE}.visualItemRect({item}).center()"
    return desk.at(f"{PILE}.viewport()", f"{spot}.x()", f"{spot}.y()")


def test_a_bird_of_paper(start: Callable[..., Desk]) -> None:
    desk = start("open", cast.HERON)
    desk.ask("window.run('pass.block') or window.session.choose('heron', [])")
    desk.ask("window.session.go_to(113)")
    desk.until("bool(window.stage.main.scene.drawable)")
    x, y = desk.ask(JOINT.format("eye"))
    desk.click((round(x), round(y)))
    desk.until("[window.session.figure.rig.controls[c].name for c in window.session.controls] == ['eye']")
    desk.keys("period")
    desk.until(f"{SHOWN.format('eye', '[113, 112]')} == ['half', 'open']")
    desk.keys("ctrl+z")
    desk.until(f"{SHOWN.format('eye', '[113]')} == ['open']")
    desk.ask("window.right.open('drawings') and None")
    desk.click(card(desk, "eye", "shut"))
    desk.until(f"{SHOWN.format('eye', '[113]')} == ['shut']")
    desk.keys("ctrl+z")
    desk.drag(card(desk, "eye", "half"), card(desk, "eye", "shut"))
    desk.until(
        f"{SHOWN.format('eye', '[112, 113, 114, 115, 116, 117]')} == ['open', 'half', 'half', 'shut', 'shut', 'open']"
    )
    desk.keys("ctrl+z")
    desk.ask("window.right.open('in front') and None")
    before = desk.ask(ORDER)
    assert before.index("near wing") > 0
    x, y = row(desk, before[0])
    desk.drag(row(desk, "near wing"), (x, y - 8), steps=12)
    desk.until(f"{ORDER}[0] == 'near wing'")
    desk.keys("ctrl+z")
    desk.until(f"{ORDER} == {before!r}")
