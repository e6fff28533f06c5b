"""Editing on the curve desk: many channels, exact values, ends, traces, bounces, spacing."""

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_strip_keys import double_click, type_words

from bovrin import script
from bovrin.craft.keying.keys import changed_curves
from bovrin.desk.curves.channel_list import ROW
from bovrin.desk.curves.menus import row_menu
from bovrin.desk.state.document.editing import edit
from bovrin.desk.window import Window
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, EndKind, HandleKind, Key, KeyRole, Shot

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


@pytest.fixture
def desk(window: Window):  # type: ignore[no-untyped-def]
    window.run("motion.spline_all")
    window.run("pass.spline")
    choose(window, "left hand")
    return window.curves.desk


def choose(window: Window, *controls: str) -> None:
    rig = window.session.shot.figure("porter").rig
    window.session.choose("porter", [rig.control(c) for c in controls])
    QApplication.processEvents()


def curve(window: Window, channel: str) -> Curve:
    return window.session.shown.curves("porter")[window.session.shot.figure("porter").rig.channel(channel)]


def row(window: Window, channel: str):  # type: ignore[no-untyped-def]
    index = window.session.shot.figure("porter").rig.channel(channel)
    return next(r for r in window.curves.desk.plot.rows() if r.channel == index)


def alone(window: Window, channel: str):  # type: ignore[no-untyped-def]
    found = row(window, channel)
    window.curves.desk.plot.list.picked = {found.channel}
    window.curves.desk.plot.fit()
    return found


def choose_on(window: Window, channel: str, *frames: float) -> None:
    index = window.session.shot.figure("porter").rig.channel(channel)
    window.session.keys.choose({index: np.array(frames)})


