"""The setup sheet, the company of a shot, and carrying, in the real window."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QFileDialog, QPushButton
from tests.desk.conftest import Hand
from tests.formats import gltf_maker as make
from tests.formats.test_gltf_in import moving
from tests.walks import walk

from bovrin import script
from bovrin.desk.commands.cast import carry_menu, cast_menu
from bovrin.desk.commands.files import save
from bovrin.desk.sheets.setup_sheet import SetupSheet
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.window import Window
from bovrin.shot import Shot


@pytest.fixture
def tentacle(window: Window, tmp_path: Path) -> Window:
    path = tmp_path / "weed.glb"
    path.write_bytes(make.figure(make.TENTACLE).glb())
    assert bring(window.files, path, tmp_path / "weed.bovrin.json")
    return window


def sheet_of(window: Window) -> SetupSheet:
    window.run("cast.setup")
    QApplication.processEvents()
    return next(child for child in window.findChildren(SetupSheet) if child.isVisible())


def test_a_wrong_guess_is_corrected(tentacle: Window, tmp_path: Path) -> None:
    """A tentacle is made an arm: the fields, the picture, the shot, the file and the next file of its kind know it."""
    session = tentacle.session
    assert session.shot.cast[0].rig.limbs == ()
    sheet = sheet_of(tentacle)
    sheet.fields["head"].setCurrentIndex(0)
    sheet.fields["chest"].setCurrentIndex(0)
    if "tail 0" in sheet.fields:
        sheet.fields["tail 0"].setCurrentIndex(0)
    QTest.mouseClick(sheet.add, Qt.MouseButton.LeftButton)
    names = [j.name for j in session.shot.cast[0].rig.joints]
    for key, ring in (("0 upper", "ring 3"), ("0 middle", "ring 4"), ("0 end", "ring 5")):
        sheet.fields[key].put(names.index(ring))
    assert sheet.fault.text() == ""
    QTest.mouseClick(sheet.keep, Qt.MouseButton.LeftButton)
    figure = session.shot.cast[0]
    assert [limb.name for limb in figure.rig.limbs] == ["arm"] and "arm" in [p.name for p in figure.rig.parts]
    assert "Arm" in [lane.words for lane in tentacle.strip.places.lanes()]
    assert script.load(tmp_path / "weed.bovrin.json").cast[0].rig.limbs == ()
    assert save(tentacle)
    assert [limb.name for limb in script.load(tmp_path / "weed.bovrin.json").cast[0].rig.limbs] == ["arm"]
    session.document.undo_stack.undo()
    assert session.shot.cast[0].rig.limbs == ()
    other = tmp_path / "other.glb"
    other.write_bytes(make.figure(make.TENTACLE).glb())
    assert [limb.name for limb in script.bring(other, 1.0).cast[0].rig.limbs] == ["arm"]


def test_what_cannot_be_is_said_and_nothing_kept(tentacle: Window) -> None:
    sheet = sheet_of(tentacle)
    QTest.mouseClick(sheet.add, Qt.MouseButton.LeftButton)
    before = tentacle.session.shot
    number = max(int(k.split()[0]) for k in sheet.fields if k[0].isdigit())
    sheet.fields[f"{number} upper"].put(9)
    assert "does not hang on" in sheet.fault.text() and not sheet.keep.isEnabled()
    sheet.reject()
    assert tentacle.session.shot is before


def test_a_click_on_the_picture_fills_the_field(window: Window, hand: Hand, tmp_path: Path) -> None:
    path = tmp_path / "two.glb"
    path.write_bytes(make.figure(make.TWO_LEGS).glb())
    assert bring(window.files, path, tmp_path / "two.bovrin.json")
    sheet = sheet_of(window)
    sheet.activateWindow()
    QTest.qWait(60)
    sheet.grab()
    sheet.fields["head"].setFocus()
    QApplication.processEvents()
    names = [j.name for j in sheet.figure.rig.joints]
    neck = names.index("Hals")
    at = sheet.picture.places()[neck]
    hand.click(sheet.picture, QPointF(float(at[0]), float(at[1])))
    assert sheet.roles.head == neck and sheet.fields["head"].currentText() == "Hals"
    kinds = [box for box in sheet.rows.findChildren(QComboBox) if box.accessibleName().startswith("What limb")]
    assert [box.currentText() for box in kinds] == ["leg", "leg", "arm", "arm"]
    sides = [box for box in sheet.rows.findChildren(QComboBox) if box.accessibleName().startswith("The side")]
    assert [box.currentText() for box in sides] == ["left", "right", "left", "right"]
    sides[2].setCurrentText("middle")
    assert [limb.side for limb in sheet.guess.limbs if limb.kind == "arm"] == ["", "right"]
    sides[2].setCurrentText("left")
    kinds[3].setCurrentText("wing")
    assert {limb.kind for limb in sheet.guess.limbs} == {"leg", "arm", "wing"}
    tries = [b for b in sheet.rows.findChildren(QPushButton) if b.text() == "Try"]
    rest = sheet.picture._values.copy()
    QTest.mouseClick(tries[3], Qt.MouseButton.LeftButton)
    assert np.abs(sheet.picture._values - rest).max() > 0.05
    QTest.mouseClick(tries[3], Qt.MouseButton.LeftButton)
    assert np.array_equal(sheet.picture._values, rest)
    QTest.mouseClick(sheet.anew, Qt.MouseButton.LeftButton)
    assert sheet.fields["head"].currentText() == "Kugel"


def test_figures_join_and_leave_the_shot(window: Window) -> None:
    session = window.session
    before = [f.name for f in session.shot.cast]
    menu = cast_menu(window)
    next(a for a in menu.actions() if a.text() == "Crate").trigger()
    menu.deleteLater()
    assert [f.name for f in session.shot.cast] == [*before, "crate 2"] and session.figure_name == "crate 2"
    window.run("cast.remove")
    assert [f.name for f in session.shot.cast] == before
    session.document.undo_stack.undo()
    session.document.undo_stack.undo()
    assert [f.name for f in session.shot.cast] == before


def test_a_walk_is_carried_to_the_porter(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A BVH comes into the shot that is open, is carried, and leaves again; the project holds it all."""
    session = window.session
    script.export(walk(tmp_path), tmp_path / "stroll.bvh")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "mine.bovrin.json"), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a: (str(tmp_path / "stroll.bvh"), ""))
    window.run("cast.bring")
    assert session.document.path == tmp_path / "mine.bovrin.json" and session.figure_name == "stroll"
    assert (tmp_path / "stroll.glb").exists() and session.shot.last >= 185
    session.choose("porter", ())
    menu = carry_menu(window)
    next(a for a in menu.actions() if "stroll" in a.text()).trigger()
    menu.deleteLater()
    hips = script.sample(session.shot, "porter", [101, 180])
    at = hips.joints.index("hips")
    assert hips.position[1, at, 2] - hips.position[0, at, 2] > 0.8
    assert session.document.undo_stack.undoText() == "Carry a motion to porter"
    assert save(window)
    kept = script.load(tmp_path / "mine.bovrin.json")
    assert "stroll" in script.figures(kept)
    session.choose("crate", ())
    menu = carry_menu(window)
    next(a for a in menu.actions() if "stroll" in a.text()).trigger()
    menu.deleteLater()
    assert "few parts" in window.notice.label.text()


