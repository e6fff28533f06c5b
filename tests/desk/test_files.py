from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QMessageBox
from tests.desk.conftest import Hand
from tests.formats.gltf_player import Player

from bovrin import cast, script
from bovrin.craft.takes import copied_take
from bovrin.desk.sheets.hand_on import HandOn
from bovrin.desk.state.settings import settings
from bovrin.desk.window import Window
from bovrin.shot import Shot

BUTTONS = QMessageBox.StandardButton


def change(window: Window) -> None:
    window.session.go_to(150)
    window.run("pose.key")


@pytest.mark.parametrize("content", [b"", b"{", b'{"format": "bovrin shot", "version": 7}', b"\x00" * 50])
def test_a_broken_file_is_told_and_the_work_stays(window: Window, tmp_path: Path, content: bytes) -> None:
    change(window)
    shot = window.session.shot
    path = tmp_path / "broken.bovrin.json"
    path.write_bytes(content)
    assert not window.files.open(path)
    assert window.session.shot is shot and window.session.document.undo_stack.canUndo()
    assert "broken.bovrin.json" in window.notice.label.text() and window.notice.isVisible()
    assert path.read_bytes() == content


def test_a_failed_save_is_told_and_nothing_is_lost(window: Window) -> None:
    change(window)
    assert not window.files.save(Path("/proc/none/x.bovrin.json"))
    assert "could not be written" in window.notice.label.text()
    assert not window.session.document.undo_stack.isClean()
    window.files.export(Path("/proc/none/x.glb"))
    assert "could not be written" in window.notice.label.text()


def test_the_shipped_demo_is_never_overwritten(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    before = cast.DEMO.read_bytes()
    asked: list[str] = []

    def ask(*args: object) -> tuple[str, str]:
        asked.append(str(args[2]))
        return str(tmp_path / "mine.bovrin.json"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", ask)
    change(window)
    window.run("shot.save")
    assert len(asked) == 1 and (tmp_path / "mine.bovrin.json").exists()
    change(window)
    window.session.go_to(155)
    window.run("pose.key")
    window.run("shot.save")
    assert len(asked) == 1
    assert 155 in script.keys(script.load(tmp_path / "mine.bovrin.json"), "porter", "hips/up")
    assert cast.DEMO.read_bytes() == before


@pytest.mark.parametrize(("answer", "opened"), [(BUTTONS.Cancel, False), (BUTTONS.Discard, True)])
def test_unsaved_work_is_asked_about(
    window: Window, demo: Shot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, answer: BUTTONS, opened: bool
) -> None:
    path = tmp_path / "other.bovrin.json"
    script.save(demo, path)
    change(window)
    shot = window.session.shot
    monkeypatch.setattr(window.ask, "unsaved", lambda _title: answer)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: (str(path), ""))
    window.run("shot.open")
    assert (window.session.document.path == path) is opened
    assert (window.session.shot is shot) is not opened


def test_closing_can_be_cancelled(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    change(window)
    monkeypatch.setattr(window.ask, "unsaved", lambda _title: BUTTONS.Cancel)
    assert not window.close() and window.isVisible()


def test_the_title_line_says_what_is_unsaved(window: Window, hand: Hand) -> None:
    assert "not saved" not in window.topbar.shot_words.text()
    change(window)
    assert "not saved" in window.topbar.shot_words.text() and "recovery on" in window.status.time.text()
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert "not saved" not in window.topbar.shot_words.text()


def test_sizes_are_remembered(make, demo: Shot) -> None:  # type: ignore[no-untyped-def]
    first = make(demo)
    first.halves.setSizes([300, 420])
    kept = first.halves.sizes()
    first.close()
    assert settings().value("rows") is not None
    second = make(demo)
    assert second.halves.sizes() == kept


def test_the_theme_changes_and_is_remembered(window: Window) -> None:
    from bovrin.desk.kit.look import Look
    from bovrin.desk.state.settings import remembered_theme

    assert remembered_theme() is None and Look.theme.name == "paper", "nobody chose yet"
    window.run("view.theme")
    assert Look.theme.name == "night" and remembered_theme() == "night"
    window.run("view.theme")
    assert Look.theme.name == "paper"


def test_the_shot_is_handed_on_as_asked(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The page asks as what and how finely; a choice without an ending gets it."""
    window.run("shot.export")
    (page,) = [w for w in window.findChildren(HandOn) if w.isVisible()]
    assert page.rate.value() == 24 and page.rate.isEnabled()
    page.rate.setValue(12)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "out"), ""))
    QTest.mouseClick(page.write, Qt.MouseButton.LeftButton)
    doc = Player((tmp_path / "out.glb").read_bytes()).doc
    assert {a["name"] for a in doc["animations"]} == {"blocked", "splined"}
    splined = next(a for a in doc["animations"] if a["name"] == "splined")
    assert max(doc["accessors"][s["input"]]["count"] for s in splined["samplers"]) == 30
    assert "Handed on as out.glb" in window.notice.label.text()
    window.run("shot.export")
    (page,) = [w for w in window.findChildren(HandOn) if w.isVisible()]
    page.kind.setCurrentText("BVH")
    assert not page.rate.isEnabled()
    QTest.mouseClick(page.write, Qt.MouseButton.LeftButton)
    assert (tmp_path / "out.bvh").read_text().startswith("HIERARCHY")


def test_a_part_of_the_shot_is_handed_on(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whose, which frames, and a file for each take."""
    session = window.session
    session.do("Take", lambda shot: copied_take(shot, "lower"))
    window.run("shot.export")
    (page,) = [w for w in window.findChildren(HandOn) if w.isVisible()]
    page.whom.setCurrentText("crate")
    page.takes.setCurrentText("a file for each")
    for field, words in ((page.first, "110"), (page.last, "130")):
        field.selectAll()
        QTest.keyClicks(field, words)
        QTest.keyClick(field, Qt.Key.Key_Return)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "some.glb"), ""))
    QTest.mouseClick(page.write, Qt.MouseButton.LeftButton)
    files = sorted(path.name for path in tmp_path.glob("*.glb"))
    assert len(files) == len(session.shot.all_takes) == 3
    read = script.bring(tmp_path / next(name for name in files if "splined" in name), 1.0)
    assert len(read.cast) == 1 and read.first == 110 and 127 <= read.last <= 130, "a file ends with its last key"
