"""The proof in the window: read beside it, notes clicked, remedies seen before they are kept, notes left."""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.craft.company import left
from bovrin.desk.panels.proof_panel import ProofPanel
from bovrin.desk.window import Window
from bovrin.shot import Shot


@pytest.fixture
def proofed(window: Window, demo: Shot, qtbot: QtBot) -> Window:
    """The demo splined and not polished yet, in the pass in which it is, its proof read."""
    window.session.commit("Spline", script.splined(demo, "porter"))
    window.run("pass.polish")
    window.right.open("proof")
    read(window, qtbot)
    return window


def read(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: window.proofread.up_to_date, timeout=20000)
    QApplication.processEvents()


def panel(window: Window) -> ProofPanel:
    found = window.right.panel("proof")
    assert isinstance(found, ProofPanel)
    return found


def test_it_lists_what_a_script_finds_and_goes_there(proofed: Window, qtbot: QtBot) -> None:
    notes = script.proof(proofed.session.shot)
    rows = panel(proofed).rows()
    assert [row.note for row in rows] == notes and len(notes) >= 4
    assert panel(proofed).count.text() == f"{len(notes)} notes"
    row = rows[1]
    QTest.mouseClick(row.words, Qt.MouseButton.LeftButton)
    assert proofed.proofread.picked == notes[1] and proofed.session.frame == notes[1].start
    rig = proofed.session.shot.figure("porter").rig
    assert [rig.controls[c].name for c in proofed.session.controls] == ["right foot"]
    plain = proofed.stage.main.grab().toImage()
    proofed.proofread.pick(None)
    QApplication.processEvents()
    assert plain != proofed.stage.main.grab().toImage(), "it is marked on the stage"
    proofed.session.go_to(101)
    proofed.run("proof.next")
    assert proofed.proofread.picked == notes[0] and proofed.session.frame == notes[0].start
    proofed.run("proof.previous")
    assert proofed.proofread.picked == notes[-1]


def test_a_remedy_is_seen_first_then_kept_as_one_step_or_not(proofed: Window, qtbot: QtBot) -> None:
    session, proofread = proofed.session, proofed.proofread
    before, (note, *_) = session.shot, proofread.notes
    steps = session.document.undo_stack.count()
    row = panel(proofed).rows()[0]
    QTest.mouseClick(row.remedy, Qt.MouseButton.LeftButton)
    assert proofread.trying == note and session.shot is before and session.seen is not before
    assert not panel(proofed).keep.isHidden() and panel(proofed).leave.isHidden()
    QTest.keyClick(panel(proofed).list, Qt.Key.Key_Escape)
    assert proofread.trying is None and session.seen is before
    QTest.keyClick(panel(proofed).list, Qt.Key.Key_Return)
    assert proofread.trying == note
    QTest.keyClick(panel(proofed).list, Qt.Key.Key_Return)
    assert session.document.undo_stack.count() == steps + 1 and session.shot is not before
    assert session.document.undo_stack.undoText() == f"Plant: {note.words}"
    read(proofed, qtbot)
    assert note.words not in [other.words for other in proofread.notes]
    proofed.run("edit.undo")
    read(proofed, qtbot)
    assert session.shot is before and note in proofread.notes


def test_an_edit_while_a_remedy_is_on_trial_drops_it(proofed: Window, qtbot: QtBot) -> None:
    session, proofread = proofed.session, proofed.proofread
    proofread.try_remedy(proofread.notes[0])
    session.do("Raise", lambda shot: script.set_values(shot, "porter", 109, {"head/turn": 5}))
    assert proofread.trying is None and session.seen is session.shot
    proofed.run("proof.keep")  # of a note that is picked: it is tried anew
    assert proofread.trying is not None
    proofed.run("pass.block")
    assert proofread.trying is None and session.seen is session.shot, "what is not seen is not on trial"


def test_notes_are_left_listed_on_demand_and_listed_again(proofed: Window, qtbot: QtBot, tmp_path: Path) -> None:
    shown, proofread = panel(proofed), proofed.proofread
    note = proofread.notes[0]
    proofread.pick(note)
    QTest.mouseClick(shown.leave, Qt.MouseButton.LeftButton)
    read(proofed, qtbot)
    assert note not in proofread.notes and shown.others.text() == "Left: 1"
    assert proofed.files.save(tmp_path / "left.bovrin.json")
    assert len(script.proof(script.load(tmp_path / "left.bovrin.json"))) == len(proofread.notes)
    QTest.mouseClick(shown.others, Qt.MouseButton.LeftButton)
    assert [row.note for row in shown.rows()] == [note]
    proofread.pick(note)
    QTest.mouseClick(shown.leave, Qt.MouseButton.LeftButton)
    read(proofed, qtbot)
    assert note in proofread.notes and shown.others.isHidden()


def test_thresholds_are_typed_and_undone(proofed: Window, qtbot: QtBot, hand: Hand) -> None:
    proofed.run("proof.limits")
    limits = proofed.opening.proof_limits
    assert limits is not None and len(limits.fields) == 16
    field = limits.fields["slide"]
    assert field.text() == "0.5"
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "20")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert proofed.session.shot.limits == (("slide", 20.0),)
    limits.close()
    read(proofed, qtbot)
    assert "slide" not in {note.kind for note in proofed.proofread.notes}
    proofed.run("edit.undo")
    read(proofed, qtbot)
    assert "slide" in {note.kind for note in proofed.proofread.notes}


def test_nothing_is_read_while_nobody_looks(window: Window, qtbot: QtBot) -> None:
    window.session.do("Raise", lambda shot: script.set_values(shot, "porter", 109, {"head/turn": 5}))
    qtbot.wait(400)
    assert not window.session.background.busy("proof") and not window.proofread.up_to_date


def test_the_polished_take_is_read_to_empty(window: Window, qtbot: QtBot) -> None:
    for take in ("splined", "blocked"):
        window.session.do("Take", lambda shot, t=take: script.use_take(shot, t))  # type: ignore[misc]
        window.run("pass.polish")
        window.right.open("proof")
        read(window, qtbot)
        assert panel(window).rows() == [] and panel(window).empty.text() == "Nothing to note."
    window.run("proof.next")
    assert "nothing to note" in window.notice.label.text()


def test_of_thousands_of_notes_the_first_are_listed(proofed: Window) -> None:
    """As recordings have them: rows are made for some, all are counted."""
    proofread = proofed.proofread
    note = proofread.notes[0]
    proofread._found = [replace(note, start=101.0 + n / 100, end=101.0 + n / 100) for n in range(4000)]
    proofread.changed.emit()
    assert len(panel(proofed).rows()) == 150
    assert panel(proofed).count.text() == "4000 notes, the first 150"


def test_notes_of_a_figure_that_left_are_gone_at_once(proofed: Window) -> None:
    """Before the shot is read again: a click on one of them would go nowhere."""
    proofed.session.do("Leave", lambda shot: left(shot, "porter"))
    assert not proofed.proofread.up_to_date
    assert [note for note in proofed.proofread.notes if note.figure == "porter"] == []
    assert all(row.note.figure != "porter" for row in panel(proofed).rows())
    proofed.run("proof.next")
