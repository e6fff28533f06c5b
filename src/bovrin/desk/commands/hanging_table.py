"""The commands of attachments of the one command table."""

from __future__ import annotations

from bovrin.desk.commands.command import Command, asking, has_figure
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.hanging import hang_chosen, let_go_here, to_keys
from bovrin.shot import TO_GROUND


def _hangs(session: Session) -> bool:
    """Something of the chosen figure hangs on something."""
    return session.figure is not None and bool(session.shot.attachments(session.figure_name))


def _hangs_or_follows(session: Session) -> bool:
    """Something of the chosen figure hangs on something, or follows a rule."""
    return _hangs(session) or (session.figure is not None and bool(session.shot.followers(session.figure_name)))


HANGING: tuple[Command, ...] = (
    Command(
        "hang.attach",
        "Pose",
        "Attach…",
        "Shift+A",
        "The next click on the stage says what carries what is chosen from this frame on; it stays where it is here",
        asking("hang", "Click what shall carry it: a part of a figure, or the ground. Escape: nothing."),
        has_figure,
    ),
    Command(
        "hang.ground",
        "Pose",
        "Attach to the ground",
        "",
        "What is chosen stays where it is in the world from this frame on",
        lambda port: hang_chosen(port.session, (TO_GROUND, "")),
        has_figure,
    ),
    Command(
        "hang.let_go",
        "Pose",
        "Let go here",
        "",
        "What is chosen no longer hangs on anything from this frame on; its own way begins where it hung",
        lambda port: let_go_here(port.session),
        _hangs,
    ),
    Command(
        "hang.onto",
        "Pose",
        "Put onto…",
        "",
        "The next click on the stage says onto what the chosen parts are put on this frame, once: place and turn",
        asking("onto", "Click what it shall be put onto. Escape: nothing."),
        has_figure,
    ),
    Command(
        "hang.to_keys",
        "Motion",
        "What hangs and follows into keys",
        "",
        "What attachments, followers and clips make of the chosen figure becomes keys of its own; it moves as it did",
        lambda port: to_keys(port.session),
        _hangs_or_follows,
    ),
)