def test_channels_of_many_controls_under_their_names(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    choose(window, "left hand", "chest")
    lines = desk.plot.list.lines()
    assert [line.words for line in lines if not hasattr(line, "channel")] == ["Left hand", "Chest"]
    chest = next(n for n, line in enumerate(lines) if line.words == "Chest")
    hand.click(desk, QPointF(40, desk.plot.list.line_top(chest) + ROW / 2))
    assert {r.control for r in desk.plot.shown_rows()} == {"chest"}
    QTest.keyClicks(window.curves.handles.search, "") or window.curves.handles.search.setText("hand up")
    assert [r.words for r in desk.plot.rows()] == ["left hand up"]
    window.curves.handles.search.clear()
    count = len(desk.plot.rows())
    window.run("channels.hide_still")
    assert 0 < len(desk.plot.rows()) < count
    assert all(np.ptp(desk.plot.curve(r.channel).values) > 0 for r in desk.plot.rows())


def test_still_channels_are_removed_with_a_report(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    before = script.sample(window.session.shot, "porter", np.arange(95, 165)).position
    window.run("channels.motionless")
    assert "never moved" in window.notice.label.text() and "left hand/" in window.notice.label.text()
    assert np.abs(script.sample(window.session.shot, "porter", np.arange(95, 165)).position - before).max() < 1e-12
    window.run("channels.motionless")
    assert "moves" in window.notice.label.text()


def test_a_value_is_typed_in_the_list(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    window.session.go_to(133)
    index = desk.plot.list.lines().index(row(window, "left hand/up"))
    double_click(hand, desk, QPointF(130, desk.plot.list.line_top(index) + ROW / 2))
    QApplication.focusWidget().selectAll()
    type_words("40 + 5")
    assert curve(window, "left hand/up").values[5] == pytest.approx(0.45)
    desk.type_value(row(window, "left hand/up"))
    type_words("soon")
    assert "not a number" in window.notice.label.text()


def test_mute_lock_and_ends_from_the_list(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = row(window, "left hand/up")

    def pick(words: str, inner: str = "") -> None:
        menu = row_menu(desk, up)
        action = next(a for a in menu.actions() if a.text() == words)
        if inner:
            action = next(a for a in action.menu().actions() if a.text() == inner)  # type: ignore[union-attr]
        action.trigger()
        menu.deleteLater()

    pick("Mute")
    assert curve(window, "left hand/up").muted
    assert script.values(window.session.shot, "porter", 133)["left hand/up"] == 0
    pick("Let it move again")
    pick("After its keys", "Repeat")
    assert curve(window, "left hand/up").after is EndKind.REPEAT
    pick("Lock")
    shot = window.session.shot
    window.session.go_to(133)
    assert not edit(window.session, "Set", {up.channel: 0.3}) and window.session.shot is shot
    at = desk.plot.key_point(up, 4)
    hand.drag(desk, at, at + QPointF(0, -30))
    assert window.session.shot is shot and "locked" in window.notice.label.text()
    pick("Lock")
    hand.drag(desk, at, at + QPointF(0, -30))
    assert window.session.shot is not shot


def test_a_lasso_chooses_what_lies_inside(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = alone(window, "left hand/up")
    a, b = desk.plot.key_point(up, 3), desk.plot.key_point(up, 5)
    corners = [a + QPointF(-12, 12), a + QPointF(-12, -12), b + QPointF(12, -12), b + QPointF(12, 12)]
    hand.press(desk, corners[0], keys=ALT)
    for corner in corners[1:]:
        hand.move(desk, corner, keys=ALT)
    hand.release(desk, corners[-1], keys=ALT)
    assert set(window.session.keys.frames().tolist()) >= {119, 133}


def test_keys_are_copied_with_ctrl_and_scaled_with_alt(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = alone(window, "left hand/up")
    width = window.bottom.scale.per_frame
    at = desk.plot.key_point(up, 5)
    hand.drag(desk, at, at + QPointF(18 * width, 0), CTRL)
    assert curve(window, "left hand/up").frames.tolist() == [101, 109, 114, 119, 127, 133, 143, 151]
    assert curve(window, "left hand/up").values[-1] == pytest.approx(curve(window, "left hand/up").values[5])
    window.session.go_to(119)
    choose_on(window, "left hand/up", 127, 133)
    at = desk.plot.key_point(up, 5)
    hand.drag(desk, at, at + QPointF(-7 * width, 0), ALT)
    assert curve(window, "left hand/up").frames.tolist()[4:6] == [123, 126]


def test_keys_need_not_lie_on_whole_frames(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = alone(window, "left hand/up")
    window.curves.handles.whole.click()
    at = desk.plot.key_point(up, 4)
    hand.drag(desk, at, at + QPointF(window.bottom.scale.per_frame * 1.5, 0), SHIFT)
    assert curve(window, "left hand/up").frames[4] == pytest.approx(128.5, abs=0.1)
    window.right.panel("chosen keys").first.taken.emit(128.25)
    assert curve(window, "left hand/up").frames[4] == 128.25


def test_double_click_puts_a_key_and_the_shape_stays(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = alone(window, "left hand/up")
    frames = np.linspace(95, 165, 300)
    before = curve_values(curve(window, "left hand/up"), frames)
    value = float(curve_values(curve(window, "left hand/up"), [130])[0])
    double_click(hand, desk, QPointF(window.bottom.scale.x(130), desk.plot.y_of(desk.plot.plot_of(up, value))))
    assert 130 in curve(window, "left hand/up").frames
    assert np.abs(curve_values(curve(window, "left hand/up"), frames) - before).max() < 1e-9
    window.session.go_to(138)
    desk.setFocus()
    hand.key(Qt.Key.Key_I)
    assert 138 in curve(window, "left hand/up").frames
    choose_on(window, "left hand/up", 130, 138)
    window.run("keys.dissolve")
    assert curve(window, "left hand/up").frames.tolist() == [101, 109, 114, 119, 127, 133, 143]
    assert np.abs(curve_values(curve(window, "left hand/up"), frames) - before).max() < 1e-6


def test_keys_are_pasted_onto_another_channel_and_as_an_offset(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    choose_on(window, "left hand/up", 119, 127)
    desk.setFocus()
    hand.key(Qt.Key.Key_C, CTRL)
    assert "Copied 2 keys" in window.notice.label.text()
    choose(window, "right hand")
    alone(window, "right hand/forward")
    window.session.go_to(150)
    desk.setFocus()
    hand.key(Qt.Key.Key_V, CTRL)
    pasted = curve(window, "right hand/forward")
    assert pasted.frames[-2:].tolist() == [150, 158]
    assert pasted.values[-2:].tolist() == curve(window, "left hand/up").values[3:5].tolist()
    window.run("edit.undo")
    now = script.values(window.session.shot, "porter", 150)["right hand/forward"]
    window.run("keys.paste_as_offset")
    assert curve(window, "right hand/forward").values[-2] == pytest.approx(now)


def test_arrows_nudge_and_numbers_place(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    choose_on(window, "left hand/up", 127)
    value = curve(window, "left hand/up").values[4]
    desk.setFocus()
    hand.key(Qt.Key.Key_Up, ALT)
    assert curve(window, "left hand/up").values[4] == pytest.approx(value + 0.01)
    hand.key(Qt.Key.Key_Down, ALT | SHIFT)
    assert curve(window, "left hand/up").values[4] == pytest.approx(value - 0.09)
    hand.key(Qt.Key.Key_Right, CTRL)
    assert curve(window, "left hand/up").frames[4] == 128
    panel = open_panel(window, "chosen keys")
    assert panel.value.isVisible() and panel.value.value() == pytest.approx((value - 0.09) * 100)
    panel.value.taken.emit(12.5)
    assert curve(window, "left hand/up").values[4] == pytest.approx(0.125)
    choose_on(window, "left hand/up", 119, 128)
    window.session.go_to(119)
    low = curve(window, "left hand/up").values[3]
    panel.value_scale.taken.emit(200.0)
    assert curve(window, "left hand/up").values[4] == pytest.approx(low + 2 * (0.125 - low))


def test_a_handle_bends_those_of_all_chosen_keys(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = alone(window, "left hand/up")
    choose_on(window, "left hand/up", 119, 133)
    before = gather([curve(window, "left hand/up")])
    handle = desk.plot.handle_points(up, 5)["out"]
    hand.drag(desk, handle, handle + QPointF(0, -30))
    after = gather([curve(window, "left hand/up")])
    turned = after.out_slope - before.out_slope
    assert turned[5] > 0.001 and turned[3] == pytest.approx(turned[5], rel=1e-6) and turned[1] == 0


def test_handles_get_longer_evenly_and_the_speed_strip_shows_the_hang(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    alone(window, "left hand/up")
    window.curves.handles.speed.click()
    strip = window.curves.speed
    assert strip.isVisible()

    def near_top() -> float:
        found = strip.spacing()
        assert found is not None
        spacing = found[0]
        return float(spacing.steps[np.abs(spacing.frames - 133) <= 2].sum())

    before = near_top()
    choose_on(window, "left hand/up", 133)
    for _ in range(4):
        window.run("keys.longer")
    keys = gather([curve(window, "left hand/up")])
    assert keys.in_length[5] > 4 and keys.out_length[5] > 6 and curve(window, "left hand/up").free[5]
    assert near_top() < 0.7 * before, "it hangs longer at the top"


def test_the_speed_strip_measures_the_channel_or_the_point(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = alone(window, "left hand/up")
    window.run("curves.speed")
    strip = window.curves.speed
    spacing, factor, unit, words = strip.spacing()  # type: ignore[misc]
    values = curve_values(curve(window, "left hand/up"), spacing.frames)
    assert np.allclose(spacing.steps[1:], np.abs(np.diff(values))) and unit == "cm" and words == "left hand up"
    hand.click(strip, QPointF(40, 20))
    spacing, factor, unit, words = strip.spacing()  # type: ignore[misc]
    rig = window.session.shot.figure("porter").rig
    joint = rig.controls[rig.control("left hand")].joint
    places = script.sample(window.session.shot, "porter", spacing.frames).position[:, joint]
    assert np.allclose(spacing.steps[1:], np.linalg.norm(np.diff(places, axis=0), axis=1), atol=1e-9)
    assert words == "left hand in space" and factor * spacing.average > 0
    above, below = spacing.above_and_below()
    assert above + below <= len(spacing.steps) and up.channel >= 0


def test_a_dot_is_dragged_along_the_curve(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    up = alone(window, "left hand/up")
    frames, dots = desk.painter.frame_dots(up)
    n = frames.tolist().index(130.0)
    was = float(curve_values(curve(window, "left hand/up"), [129])[0])
    ends = curve(window, "left hand/up").values[4:6].copy()
    hand.drag(desk, QPointF(*dots[n]), QPointF(*dots[n]) + QPointF(window.bottom.scale.per_frame, 0))
    assert window.session.document.undo_stack.undoText() == "Space a curve"
    way = ends[1] - ends[0]
    assert abs(float(curve_values(curve(window, "left hand/up"), [130])[0]) - was) < 0.02 * abs(way)
    assert {127.0, 133.0} <= set(curve(window, "left hand/up").frames.tolist())


def test_a_trace_is_kept_shown_swapped_and_forgotten(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    panel = open_panel(window, "traces")
    panel.keep.click()
    assert panel.list.count() == 1 and len(desk.painter.traces()) == 1
    old = window.session.shot.curves("porter")
    choose_on(window, "left hand/up", 127)
    window.run("keys.raise_ten")
    new = window.session.shot.curves("porter")
    panel.swap.click()
    assert window.session.shot.curves("porter") is old
    panel.swap.click()
    assert window.session.shot.curves("porter") is new
    panel.list.item(0).setText("calm")
    assert window.session.shot.take.traces[0].name == "calm" and len(desk.painter.traces()) == 1
    panel.list.item(0).setCheckState(Qt.CheckState.Unchecked)
    assert desk.painter.traces() == []
    panel.forget.click()
    assert panel.list.count() == 0 and window.session.shot.take.traces == ()


def test_one_height_lets_metres_and_degrees_be_read_together(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    window.curves.handles.height_pill.click()
    for one in desk.plot.shown_rows():
        if np.ptp(desk.plot.curve(one.channel).values) > 1e-6:
            heights = desk.plot.plot_of(one, desk.plot.curve(one.channel).values)
            assert heights.min() == pytest.approx(0) and heights.max() == pytest.approx(1)
    up = alone(window, "left hand/up")
    at = desk.plot.key_point(up, 4)
    wanted = desk.plot.value_of(up, desk.plot.value_at(at.y() - 20))
    hand.drag(desk, at, at + QPointF(0, -20))
    assert curve(window, "left hand/up").values[4] == pytest.approx(wanted, abs=1e-9)


def test_what_a_pass_looked_at_is_kept(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    window.bottom.scale.zoom(3.0, 600)
    desk.plot.stretch(2.0, 100)
    seen = (window.bottom.scale.first, window.bottom.scale.per_frame, *window.curves.seen_values())
    window.run("pass.block")
    window.strip.see_range()
    window.run("pass.spline")
    assert (window.bottom.scale.first, window.bottom.scale.per_frame, *window.curves.seen_values()) == pytest.approx(
        seen
    )


def test_new_keys_are_of_the_kind_chosen_for_the_pass(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    combo = window.curves.handles.new
    combo.setCurrentIndex(3)
    combo.activated.emit(3)
    window.session.go_to(138)
    edit(window.session, "Set", {row(window, "left hand/up").channel: 0.2})
    own = curve(window, "left hand/up")
    at = own.index_at(138)
    assert at is not None and own.out_kind[at] == HandleKind.LINEAR
    window.run("pass.block")
    assert window.session.keying.style_in(window.session.pass_).out_kind is HandleKind.STEPPED


@pytest.mark.parametrize(
    "keys",
    [
        [],
        [Key(120, 0.3)],
        [Key(120, 0.3), Key(130, 0.3)],
        [Key(120.37, 1e6), Key(130.81, -1e6)],
        [Key(120, 1e-6), Key(121, 3e-6), Key(140, 2e-6)],
    ],
)
def test_odd_curves_show_and_edit_well(window: Window, hand: Hand, desk, keys: list[Key]) -> None:  # type: ignore[no-untyped-def]
    index = row(window, "left hand/up").channel
    made = Curve.from_keys(keys)
    window.session.do("Odd", lambda shot: changed_curves(shot, "porter", [index], lambda _c: made))
    up = alone(window, "left hand/up")
    desk.repaint()
    low, high = window.curves.seen_values()
    assert high > low
    window.session.go_to(125)
    desk.type_value(up)
    type_words("7")
    own = curve(window, "left hand/up")
    at = own.index_at(125)
    assert at is not None and own.values[at] == pytest.approx(0.07)
    desk.plot.fit()
    place = desk.plot.key_point(up, at)
    assert 0 <= place.y() <= desk.height()
    plot = desk.plot.value_at(place.y() - 15)
    hand.drag(desk, place, place + QPointF(0, -15))
    moved = curve(window, "left hand/up")
    assert moved.values[at] * 100 == pytest.approx(plot, rel=1e-3, abs=1e-9)


def test_the_buoy_s_four_bounces_by_mouse(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    """Contacts put on a level curve by double clicks, chosen in a box, thrown by gravity; a top made to hang."""
    session, scale = window.session, window.bottom.scale
    session.choose("buoy", [0])
    QApplication.processEvents()
    session.go_to(101)
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_A, CTRL)
    hand.key(Qt.Key.Key_Delete)
    up = next(r for r in desk.plot.rows() if r.words == "up")
    desk.type_value(up)
    type_words("0.5")
    desk.plot.list.picked = {up.channel}
    desk._low, desk._high = -5.0, 60.0
    contacts = [101.0, 117.0, 129.0, 137.0, 142.0]
    for frame in contacts[1:]:
        double_click(hand, desk, QPointF(scale.x(frame), desk.plot.y_of(0.5)))
    own = session.shot.curves("buoy")[up.channel]
    assert own.frames.tolist() == contacts and (own.values == own.values[0]).all()
    hand.drag(desk, QPointF(scale.x(100), desk.plot.y_of(4.0)), QPointF(scale.x(145), desk.plot.y_of(-3.0)))
    assert session.keys.frames().tolist() == contacts
    window.run("keys.bounce")
    own = session.shot.curves("buoy")[up.channel]
    at = [own.index_at(f) for f in contacts]
    assert (own.values[at] == 0.005).all() and not own.joined[at].any()
    tops = np.flatnonzero(own.role == KeyRole.BREAKDOWN)
    assert len(tops) == 4 and (gather([own]).out_slope[tops] == 0).all(), "soft tops"
    t = np.linspace(0, 16, 65)
    g = 9.81 / 24**2
    assert np.abs(curve_values(own, 101 + t) - (0.005 + g * 8 * t - g * t * t / 2)).max() < 0.0005
    window.run("curves.speed")
    desk.plot.fit()

    def hang() -> float:
        found = window.curves.speed.spacing()
        assert found is not None
        return float(found[0].steps[np.abs(found[0].frames - 109.5) < 2].sum())

    before = hang()
    hand.click(desk, desk.plot.key_point(up, int(tops[0])))
    window.run("keys.longer")
    window.run("keys.longer")
    assert hang() < 0.8 * before, "it hangs longer at the top"


def test_snap_makes_the_chosen_part_leave_and_arrive_at_once(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    window.session.go_to(129)
    before = window.session.shot
    window.run("keys.snap")
    ask = window.opening.snap
    assert ask is not None and ask.isVisible() and window.session.shown is not before, (
        "what comes of it is seen at once"
    )
    moving = ask.takes_part.text().split()
    assert moving[1:3] == ["channels", "take"] and int(moving[0]) > 0
    QTest.keyClick(ask.hold, Qt.Key.Key_Escape)
    assert not ask.isVisible() and window.session.shown is before, "Escape drops it"
    window.run("keys.snap")
    QTest.keyClick(ask.hold, Qt.Key.Key_Return)
    assert not ask.isVisible()
    own = curve(window, "left hand/up")
    span = float(own.values[5] - own.values[4])
    steps = np.diff(curve_values(own, np.arange(127, 134))) / span
    assert np.allclose(steps, 1 / 6, atol=1e-9)
    assert window.session.document.undo_stack.undoText() == "Snap"


def test_after_a_snap_it_holds_and_drifts_as_was_typed(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    window.session.go_to(129)
    for hold, drift in (("3", "10"), ("", "")):  # the second time both are remembered
        window.run("keys.snap")
        ask = window.opening.snap
        assert ask is not None
        for field, words in ((ask.drift, drift), (ask.hold, hold)):
            field.setFocus()
            QTest.keyClicks(field, words)
        QTest.keyClick(ask.hold, Qt.Key.Key_Return)
        own = curve(window, "left hand/up")
        start, end = curve_values(own, [127, 133])
        assert own.index_at(136) is not None
        assert curve_values(own, [136])[0] == pytest.approx(end + 0.1 * (end - start))
        window.run("edit.undo")


def test_commands_of_the_curve_desk_say_what_they_need(window: Window, desk) -> None:  # type: ignore[no-untyped-def]
    window.session.choose("porter", [])
    commands = "dissolve copy paste raise longer same_slope bounce insert spread"
    for command in (f"keys.{word}" for word in commands.split()):
        shot = window.session.shot
        window.notice.label.setText("")
        window.run(command)
        assert window.session.shot is shot and window.notice.label.text(), command


def test_the_right_button_opens_what_applies(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    for at in (QPointF(40, desk.plot.list.line_top(1) + 8), QPointF(600, 60)):
        hand.press(desk, at, Qt.MouseButton.RightButton)
        menus = [m for m in desk.findChildren(QMenu) if m.isVisible()]
        assert menus and menus[0].actions()
        menus[0].close()
        QApplication.processEvents()


def test_a_shot_without_figures_has_no_curves(make) -> None:  # type: ignore[no-untyped-def]
    window: Window = make(Shot("Nobody"))
    window.run("pass.spline")
    window.curves.desk.repaint()
    hand = Hand(window)
    hand.mouse(
        window.curves.desk,
        QEvent.Type.MouseMove,
        QPointF(300, 40),
        Qt.MouseButton.NoButton,
        Qt.MouseButton.NoButton,
        SHIFT & CTRL,
    )
    hand.click(window.curves.desk, QPointF(300, 40))
    assert window.curves.desk.plot.rows() == []


def _chosen(window: Window) -> list[float]:
    return sorted(window.session.keys.frames().tolist())


def test_shift_drags_what_is_chosen_and_a_click_settles_it(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    """Shift on a chosen key let go of it at once, so that nothing was dragged."""
    up = alone(window, "left hand/up")
    frames = curve(window, "left hand/up").frames
    points = [desk.plot.key_point(up, n) for n in (2, 3)]
    hand.click(desk, points[0])
    hand.click(desk, points[1], SHIFT)
    assert _chosen(window) == [frames[2], frames[3]]
    width = window.bottom.scale.per_frame
    hand.drag(desk, points[1], points[1] + QPointF(2 * width, 9), SHIFT)
    moved = curve(window, "left hand/up")
    assert [frames[2] + 2, frames[3] + 2] == [moved.frames[2], moved.frames[3]]
    assert _chosen(window) == [moved.frames[2], moved.frames[3]]
    at = desk.plot.key_point(up, 3)
    hand.click(desk, at, SHIFT)
    assert _chosen(window) == [moved.frames[2]]
    hand.click(desk, at, SHIFT)
    hand.click(desk, at)
    assert _chosen(window) == [moved.frames[3]]


def test_a_drag_right_after_a_click_is_a_drag(window: Window, hand: Hand, desk) -> None:  # type: ignore[no-untyped-def]
    """Within the time of a double click it was lost, and on the handle it put things back at their default."""
    up = alone(window, "left hand/up")
    frames = curve(window, "left hand/up").frames
    at = desk.plot.key_point(up, 3)
    hand.click(desk, at)
    hand.double_click(desk, at, at + QPointF(2 * window.bottom.scale.per_frame, 0))
    assert curve(window, "left hand/up").frames[3] == frames[3] + 2
    stage = window.stage.main
    square = stage.handle.places.points()["square"]
    before = window.session.shot
    hand.click(stage, square)
    hand.double_click(stage, square, square + QPointF(0, -30))
    assert window.session.shot is not before
    assert (
        script.values(window.session.shot, "porter", window.session.frame)["left hand/up"]
        > script.values(before, "porter", window.session.frame)["left hand/up"]
    )
    hand.double_click(stage, stage.handle.places.points()["square"])
    assert "Back at the default: place" in window.notice.label.text()
