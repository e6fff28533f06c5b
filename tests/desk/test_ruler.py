"""The ruler on the ground in the real window: kept from a stride, dragged, turned, and joints come over its ends."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from tests.cycles import alone, cycle_of

from bovrin import script as bv
from bovrin.desk.panels.cycles.travel_panel import TravelPanel
from bovrin.desk.window import Window
from bovrin.shot import Ruler, Shot

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier


def put(window: Window, shot: Shot) -> TravelPanel:
    window.session.replace(shot, None)
    window.session.choose("porter")
    window.run("pass.cycle")
    panel = window.right.open("travel")
    assert isinstance(panel, TravelPanel)
    QTest.qWait(30)
    return panel


def seen(window: Window, place: tuple[float, float, float]) -> QPointF:
    return window.stage.main.scene.on_screen(np.array(place))


def drag(window: Window, start: QPointF, end: QPointF, modifiers: Qt.KeyboardModifier = NONE) -> None:
    stage = window.stage.main
    QTest.mousePress(stage, LEFT, NONE, start.toPoint())
    for share in (0.3, 0.7, 1.0):
        point = start + (end - start) * share
        QTest.mouseMove(stage, point.toPoint())
        stage._gesture.move(point, modifiers)
    QTest.mouseRelease(stage, LEFT, modifiers, end.toPoint())


def test_a_stride_is_kept_as_a_ruler_and_used_on_another_take(window: Window) -> None:
    panel = put(window, cycle_of("porter", "walk", 32, 0.8))
    assert not panel.rulers["cycle.ruler_turn"].isVisible()
    QTest.mouseClick(panel.rulers["cycle.ruler"], LEFT)
    ruler = window.session.shot.ruler
    assert ruler is not None and ruler.length == pytest.approx(0.8, abs=1e-3)
    assert abs(ruler.end[0] - ruler.start[0]) < 1e-6, "it lies along the way"
    QTest.mouseClick(panel.rulers["cycle.ruler_turn"], LEFT)
    turned = window.session.shot.ruler
    assert turned is not None and turned.length == pytest.approx(ruler.length)
    assert turned.start == ruler.start and turned.end[1] == pytest.approx(ruler.start[1])
    window.session.do("Another", lambda shot: bv.new_cycle(shot, "porter", "run", 18, 1.2))
    assert window.session.shot.ruler == turned, "it stays for another motion"
    QTest.mouseClick(panel.rulers["cycle.ruler_away"], LEFT)
    assert window.session.shot.ruler is None
    window.run("edit.undo")
    assert window.session.shot.ruler == turned


def test_its_ends_and_its_line_are_dragged_and_undone(window: Window) -> None:
    put(window, bv.lay_ruler(alone("porter"), (0.9, -0.4), (0.9, 0.6)))
    drag(window, seen(window, (0.9, 0, 0.6)), seen(window, (1.2, 0, 0.9)))
    ruler = window.session.shot.ruler
    assert ruler is not None and np.allclose(ruler.end, (1.2, 0.9), atol=0.02) and ruler.start == (0.9, -0.4)
    middle = (1.05, 0, 0.25)
    drag(window, seen(window, middle), seen(window, (0.85, 0, 0.25)))
    moved = window.session.shot.ruler
    assert moved is not None and np.allclose(moved.start, (0.7, -0.4), atol=0.02)
    assert moved.length == pytest.approx(ruler.length)
    drag(window, seen(window, (moved.end[0], 0, moved.end[1])), seen(window, (0.72, 0, 0.38)), CTRL)
    stepped = window.session.shot.ruler
    assert (
        stepped is not None and stepped.length == pytest.approx(0.8) and stepped.end[0] == pytest.approx(0.7, abs=0.01)
    )
    for _ in range(3):
        window.run("edit.undo")
    assert window.session.shot.ruler == Ruler((0.9, -0.4), (0.9, 0.6))


def test_a_foot_that_is_moved_near_an_end_comes_over_it(window: Window) -> None:
    shot = bv.set_values(alone("porter"), "porter", 101, {"left foot/reach": 1.0})
    foot = bv.sample(shot, "porter", [101])
    ankle = foot.position[0, foot.joints.index("left foot")]
    put(window, bv.lay_ruler(shot, (float(ankle[0]), 0.0), (float(ankle[0]), 0.12)))
    window.run("pass.block")
    rig = window.session.shot.figure("porter").rig
    window.session.choose("porter", [rig.control("left foot")])
    goal = np.array([ankle[0], ankle[1] + 0.06, 0.12])
    start, near = seen(window, tuple(ankle)), seen(window, tuple(goal)) + QPointF(5, -3)
    drag(window, start, near)
    now = bv.sample(window.session.shot, "porter", [101]).position[0, foot.joints.index("left foot")]
    assert np.abs(now - goal)[[0, 2]].max() < 2e-3, "it came over the end"
    window.run("edit.undo")
    drag(window, start, seen(window, tuple(goal)) + QPointF(30, -20))
    far = bv.sample(window.session.shot, "porter", [101]).position[0, foot.joints.index("left foot")]
    assert np.abs(far - goal)[[0, 2]].max() > 0.02, "elsewhere it goes with the pointer"


def test_where_nothing_strides_a_ruler_is_a_metre(window: Window) -> None:
    panel = put(window, alone("porter"))
    QTest.mouseClick(panel.rulers["cycle.ruler"], LEFT)
    ruler = window.session.shot.ruler
    assert ruler is not None and ruler.length == pytest.approx(1.0)
