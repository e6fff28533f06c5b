"""The figure pulled by a hand, at speed: crouch, reach, throw, fall; it follows, holds what is held, and comes home."""

from collections.abc import Callable

from tests.real.conftest import Desk

PLACE = "window.session.stance().seen(window.session.figure.rig.joint({0!r}))"
ON_SCREEN = (
    "(lambda p, top: [round(top.x() + p.x()), round(top.y() + p.y())])"
    "(window.stage.main.scene.on_screen({0}), window.stage.main.mapToGlobal(window.stage.main.rect().topLeft()))"
)
PULLED = "window.session.pulled._last"
BALLS = (
    "[[float(x) for x in sys.modules['tests.pulls'].anchor_place(window.session.stance(), window.session.figure.rig.joint(n))]"
    " for n in ('left foot', 'right foot')]"
)
ALL = "[[float(x) for x in place] for place in window.session.stance().world[:, :3, 3]]"
STROKES = {
    "hips": ((0, 60), (-30, -20), (30, -40)),
    "left hand": ((40, -90), (-70, 60), (30, 30)),
    "chest": ((50, 40), (-90, -10), (40, -30)),
    "head": ((10, 80), (-30, -60), (20, -20)),
}
"""Where the hand goes, in leaps of pixels that add up to nothing."""


def _farthest(first: list[list[float]], second: list[list[float]]) -> float:
    return max(abs(a - b) for one, other in zip(first, second, strict=True) for a, b in zip(one, other, strict=True))


def test_a_hand_at_speed(start: Callable[..., Desk]) -> None:
    desk = start("demo")
    desk.ask("__import__('tests.pulls') and None")
    desk.ask("window.session.go_to(101)")
    before, balls = desk.ask(ALL), desk.ask(BALLS)
    for joint, leaps in STROKES.items():
        desk.ask("window.session.choose('porter', (0,))")
        x, y = desk.ask(ON_SCREEN.format(PLACE.format(joint)))
        at = (x, y - 6)
        desk.hand("mousemove", *at, "sleep", 0.05, "mousedown", 1, "sleep", 0.05)
        for right, down in leaps:
            ways = [(round(at[0] + right * part / 3), round(at[1] + down * part / 3)) for part in (1, 2, 3)]
            desk.hand(*(word for way in ways for word in ("mousemove", *way, "sleep", 0.012)))
            at = ways[-1]
            desk.until(f"{PULLED} is not None and {PULLED}.at_rest")
            assert _farthest(desk.ask(BALLS), balls) < 1e-3, joint
        desk.hand("mouseup", 1)
        desk.until("not window.session.document.previewing")
        assert _farthest(desk.ask(ALL), before) < 2e-3, joint
