from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog
from tests.desk.conftest import Hand
from tests.desk.test_stage import choose

from bovrin import script
from bovrin.craft.keying.lag import poses
from bovrin.desk.state.looking.light_table import LightTable
from bovrin.desk.window import Window
from bovrin.figure.staging import stance
from bovrin.picture.item import Ghost, item_of
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Shot

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def test_poses_around_lie_on_the_table(window: Window, hand: Hand) -> None:
    window.session.go_to(119)
    window.stage.main.setFocus()
    window.stage.main.repaint()
    plain = window.stage.main.picture.image().copy()
    hand.key(Qt.Key.Key_L)
    assert window.right.panel("light").isVisible() and window.pills.looks.button("Light table").isChecked()
    session = window.session
    shown = session.looking.light_table.frames_shown(119, session.poses.cards, 101, 160)
    assert {f for f, _, _ in shown} == {109, 114, 127, 133}
    strength = {f: s for f, _, s in shown}
    assert strength[114] > strength[109] and strength[127] > strength[133]
    assert window.stage.main.picture.image() != plain
    window.right.panel("light").before.setValue(0)
    window.right.panel("light").kind.button("frames").click()
    shown = session.looking.light_table.frames_shown(119, session.poses.cards, 101, 160)
    assert {f for f, _, _ in shown} == {120, 121}
    hand.key(Qt.Key.Key_L)
    assert not window.right.panel("light").isVisible() and window.stage.main.scene.ghosts() == []


def test_lined_up_on_the_hips_their_outlines_coincide(window: Window) -> None:
    window.session.go_to(119)
    choose(window, "hips")
    hips = window.session.shot.figure("porter").rig.joint("hips")
    window.session.change_looking(light_table=LightTable(on=True, before=3, after=3))
    apart = [window.stage.main.scene.on_screen(g.item.world[hips, :3, 3]) for g in window.stage.main.scene.ghosts()]
    window.right.panel("light").lined_up.button("lined up").click()
    here = window.stage.main.scene.on_screen(window.session.stance().world[hips, :3, 3])
    ghosts = window.stage.main.scene.ghosts()
    assert len(ghosts) == 6
    assert max((p - here).manhattanLength() for p in apart) > 10
    assert (
        max((window.stage.main.scene.on_screen(g.item.world[hips, :3, 3]) - here).manhattanLength() for g in ghosts) < 1
    )


def test_twelve_outlines_leave_paper_and_figure_to_be_seen(demo: Shot) -> None:
    figure = demo.figure("porter")
    splined = script.splined(demo, "porter")
    view, size, style = VIEWS["three-quarter"], (400, 300), PictureStyle(fine=False)
    here = item_of(figure, stance(splined, "porter", 123.0))
    ghosts = [
        Ghost(item_of(figure, stance(splined, "porter", float(f))), (0.7, 0.3, 0.2), 0.5)
        for f in range(117, 130)
        if f != 123
    ]
    plain = shared_renderer().draw([here], view, size, style)
    laid = shared_renderer().draw([here], view, size, style, ghosts)
    empty = shared_renderer().draw([], view, size, style)
    changed = (plain != laid).any(-1)
    figure_pixels = (plain != empty).any(-1)
    assert 0.002 < changed.mean() < 0.06, "outlines only"
    assert (changed & figure_pixels).sum() < 0.7 * changed.sum() + 2000
    inside = (plain[..., :3].astype(int) - laid[..., :3]).max(-1) > 0
    assert inside.mean() < 0.06


