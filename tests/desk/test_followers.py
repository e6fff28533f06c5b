"""Followers in the window: made on what is chosen, told by sliders and numbers, keyed, copied, baked, undone."""

import numpy as np
import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from tests.desk.conftest import open_panel

from bovrin import script
from bovrin.desk.panels.followers_panel import FollowersPanel
from bovrin.desk.stage.words import chip_words
from bovrin.desk.window import Window
from bovrin.figure.staging import staged


@pytest.fixture
def goat(make) -> Window:  # type: ignore[no-untyped-def]
    """The goat turns, its tail chosen, in Spline."""
    window = make(script.splined(script.demo("goat"), "goat"))
    window.run("pass.spline")
    choose(window, "tail")
    return window


def choose(window: Window, *names: str) -> None:
    rig = window.session.shot.figure("goat").rig
    window.session.choose("goat", [rig.control(name) for name in names])


def panel_of(window: Window) -> FollowersPanel:
    panel = open_panel(window, "followers")
    assert isinstance(panel, FollowersPanel)
    return panel


def tail(window: Window, frame: float) -> np.ndarray:
    shot = window.session.shown
    found = staged(shot, "goat", frame)
    return found.world[0, found.rig.joint("tail tip")].copy()


def test_made_told_and_let_go_of(goat: Window, qtbot: QtBot) -> None:
    session, before = goat.session, tail(goat, 131)
    known = session.shot.figure("goat").followers  # those of its other take
    panel = panel_of(goat)
    assert not panel.empty.isHidden() and panel.to_keys.isHidden()
    panel.buttons["spring"].click()
    (one,) = session.shot.followers("goat")
    assert one.kind == "spring" and one.controls == ("tail", "tail tip"), "what hangs below it goes along"
    row = panel.rows[0]
    assert panel.opened == one.name and panel.empty.isHidden() and row.rows["settles in"].field.value() == 18.0
    moved = tail(goat, 131)
    assert np.abs(moved - before).max() > 1e-3
    assert row.graph is not None
    qtbot.waitUntil(lambda: len(panel.rows[0].graph.added) > 1)  # type: ignore[union-attr]
    row.rows["lags by"].slider.moved.emit(0.8)
    assert np.abs(tail(goat, 131) - moved).max() > 1e-4, "seen while it is dragged"
    row.rows["lags by"].cancelled.emit()
    assert np.abs(tail(goat, 131) - moved).max() == 0.0
    row.rows["sways"].taken.emit(5.0)
    assert script.followers(session.shot, "goat")[0].settings["sways"] == 5.0
    panel.rows[0].weight.taken.emit(0.0)
    assert np.abs(tail(goat, 131) - before).max() == 0.0
    panel.rows[0].weight.taken.emit(100.0)
    panel.rows[0].on.click()
    assert np.abs(tail(goat, 131) - before).max() == 0.0 and not session.shot.followers("goat")[0].on
    panel.rows[0].gone.click()
    assert not session.shot.followers("goat") and session.shot.figure("goat").followers == known
    for _ in range(6):
        session.document.undo_stack.undo()
    assert not session.shot.followers("goat") and np.abs(tail(goat, 131) - before).max() == 0.0


def test_its_settings_are_keyed_and_its_curves_shown(goat: Window) -> None:
    session = goat.session
    goat.run("follow.as_ear")
    (one,) = session.shot.followers("goat")
    panel = panel_of(goat)
    session.go_to(101)
    panel.rows[0].buttons["key"].click()
    session.go_to(140)
    panel.rows[0].buttons["key"].click()
    panel.rows[0].rows["gravity"].taken.emit(150.0)
    rig, curves = session.shot.figure("goat").rig, session.shot.curves("goat")
    curve = curves[rig.channel(f"{one.name}/gravity")]
    assert curve.frames.tolist() == [101.0, 140.0] and curve.values.tolist() == [0.0, 1.5]
    choose(goat, "head")
    panel_of(goat).rows[0].name.click()  # closes
    panel_of(goat).rows[0].name.click()
    assert list(session.controls) == [rig.control(one.name)] and "stands in Followers" in chip_words(session)


def test_copied_to_the_other_side_and_turned_into_keys(goat: Window) -> None:
    session = goat.session
    choose(goat, "left ear")
    goat.run("follow.swing")
    panel = panel_of(goat)
    session.choose("goat", [])
    panel.rows[0].buttons["copy"].click()
    both = session.shot.followers("goat")
    assert [one.controls for one in both] == [("left ear", "left ear tip"), ("right ear", "right ear tip")]
    told = [one.settings["about_y"] for one in script.followers(session.shot, "goat")]
    assert told == [1.0, -1.0], "the other way round in the mirror"
    panel_of(goat).rows[1].buttons["earlier"].click()
    assert session.shot.followers("goat") == both[::-1]
    before = [tail(goat, f) for f in (110, 131.5)]
    choose(goat, "left ear")
    goat.run("hang.to_keys")
    QApplication.processEvents()
    assert not session.shot.followers("goat") and panel_of(goat).to_keys.isHidden()
    after = [tail(goat, f) for f in (110, 131.5)]
    assert max(np.abs(a - b).max() for a, b in zip(before, after, strict=True)) < 1e-9
    assert len(session.shot.curves("goat")[session.shot.figure("goat").rig.channel("left ear/turn")]) > 3


def test_a_drag_over_a_rule_lands_where_the_pointer_is(goat: Window) -> None:
    """A turn typed for what swings: on its frame it is seen as typed."""
    session = goat.session
    goat.run("follow.swing")
    choose(goat, "tail")
    session.go_to(125)
    seen = staged(session.shot, "goat", 125.0)
    column = seen.rig.channel("tail/turn")
    from bovrin.craft.keying.edits import Scope, edited
    from bovrin.craft.keying.keys import KeyStyle

    session.do("Turn", lambda s: edited(s, "goat", 125.0, {column: 0.7}, Scope.TOUCHED, KeyStyle()))
    assert staged(session.shot, "goat", 125.0).values[0, column] == pytest.approx(0.7, abs=0.02)


def test_with_nothing_chosen_it_asks_what_shall_follow(goat: Window) -> None:
    goat.session.choose("goat", [])
    before = goat.session.shot
    goat.run("follow.spring")
    assert goat.session.shot is before and "Choose what shall follow" in goat.notice.label.text()
