"""The start page in the real window."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand

from bovrin import cast, script
from bovrin.desk.state.files.recent import remembered
from bovrin.desk.state.settings import settings
from bovrin.desk.window import Window


def test_a_demo_is_chosen_by_its_picture(window: Window, hand: Hand, qtbot: QtBot) -> None:
    window.run("shot.start")
    page = window.opening.start
    assert page is not None and page.size() == window.centralWidget().size()
    qtbot.waitUntil(lambda: all(card.image is not None for card in page.demos), timeout=20000)
    images = [card.image for card in page.demos]
    assert images[0] != images[1] and images[0].width() > 200
    goat = page.demos[1]
    QTest.mouseClick(goat, Qt.MouseButton.LeftButton)
    assert window.opening.start is None and script.figures(window.session.shot) == ["goat", "landing"]
    assert window.session.document.path == cast.GOAT


def test_keys_choose_and_leave(window: Window, hand: Hand) -> None:
    shot = window.session.shot
    window.run("shot.start")
    hand.key(Qt.Key.Key_Escape)
    QApplication.processEvents()
    assert window.opening.start is None and window.session.shot is shot
    window.run("shot.start")
    page = window.opening.start
    assert page is not None
    for key in (Qt.Key.Key_K, Qt.Key.Key_Delete, Qt.Key.Key_Space, Qt.Key.Key_M, Qt.Key.Key_B):
        page.setFocus()
        hand.key(key)
    assert window.session.shot is shot and not window.session.playing and window.opening.start is page
    hand.click(page, QPointF(4, page.height() - 4))
    assert window.opening.start is page, "a click beside the cards reaches nothing below"
    page.demos[0].setFocus()
    hand.key(Qt.Key.Key_Right)
    assert page.demos[1].hasFocus()
    QTest.keyClick(page.demos[1], Qt.Key.Key_Return)
    assert window.session.document.path == cast.GOAT


def test_the_last_projects_are_there_with_pictures(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("one", "two"):
        assert window.files.save(tmp_path / f"{name}.bovrin.json")
    assert [p.name for p in remembered(settings())] == ["two.bovrin.json", "one.bovrin.json"]
    (tmp_path / "two.bovrin.json").write_text("{")
    window.run("shot.start")
    page = window.opening.start
    assert page is not None and [card.name for card in page.recent] == ["two", "one"]
    qtbot.waitUntil(lambda: page.recent[1].image is not None, timeout=20000)
    assert page.recent[0].image is None and "cut off or damaged" in page.recent[0].toolTip()
    shot = window.session.shot
    QTest.mouseClick(page.recent[0], Qt.MouseButton.LeftButton)
    assert window.opening.start is not None and window.session.shot is shot, "a broken project leaves all as it was"
    QTest.mouseClick(page.recent[1], Qt.MouseButton.LeftButton)
    assert window.opening.start is None and window.session.document.path == (tmp_path / "one.bovrin.json").resolve()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a: ("", ""))
    window.run("shot.start")
    page = window.opening.start
    assert page is not None
    next(b for b in page.findChildren(QPushButton) if b.text().startswith("Open")).click()
    assert window.opening.start is page, "cancelled: the page stays"


def test_it_fills_the_window_at_any_size(window: Window) -> None:
    window.run("shot.start")
    window.resize(1500, 900)
    QApplication.processEvents()
    page = window.opening.start
    assert page is not None and page.size() == window.centralWidget().size()
