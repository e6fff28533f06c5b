"""The Cycle pass in the real window: laid out, turned, timed on the rings, made lively, planted, on the spot and back."""

import math
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot
from tests.cycles import alone, cycle_of, lively, nudged, off_mirror, places, slid

from bovrin import script as bv
from bovrin.cast import FOLDER
from bovrin.desk.panels.body_panel import BodyPanel
from bovrin.desk.panels.cycles.cycle_panel import CyclePanel
from bovrin.desk.panels.cycles.travel_panel import TravelPanel
from bovrin.desk.panels.cycles.wheel import CycleWheel
from bovrin.desk.stage.overlays.arcs import ArcDots
from bovrin.desk.state import contact_drag
from bovrin.desk.window import Window
from bovrin.errors import BadMotion
from bovrin.formats.figures.files import load_figure
from bovrin.shot import Cycle, Shot

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier
NONE = Qt.KeyboardModifier.NoModifier


def put(window: Window, shot: Shot, name: str = "porter") -> CyclePanel:
    """The window with a shot in the Cycle pass."""
    window.session.replace(shot, None)
    window.session.choose(name)
    window.run("pass.cycle")
    panel = window.right.open("cycle")
    assert isinstance(panel, CyclePanel)
    QTest.qWait(30)
    return panel


def on_wheel(wheel: CycleWheel, frame: float, radius: float) -> QPoint:
    reading = wheel.reading()
    assert reading is not None
    return wheel.place(reading).at(frame, radius).toPoint()


def ring(wheel: CycleWheel, foot: int) -> float:
    reading = wheel.reading()
    assert reading is not None
    return wheel.place(reading).radius_of(foot)


def drag(wheel: CycleWheel, points: list[QPoint], modifiers: Qt.KeyboardModifier = NONE) -> None:
    QTest.mousePress(wheel, LEFT, modifiers, points[0])
    for point in points[1:]:
        QTest.mouseMove(wheel, point)
        QTest.qWait(1)
        wheel._gesture.move(QPointF(point), modifiers)
    QTest.mouseRelease(wheel, LEFT, modifiers, points[-1])


def around(wheel: CycleWheel, start: float, end: float, radius: float) -> list[QPoint]:
    steps = max(int(abs(end - start)), 1)
    return [on_wheel(wheel, f, radius) for f in np.linspace(start, end, steps + 1)]


def test_a_walk_is_laid_out_by_the_form(window: Window, qtbot: QtBot) -> None:
    panel = put(window, alone("porter"))
    assert panel.form.isVisible() and not panel.wheel.isVisible()
    panel.form.frames.setFocus()
    panel.form.frames.selectAll()
    QTest.keyClicks(panel.form.frames, "24")
    QTest.keyClick(panel.form.frames, Qt.Key.Key_Return)
    panel.form.stride.selectAll()
    QTest.keyClicks(panel.form.stride, "70")
    QTest.keyClick(panel.form.stride, Qt.Key.Key_Return)
    QTest.mouseClick(panel.form.lay, LEFT)
    cycle = window.session.shot.cycle("porter")
    assert cycle == Cycle(101, 125, "walk", mirrored=True)
    assert bv.stride(window.session.shot, "porter").length == pytest.approx(0.7)
    assert panel.wheel.isVisible() and not panel.form.isVisible()
    assert panel.what.text() == "walk · 24 frames"
    window.run("edit.undo")
    assert window.session.shot.cycle("porter") is None and panel.form.isVisible()


def test_what_cannot_be_laid_out_is_told(window: Window) -> None:
    panel = put(window, alone("porter"))
    said: list[str] = []
    window.session.voice.failed.connect(said.append)
    for frames, stride in ((2.0, 70.0), (32.0, 900.0)):
        panel.form.frames.show_value(frames)
        panel.form.stride.show_value(stride)
        QTest.mouseClick(panel.form.lay, LEFT)
    assert len(said) == 2 and window.session.shot.cycle("porter") is None
    assert window.session.document.undo_stack.count() == 0


