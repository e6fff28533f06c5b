"""The rows of the command table that the rooms share: menus and tooltips come from it. The whole table: `desk.table`."""

from __future__ import annotations

from bovrin.desk.commands.cast import BRING, CAST, NEW
from bovrin.desk.commands.command import Command, has_choice
from bovrin.desk.commands.curve_table import CURVES
from bovrin.desk.commands.cycle_table import CYCLES
from bovrin.desk.commands.files import FILES, SIDE_FILES
from bovrin.desk.commands.flat_table import FLAT
from bovrin.desk.commands.following_table import FOLLOWING
from bovrin.desk.commands.hanging_table import HANGING
from bovrin.desk.commands.pencil_table import PENCIL
from bovrin.desk.commands.polish_table import ARCS
from bovrin.desk.commands.port import Port
from bovrin.desk.commands.posing_table import CHOOSING, POSING, SHOWING
from bovrin.desk.commands.proof_table import PROOF
from bovrin.desk.commands.spans import SPANS
from bovrin.desk.commands.takes import TAKES
from bovrin.desk.commands.timing_table import KEYING, KEYS, SPACING, TIME
from bovrin.desk.commands.viewing import HELP, LOOKS, STEPPED, VIEWING
from bovrin.desk.state.document.editing import reset_chosen
from bovrin.desk.state.settings import LEAST_ROOM, MOST_ROOM, settings, undo_room


def _other_side(port: Port) -> None:
    session = port.session
    figure = session.figure
    assert figure is not None
    others = [figure.rig.other_side(c) for c in session.controls]
    session.choose(figure.name, [c if o is None else o for c, o in zip(session.controls, others, strict=True)])


def give_undo_room(port: Port) -> None:
    """Ask how much memory undo steps may take up, and remember it."""
    words = f"Megabytes for undo steps ({LEAST_ROOM} to {MOST_ROOM}); the last 200 steps always stay:"
    room = port.ask.number("Room for undo", words, undo_room(), LEAST_ROOM, MOST_ROOM)
    if room is not None:
        settings().setValue("undo_room", room)
        port.session.document.steps.give_room(room * 1_000_000)
        port.session.voice.tell(f"Undo steps may take up {room} MB.")


EDIT = (
    Command(
        "edit.undo",
        "Edit",
        "Undo",
        "Ctrl+Z",
        "Take the last step back",
        lambda port: port.session.document.undo_stack.undo(),
        lambda s: s.document.undo_stack.canUndo(),
    ),
    Command(
        "edit.redo",
        "Edit",
        "Redo",
        "Ctrl+Shift+Z",
        "Do the step again",
        lambda port: port.session.document.undo_stack.redo(),
        lambda s: s.document.undo_stack.canRedo(),
    ),
    Command(
        "edit.room",
        "Edit",
        "Room for undo…",
        "",
        "How much memory undo steps may take up before the oldest are let go of; the last 200 always stay",
        give_undo_room,
    ),
)
DEFAULT = Command(
    "pose.default",
    "Pose",
    "To the default pose",
    "0",
    "Take what is chosen to the default pose",
    lambda port: reset_chosen(port.session),
    has_choice,
)
OTHER_SIDE = Command(
    "choose.other_side",
    "Choose",
    "Other side",
    "X",
    "Choose the same control of the other side",
    _other_side,
    has_choice,
)

COMMANDS: tuple[Command, ...] = (
    NEW,
    FILES[0],
    BRING,
    *FILES[1:],
    *TAKES,
    *CAST,
    *SIDE_FILES,
    *EDIT,
    *KEYING,
    DEFAULT,
    *POSING,
    *HANGING,
    *FOLLOWING,
    *FLAT,
    *SPANS,
    *SPACING,
    STEPPED,
    *KEYS,
    *CURVES,
    *ARCS,
    *PROOF,
    *CYCLES,
    *PENCIL,
    *TIME,
    OTHER_SIDE,
    *CHOOSING,
    *VIEWING,
    *SHOWING,
    *LOOKS,
    *HELP,
)

BY_ID = {command.id: command for command in COMMANDS}


def tooltip(command_id: str) -> str:
    """What a command does in one line, and its key."""
    return told(BY_ID[command_id])


def told(command: Command) -> str:
    """What a command does in one line, and its key."""
    return f"{command.tip} ({command.key})" if command.key else command.tip
