"""The commands of flat figures of the one command table."""

from __future__ import annotations

from types import ModuleType

from bovrin.desk.commands.command import Command
from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.session import Session


def is_flat(session: Session) -> bool:
    """A figure made of drawn parts is chosen."""
    return session.figure is not None and session.figure.model.is_flat


def is_drawn(session: Session) -> bool:
    """A figure that was brought from a drawing is chosen."""
    figure = session.figure
    return figure is not None and figure.model.drawn is not None and not figure.model.drawn.path.startswith("cast:")


def _ask_svg(port: Port) -> None:
    session = port.session
    words = f"{session.figure_name}-{session.frame:g}.svg"
    path = port.ask.file_to_write("This frame as SVG", port.files.folder() / words, "Drawings (*.svg)")
    if path is not None:
        _flat().write_svg(session, path)


def _ask_pose(port: Port) -> None:
    path = port.ask.file_to_open("Bring a pose", port.files.folder(), "Drawings (*.svg *.svgz)")
    if path is not None:
        _flat().take_pose(port.session, path)


def _flat() -> ModuleType:
    """What is done to flat figures, kept out of the window's start."""
    from bovrin.desk.state import flat  # noqa: PLC0415

    return flat


FLAT: tuple[Command, ...] = (
    Command(
        "flat.next",
        "Pose",
        "Next drawing",
        ".",
        "The chosen parts show their next drawing from this frame on, until their next key",
        lambda port: _flat().step_drawing(port.session, 1),
        is_flat,
    ),
    Command(
        "flat.before",
        "Pose",
        "Drawing before",
        ",",
        "The chosen parts show the drawing before from this frame on, until their next key",
        lambda port: _flat().step_drawing(port.session, -1),
        is_flat,
    ),
    Command(
        "flat.front",
        "Pose",
        "To the front",
        "",
        "The chosen parts lie before all others from this frame on, until their next keys",
        lambda port: _flat().stack_chosen(port.session, "front"),
        is_flat,
    ),
    Command(
        "flat.back",
        "Pose",
        "To the back",
        "",
        "The chosen parts lie behind all others from this frame on, until their next keys",
        lambda port: _flat().stack_chosen(port.session, "back"),
        is_flat,
    ),
    Command(
        "flat.branch_front",
        "Pose",
        "Branch to the front",
        "",
        "The chosen parts and all that hangs on them lie before all others from this frame on",
        lambda port: _flat().stack_chosen(port.session, "front", branch=True),
        is_flat,
    ),
    Command(
        "flat.branch_back",
        "Pose",
        "Branch to the back",
        "",
        "The chosen parts and all that hangs on them lie behind all others from this frame on",
        lambda port: _flat().stack_chosen(port.session, "back", branch=True),
        is_flat,
    ),
    Command(
        "flat.flip",
        "Pose",
        "Flip",
        "",
        "The chosen parts, with what hangs on them, are turned over about their pivots from this frame on; again: back",
        lambda port: _flat().flip_chosen(port.session),
        is_flat,
    ),
    Command(
        "flat.rejoin",
        "Pose",
        "Rejoin",
        "",
        "The chosen parts are put on their joints again on this frame; their turns are kept",
        lambda port: _flat().rejoin_parts(port.session),
        is_flat,
    ),
    Command(
        "flat.rejoin_all",
        "Pose",
        "Rejoin all",
        "",
        "Every part that was pulled off is put on its joint again on this frame; turns are kept",
        lambda port: _flat().rejoin_parts(port.session, everything=True),
        is_flat,
    ),
    Command(
        "flat.bend",
        "Pose",
        "Bend along a curve",
        "",
        "The chosen part bends by four points, each moved and turned by itself; nothing moves by that alone",
        lambda port: _flat().bend_chosen(port.session),
        is_flat,
    ),
    Command(
        "flat.reload",
        "Cast",
        "Draw anew",
        "",
        "Take over what the chosen figure's drawing looks like now; its motion is kept, parts go by their names",
        lambda port: _flat().draw_anew(port.session),
        is_drawn,
    ),
    Command(
        "flat.bring_pose",
        "Pose",
        "Bring a pose…",
        "",
        "Another drawing of the same parts becomes a key pose on this frame; parts go by their names",
        _ask_pose,
        is_drawn,
    ),
    Command(
        "flat.svg",
        "Shot",
        "This frame as SVG…",
        "",
        "Write the chosen figure's picture on this frame, every part a group, for a drawing program",
        _ask_svg,
        is_flat,
    ),
)