def test_animations_come_as_takes(window: Window, tmp_path: Path) -> None:
    path = tmp_path / "odd.glb"
    path.write_bytes(moving().glb())
    assert bring(window.files, path, tmp_path / "odd.bovrin.json")
    assert "2 animations are takes" in window.notice.label.text()
    menu = window.topbar.take.build_menu()
    assert {a.text() for a in menu.actions()} >= {"Take nod", "Take all sorts"}
    next(a for a in menu.actions() if a.text() == "Take nod").trigger()
    menu.deleteLater()
    assert window.session.shot.take.name == "nod"


def test_the_whole_figure_takes_over_the_travel_of_the_hips(window: Window, tmp_path: Path) -> None:
    """Way by way, in one step with the setup; nobody moves for it."""
    shot = walk(tmp_path)
    assert bring(window.files, written(shot, tmp_path), tmp_path / "walk.bovrin.json")
    session = window.session
    name, before = session.figure_name, session.shot
    frames = np.array(before.whole_frames, float)
    was = script.sample(before, name, frames)
    sheet = sheet_of(window)
    assert sheet.travel.isVisible()
    QTest.mouseClick(sheet.travel.buttons["forward"], Qt.MouseButton.LeftButton)
    QTest.mouseClick(sheet.keep, Qt.MouseButton.LeftButton)
    now = script.sample(session.shot, name, frames)
    assert np.abs(now.position - was.position)[:, 1:].max() < 1e-5
    assert np.ptp(now.position[:, 0, 2]) == pytest.approx(
        np.ptp(was.position[:, was.joints.index("Kern"), 2]), abs=1e-5
    )
    assert np.ptp(now.position[:, 0, :2], axis=0).max() < 1e-6, "the other ways stay in the hips"
    session.document.undo_stack.undo()
    assert session.shot is before


def written(shot: Shot, folder: Path) -> Path:
    path = folder / "walk.bvh"
    script.export(shot, path)
    return path
