"""A gesture with a target that only notes down, and many at random: one value is taken over, or none."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, Qt

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
