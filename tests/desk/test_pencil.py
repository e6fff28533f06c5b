"""The pencil on the stage: drawn by the mouse and a pen, undone by stroke, rubbed out, moved on the strip, pinned."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QInputDevice, QPointingDevice, QTabletEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.desk.panels.pencil_panel import PencilPanel
from bovrin.desk.strip.layout import RULER
from bovrin.desk.window import Window
from bovrin.picture.strokes import world_points


@pytest.fixture
def drawing(window: Window) -> Window:
    window.run("pass.plan")
    window.session.go_to(110)
    window.run("pencil.draw")
    QApplication.processEvents()
    return window


def pencil(window: Window, **changes: object) -> None:
    window.session.change_looking(pencil=replace(window.session.looking.pencil, **changes))  # type: ignore[arg-type]


def at(window: Window, x: float, y: float) -> QPointF:
    """A place on the stage by shares of it."""
    stage = window.stage.main
    return QPointF(round(x * stage.width()), round(y * stage.height()))


def strokes(window: Window) -> list[tuple[float, int]]:
    return [(d.frame, len(d.strokes)) for d in window.session.shot.drawings]


def test_a_line_is_drawn_undone_by_stroke_and_poses_nothing(drawing: Window, hand: Hand, tmp_path: Path) -> None:
    stage, motion = drawing.stage.main, drawing.session.shot.take
    empty = stage.grab().toImage()
    hand.drag(stage, at(drawing, 0.3, 0.3), at(drawing, 0.6, 0.5))  # over the figure: it is drawn on, not posed
    hand.drag(stage, at(drawing, 0.3, 0.6), at(drawing, 0.6, 0.6))
    assert strokes(drawing) == [(110, 2)] and drawing.session.shot.take is motion
    line = drawing.session.shot.drawings[0].strokes[0]
    size = np.array([stage.width(), stage.height()])
    for end, share in ((0, (0.3, 0.3)), (-1, (0.6, 0.5))):
        assert np.abs((line.points[end, :2] - share) * size).max() < 2
    seen = stage.grab().toImage()
    assert seen.pixel(at(drawing, 0.45, 0.6).toPoint()) != empty.pixel(at(drawing, 0.45, 0.6).toPoint())
    drawing.run("edit.undo")
    assert strokes(drawing) == [(110, 1)]
    drawing.session.go_to(109)
    assert stage.grab().toImage() != seen
    drawing.run("edit.undo")
    assert strokes(drawing) == []
    drawing.run("edit.redo")
    assert drawing.files.save(tmp_path / "p.bovrin.json")
    assert [d.frame for d in script.load(tmp_path / "p.bovrin.json").drawings] == [110]


def test_a_dot_is_a_click_and_escape_puts_back_then_puts_the_pencil_away(drawing: Window, hand: Hand) -> None:
    stage = drawing.stage.main
    QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=at(drawing, 0.5, 0.2).toPoint())
    assert strokes(drawing) == [(110, 1)]
    hand.press(stage, at(drawing, 0.2, 0.2))
    hand.move(stage, at(drawing, 0.4, 0.4))
    assert stage.cancel_drag() and strokes(drawing) == [(110, 1)]
    assert drawing.session.looking.pencil.on
    assert stage.cancel_drag() and not drawing.session.looking.pencil.on


def test_the_rubber_takes_lines_it_goes_over_as_one_step(drawing: Window, hand: Hand) -> None:
    stage = drawing.stage.main
    for y in (0.2, 0.4, 0.6):
        hand.drag(stage, at(drawing, 0.3, y), at(drawing, 0.7, y))
    steps = drawing.session.document.undo_stack.count()
    drawing.run("pencil.rubber")
    hand.drag(stage, at(drawing, 0.5, 0.1), at(drawing, 0.5, 0.5))
    assert strokes(drawing) == [(110, 1)] and drawing.session.document.undo_stack.count() == steps + 1
    drawing.run("edit.undo")
    assert strokes(drawing) == [(110, 3)]


def test_what_is_pinned_goes_with_the_joint_and_stays_in_the_scene(drawing: Window, hand: Hand) -> None:
    session, stage = drawing.session, drawing.stage.main
    rig = session.shot.figure("porter").rig
    pencil(drawing, onto="joint")
    hand.drag(stage, at(drawing, 0.4, 0.3), at(drawing, 0.6, 0.3))
    assert strokes(drawing) == [] and "no joint is chosen" in drawing.notice.label.text()
    session.choose("porter", [rig.control("left hand")])
    hand.drag(stage, at(drawing, 0.4, 0.3), at(drawing, 0.6, 0.3))
    pencil(drawing, onto="scene")
    hand.drag(stage, at(drawing, 0.2, 0.9), at(drawing, 0.8, 0.9))
    onto_joint, onto_ground = session.shot.drawings[0].strokes
    assert onto_joint.pin == ("porter", "left hand") and onto_ground.pin == ("", "")
    assert np.abs(onto_ground.points[:, 1]).max() < 1e-9, "on the ground"
    view, size = stage.scene.view, (stage.width(), stage.height())
    for stroke, y in ((onto_joint, 0.3), (onto_ground, 0.9)):
        places = world_points(session.shot, stroke, 110)
        assert places is not None
        seen = view.project(places, size)[:, :2]
        assert np.abs(seen[:, 1] - y * size[1]).max() < 2, "under the pointer"
    hand_at = script.sample(session.shot, "porter", [110, 133])
    j = hand_at.joints.index("left hand")
    moved = [world_points(session.shot, onto_joint, f) for f in (110, 133)]
    off = [np.linalg.norm(m[0] - hand_at.position[n, j]) for n, m in enumerate(moved)]  # type: ignore[index]
    assert off[0] == pytest.approx(off[1], abs=1e-9)


def test_drawings_lie_on_the_strip_are_moved_copied_and_gone_to(drawing: Window, hand: Hand) -> None:
    session, stage, strip = drawing.session, drawing.stage.main, drawing.strip
    hand.drag(stage, at(drawing, 0.3, 0.3), at(drawing, 0.6, 0.5))
    session.go_to(130)
    drawing.run("pencil.new")
    assert strokes(drawing) == [(110, 1), (130, 0)]

    def leaf(frame: float) -> QPointF:
        return QPointF(strip.scale.x(frame) + 4, RULER + 7)

    hand.drag(strip, leaf(110), leaf(115))
    assert strokes(drawing) == [(115, 1), (130, 0)]
    hand.drag(strip, leaf(115), leaf(140), keys=Qt.KeyboardModifier.ControlModifier)
    assert strokes(drawing) == [(115, 1), (130, 0), (140, 1)]
    hand.drag(strip, leaf(115), leaf(150))
    assert strokes(drawing)[0] == (129, 1), "it stays before the next"
    hand.click(strip, leaf(140))
    assert session.frame == 140
    session.go_to(145)
    drawing.run("pencil.copy")
    assert strokes(drawing)[-1] == (145, 1)
    drawing.run("pencil.remove")
    drawing.run("pencil.before")
    assert session.frame == 140


def test_seen_dimmed_hidden_and_the_panel_says_where_one_is(drawing: Window, hand: Hand) -> None:
    session, stage = drawing.session, drawing.stage.main
    panel = drawing.right.open("pencil")
    assert isinstance(panel, PencilPanel) and panel.where.text().startswith("Nothing is drawn here")
    empty = stage.grab().toImage()
    hand.drag(stage, at(drawing, 0.1, 0.2), at(drawing, 0.4, 0.2))
    assert panel.where.text() == "Drawing 1 of 1, from 110 to 160: 1 line"
    pictures = [stage.grab().toImage()]
    for word in ("dimmed", "hidden"):
        drawing.run("pencil.seen")
        assert session.looking.pencil.seen == word
        QApplication.processEvents()
        pictures.append(stage.grab().toImage())
    place = at(drawing, 0.25, 0.2).toPoint()
    colours = [picture.pixelColor(place).lightness() for picture in (empty, *pictures)]
    assert colours[1] < colours[2] < colours[0] == colours[3]
    assert not session.looking.pencil.on, "what is hidden is not drawn on"
    panel.colours["teal"].click()
    assert session.looking.pencil.colour == "teal" and session.looking.pencil.on


def test_a_pen_draws_by_its_pressure(drawing: Window, hand: Hand) -> None:
    stage = drawing.stage.main
    widths = []
    for pressure in (0.2, 0.9):
        stage.scene.pressure = pressure
        hand.drag(stage, at(drawing, 0.3, pressure), at(drawing, 0.6, pressure))
        widths.append(drawing.session.shot.drawings[0].strokes[-1].widths.mean())
    assert widths[1] > 3 * widths[0]


def test_a_pen_s_events_tell_its_pressure(drawing: Window) -> None:
    stage = drawing.stage.main
    device = QPointingDevice(
        "pen",
        1,
        QInputDevice.DeviceType.Stylus,
        QPointingDevice.PointerType.Pen,
        QInputDevice.Capability.Pressure,
        1,
        1,
    )
    for kind, pressure in (
        (QEvent.Type.TabletPress, 0.4),
        (QEvent.Type.TabletMove, 0.8),
        (QEvent.Type.TabletRelease, 0),
    ):
        place = at(drawing, 0.5, 0.5)
        buttons = Qt.MouseButton.LeftButton if pressure else Qt.MouseButton.NoButton
        event = QTabletEvent(
            kind, device, place, QPointF(stage.mapToGlobal(place)), pressure, 0, 0, 0, 0, 0,
            Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton, buttons,
        )  # fmt: skip
        QApplication.sendEvent(stage, event)
        assert stage.scene.pressure == (pytest.approx(pressure) if pressure else None)


def test_a_line_is_no_change_of_the_pose_that_waits_for_its_key(drawing: Window, hand: Hand) -> None:
    drawing.session.change_keying(only_k=True)
    hand.drag(drawing.stage.main, at(drawing, 0.3, 0.3), at(drawing, 0.6, 0.5))
    assert strokes(drawing) == [(110, 1)] and drawing.session.shot.unkeyed == ()
