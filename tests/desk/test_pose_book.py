from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand, open_panel
from tests.desk.test_stage import choose

from bovrin import script
from bovrin.craft.keying.edits import Scope
from bovrin.desk.state.book import own_book
from bovrin.desk.window import Window
from bovrin.shot import Shot

SHIFT = Qt.KeyboardModifier.ShiftModifier


def up(window: Window, what: str = "left hand/up") -> float:
    return script.values(window.session.shot, "porter", window.session.frame)[what]


@pytest.fixture
def book(window: Window) -> Window:
    """A window whose book holds the poses at 119 and 133."""
    for frame in (119, 133):
        window.session.go_to(frame)
        window.run("pose.keep")
    window.session.go_to(101)
    QApplication.processEvents()
    return window


def test_a_click_applies_a_card_and_shift_mirrors_it(book: Window, hand: Hand) -> None:
    cards = open_panel(book, "poses").cards
    there = script.values(book.session.shot, "porter", 119)
    hand.click(cards, cards.card_rect(1).center())
    assert (
        up(book) == pytest.approx(there["left hand/up"])
        and book.session.document.undo_stack.undoText() == "Pose: pose 119"
    )
    book.session.document.undo_stack.undo()
    hand.click(cards, cards.card_rect(1).center(), SHIFT)
    assert up(book, "right hand/up") == pytest.approx(there["left hand/up"])
    assert "mirrored" in book.session.document.undo_stack.undoText()


def test_a_drag_applies_a_share_and_escape_puts_it_back(book: Window, hand: Hand) -> None:
    cards = open_panel(book, "poses").cards
    shot, start, goal = (
        book.session.shot,
        up(book, "hips/up"),
        script.values(book.session.shot, "porter", 119)["hips/up"],
    )
    at = cards.card_rect(1).center()
    hand.press(cards, at)
    hand.move(cards, at + QPointF(30, 0))
    assert book.session.document.previewing and "25%" in book.status.hint.text()
    hand.key(Qt.Key.Key_Escape)
    assert not book.session.document.previewing and book.session.shot is shot
    hand.release(cards, at + QPointF(30, 0))
    assert book.session.shot is shot
    hand.drag(cards, at, at + QPointF(60, 0))
    assert up(book, "hips/up") == pytest.approx(start + 0.5 * (goal - start), abs=1e-3)


def test_toward_the_default_pose_by_a_share(book: Window, hand: Hand) -> None:
    cards = open_panel(book, "poses").cards
    assert cards.poses()[0].name == "default"
    book.session.go_to(119)
    start = up(book, "hips/up")
    hand.drag(cards, cards.card_rect(0).center(), cards.card_rect(0).center() + QPointF(48, 0))
    assert up(book, "hips/up") == pytest.approx(0.6 * start, abs=2e-3)
    assert not book.right.panel("poses")._details.isVisible(), "the default is not a card of the book"
    book.right.panel("poses").mirrors.button("L to R").click()
    values = script.values(book.session.shot, "porter", 119)
    assert values["right hand/up"] == pytest.approx(values["left hand/up"])


def test_only_the_chosen_part_is_posed_when_keys_go_on_parts(book: Window, hand: Hand) -> None:
    choose(book, "left hand")
    book.session.change_keying(scope=Scope.PART)
    before = script.values(book.session.shot, "porter", 101)
    hand.click(book.right.panel("poses").cards, book.right.panel("poses").cards.card_rect(1).center())
    after = script.values(book.session.shot, "porter", 101)
    changed = {n.split("/")[0] for n in after if abs(after[n] - before[n]) > 1e-9}
    assert changed and all(n.startswith("left ") for n in changed)


def test_name_note_and_reference_are_kept_in_the_file(book: Window, hand: Hand, make) -> None:  # type: ignore[no-untyped-def]
    panel = open_panel(book, "poses")
    hand.press(panel.cards, panel.cards.card_rect(2).center())
    for field, words in ((panel.name, "heave"), (panel.note, "weight on the left"), (panel.reference, "214")):
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, words)
        QTest.keyClick(field, Qt.Key.Key_Return)
    again = script.load_poses(own_book())
    assert (again[1].name, again[1].note, again[1].reference) == ("heave", "weight on the left", 214)
    panel.reference.setFocus()
    panel.reference.selectAll()
    QTest.keyClicks(panel.reference, "soon")
    QTest.keyClick(panel.reference, Qt.Key.Key_Return)
    assert "not a frame number" in book.notice.label.text() and script.load_poses(own_book())[1].reference == 214
    other: Window = make(Shot("another").with_figure(book.session.shot.figure("porter")))
    assert [p.name for p in other.right.panel("poses").book.poses] == ["pose 119", "heave"]


