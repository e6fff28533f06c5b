"""Shapers by the mouse: live, one undo step, put back, typed, at rest again."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import Hand

from bovrin.craft.keying.key_sets import keys_on
from bovrin.desk.panels.shapers_panel import KINDS, ShapersPanel
from bovrin.desk.window import Window
from bovrin.motion.evaluate import curve_values

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def shapers(window: Window) -> ShapersPanel:
    window.run("motion.spline_all")
    window.run("pass.polish")
    session = window.session
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control("hips")])
    assert session.curves is not None
    session.keys.choose(keys_on(session.curves, rig.span(rig.control("hips")), 109, 133))
    QApplication.processEvents()
    found = window.right.open("shapers")
    assert isinstance(found, ShapersPanel)
    return found


def test_without_keys_nothing_can_be_dragged_and_it_says_how(window: Window) -> None:
    window.run("pass.polish")
    panel = window.right.open("shapers")
    assert isinstance(panel, ShapersPanel)
    assert panel.empty.isVisible() and not any(row.isEnabled() for row in panel.rows.values())


def test_a_slider_is_live_and_one_step_and_rests_again(shapers: ShapersPanel, hand: Hand) -> None:
    session, row = shapers.session, shapers.rows["exaggerate"]
    before, up = session.shot, session.shot.figure("porter").rig.channel("hips/up")
    slider, keys = row.slider, dict(session.keys.by_channel)
    start = QPointF(slider.x_of(0.5), slider.height() / 2)
    hand.press(slider, start)
    hand.move(slider, QPointF(slider.x_of(0.8), 10))
    live = session.shown.curves("porter")[up].values
    assert not np.allclose(live, before.curves("porter")[up].values) and session.shot is before
    assert row.field.value() == pytest.approx(60, abs=3)
    hand.release(slider, QPointF(slider.x_of(0.8), 10))
    assert np.allclose(session.shot.curves("porter")[up].values, live)
    assert session.document.undo_stack.undoText() == "Exaggerate keys"
    assert row.share() == 0 and row.field.value() == 0
    assert {i: f.tolist() for i, f in session.keys.by_channel.items()} == {i: f.tolist() for i, f in keys.items()}
    session.document.undo_stack.undo()
    assert session.shot is before


def test_escape_and_the_right_button_put_it_back(shapers: ShapersPanel, hand: Hand) -> None:
    session, slider = shapers.session, shapers.rows["soften"].slider
    before = session.shot
    hand.press(slider, QPointF(slider.x_of(0.5), 10))
    hand.move(slider, QPointF(slider.x_of(0.1), 10))
    assert session.shown is not before
    hand.press(slider, QPointF(slider.x_of(0.1), 10), Qt.MouseButton.RightButton)
    hand.release(slider, QPointF(slider.x_of(0.1), 10))
    assert session.shown is before and session.shot is before and shapers.rows["soften"].share() == 0


def test_ctrl_is_fine_and_the_middle_is_neutral(shapers: ShapersPanel, hand: Hand) -> None:
    session, slider = shapers.session, shapers.rows["toward"].slider
    before = session.shot
    hand.press(slider, QPointF(slider.x_of(0.5), 10), keys=CTRL)
    hand.move(slider, QPointF(slider.x_of(0.9), 10), keys=CTRL)
    assert slider.favour == pytest.approx(0.54, abs=0.01)
    hand.move(slider, QPointF(slider.x_of(0.5), 10), keys=CTRL)
    assert slider.favour == pytest.approx(0.5, abs=0.002)
    hand.release(slider, QPointF(slider.x_of(0.5), 10), keys=CTRL)
    assert np.allclose(
        session.shot.curves("porter")[session.shot.figure("porter").rig.channel("hips/up")].values,
        before.curves("porter")[before.figure("porter").rig.channel("hips/up")].values,
        atol=1e-3,
    )


def test_filled_in_and_thinned_out_by_typed_numbers(shapers: ShapersPanel, hand: Hand) -> None:
    session = shapers.session
    up = session.shot.figure("porter").rig.channel("hips/up")
    own = session.shot.curves("porter")[up]
    shapers.rows["fill in"].field.setFocus()
    shapers.rows["fill in"].field.setText("1")
    shapers.rows["fill in"].field.setModified(True)  # as typing does
    hand.key(Qt.Key.Key_Return)
    filled = session.shot.curves("porter")[up]
    assert np.isin(np.arange(109.0, 134.0), filled.frames).all()
    half = np.arange(101, 150, 0.5)
    assert np.allclose(curve_values(filled, half), curve_values(own, half), atol=1e-9)
    assert len(session.keys.by_channel[up]) == 25, "what came is chosen too"
    shapers.rows["thin out"].field.setFocus()
    shapers.rows["thin out"].field.setText("0.1")
    shapers.rows["thin out"].field.setModified(True)  # as typing does
    hand.key(Qt.Key.Key_Return)
    thin = session.shot.curves("porter")[up]
    assert (
        len(thin) <= len(own) + 1 and np.abs(curve_values(thin, half) - curve_values(own, half)).max() <= 0.001 + 1e-9
    )
    assert session.document.undo_stack.undoText() == "Thin out keys"


def test_every_row_does_something_and_is_one_step(shapers: ShapersPanel) -> None:
    session = shapers.session
    before, keys, said = session.shot, dict(session.keys.by_channel), list[str]()
    session.voice.told.connect(said.append)
    for kind in KINDS:
        session.keys.choose(keys)
        shapers.rows[kind.shaper].typed.emit(0.5 * kind.number if kind.number > 1 else 1.0)
        if kind.shaper == "thin out":
            assert session.shot is before and "poses keep theirs" in said[-1]
            continue
        assert session.shot is not before, kind.shaper
        session.document.undo_stack.undo()
        assert session.shot is before
