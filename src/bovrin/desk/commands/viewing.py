"""Commands about how the shot is looked at, and help."""

from __future__ import annotations

from dataclasses import replace

from bovrin.desk.commands.command import Command, has_figure
from bovrin.desk.commands.port import Port
from bovrin.picture.view import VIEWS


def fit(port: Port) -> None:
    """Fit what the pointer is over: the curves, else the stage."""
    if port.curves.under_pointer():
        port.curves.fit()
    else:
        port.stage.fit()


def _light_table(port: Port) -> None:
    table = port.session.looking.light_table
    port.session.change_looking(light_table=replace(table, on=not table.on))


def _view(name: str) -> Command:
    return Command(
        f"view.{name}",
        "View",
        f"View: {name}",
        "",
        f"Look from the {name} view",
        lambda port: port.stage.look_from(VIEWS[name]),
    )


def _own_view(side: str) -> Command:
    return Command(
        f"view.own_{side}",
        "View",
        f"View: the figure's {side}",
        "",
        f"Look at the chosen figure's own {side}, whichever way it faces",
        lambda port: port.stage.look_at_figure(side),
        has_figure,
    )


VIEWING = (
    *(_view(name) for name in VIEWS),
    _own_view("front"),
    _own_view("side"),
    Command(
        "view.follow",
        "View",
        "Keep the figure in view",
        "",
        "The view goes along with the chosen figure while it travels; again: it stays where it is",
        lambda port: port.session.change_looking(follow=not port.session.looking.follow),
        has_figure,
    ),
    Command("view.fit", "View", "Fit", "V", "Fit what is chosen, again everything", fit),
    Command(
        "view.clean",
        "View",
        "Clean view",
        "C",
        "Hide handles and words on the stage",
        lambda port: port.session.change_looking(clean=not port.session.looking.clean),
    ),
    Command(
        "view.glass",
        "View",
        "Front glass",
        "G",
        "A second small view, to pose from another side",
        lambda port: port.stage.toggle_glass(),
    ),
)
LOOKS = (
    Command(
        "view.light_table",
        "View",
        "Light table",
        "L",
        "See the poses or frames around this one as pencil outlines (onion skin)",
        _light_table,
        has_figure,
    ),
    Command(
        "view.panels", "View", "Into the panels", "F6", "Take the keyboard to the next panel", lambda p: p.next_panel()
    ),
    Command(
        "view.theme",
        "View",
        "Paper or Night",
        "",
        "Change between the light and the dark theme",
        lambda p: p.open("theme"),
    ),
)
STEPPED = Command(
    "motion.look_stepped",
    "Motion",
    "Look at all as stepped",
    "S",
    "See the shot as if all were stepped; nothing is changed",
    lambda port: port.session.change_looking(stepped=not port.session.looking.stepped),
)
HELP = (
    Command("help.find", "Help", "Find a command…", "Ctrl+K", "Find anything by its name", lambda p: p.open("finder")),
    Command("help.keys", "Help", "All keys", "F1", "See every command and its key", lambda p: p.open("keys")),
)