def test_a_removed_card_can_be_put_back(book: Window, hand: Hand) -> None:
    panel = open_panel(book, "poses")
    panel.cards.chosen = 1
    panel.remove_button.click()
    assert [p.name for p in panel.book.poses] == ["pose 133"]
    book.notice.buttons[0].click()
    assert [p.name for p in panel.book.poses] == ["pose 119", "pose 133"]


def test_other_books_are_opened_and_broken_ones_explained(
    book: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "shared.poses.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: (str(path), ""))
    book.run("book.save_as")
    assert len(script.load_poses(path)) == 2
    (tmp_path / "bad.poses.json").write_text("{ no")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: (str(tmp_path / "bad.poses.json"), ""))
    book.run("book.open")
    assert "cut off" in book.notice.label.text() and len(book.right.panel("poses").book.poses) == 2
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: ("/proc/none/x.poses.json", ""))
    book.run("book.save_as")
    assert book.right.panel("poses").book.path == path


def test_a_book_that_cannot_be_read_is_not_written_over(make, demo: Shot) -> None:  # type: ignore[no-untyped-def]
    own_book().parent.mkdir(parents=True)
    own_book().write_text("{ precious but broken")
    window: Window = make(demo)
    window.run("pose.keep")
    assert own_book().read_text() == "{ precious but broken"
    assert len(window.right.panel("poses").book.poses) == 1 and window.right.panel("poses").book.path != own_book()


def test_two_hundred_poses_come_bit_by_bit(make, demo: Shot, qtbot: QtBot) -> None:  # type: ignore[no-untyped-def]
    pose = script.copy_pose(demo, "porter", 119)
    own_book().parent.mkdir(parents=True)
    script.save_poses([pose.named(f"pose {i}") for i in range(200)], own_book())
    window: Window = make(demo)
    window.pictures.paused = False
    cards = open_panel(window, "poses").cards
    assert len(cards.book.poses) == 200 and cards.minimumHeight() > 3000
    QApplication.processEvents()
    drawn = len(window.pictures._kept)
    qtbot.waitUntil(lambda: len(window.pictures._kept) > drawn, timeout=20000)
    assert len(window.pictures._kept) < 60, "only cards that are seen are drawn"
    qtbot.waitUntil(lambda: not window.pictures._wanted, timeout=20000)
    window.right.panel("poses").area.verticalScrollBar().setValue(2000)
    qtbot.waitUntil(lambda: bool(window.pictures._wanted) or len(window.pictures._kept) > 12, timeout=20000)


def test_mirrors_turn_about_the_world_with_the_place_too(window: Window) -> None:
    session, panel = window.session, open_panel(window, "poses")
    session.choose("porter", [])

    def place() -> tuple[float, float]:
        named = dict(zip(session.shot.figure("porter").rig.channel_names, session.stance().values, strict=True))
        return float(named["whole figure/across"]), float(named["whole figure/turn"])

    session.do(
        "Place", lambda s: script.set_values(s, "porter", 119, {"whole figure/across": 0.5, "whole figure/turn": 30})
    )
    session.go_to(119)
    window.run("pose.mirror")
    assert place() == pytest.approx((0.5, np.radians(30)))
    panel.abouts.button("the world").click()
    window.run("pose.mirror")
    assert place() == pytest.approx((0.5, -np.radians(30)))
    panel.place.click()
    window.run("pose.mirror")
    assert place() == pytest.approx((-0.5, np.radians(30)))


def test_chosen_cards_are_mirrored_and_no_others(window: Window) -> None:
    session = window.session
    before = script.sample(session.shot, "porter", [127, 133, 143]).position
    session.keys.choose(session.keys.on_frame(133))
    window.run("pose.mirror_keys")
    after = script.sample(session.shot, "porter", [127, 133, 143]).position
    assert np.array_equal(before[[0, 2]], after[[0, 2]]) and np.abs(before - after)[1].max() > 0.01
    assert session.document.undo_stack.undoText() == "Mirror the chosen keys"
    window.run("pose.mirror_keys")
    assert np.allclose(script.sample(session.shot, "porter", [133]).position, before[1:2], atol=1e-9)