def test_tab_flips_while_it_is_held(window: Window) -> None:
    window.session.go_to(121)
    window.stage.main.setFocus()
    QTest.keyPress(window.stage.main, Qt.Key.Key_Tab)
    assert window.session.frame == 114
    QTest.keyRelease(window.stage.main, Qt.Key.Key_Tab)
    assert window.session.frame == 121
    QTest.keyPress(window.stage.main, Qt.Key.Key_Backtab, SHIFT)
    assert window.session.frame == 127
    QTest.keyRelease(window.stage.main, Qt.Key.Key_Backtab, SHIFT)
    assert window.session.frame == 121 and window.session.document.undo_stack.count() == 0
    window.session.go_to(101)
    QTest.keyPress(window.stage.main, Qt.Key.Key_Tab)
    QTest.keyRelease(window.stage.main, Qt.Key.Key_Tab)
    assert window.session.frame == 101 and "no pose before" in window.notice.label.text()


def test_a_span_is_filled_and_a_part_slides_from_the_window(window: Window, hand: Hand) -> None:
    window.session.go_to(145)
    window.run("motion.fours")
    assert "no span" in window.notice.label.text()
    window.session.go_to(134)
    window.run("motion.fours")
    assert poses(window.session.shot, "porter").frames.tolist()[-4:] == [133, 137, 141, 143]
    window.run("motion.twos")
    assert poses(window.session.shot, "porter").frames.tolist()[-6:] == [133, 135, 137, 139, 141, 143]
    choose(window, "head")
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Right, CTRL)
    rig = window.session.shot.figure("porter").rig
    assert window.session.shot.curves("porter")[rig.channel("head/turn")].frames[0] == 102
    assert window.session.shot.curves("porter")[rig.channel("chest/turn")].frames[0] == 101
    hand.key(Qt.Key.Key_Left, CTRL)
    assert window.session.shot.curves("porter")[rig.channel("head/turn")].frames[0] == 101


def test_frames_are_put_in_and_taken_out(window: Window, hand: Hand) -> None:
    window.session.go_to(111)
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Insert)
    assert window.session.shot.last == 161 and poses(window.session.shot, "crate").frames[-1] == 144
    hand.key(Qt.Key.Key_Delete, SHIFT)
    assert window.session.shot.last == 160
    window.session.go_to(113)
    hand.key(Qt.Key.Key_Delete, SHIFT)
    assert "has keys on frame 114" in window.notice.label.text()


def test_markers_come_and_go(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "words.srt"
    path.write_text("1\n00:00:00,500 --> 00:00:01,000\nAhoy\n\n2\n00:00:xx --> 00:00:02,000\nLost\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: (str(path), ""))
    window.run("markers.import")
    assert (113, 125, "Ahoy") in script.markers(window.session.shot)
    assert "1 left out: Line 6" in window.notice.label.text()
    out = tmp_path / "markers.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: (str(out), ""))
    window.run("markers.export")
    assert "113,125,Ahoy" in out.read_text()
    path.write_text("nothing")
    window.run("markers.import")
    assert "no marker" in window.notice.label.text()
    window.session.document.undo_stack.undo()
    assert len(window.session.shot.markers) == 2
    QApplication.processEvents()


def test_the_table_is_a_value() -> None:
    assert replace(LightTable(), on=True) == LightTable(on=True)
    assert LightTable(before=0, after=0).frames_shown(5, poses(script.demo(), "porter"), 1, 9) == []
    rows = LightTable(kind="frames", before=6, after=6).frames_shown(120, poses(script.demo(), "porter"), 101, 160)
    assert len(rows) == 12 and np.diff([s for _, _, s in rows]).min() >= 0


@pytest.mark.parametrize("frames", [3, 24, 25, 48, 49, 200])
def test_a_range_on_the_table_is_never_too_many(frames: int, demo: Shot) -> None:
    """A whole range lies on it evenly, of two dozen pictures at the most."""
    table = LightTable(on=True, kind="range")
    shown = sorted(f for f, _, _ in table.frames_shown(101.0, poses(demo, "porter"), 101.0, 101.0 + frames))
    assert min(frames, 12) - 1 <= len(shown) <= 25
    assert len({round(b - a, 9) for a, b in pairwise(shown)}) <= 1