def test_the_wheel_is_turned_to_scrub_round_and_round(window: Window) -> None:
    wheel = put(window, cycle_of("porter", "walk", 32, 0.8)).wheel
    window.session.go_to(101)
    inside = 30.0
    drag(wheel, around(wheel, 101, 113, inside))
    assert window.session.frame == 113
    drag(wheel, around(wheel, 113, 133 + 8, inside))
    assert window.session.frame == 109, "past the seam it goes on at the beginning"
    drag(wheel, around(wheel, 109, 103, inside))
    assert window.session.frame == 103
    QTest.mousePress(wheel, LEFT, NONE, on_wheel(wheel, 103, inside))
    wheel._gesture.move(QPointF(on_wheel(wheel, 120, inside)), NONE)
    QTest.mousePress(wheel, Qt.MouseButton.RightButton, NONE, on_wheel(wheel, 120, inside))
    QTest.mouseRelease(wheel, LEFT, NONE, on_wheel(wheel, 120, inside))
    assert window.session.frame == 103, "the right button puts it back"


def test_a_pose_at_a_spoke_is_gone_to(window: Window) -> None:
    wheel = put(window, cycle_of("porter", "walk", 32, 0.8)).wheel
    reading = wheel.reading()
    assert reading is not None and [f for f, _ in wheel.spokes(reading)] == [101, 105, 109, 113, 117, 121, 125, 129]
    QTest.mouseClick(wheel, LEFT, NONE, on_wheel(wheel, 117, 102))
    assert window.session.frame == 117


