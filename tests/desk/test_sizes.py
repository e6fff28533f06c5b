"""How large a brought figure is: asked where its file leaves doubts, and handed on in the unit that it came in."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog
from tests.formats import gltf_maker as make
from tests.formats.gltf_player import Player

from bovrin import script
from bovrin.desk.commands.files import bring_as_project
from bovrin.desk.sheets.hand_on import HandOn
from bovrin.desk.sheets.size_sheet import SizeSheet
from bovrin.desk.window import Window

HEIGHT = 1.52
"""Metres between the lowest and the highest joint of the figure."""


def written(folder: Path, unit: float) -> Path:
    maker = make.Maker()
    maker.joints({n: (p, tuple(np.array(x) / unit)) for n, (p, x) in make.TWO_LEGS.items()})
    maker.skin(list(make.TWO_LEGS))
    path = folder / "stranger.glb"
    path.write_bytes(maker.glb())
    return path


@pytest.fixture
def bring(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Callable[..., list[str]]:
    """Brings a figure made in some unit; what is asked is answered; returns which unit was offered first."""
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "it.bovrin.json"), ""))

    def do(unit: float, answer: Callable[[SizeSheet], object]) -> list[str]:
        asked: list[str] = []
        timer = QTimer()

        def look() -> None:
            sheet = QApplication.activeModalWidget()
            if isinstance(sheet, SizeSheet):
                timer.stop()
                asked.append(next(b.text() for b in sheet.units.findChildren(type(sheet.bring)) if b.isChecked()))
                answer(sheet)

        timer.timeout.connect(look)
        timer.start(30)
        bring_as_project(window, written(tmp_path, unit))
        timer.stop()
        timer.deleteLater()
        return asked

    return do


def height(window: Window) -> float:
    shot = window.session.shot
    return float(np.ptp(script.sample(shot, shot.cast[0].name, [101]).position[0][1:, 1]))


def test_nobody_is_asked_about_what_is_plain(window: Window, bring: Callable[..., list[str]]) -> None:
    assert bring(0.01, lambda _sheet: pytest.fail("asked")) == []
    assert height(window) == pytest.approx(HEIGHT, abs=1e-3)


def test_the_height_can_be_typed(window: Window, bring: Callable[..., list[str]]) -> None:
    def answer(sheet: SizeSheet) -> None:
        tallest = sheet.picture.own_height / sheet._read
        sheet.activateWindow()
        QTest.qWait(50)
        sheet.height_field.setFocus()
        sheet.height_field.setText(f"{tallest * 0.06:.4f} m")
        sheet.height_field.setModified(True)  # as typing does
        QTest.keyClick(sheet.height_field, Qt.Key.Key_Return)
        assert sheet.isVisible(), "it is looked at before it is brought"
        QTest.mouseClick(sheet.bring, Qt.MouseButton.LeftButton)

    assert bring(0.06, answer) == ["decimetre"]
    assert height(window) == pytest.approx(HEIGHT, abs=2e-2)


def test_a_unit_can_be_chosen_and_all_of_it_left(window: Window, bring: Callable[..., list[str]]) -> None:
    before = window.session.shot
    bring(0.06, lambda sheet: QTest.mouseClick(sheet.leave, Qt.MouseButton.LeftButton))
    assert window.session.shot is before

    def answer(sheet: SizeSheet) -> None:
        QTest.mouseClick(sheet.units.button("inch"), Qt.MouseButton.LeftButton)
        QTest.mouseClick(sheet.bring, Qt.MouseButton.LeftButton)

    bring(0.06, answer)
    assert height(window) == pytest.approx(HEIGHT / 0.06 * 0.0254, abs=1e-3)


def test_it_is_handed_on_in_its_unit_or_in_metres(
    window: Window, bring: Callable[..., list[str]], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bring(0.01, lambda _sheet: None)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "out.glb"), ""))
    for unit, tall in (("centimetre", HEIGHT * 100), ("metre", HEIGHT)):
        window.run("shot.export")
        (page,) = [w for w in window.findChildren(HandOn) if w.isVisible()]
        assert page.unit.isVisible() and page.unit.itemText(0) == "centimetre", "what came in is the default"
        page.unit.setCurrentText(unit)
        QTest.mouseClick(page.write, Qt.MouseButton.LeftButton)
        places = Player((tmp_path / "out.glb").read_bytes()).vertices()
        assert np.ptp(places[:, 1]) == pytest.approx(tall, rel=0.1)


def test_shots_of_our_own_have_no_other_unit(window: Window) -> None:
    window.run("shot.export")
    (page,) = [w for w in window.findChildren(HandOn) if w.isVisible()]
    assert not page.unit.isVisible()
    page.reject()
