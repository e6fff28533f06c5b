"""A project opens as it was left; what is known of none is seen whole; new shots; what is dropped; poses between windows."""

import json
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog
from pytestqt.qtbot import QtBot

from bovrin import cast, script
from bovrin.desk.commands.cast import new_shot, shipped
from bovrin.desk.state.choosing.clipboard import MIME
from bovrin.desk.state.files import as_left as kept
from bovrin.desk.state.files.as_left import AsLeft, as_left, keep_as_left
from bovrin.desk.state.passes import POLISH
from bovrin.desk.window import Window
from bovrin.formats.side.pose_book import book_text
from bovrin.picture.view import View
from bovrin.shot import Shot

Open = Callable[[Path], Window]


@pytest.fixture
def away(demo: Shot, tmp_path: Path) -> Path:
    """A project whose figure stands 30 m from the middle, and not in a frame of the demo's."""
    path = tmp_path / "far away.bovrin.json"
    shot = demo
    for frame in script.keys(demo, "porter", "whole figure/across") or [101.0]:
        shot = script.set_values(shot, "porter", frame, {"whole figure/across": 30.0, "whole figure/forward": -12.0})
    script.save(shot, path)
    return path


def seen_share(window: Window) -> float:
    """The share of the porter's joints that lie on the stage."""
    scene = window.stage.main.scene
    places = [scene.on_screen(m[:3, 3]) for m in next(i for i in scene.items() if i.figure.name == "porter").world]
    width, height = scene.size.width(), scene.size.height()
    return float(np.mean([0 <= p.x() <= width and 0 <= p.y() <= height for p in places]))


def test_a_project_that_nothing_is_known_of_is_seen_whole(window: Window, away: Path) -> None:
    assert window.files.open(away)
    assert seen_share(window) == 1.0


def test_every_field_comes_back(window: Window, away: Path, make: Callable[[Shot], Window], qtbot: QtBot) -> None:
    """Walks the declaration: a field more that is not put back fails here."""
    window.files.open(away)
    window.files.save(away)
    figure = window.session.shot.figure("porter")
    wanted = AsLeft(
        project=str(away),
        view=View((1.0, 0.5, 2.0), 7.0, 0.4, 0.2),
        glass=View((0.0, 1.0, 0.0), 3.0, 1.0, 0.1, True),
        glass_open=True,
        glass_large=True,
        follow=True,
        pass_name=POLISH.name,
        frame=127.0,
        frames=None,
        scale=(110.0, 21.0),
        values=(-2.0, 3.0),
        figure="porter",
        controls=(figure.rig.controls[3].name, figure.rig.controls[5].name),
        lanes=("head", "body"),
        second=True,
    )
    window.session.commit("Second range", replace(window.session.shot, second=(105.0, 140.0)))
    window.files.save(away)
    keep_as_left(away, wanted)
    window._coming_back.restore()
    window._coming_back.keep()
    found = as_left(away)
    assert found is not None
    for name in AsLeft.__struct_fields__:
        assert getattr(found, name) == getattr(wanted, name), name
        default = getattr(AsLeft(), name)
        assert name == "frames" or getattr(wanted, name) != default, f"'{name}' is not tried"


def test_leaving_and_opening_again(window: Window, away: Path) -> None:
    window.files.open(away)
    window.session.go_to(133)
    window.session.choose("porter", [2])
    window.stage.look_from(View((3.0, 1.0, 0.0), 4.0, 1.2, 0.3))
    window.run("pass.polish")
    window.files.open(cast.GOAT)
    window.run("pass.block")
    window.files.open(away)
    session = window.session
    assert (session.frame, session.controls, session.pass_.name) == (133, (2,), "Polish")
    assert window.stage.main.scene.view == View((3.0, 1.0, 0.0), 4.0, 1.2, 0.3)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "{",
        "[]",
        '{"frame": "x"}',
        '{"scale": [1, 0]}',
        '{"frame": 1e300}',
        '{"view": {"distance": -1}}',
        '{"frames": [5, 5]}',
    ],
)
def test_what_cannot_be_read_is_as_if_nothing_was_known(window: Window, away: Path, text: str) -> None:
    keep_as_left(away, AsLeft(frame=150.0))
    next(kept.folder().iterdir()).write_text(text)
    assert window.files.open(away)
    assert seen_share(window) == 1.0 and window.session.frame == 101


def test_what_was_chosen_and_is_gone_is_left_out(window: Window, away: Path) -> None:
    keep_as_left(away, AsLeft(figure="nobody", controls=("head",), pass_name="Dream", frame=9999.0))
    assert window.files.open(away)
    assert window.session.frame == 160
    name = window.session.shot.figure("porter").rig.controls[4].name
    window.files.open(cast.DEMO)
    keep_as_left(away, AsLeft(figure="porter", controls=(name, "third arm")))
    window.files.open(away)
    assert window.session.controls == (4,)