def test_a_ring_follows_at_once_and_the_motion_once_the_pointer_rests(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """No step of the drag waits for the foot's motion; it comes while the pointer rests, or when it is let go."""
    panel = put(window, bv.new_cycle(alone("porter"), "porter", "walk", frames=24, stride=0.8))
    made: list[float] = []
    work = contact_drag.retimed_contact
    monkeypatch.setattr(contact_drag, "retimed_contact", lambda *a: made.append(a[-1][1]) or work(*a))
    wheel, session = panel.wheel, window.session
    reading = wheel.reading()
    assert reading is not None
    foot, before = reading.feet[0].name, session.shot
    start, end = reading.round[foot][0]
    points = [p.toPointF() for p in around(wheel, end, end + 3, ring(wheel, 0))]
    wheel._gesture.press(points[0], NONE, *wheel.press_at(points[0]))
    for n, point in enumerate(points[1:], 1):
        wheel._gesture.move(point, NONE)
        assert session.shown.contacts("porter")[foot][0] == (start, end + n)
        assert session.shown.curves("porter") is before.curves("porter")
    assert not made
    qtbot.waitUntil(lambda: session.shown.curves("porter") is not before.curves("porter"))
    wheel._gesture.release()
    assert made == [end + 3]
    assert session.shot.contacts("porter")[foot][0] == (start, end + 3)


def test_a_contact_that_no_motion_goes_with_changes_nothing(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    """What was shown at once is not kept by itself where the motion cannot follow; the reason is said."""
    panel = put(window, bv.new_cycle(alone("porter"), "porter", "walk", frames=24, stride=0.8))

    def refuse(*_args: object) -> Shot:
        raise BadMotion("this loop would end on other ground.", advice="Keep it as a clip.")

    monkeypatch.setattr(contact_drag, "retimed_contact", refuse)
    wheel, session, said = panel.wheel, window.session, list[str]()
    session.voice.hinted.connect(said.append)
    reading = wheel.reading()
    assert reading is not None
    _, end = reading.round[reading.feet[0].name][0]
    before = session.shot
    drag(wheel, around(wheel, end, end + 3, ring(wheel, 0)))
    assert session.shot is before and session.shown is before
    assert any("this loop would end on other ground" in words for words in said)


def test_a_ring_s_end_is_dragged_and_both_feet_are_timed_anew(window: Window) -> None:
    wheel = put(window, lively(cycle_of("porter", "walk", 32, 0.8), "porter")).wheel
    before = window.session.shot
    drag(wheel, around(wheel, 120, 122, ring(wheel, 0)))
    shot = window.session.shot
    assert shot.contacts("porter")["left leg"] == ((101, 122),) and shot.contacts("porter")["right leg"] == (
        (117, 138),
    )
    for foot, start, end in (("left leg", 101, 122), ("right leg", 117, 138)):
        assert slid(shot, "porter", foot, start, end) < 5e-4
    assert off_mirror(shot, "porter", 101, 133) < 1e-6
    assert window.session.document.undo_stack.count() == 1
    window.run("edit.undo")
    assert window.session.shot is before
    drag(wheel, around(wheel, 120, 117, ring(wheel, 0)), CTRL)
    marked = window.session.shot
    assert marked.contacts("porter")["left leg"] == ((101, 117),)
    assert marked.curves("porter") is before.curves("porter"), "with Ctrl it is only marked"


def test_the_body_s_sliders_are_typed_dragged_and_undone(window: Window) -> None:
    put(window, cycle_of("porter", "walk", 32, 0.8))
    body = window.right.open("body")
    assert isinstance(body, BodyPanel) and set(body.rows) == {"twist", "weight", "bounce", "sway", "lean", "arm swing"}
    QTest.qWait(20)
    field = body.rows["weight"].field
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "4")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert bv.body_ways(window.session.shot, "porter")["weight"] == pytest.approx(4.0, abs=0.05)
    slider = body.rows["twist"].slider
    slider.resize(120, 20)
    middle = QPoint(int(slider.x_of(0.4)), 10)
    QTest.mousePress(slider, LEFT, NONE, middle)
    assert window.session.document.previewing
    QTest.mouseRelease(slider, LEFT, NONE, middle)
    twist = bv.body_ways(window.session.shot, "porter")["twist"]
    assert twist == pytest.approx(0.4 * body.rows["twist"].most, abs=0.6)
    assert off_mirror(window.session.shot, "porter", 101, 133) < 1e-6
    window.run("edit.undo")
    window.run("edit.undo")
    assert max(abs(v) for v in bv.body_ways(window.session.shot, "porter").values()) < 1e-9
    assert body.rows["weight"].field.value() == 0


def test_feet_are_planted_and_travel_is_taken_out_and_put_back(window: Window) -> None:
    shot = nudged(cycle_of("porter", "walk", 32, 0.8).with_cycle("porter", Cycle(101, 133, "walk")), "porter", 2)
    put(window, shot)
    panel = window.right.open("travel")
    assert isinstance(panel, TravelPanel)
    QTest.qWait(20)
    QTest.mouseClick(panel.plant, LEFT)
    planted = window.session.shot
    assert max(bv.slide_of(planted, "porter").values()) < 5e-4 < max(bv.slide_of(shot, "porter").values())
    every = np.arange(101.0, 150.0)
    QTest.mouseClick(panel.spot, LEFT)
    assert np.ptp(places(window.session.shot, "porter", every)[:, 0], axis=0).max() < 1e-9
    QTest.mouseClick(panel.travel, LEFT)
    assert np.abs(places(window.session.shot, "porter", every) - places(planted, "porter", every)).max() < 1e-9
    QTest.mouseClick(panel.ways["forward"], LEFT)
    assert window.session.keying.travel == ("forward",), "one direction at least is left"
    QTest.mouseClick(panel.ways["across"], LEFT)
    assert set(window.session.keying.travel) == {"forward", "across"}


def test_feet_are_put_on_the_steps_that_stand_in_the_way(window: Window) -> None:
    shot = bv.keep_clip(cycle_of("porter", "walk", 24, 0.5), "porter", "walk", 101, 125, loop=True)
    shot = shot.with_figure(load_figure("cast:steps", "steps", FOLDER))
    shot = bv.set_values(shot, "steps", 101, {"whole steps/turn": 90.0, "whole steps/forward": 1.0})
    put(window, replace(shot, last=173.0))
    window.session.do("Lay", lambda s: bv.lay_clip(s, "porter", "walk", 101))
    reading = window.session.going.reading()
    assert reading is not None and reading.down["left leg"][0] == (101.0, 115.0)
    window.session.do(
        "More rounds", lambda s: bv.lay_clip(s.with_lanes("porter", ()), "porter", "walk", 101, repeats=3.0)
    )
    longer = window.session.going.reading()
    assert longer is not None and len(longer.down["left leg"]) > len(reading.down["left leg"]), "clips are heard of"
    window.session.do("To keys", lambda s: bv.clips_to_keys(s, "porter"))
    panel = window.right.open("travel")
    assert isinstance(panel, TravelPanel)
    QTest.mouseClick(panel.ground, LEFT)
    assert window.session.shot.on_set and panel.ground.isChecked()
    head = bv.sample(window.session.shot, "porter", [170]).joints.index("head")
    before = places(window.session.shot, "porter", np.array([170.0]))[0, head, 1]
    QTest.mouseClick(panel.plant, LEFT)
    after = places(window.session.shot, "porter", np.array([170.0]))[0, head, 1]
    assert after > before + 0.3, "he stands on the steps"
    for _ in range(2):
        window.run("edit.undo")
    assert not window.session.shot.on_set and not panel.ground.isChecked()


def test_bands_under_the_stage_are_dragged(window: Window) -> None:
    put(window, cycle_of("porter", "walk", 32, 0.8))
    window.run("pass.block")
    assert window.bottom._shelf is not None and not window.bottom.shelf.isVisible()
    window.run("pass.cycle")
    feet = window.bottom.shelf.feet
    QTest.qWait(20)
    assert feet.isVisible()
    y = 14
    x = feet.scale.x(120)
    assert feet.contact_at(QPointF(x, y)) == ("left leg", (101.0, 120.0), "end")
    there = QPoint(round(x), y)
    later = QPoint(round(x + 2 * feet.scale.per_frame), y)
    QTest.mousePress(feet, LEFT, NONE, there)
    feet._gesture.move(QPointF(later), NONE)
    QTest.mouseRelease(feet, LEFT, NONE, later)
    assert window.session.shot.contacts("porter")["left leg"] == ((101, 122),)
    empty = QPoint(round(feet.scale.x(127)), y)
    QTest.mouseClick(feet, LEFT, NONE, empty)
    assert window.session.frame == 127


def test_edits_on_the_stage_are_mirrored_live_and_seams_are_one(window: Window) -> None:
    put(window, cycle_of("porter", "walk", 32, 0.8))
    session = window.session
    session.go_to(105)
    index = session.shot.figure("porter").rig.control("chest")
    session.choose("porter", [index])
    new = bv.set_values(session.shot, "porter", 105, {"chest/turn": 10.0})
    session.commit("Turn", new)
    assert bv.values(session.shot, "porter", 121)["chest/turn"] == pytest.approx(-10.0)
    window.run("cycle.mirror")
    cycle = session.shot.cycle("porter")
    assert cycle is not None and not cycle.mirrored
    session.commit("Turn", bv.set_values(session.shot, "porter", 105, {"chest/turn": 4.0}))
    assert bv.values(session.shot, "porter", 121)["chest/turn"] == pytest.approx(-10.0), "halves are apart"
    window.run("cycle.mirror")
    assert bv.values(session.shot, "porter", 121)["chest/turn"] == pytest.approx(-4.0)
    window.run("cycle.close")
    assert session.shot.cycle("porter") is None
    window.run("cycle.close")
    assert session.shot.cycle("porter") == Cycle(101, 133)


def test_a_pose_held_longer_makes_the_round_longer(window: Window) -> None:
    put(window, cycle_of("porter", "walk", 32, 0.8))
    window.session.go_to(105)
    window.run("pose.longer")
    cycle = window.session.shot.cycle("porter")
    assert cycle is not None and (cycle.first, cycle.last) == (101, 134)


def test_figures_without_feet_have_an_empty_wheel(window: Window) -> None:
    panel = put(window, bv.demo(), "crate")
    assert not panel.wheel.isVisible() and panel.form.isVisible() and not panel.form.lay.isEnabled()
    assert panel.form.why.text() and math.isfinite(window.bottom.shelf.feet.needed_height())
    window.run("cycle.plant")
    window.grab()


def test_the_goat_s_wheel_has_four_rings(window: Window) -> None:
    wheel = put(window, cycle_of("goat", "walk", 32, 0.6), "goat").wheel
    reading = wheel.reading()
    assert reading is not None and len(reading.feet) == 4
    assert len({ring(wheel, n) for n in range(4)}) == 4
    window.grab()


def test_light_table_and_arcs_go_on_over_the_seam(window: Window) -> None:
    put(window, cycle_of("porter", "walk", 32, 0.8))
    session, scene = window.session, window.stage.main.scene
    session.go_to(101)
    window.run("view.light_table")
    ghosts = scene.ghosts()
    back = [ghost.item.world[0, 2, 3] for ghost in ghosts]
    assert min(back) == pytest.approx(-0.2, abs=0.02), "two poses before the seam are those of the round before"
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control("left foot")])
    window.run("arcs.show")
    (dots,) = [overlay for overlay in window.stage.main.overlays if isinstance(overlay, ArcDots)]
    (drawn,) = dots.drawn()
    assert drawn.arc.frames[0] == 89.0 and drawn.arc.frames[-1] == 113.0
    assert {97.0, 101.0, 105.0} <= set(drawn.roles), "poses of the round before are marked too"
