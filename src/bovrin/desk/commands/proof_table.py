"""Commands of the proof."""

from __future__ import annotations

from bovrin.desk.commands.command import Command, Run
from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.passes import POLISH


def _step(by: int) -> Run:
    def run(port: Port) -> None:
        if port.session.pass_ is not POLISH:
            port.session.set_pass(POLISH)
        port.proofread.step(by)

    return run


def _keep(port: Port) -> None:
    proofread = port.proofread
    if proofread.trying is not None:
        proofread.keep()
    elif proofread.picked is not None and proofread.picked.remedy is not None:
        proofread.try_remedy(proofread.picked)
    else:
        port.session.voice.tell("This note has no remedy: it is only shown.")


def _leave(port: Port) -> None:
    proofread = port.proofread
    assert proofread.picked is not None
    if proofread.picked in proofread.left:
        proofread.list_again(proofread.picked)
    else:
        proofread.leave(proofread.picked)


def _has_note(session: Session) -> bool:
    return session.looking.note is not None


def _has_cast(session: Session) -> bool:
    return bool(session.shot.cast)


PROOF = (
    Command(
        "proof.next",
        "Motion",
        "Next note of the proof",
        "F8",
        "Read the shot for faults and go to the next",
        _step(1),
        _has_cast,
    ),
    Command(
        "proof.previous",
        "Motion",
        "Note before",
        "Shift+F8",
        "Go to the note of the proof before this one",
        _step(-1),
        _has_cast,
    ),
    Command(
        "proof.keep",
        "Motion",
        "Remedy of the note",
        "Ctrl+F8",
        "See the remedy of the picked note; again: keep it",
        _keep,
        _has_note,
    ),
    Command(
        "proof.leave",
        "Motion",
        "Leave the note",
        "",
        "The picked note is not listed any more, in this take; one that is left is listed again",
        _leave,
        _has_note,
    ),
    Command(
        "proof.limits",
        "Motion",
        "Thresholds of the proof…",
        "",
        "How much of each fault is a note, in this shot",
        lambda port: port.open("proof limits"),
    ),
)
