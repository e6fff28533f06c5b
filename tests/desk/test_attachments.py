"""Attachments in the window: asked for by a click, seen as a line and a hook, let go of, typed, undone."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from tests.desk.conftest import Hand, open_panel

from bovrin.craft.keying.edits import Scope, edited
from bovrin.craft.keying.keys import KeyStyle
from bovrin.desk.stage.words import chip_words
from bovrin.desk.state.hanging import hang_chosen
from bovrin.desk.window import Window
from bovrin.figure.staging import staged

CLICK = Qt.MouseButton.LeftButton


def world(window: Window, figure: str, joint: str, frame: float) -> np.ndarray:
    shot = window.session.shown
    return staged(shot, figure, frame).world[0, shot.figure(figure).rig.joint(joint)]


def click_on(window: Window, figure: str, joint: str, up: float = 0.0) -> None:
    main = window.stage.main
    place = world(window, figure, joint, window.session.frame)[:3, 3] + [0.0, up, 0.0]
    QTest.mouseClick(main, CLICK, Qt.KeyboardModifier.NoModifier, main.scene.on_screen(place).toPoint())


@pytest.fixture
def crate(window: Window) -> Window:
    """The crate is chosen where it is carried, in Block."""
    window.run("pass.block")
    window.session.go_to(133)
    window.session.choose("crate")
    return window


def test_a_click_says_what_carries_it(crate: Window, hand: Hand) -> None:
    session = crate.session
    before = world(crate, "crate", "crate", 133)
    panel = open_panel(crate, "attachments")
    assert not panel.empty.isHidden() and not panel.buttons["hang.let_go"].isEnabled()
    panel.buttons["hang.attach"].click()
    QTest.keyClick(crate.stage.main, Qt.Key.Key_Escape)
    click_on(crate, "porter", "head", 0.05)
    assert not session.shot.attachments("crate"), "Escape: nothing"
    session.choose("crate")
    crate.run("hang.attach")
    click_on(crate, "porter", "head", 0.05)
    (one,) = session.shot.attachments("crate")
    assert one.carrier == "porter" and session.figure_name == "crate"
    assert np.abs(world(crate, "crate", "crate", 133) - before).max() < 1e-9, "it stays where it is here"
    assert panel.empty.isHidden() and "porter" in panel.rows[0].words.text()
    assert panel.rows[0].bar.spans == [(133.0, session.shot.last)]
    assert crate.stage.main.hang.lines(), "a line and a hook"
    held = world(crate, "crate", "crate", 145)
    session.choose("porter")
    session.document.undo_stack.undo()
    assert not session.shot.attachments("crate") and not session.shot.figure("crate").hooks
    session.document.undo_stack.redo()
    assert np.abs(world(crate, "crate", "crate", 145) - held).max() == 0.0


def test_it_goes_along_live_while_its_carrier_is_dragged(crate: Window, hand: Hand) -> None:
    session = crate.session
    assert hang_chosen(session, ("porter", "chest"))
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control("right hand")])
    assert hang_chosen(session, ("crate", "crate"))
    session.choose("porter", [rig.control("chest")])
    start = [world(crate, *who, 133) for who in (("crate", "crate"), ("porter", "right hand"))]
    turn = rig.channel("chest/turn")
    session.preview(edited(session.shot, "porter", 133.0, {turn: 0.5}, Scope.TOUCHED, KeyStyle()))
    moved = [world(crate, *who, 133) for who in (("crate", "crate"), ("porter", "right hand"))]
    assert all(np.abs(a - b).max() > 0.02 for a, b in zip(start, moved, strict=True))
    session.preview(None)
    assert all(
        np.abs(world(crate, *who, 133) - a).max() == 0.0
        for who, a in zip((("crate", "crate"), ("porter", "right hand")), start, strict=True)
    )


def test_let_go_typed_and_taken_away(crate: Window, hand: Hand) -> None:
    session = crate.session
    hang_chosen(session, ("porter", "left hand"))
    panel = open_panel(crate, "attachments")
    session.go_to(150)
    here = world(crate, "crate", "crate", 150)
    crate.run("hang.let_go")
    assert np.abs(world(crate, "crate", "crate", 150) - here).max() < 1e-9
    assert panel.rows[0].bar.spans == [(133.0, 149.0)] and panel.rows[0].share.value() == 0.0
    session.go_to(140)
    field = panel.rows[0].share
    assert field.value() == pytest.approx(100)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "60")
    there = world(crate, "crate", "crate", 140)
    QTest.keyClick(field, Qt.Key.Key_Return)
    rig = session.shot.figure("crate").rig
    assert staged(session.shot, "crate", 140.0).values[0, rig.channel("whole crate/hangs")] == pytest.approx(0.6)
    assert np.abs(world(crate, "crate", "crate", 140) - there).max() < 1e-6
    QTest.mouseClick(panel.rows[0].bar, CLICK, Qt.KeyboardModifier.NoModifier, panel.rows[0].bar.rect().center())
    assert 125 < session.frame < 136
    panel.rows[0].gone.click()
    assert not session.shot.attachments("crate") and not panel.rows


def test_a_drag_of_what_hangs_changes_how_it_hangs(crate: Window, hand: Hand) -> None:
    session = crate.session
    hang_chosen(session, ("porter", "chest"))
    rig = session.shot.figure("crate").rig
    keys = session.shot.curves("crate")
    session.choose("crate", [0])
    main = crate.stage.main
    at = main.scene.on_screen(world(crate, "crate", "crate", 133)[:3, 3])
    before = [world(crate, "crate", "crate", f)[:3, 3] for f in (133, 150)]
    hand.drag(main, at, at + type(at)(0.0, -40.0))
    after = [world(crate, "crate", "crate", f)[:3, 3] for f in (133, 150)]
    assert "a drag changes how it hangs" in chip_words(session)
    session.go_to(120)
    assert "keys" in chip_words(session) and "hangs" not in chip_words(session), "here it does not yet"
    assert after[0][1] - before[0][1] > 0.05 and np.linalg.norm(after[1] - before[1]) > 0.05, "all along"
    own = [i for i in range(len(rig.channels)) if "hangs" not in rig.channels[i].name]
    assert all(session.shot.curves("crate")[i].values.tolist() == keys[i].values.tolist() for i in own)


def test_the_body_is_pulled_and_what_hangs_comes_along(crate: Window, hand: Hand) -> None:
    session = crate.session
    hang_chosen(session, ("porter", "chest"))
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control("right hand")])
    hang_chosen(session, ("crate", "crate"))
    held = {name: session.shot.attachments(name) for name in ("porter", "crate")}
    session.choose("porter", [rig.control("hips")])
    main = crate.stage.main
    at = main.scene.on_screen(world(crate, "porter", "hips", 133)[:3, 3])
    on_crate = np.linalg.inv(world(crate, "crate", "crate", 133)) @ world(crate, "porter", "right hand", 133)
    before = world(crate, "crate", "crate", 133)
    hand.press(main, at)
    for step in range(1, 7):
        hand.move(main, at + type(at)(3.0 * step, 4.0 * step))
        now = np.linalg.inv(world(crate, "crate", "crate", 133)) @ world(crate, "porter", "right hand", 133)
        assert np.abs(now - on_crate).max() < 0.02, "live"
    hand.release(main, at + type(at)(18.0, 24.0))
    assert np.abs(world(crate, "crate", "crate", 133) - before).max() > 0.02
    assert {name: session.shot.attachments(name) for name in ("porter", "crate")} == held


def test_chosen_keys_stay_the_same_ones(crate: Window) -> None:
    """A channel more moves all that stand after it."""
    session = crate.session
    session.choose("porter", [session.shot.figure("porter").rig.control("left hand")])
    rig = session.shot.figure("porter").rig
    column = rig.channel("right foot/up")
    session.keys.choose({column: session.shot.curves("porter")[column].frames[:2]})
    hang_chosen(session, ("crate", "crate"))
    now = session.shot.figure("porter").rig
    assert [now.channel_names[i] for i in session.keys.by_channel] == ["right foot/up"]
    session.document.undo_stack.undo()
    back = session.shot.figure("porter").rig
    assert [back.channel_names[i] for i in session.keys.by_channel] == ["right foot/up"]
