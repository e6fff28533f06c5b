"""A flat figure in the window: drawings swapped and run, parts stacked, turned over, pulled off and rejoined, set up by hand."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QTreeWidgetItem
from pytestqt.qtbot import QtBot
from tests.desk.changes import survey
from tests.desk.conftest import open_panel
from tests.flat.drawn import profile, written
from tests.flat.test_setup import PARTS, sheet

from bovrin import script
from bovrin.desk.commands.cast import dropped_as
from bovrin.desk.panels.flat.drawings_panel import DrawingsPanel
from bovrin.desk.panels.flat.order_panel import OrderPanel
from bovrin.desk.sheets.flat_setup import FlatSetupSheet
from bovrin.desk.stage.drags.place_drag import PlaceMover
from bovrin.desk.stage.drags.posing import Pointer, take_hold
from bovrin.desk.state.files.bringing import bring_in
from bovrin.desk.state.flat import write_svg
from bovrin.desk.strip.run_row import runs_of
from bovrin.desk.window import Window
from bovrin.figure.flat.assembling import setup_now
from bovrin.shot import Shot

H = "heron"
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def heron(make) -> Window:  # type: ignore[no-untyped-def]
    """The heron alone, two poses, nothing chosen, on the first."""
    shot = script.add_figure(Shot("The heron"), "cast:heron")
    shot = script.key_pose(script.key_pose(shot, H, 101), H, 125)
    window = make(shot)
    window.run("pass.block")
    choose(window)
    return window


def choose(window: Window, *names: str) -> None:
    rig = window.session.shot.figure(H).rig
    window.session.choose(H, [rig.control(name) for name in names])


def drawings(window: Window) -> DrawingsPanel:
    panel = open_panel(window, "drawings")
    assert isinstance(panel, DrawingsPanel)
    return panel


def shown(window: Window, part: str, *frames: float) -> list[str]:
    return [script.drawing(window.session.shot, H, part, f) for f in frames]


def middle(panel: DrawingsPanel, part: str, drawing: str) -> QPoint:
    card = next(c for c in panel.sheet.cards() if (c.part, c.drawing) == (part, drawing))
    return card.rect.center().toPoint()


def test_a_click_shows_a_drawing_from_here_on(heron: Window) -> None:
    choose(heron, "beak")
    heron.session.go_to(110)
    panel = drawings(heron)
    assert {card.part for card in panel.sheet.cards()} == {"beak"}
    QTest.mouseClick(panel.sheet, LEFT, pos=middle(panel, "beak", "wide"))
    assert shown(heron, "beak", 109, 110, 124, 125) == ["shut", "wide", "wide", "shut"]
    heron.session.document.undo_stack.undo()
    assert shown(heron, "beak", 110) == ["shut"]


def test_nothing_chosen_shows_every_part_with_a_choice(heron: Window) -> None:
    panel = drawings(heron)
    assert {card.part for card in panel.sheet.cards()} == {"beak", "eye", "near wing", "far wing"}
    choose(heron, "near foot goal")
    assert {card.part for card in panel.sheet.cards()} == {"beak", "eye", "near wing", "far wing"}


def test_a_drag_over_several_lays_a_run(heron: Window) -> None:
    choose(heron, "eye")
    heron.session.go_to(110)
    panel = drawings(heron)
    panel.pills.button("on threes").click()
    way = [middle(panel, "eye", name) for name in ("half", "shut", "half")]
    QTest.mousePress(panel.sheet, LEFT, pos=way[0])
    for spot in way[1:]:
        QTest.mouseMove(panel.sheet, spot)
    QTest.mouseRelease(panel.sheet, LEFT, pos=way[-1])
    assert shown(heron, "eye", 109, 110, 112, 113, 116, 118, 119) == [
        "open",
        "half",
        "half",
        "shut",
        "half",
        "half",
        "open",
    ]
    runs = runs_of(heron.session.shot, H, "eye")
    assert [(r.drawing, r.start, r.end) for r in runs] == [
        ("half", 110, 113),
        ("shut", 113, 116),
        ("half", 116, 119),
        ("open", 119, 125),
    ]
    assert not heron.grab().isNull()


def test_keys_step_through_drawings(heron: Window, qtbot: QtBot) -> None:
    choose(heron, "beak", "eye")
    heron.session.go_to(105)
    on, back = Qt.Key.Key_Period, Qt.Key.Key_Comma
    for key, beak, eye in ((on, "half", "half"), (on, "wide", "shut"), (back, "half", "half")):
        QTest.keyClick(heron, key)
        assert shown(heron, "beak", 105) == [beak] and shown(heron, "eye", 105) == [eye]
    choose(heron, "body")
    before = heron.session.shot
    heron.run("flat.next")
    assert heron.session.shot is before


def test_the_pile_is_dragged_and_follows(heron: Window) -> None:
    panel = open_panel(heron, "in front")
    assert isinstance(panel, OrderPanel)
    heron.session.go_to(110)
    assert panel.names() == script.stacking(heron.session.shot, H, 110)
    model = panel.pile.model()
    assert model is not None
    names = panel.names()
    at = names.index("near wing")
    assert model.moveRow(panel.pile.rootIndex(), at, panel.pile.rootIndex(), 0)  # as a drop does
    assert script.stacking(heron.session.shot, H, 110)[0] == "near wing" == panel.names()[0]
    assert script.stacking(heron.session.shot, H, 109) == names
    choose(heron, "near wing", "neck")
    assert {item.text() for item in panel.pile.selectedItems()} == {"near wing", "neck"}
    heron.run("flat.back")
    assert set(script.stacking(heron.session.shot, H, 110)[-2:]) == {"near wing", "neck"}
    heron.session.go_to(109)
    assert panel.names() == names


def test_pulled_off_with_alt_and_rejoined(heron: Window) -> None:
    choose(heron, "head")
    heron.session.go_to(101)
    session = heron.session

    def pulled(*, alt: bool) -> dict[str, float]:
        grip = take_hold(session, QPointF(0, 0))
        changes = PlaceMover(grip)(np.array([0.05, 0.08, 0.0]), Pointer(0, 0, alt=alt))
        rig = grip.rig
        return {rig.channel_names[c]: v for c, v in changes.items()}

    assert set(pulled(alt=False)) == {"head/tilt"}
    loose = pulled(alt=True)
    assert set(loose) == {"head/forward", "head/up"}
    session.do("Pull", lambda shot: script.set_values(shot, H, 101, loose))
    heron.run("flat.rejoin")
    values = script.values(session.shot, H, 101)
    assert values["head/forward"] == values["head/up"] == 0.0
    before = session.shot
    heron.run("flat.rejoin_all")
    assert session.shot is before


def test_every_command_does_what_it_may_to_a_flat_figure(heron: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: ("", ""))
    done = survey(heron, H, ("beak",), (110.0,))
    assert {"flat.next", "flat.front", "flat.back", "flat.flip", "pose.key", "pose.breakdown"} <= done


@pytest.mark.sweep
def test_every_command_on_all_kinds_of_its_controls(heron: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: ("", ""))
    done = survey(heron, H, ("whole figure", "beak", "neck bend 2", "near foot goal"), (101.0, 110.0))
    assert "pose.mirror" in done


def test_flip_by_command(heron: Window) -> None:
    choose(heron, "head")
    heron.session.go_to(110)
    heron.run("flat.flip")
    values = [script.values(heron.session.shot, H, f)["head/flip"] for f in (109, 110, 125)]
    assert values == [0.0, 1.0, 0.0]


def test_panels_of_flat_figures_are_there_for_them_alone(make) -> None:  # type: ignore[no-untyped-def]
    shot = script.add_figure(script.demo("goat"), "cast:heron")
    window = make(shot)
    window.run("pass.block")
    column = window.right
    window.session.choose("goat")
    assert "drawings" not in column.wanted()
    window.session.choose(H)
    assert column.wanted()[:2] == ["drawings", "in front"]


def test_set_up_by_hand(make, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    window = make(script.bring(str(written(tmp_path, profile()))))
    window.session.choose("puppet")
    sheet = FlatSetupSheet(window.session, window)
    sheet.show()
    picture = sheet.picture
    before = dict(sheet.setup.pivots)
    sheet.choose("near forearm")
    start = picture.on_screen(before["near forearm"]).toPoint()
    QTest.mousePress(picture, LEFT, pos=start)
    QTest.mouseMove(picture, start + QPoint(20, -15))
    QTest.mouseRelease(picture, LEFT, pos=start + QPoint(20, -15))
    after = dict(sheet.setup.pivots)
    assert after["near forearm"] != before["near forearm"]
    assert {n: p for n, p in after.items() if n != "near forearm"} == {
        n: p for n, p in before.items() if n != "near forearm"
    }
    assert not sheet.hang("body", "head") and sheet.fault.text(), "the body cannot hang on what hangs on it"
    assert sheet.hang("hat", "body")
    items = sheet.list.findItems("hat", Qt.MatchFlag.MatchExactly | Qt.MatchFlag.MatchRecursive)
    above = items[0].parent()
    assert isinstance(above, QTreeWidgetItem) and above.text(0) == "body"
    sheet.tall.taken.emit(180.0)
    sheet.keep_it()
    figure = window.session.shot.figure("puppet")
    assert dict(setup_now(figure).parents)["hat"] == "body"
    high = max(float(p.positions[:, 1].max()) for p in figure.model.pieces)
    assert 1.6 < high < 1.85
    again = script.bring(str(tmp_path / "puppet.svg")).figure("puppet")
    assert dict(setup_now(again).parents)["hat"] == "body", "known again"


def test_a_drawing_saved_by_another_program_is_taken_over(make, tmp_path: Path, qtbot: QtBot) -> None:  # type: ignore[no-untyped-def]
    path = written(tmp_path, profile())
    shot = script.key_pose(script.bring(str(path)), "puppet", 101)
    window = make(script.set_values(shot, "puppet", 101, {"near forearm/tilt": 30}))
    window.session.choose("puppet")

    def hat() -> bytes:
        return next(p.cover.texture.data for p in window.session.shot.cast[0].model.pieces if p.cut.control == "hat")

    before = hat()
    path.write_text(profile()[:400])  # half written
    qtbot.wait(900)
    assert hat() == before and script.values(window.session.shot, "puppet", 101)["near forearm/tilt"] == pytest.approx(
        30
    )
    path.write_text(profile().replace("#433", "#3c3"))
    qtbot.waitUntil(lambda: hat() != before, timeout=5000)
    assert script.values(window.session.shot, "puppet", 101)["near forearm/tilt"] == pytest.approx(30)
    window.session.document.undo_stack.undo()
    assert hat() == before
    qtbot.wait(900)
    assert hat() == before, "what was undone is not taken over again"
    window.run("flat.reload")
    assert hat() != before


def test_a_folder_of_pictures_is_dropped(heron: Window, tmp_path: Path) -> None:
    folder = tmp_path / "walker"
    folder.mkdir()
    for name, box in PARTS.items():
        (folder / f"{name}.png").write_bytes(sheet(box))
    assert dropped_as(folder) == "figure"
    heron.session.document.path = tmp_path / "shot.bovrin.json"
    assert bring_in(heron.files, folder)
    assert sorted(script.stacking(heron.session.shot, "walker", 101)) == sorted(PARTS)


def test_bent_by_the_button_and_handed_on_as_svg(heron: Window, tmp_path: Path) -> None:
    choose(heron, "crest")
    drawings(heron).buttons["flat.bend"].click()
    assert "crest bend 3" in {c.name for c in heron.session.shot.figure(H).rig.controls}
    assert write_svg(heron.session, tmp_path / "frame.svg")
    assert "<image" in (tmp_path / "frame.svg").read_text()


def test_a_pose_drawn_outside_is_keyed_here(make, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    shot = script.key_pose(script.bring(str(written(tmp_path, profile()))), "puppet", 101)
    window = make(shot)
    window.session.choose("puppet")
    window.session.go_to(113)
    other = profile().replace('<g id="head" >', '<g id="head" transform="rotate(-30 205 160)">')
    window.ask.file_to_open = lambda *_args: written(tmp_path, other, "pose.svg")
    window.run("flat.bring_pose")
    values = [script.values(window.session.shot, "puppet", f)["head/tilt"] for f in (101, 113)]
    assert values[0] == 0.0 and values[1] == pytest.approx(-30, abs=0.1)
    window.session.document.undo_stack.undo()
    assert script.values(window.session.shot, "puppet", 113)["head/tilt"] == 0.0
