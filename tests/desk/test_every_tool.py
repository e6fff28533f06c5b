"""Every command on figures that are not the porter: the goat, and a figure of another maker."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QApplication
from tests.desk.changes import MAY_CHANGE, changed, survey
from tests.desk.conftest import Hand
from tests.formats import gltf_maker as make

from bovrin import cast, script
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.window import Window

READY_FIRST = {
    "arcs.forget", "arcs.mend", "keys.bounce", "keys.bounce_by_gravity", "marker.add", "pose.drop", "pose.name",
    "pencil.copy", "pencil.remove", "pose.settle", "pose.unroll", "time.second", "cycle.mirror", "cycle.spot", "cycle.root",
    "clip.lay", "clip.to_keys", "clip.fade", "clip.remove", "clip.forget", "clip.mute",
    "clip.left", "clip.right", "clip.backward", "clip.turn_left", "clip.turn_right",
}  # fmt: skip
"""Commands that go on in a field, or need something made ready; their own tests see what they change."""
CONTROLS = {
    "goat": ("whole figure", "hips", "left hind foot goal", "right fore knee", "left ear", "tail"),
    "stranger": ("whole figure", "Kern", "left foot goal", "Mitte.L", "Kugel"),
}


@pytest.fixture(params=["goat", "stranger"])
def other(request: pytest.FixtureRequest, window: Window, tmp_path: Path) -> tuple[Window, str]:
    if request.param == "goat":
        assert window.files.open(cast.GOAT)
    else:
        path = tmp_path / "stranger.glb"
        path.write_bytes(make.figure(make.TWO_LEGS).glb())
        assert bring(window.files, path, tmp_path / "stranger.bovrin.json")
        session = window.session
        for frame in (101, 115, 130):
            pose = {"Kern/up": -0.01 * (frame - 101) / 10, "Stock_2/turn": float(frame - 101), "left hand goal/up": 0.1}
            session.do("Pose", lambda shot, f=frame, p=pose: script.set_values(shot, "stranger", f, p))
            session.go_to(frame)
            window.run("pose.key")
    window.activateWindow()
    QApplication.processEvents()
    return window, request.param


def test_a_command_changes_what_it_may_and_nothing_else(window: Window, quiet: None) -> None:
    """On the demo in steps and in splines; whatever may change something does so somewhere."""
    done = survey(window, "porter", ("hips",), (119.0,))
    window.run("pass.spline")
    window.run("motion.spline_all")
    done |= survey(window, "porter", ("left hand",), (117.0,))
    window.session.do("Hang", lambda shot: script.attach(shot, "porter", "left hand", script.GROUND, 110))
    for command in ("hang.let_go", "hang.to_keys"):
        before = window.session.shot
        window.run(command)
        assert (what := changed(before, window.session.shot, "porter")) and what <= MAY_CHANGE[command]
        window.session.document.undo_stack.undo()
        done.add(command)
    flat = {command for command in MAY_CHANGE if command.startswith("flat.")}  # test_flat tries them on a flat figure
    assert set(MAY_CHANGE) - done - flat <= READY_FIRST, "what never changed anything was not tried"


@pytest.mark.sweep
def test_every_command_works_on_it(other: tuple[Window, str], quiet: None) -> None:
    window, name = other
    done = survey(window, name, CONTROLS[name], (120.0,))
    assert np.isfinite(window.session.stance().values).all()
    wanted = {"pose.key", "pose.breakdown", "pose.mirror", "pose.default", "pose.longer"}
    assert wanted <= done, wanted - done
    assert done & {"motion.spline_all", "motion.step_all"}


def test_it_is_pulled_placed_and_turned_by_the_mouse(other: tuple[Window, str], hand: Hand) -> None:
    window, name = other
    session, stage = window.session, window.stage.main
    foot, joint = {"goat": ("left fore foot goal", "left fore ankle"), "stranger": ("left foot goal", "Schuh.L")}[name]
    session.go_to(115)
    session.choose(name, [session.shot.figure(name).rig.control(foot)])
    stage.fit()
    QApplication.processEvents()

    def where() -> np.ndarray:
        motion = script.sample(session.shot, name, [115])
        return motion.position[0, motion.joints.index(joint)]

    start = where()
    square = stage.handle.places.points()["square"]
    hand.drag(stage, square, square + QPointF(0, -30))
    assert where()[1] > start[1] + 0.02, "the foot follows the square"
    dot = stage.handle.places.points()["right"]
    before = session.stance().values.copy()
    hand.drag(stage, dot, dot + QPointF(30, 0))
    assert np.abs(session.stance().values - before).max() > 0.02, "a dot turns it"
    session.document.undo_stack.undo()
    session.document.undo_stack.undo()
    assert np.allclose(where(), start)


def test_its_curves_cards_and_chart_are_there(other: tuple[Window, str]) -> None:
    window, name = other
    session = window.session
    assert len(session.poses.cards) >= 3
    window.run("pass.spline")
    control = CONTROLS[name][1]
    session.choose(name, [session.shot.figure(name).rig.control(control)])
    QApplication.processEvents()
    assert len(window.curves.desk.plot.rows()) >= 6
    chart = script.chart(session.shot, name, float(session.poses.cards.frames[0]), float(session.poses.cards.frames[1]))
    assert chart[0] == pytest.approx(0, abs=1e-6) and chart[-1] == pytest.approx(1, abs=1e-6)