def test_the_project_itself_says_nothing_of_it(window: Window, away: Path) -> None:
    before = away.read_bytes()
    window.files.open(away)
    window.session.go_to(140)
    window.files.open(cast.DEMO)
    assert away.read_bytes() == before and as_left(cast.DEMO) is None


# -- new shots ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", [*shipped(), ""])
def test_a_new_shot(window: Window, name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert new_shot(window, name)
    session = window.session
    assert [f.name for f in session.shot.cast] == ([name] if name else [])
    assert session.document.path is None and session.document.undo_stack.isClean()
    for pass_ in ("plan", "block", "break_down", "spline", "polish", "cycle", "block"):
        window.run(f"pass.{pass_}")
        QApplication.processEvents()
    window.grab()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "first"), ""))
    if name:
        session.choose(name)
        window.run("pose.key")
    window.run("shot.save")
    assert (tmp_path / "first.bovrin.json").exists(), "the ending is put on"
    assert window.files.open(tmp_path / "first.bovrin.json")


def test_a_bare_name_asks_before_it_writes_over_what_its_ending_meets(
    window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    there = tmp_path / "mine.bovrin.json"
    there.write_text("somebody's")
    asked: list[str] = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "mine"), ""))
    monkeypatch.setattr(window.ask, "which", lambda _t, words, _a: asked.append(words))
    window.run("shot.save_as")
    assert there.read_text() == "somebody's" and asked == ["mine.bovrin.json is there already."]
    for typed, written in (
        ("a.json", "a.bovrin.json"),
        ("shot.v2", "shot.v2.bovrin.json"),
        ("b.bovrin.json", "b.bovrin.json"),
    ):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, t=typed: (str(tmp_path / t), ""))
        window.run("shot.save_as")
        assert (tmp_path / written).exists() and (typed == written or not (tmp_path / typed).exists())


# -- dropped, and between windows --------------------------------------------------------------------------------------------


@pytest.fixture
def drop(window: Window, qtbot: QtBot) -> Iterator[Callable[..., bool]]:
    def let_fall(*paths: Path) -> bool:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        buttons, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        enter = QDragEnterEvent(QPoint(600, 300), Qt.DropAction.CopyAction, data, buttons, none)
        enter.ignore()
        QApplication.sendEvent(window, enter)
        if enter.isAccepted():
            QApplication.sendEvent(
                window, QDropEvent(QPointF(600, 300), Qt.DropAction.CopyAction, data, buttons, none, QEvent.Type.Drop)
            )
            qtbot.wait(30)
        return enter.isAccepted()

    yield let_fall


def test_what_is_dropped(window: Window, away: Path, tmp_path: Path, drop: Callable[..., bool]) -> None:
    assert not drop(tmp_path / "letter.txt")
    assert drop(away) and window.session.document.path == away
    subtitles = tmp_path / "lines.srt"
    subtitles.write_text("1\n00:00:00,500 --> 00:00:01,000\nhey\n")
    assert drop(subtitles) and any(m.words == "hey" for m in window.session.shot.markers)
    script.export(script.demo("goat"), tmp_path / "goat.glb")
    before = len(window.session.shot.cast)
    assert drop(tmp_path / "goat.glb") and len(window.session.shot.cast) > before


def test_a_pose_goes_to_another_window(window: Window) -> None:
    board = QApplication.clipboard()
    assert board is not None
    window.session.choose("porter")
    window.session.go_to(119)
    window.run("pose.copy")
    data = board.mimeData()
    assert data is not None
    text = data.text()
    assert json.loads(text)["format"] == "bovrin poses" and bytes(data.data(MIME).data()).decode() == text
    own = window.session.clipboard.pose
    assert own is not None

    board.setText(book_text((own,)).replace("pose 119", "from elsewhere"))
    window.session.change_clipboard(pose=None)
    window.session.go_to(150)
    window.run("pose.paste")
    pasted = script.values(window.session.shot, "porter", 150)
    wanted = script.values(window.session.shot, "porter", 119)
    off = {c: abs(pasted[c] - wanted[c]) for c in wanted if "whole" not in c and abs(pasted[c] - wanted[c]) > 1e-4}
    assert off == {}


@pytest.mark.parametrize(
    "text", ["hello", "{", '{"format": "bovrin poses", "version": 1, "poses": []}', "{}", '{"a": [' * 3000]
)
def test_what_is_no_pose_on_the_clipboard_leaves_the_own_one(window: Window, text: str) -> None:
    window.session.go_to(119)
    window.run("pose.copy")
    board = QApplication.clipboard()
    assert board is not None
    board.setText(text)
    window.session.go_to(150)
    window.run("pose.paste")
    assert window.session.document.undo_stack.canUndo()
