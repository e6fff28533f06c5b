"""The one command table. Menus, finder, shortcuts, tooltips and the page of keys come from it; tests call the same entries."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from bovrin.desk.bringing import CAST, ask_bring
from bovrin.desk.command import Command, has_choice, has_figure
from bovrin.desk.curve_table import CURVES
from bovrin.desk.passes import BLOCK, BREAK_DOWN, SPLINE, Pass
from bovrin.desk.posing_table import CHOOSING, POSING, SHOWING
from bovrin.desk.take_menu import TAKES
from bovrin.desk.timing_table import KEYING, KEYS, SPACING, TIME
from bovrin.picture.view import VIEWS

if TYPE_CHECKING:
    from bovrin.desk.window import Window


def _other_side(desk: Window) -> None:
    session = desk.session
    figure = session.figure
    assert figure is not None
    others = [figure.rig.other_side(c) for c in session.controls]
    session.choose(figure.name, [c if o is None else o for c, o in zip(session.controls, others, strict=True)])


def _fit(desk: Window) -> None:
    if desk.curve_desk.isVisible() and desk.curve_desk.underMouse():
        desk.curve_desk.fit()
    else:
        desk.stage.fit()


def _pass(wanted: Pass, key: str) -> Command:
    return Command(
        f"pass.{wanted.name.lower().replace(' ', '_')}",
        "Passes",
        f"Pass: {wanted.name}",
        key,
        wanted.words,
        lambda desk: desk.session.set_pass(wanted),
    )


def _view(name: str) -> Command:
    return Command(
        f"view.{name}",
        "View",
        f"View: {name}",
        "",
        f"Look from the {name} view",
        lambda desk: desk.stage.set_view(VIEWS[name]),
    )


COMMANDS: tuple[Command, ...] = (
    Command("shot.open", "Shot", "Open…", "Ctrl+O", "Open a project", lambda d: d.ask_open()),
    Command(
        "shot.bring",
        "Shot",
        "Bring a figure or motion…",
        "",
        "Make a project of a .glb, .gltf or .bvh file",
        ask_bring,
    ),
    Command(
        "shot.start",
        "Shot",
        "Start page",
        "",
        "Shots to try, and the last projects, with pictures",
        lambda d: d.open_start(),
    ),
    Command("shot.demo", "Shot", "Open the demo", "", "Open the ferry-landing demo", lambda d: d.open_demo()),
    Command("shot.save", "Shot", "Save", "Ctrl+S", "Save the project", lambda d: d.save()),
    Command(
        "shot.save_as", "Shot", "Save as…", "Ctrl+Shift+S", "Save the project under another name", lambda d: d.save_as()
    ),
    Command(
        "shot.export",
        "Shot",
        "Hand on…",
        "Ctrl+E",
        "Write the shot as glTF or USD, or one figure's motion as BVH",
        lambda d: d.ask_export(),
    ),
    *TAKES,
    *CAST,
    Command(
        "book.open", "Shot", "Open a pose book…", "", "Use another file of poses", lambda d: d.right.poses.ask_open()
    ),
    Command(
        "book.save_as",
        "Shot",
        "Pose book as…",
        "",
        "Keep the poses in another file",
        lambda d: d.right.poses.ask_save_as(),
    ),
    Command(
        "markers.import",
        "Shot",
        "Bring markers…",
        "",
        "Add markers from a .srt, .vtt or .csv file",
        lambda d: d.ask_markers(),
    ),
    Command(
        "markers.export",
        "Shot",
        "Markers as CSV…",
        "",
        "Write the markers as a table",
        lambda d: d.ask_export_markers(),
    ),
    Command("shot.quit", "Shot", "Leave", "Ctrl+Q", "Close the window", lambda d: d.close()),
    Command(
        "edit.undo",
        "Edit",
        "Undo",
        "Ctrl+Z",
        "Take the last step back",
        lambda d: d.session.undo_stack.undo(),
        lambda s: s.undo_stack.canUndo(),
    ),
    Command(
        "edit.redo",
        "Edit",
        "Redo",
        "Ctrl+Shift+Z",
        "Do the step again",
        lambda d: d.session.undo_stack.redo(),
        lambda s: s.undo_stack.canRedo(),
    ),
    *KEYING,
    Command(
        "pose.default",
        "Pose",
        "To the default pose",
        "0",
        "Take what is chosen to the default pose",
        lambda d: d.session.reset_chosen(),
        has_choice,
    ),
    *POSING,
    Command(
        "motion.spline_all",
        "Motion",
        "Spline the whole shot",
        "",
        "Let every pose of the whole cast ease into the next",
        lambda d: d.right.span.spline_all(),
        has_figure,
    ),
    Command(
        "motion.step_all",
        "Motion",
        "Step the whole shot",
        "",
        "Let every pose of the whole cast hold until the next",
        lambda d: d.right.span.step_all(),
        has_figure,
    ),
    Command(
        "motion.spline_span",
        "Motion",
        "Spline this span",
        "",
        "Let the pose here ease into the next",
        lambda d: d.right.span.spline_span(),
        has_figure,
    ),
    Command(
        "motion.step_span",
        "Motion",
        "Step this span",
        "",
        "Let the pose here hold until the next",
        lambda d: d.right.span.step_span(),
        has_figure,
    ),
    *SPACING,
    Command(
        "motion.look_stepped",
        "Motion",
        "Look at all as stepped",
        "S",
        "See the shot as if all were stepped; nothing is changed",
        lambda d: d.session.set_look_stepped(not d.session.look_stepped),
    ),
    *KEYS,
    *CURVES,
    *TIME,
    Command(
        "choose.other_side",
        "Choose",
        "Other side",
        "X",
        "Choose the same control of the other side",
        _other_side,
        has_choice,
    ),
    *CHOOSING,
    _view("three-quarter"),
    _view("front"),
    _view("side"),
    _view("top"),
    Command("view.fit", "View", "Fit", "V", "Fit what is chosen, again everything", _fit),
    Command(
        "view.clean",
        "View",
        "Clean view",
        "C",
        "Hide handles and words on the stage",
        lambda d: d.session.set_clean(not d.session.clean),
    ),
    Command(
        "view.glass",
        "View",
        "Front glass",
        "G",
        "A second small view, to pose from another side",
        lambda d: d.glass.toggle(),
    ),
    *SHOWING,
    Command(
        "view.light_table",
        "View",
        "Light table",
        "L",
        "See the poses or frames around this one as pencil outlines",
        lambda d: d.session.set_light_table(replace(d.session.light_table, on=not d.session.light_table.on)),
        has_figure,
    ),
    Command(
        "view.panels",
        "View",
        "Into the panels",
        "F6",
        "Take the keyboard to the next panel",
        lambda d: d.focusNextChild(),
    ),
    Command(
        "view.theme",
        "View",
        "Paper or Night",
        "",
        "Change between the light and the dark theme",
        lambda d: d.change_theme(),
    ),
    _pass(BLOCK, "2"),
    _pass(BREAK_DOWN, "3"),
    _pass(SPLINE, "4"),
    Command("help.find", "Help", "Find a command…", "Ctrl+K", "Find anything by its name", lambda d: d.open_finder()),
    Command("help.keys", "Help", "All keys", "F1", "See every command and its key", lambda d: d.open_keys()),
)

BY_ID = {command.id: command for command in COMMANDS}
if len(BY_ID) != len(COMMANDS):
    raise ValueError("two commands share an id")
_keys = [command.key for command in COMMANDS if command.key]
if len(set(_keys)) != len(_keys):
    raise ValueError("two commands share a key")


def tooltip(command_id: str) -> str:
    """What a command does in one line, and its key."""
    command = BY_ID[command_id]
    return f"{command.tip} ({command.key})" if command.key else command.tip
