from collections.abc import Iterator

import pytest
from PyQt6.QtWidgets import QApplication
from tests.desk.conftest import let_go

from bovrin import script
from bovrin.desk.state.document.editing import edit, reset_chosen
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.passes import BREAK_DOWN, SPLINE
from bovrin.errors import BadMotion
from bovrin.shot import HandleKind, Shot


@pytest.fixture
def session(demo: Shot, qapp: QApplication) -> Iterator[Session]:
    made = Session(demo)
    yield made
    let_go(made)


def heard(session: Session) -> dict[str, int]:
    """Counts how often each signal is heard from now on."""
    counts: dict[str, int] = {}
    document, voice = session.document, session.voice
    for name, signal in {
        "changed": document.changed,
        "committed": document.committed,
        "frame": document.frame_changed,
        "choice": session.choice.changed,
        "pass": session.pass_changed,
        "file": document.file_changed,
        "told": voice.told,
        "failed": voice.failed,
    }.items():

        def count(*_words: object, of: str = name) -> None:
            counts[of] = counts.get(of, 0) + 1

        signal.connect(count)
    return counts


def test_a_change_is_told_once(session: Session) -> None:
    counts = heard(session)
    session.do("Longer", lambda shot: script.lengthen(shot, "porter", 101, 2))
    assert counts == {"changed": 1, "committed": 1, "file": 1}


def test_a_preview_is_shown_and_never_committed(session: Session, demo: Shot) -> None:
    counts = heard(session)
    other = script.lengthen(demo, "porter", 101, 2)
    session.preview(other)
    session.preview(other)
    assert session.shown is other and session.shot is demo and counts == {"changed": 1}
    session.preview(None)
    assert session.shown is demo and session.document.undo_stack.count() == 0


def test_nothing_changed_is_no_step(session: Session) -> None:
    assert not session.do("Nothing", lambda shot: shot)
    assert session.document.undo_stack.count() == 0


def test_a_fault_is_told_and_the_shot_stays(session: Session, demo: Shot) -> None:
    said: list[str] = []
    session.voice.failed.connect(said.append)

    def fail(_shot: Shot) -> Shot:
        raise BadMotion("this cannot be.", advice="Do that.")

    assert not session.do("Fail", fail)
    assert said == ["this cannot be. Do that."] and session.shot is demo


def test_undo_goes_back_to_where_it_happened(session: Session, demo: Shot) -> None:
    session.go_to(127)
    edit(session, "Lift", {0: 0.5})
    session.go_to(103)
    session.document.undo_stack.undo()
    assert session.frame == 127 and session.shot is demo


def test_frames_stay_whole_and_within_the_range(session: Session) -> None:
    for asked, got in ((119.4, 119), (-50, 101), (1e9, 160), (130.6, 131)):
        session.go_to(asked)
        assert session.frame == got


def test_new_keys_are_what_the_pass_says(session: Session) -> None:
    rig = session.shot.figure("porter").rig
    hips = rig.channel("hips/up")
    session.set_pass(SPLINE)
    session.go_to(105)
    edit(session, "Lift", {hips: 0.0})
    curve = session.shot.curves("porter")[hips]
    at = curve.index_at(105)
    assert at is not None and curve.out_kind[at] == HandleKind.NO_OVERSHOOT
    session.set_pass(BREAK_DOWN)
    session.go_to(123)
    edit(session, "Lift", {hips: 0.0})
    found = session.poses.cards
    assert found.roles[found.frames == 123] == 1


def test_another_document_clears_the_steps(session: Session, demo: Shot) -> None:
    edit(session, "Lift", {0: 0.5})
    other = Shot("Other", first=1, last=9)
    session.replace(other, None)
    assert not session.document.undo_stack.canUndo() and session.frame == 1 and session.figure is None
    assert len(session.poses.cards) == 0


def test_choosing_the_same_again_is_quiet(session: Session) -> None:
    session.choose("porter", [3, 3, 4])
    counts = heard(session)
    session.choose("porter", [3, 4])
    assert session.controls == (3, 4) and counts == {}


def test_without_a_choice_a_reset_says_what_to_do(session: Session) -> None:
    said: list[str] = []
    session.voice.told.connect(said.append)
    reset_chosen(session)
    assert "Choose" in said[0] and session.document.undo_stack.count() == 0
