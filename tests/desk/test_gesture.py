"""A gesture with a target that only notes down, and many at random: one value is taken over, or none."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, Qt
from pytestqt.qtbot import QtBot

from bovrin.desk.kit.gesture import Drag, Gesture, cancel_under_way
from bovrin.errors import BadMotion, BovrinError

NONE = Qt.KeyboardModifier.NoModifier
STEPS = st.lists(st.tuples(st.integers(-9, 9), st.integers(-9, 9)), max_size=8)


class Noting:
    """A target that notes down what it is told; the value is where the pointer is."""

    def __init__(self) -> None:
        self.shown: QPointF | None = None
        self.taken: list[QPointF] = []
        self.faults: list[str] = []
        self.hints: list[str] = []

    def preview(self, value: QPointF | None) -> None:
        self.shown = value

    def commit(self, words: str, value: QPointF) -> bool:
        self.taken.append(value)
        self.shown = None
        return True

    def hint(self, words: str) -> None:
        self.hints.append(words)

    def fail(self, error: BovrinError) -> None:
        self.faults.append(error.sentence)


class Pull(Drag[QPointF]):
    words = "Pull"

    def __init__(self, refused_right: float = 1e9) -> None:
        self.refused_right = refused_right
        self.ended = ""

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[QPointF | None, str]:
        if at.x() > self.refused_right:
            raise BadMotion("too far to the right.")
        return QPointF(at), f"{at.x():g}"

    def done(self) -> None:
        self.ended += "done"

    def put_back(self) -> None:
        self.ended += "put back"


@given(STEPS, st.booleans())
def test_a_press_is_a_click_or_one_drag_and_never_both(steps: list[tuple[int, int]], cancelled: bool) -> None:
    target, pull, clicks = Noting(), Pull(), []
    gesture: Gesture[QPointF] = Gesture(target)
    gesture.press(QPointF(0, 0), NONE, pull, lambda: clicks.append(1))
    for x, y in steps:
        gesture.move(QPointF(x, y), NONE)
    far = any(abs(x) + abs(y) >= 4 for x, y in steps)
    if cancelled:
        assert cancel_under_way() and not gesture.active
        gesture.release()
        assert (target.taken, clicks, pull.ended) == ([], [], "put back")
    else:
        gesture.release()
        assert bool(target.taken) == far and bool(clicks) != far and pull.ended == ("done" if far else "")
        assert not far or target.taken == [QPointF(*steps[-1])]
    assert target.shown is None and not gesture.active and not cancel_under_way()


def test_where_a_drag_gives_nothing_it_stays_where_it_was_and_says_why() -> None:
    target, pull = Noting(), Pull(refused_right=20)
    gesture: Gesture[QPointF] = Gesture(target)
    gesture.press(QPointF(0, 0), NONE, pull)
    gesture.move(QPointF(15, 0), NONE)
    gesture.move(QPointF(30, 0), NONE)
    assert target.shown == QPointF(15, 0) and "right" in target.hints[-1]
    gesture.release()
    assert target.taken == [QPointF(15, 0)] and not target.faults


def test_a_drag_that_never_gave_anything_fails_aloud() -> None:
    target, pull = Noting(), Pull(refused_right=-1)
    gesture: Gesture[QPointF] = Gesture(target)
    gesture.press(QPointF(0, 0), NONE, pull)
    gesture.move(QPointF(30, 0), NONE)
    gesture.release()
    assert not target.taken and target.faults == [BadMotion("too far to the right.").sentence]


class Slow(Pull):
    """A pull that gets a quarter of what is left at a time, until it is near."""

    def __init__(self) -> None:
        super().__init__()
        self.far, self.steps = 0.0, 0
        self.goal = 0.0

    @property
    def at_rest(self) -> bool:
        return abs(self.goal - self.far) < 1.0

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[QPointF | None, str]:
        self.goal, self.steps = at.x(), self.steps + 1
        self.far += 0.25 * (self.goal - self.far)
        return QPointF(self.far, 0.0), f"{self.far:g}"


def test_what_a_step_did_not_get_done_goes_on_while_the_pointer_rests(qtbot: QtBot) -> None:
    target, pull = Noting(), Slow()
    gesture: Gesture[QPointF] = Gesture(target)
    gesture.press(QPointF(0, 0), NONE, pull)
    gesture.move(QPointF(40, 0), NONE)
    assert pull.steps == 1
    qtbot.waitUntil(lambda: pull.at_rest, timeout=2000)
    steps = pull.steps
    qtbot.wait(80)
    assert pull.steps == steps and target.shown is not None and target.shown.x() > 39
    gesture.move(QPointF(-40, 0), NONE)
    assert gesture.cancel()
    qtbot.wait(80)
    assert pull.steps == steps + 1 and target.shown is None


def test_what_is_let_go_on_its_way_gets_there_first() -> None:
    target, pull = Noting(), Slow()
    gesture: Gesture[QPointF] = Gesture(target)
    gesture.press(QPointF(0, 0), NONE, pull)
    gesture.move(QPointF(40, 0), NONE)
    gesture.release()
    assert pull.at_rest and len(target.taken) == 1 and target.taken[0].x() > 39
