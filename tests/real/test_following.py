"""A tail that follows, by mouse and keys: made, told by a slider and by typing, keyed on top, made quiet, turned into keys."""

from collections.abc import Callable

from tests.real.conftest import Desk

from bovrin import cast

TIP = (
    "(lambda found: [float(x) for x in found.world[0, found.rig.joint('tail tip')][:3, 3]])"
    "(sys.modules['bovrin.figure.staging'].staged(window.session.shown, 'goat', 133.0))"
)
PANEL = "window.right.panel('followers')"
TOLD = "sys.modules['bovrin.script'].followers(window.session.shot, 'goat')[0].settings"


def _apart(a: list[float], b: list[float]) -> float:
    return float(max(abs(x - y) for x, y in zip(a, b, strict=True)))


def test_a_tail_that_comes_after(start: Callable[..., Desk]) -> None:
    desk = start("open", cast.GOAT)
    desk.ask("window.run('pass.spline') or window.right.open('followers')")
    desk.ask("window.session.choose('goat', [window.session.shot.figure('goat').rig.control('tail')])")
    desk.ask("window.session.go_to(133)")
    keyed = desk.ask(TIP)
    desk.click(desk.at(f"{PANEL}.buttons['spring']"))
    desk.until("len(window.session.shot.followers('goat')) == 1")
    desk.until(f"len({PANEL}.rows) == 1 and {PANEL}.rows[0].graph is not None")
    after = desk.ask(TIP)
    assert _apart(keyed, after) > 1e-3
    slider = f"{PANEL}.rows[0].rows['lags by'].slider"
    x, y = desk.at(slider, "it.x_of(it.favour)", "it.height() / 2")
    desk.drag((x, y), (x + 30, y))
    desk.until(f"{TOLD}['lags_by'] > 4 and not window.session.document.previewing")
    field = f"{PANEL}.rows[0].rows['sways'].field"
    desk.click(desk.at(field))
    desk.keys("ctrl+a")
    desk.keys("4")
    desk.keys("Return")
    desk.until(f"{TOLD}['sways'] == 4.0")
    desk.click(desk.at(f"{PANEL}.rows[0].on"))
    desk.until("not window.session.shot.followers('goat')[0].on")
    assert _apart(keyed, desk.ask(TIP)) < 1e-12
    desk.keys("ctrl+z")
    desk.until("window.session.shot.followers('goat')[0].on")
    moving = desk.ask(TIP)
    desk.click(desk.at(f"{PANEL}.to_keys"))
    desk.until("not window.session.shot.followers('goat')")
    assert _apart(moving, desk.ask(TIP)) < 2e-3
    desk.keys("ctrl+z")
    desk.until("len(window.session.shot.followers('goat')) == 1")
