"""Commands about who is in the shot: figures brought, added, set up, taken out; motions carried."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QMenu

from bovrin import cast
from bovrin.craft.company import joined, left
from bovrin.desk.commands.command import Command, has_figure
from bovrin.desk.commands.files import bring_as_project, may_leave, save_as
from bovrin.desk.commands.port import Port
from bovrin.desk.kit.menus import add_action
from bovrin.desk.state.bringing import bring_in, carry
from bovrin.desk.state.session import Session
from bovrin.formats.figure_files import load_figure

FIGURES = "Figures and motions (*.glb *.gltf *.bvh);;All files (*)"


def ask_bring(port: Port) -> None:
    """Let the animator choose a file and where the project shall lie that it becomes."""
    if not may_leave(port):
        return
    source = port.ask.file_to_open("Bring a figure or a motion", port.files.folder(), FIGURES)
    if source is not None:
        bring_as_project(port, source)


def ask_bring_in(port: Port) -> None:
    """Let the animator choose a file for the shot that is open; the shot must lie in a file first."""
    source = port.ask.file_to_open("Bring into this shot", port.files.folder(), FIGURES)
    before = port.session.shot.first, port.session.shot.last
    if source is None or not (port.files.is_kept or save_as(port)):
        return
    if bring_in(port.files, source, port.how_large) and before != (port.session.shot.first, port.session.shot.last):
        port.strip.see_range()


def shipped() -> list[str]:
    """The names of the shipped figures."""
    return sorted(path.stem for path in cast.FOLDER.glob("*.glb"))


def add_shipped(session: Session, name: str) -> None:
    """One of the shipped figures joins the shot."""
    if session.do(f"Add {name}", lambda shot: joined(shot, load_figure(f"cast:{name}", name, Path()))):
        session.choose(session.shot.cast[-1].name)


def cast_menu(port: Port) -> QMenu:
    """The shipped figures."""
    menu = QMenu()
    for name in shipped():
        add_action(menu, name.capitalize(), lambda n=name: add_shipped(port.session, n))  # type: ignore[misc]
    return menu


def carry_menu(port: Port) -> QMenu:
    """The other figures of the shot, whose motion can be carried to the chosen one."""
    menu = QMenu()
    for figure in port.session.shot.cast:
        if figure.name != port.session.figure_name:
            add_action(menu, f"The motion of {figure.name}", lambda n=figure.name: carry(port.files, n))  # type: ignore[misc]
    return menu


def _is_brought(session: Session) -> bool:
    figure = session.figure
    return figure is not None and not figure.source.startswith("cast:")


BRING = Command(
    "shot.bring",
    "Shot",
    "Bring a figure or motion…",
    "",
    "Make a project of a .glb, .gltf or .bvh file (import)",
    ask_bring,
)
CAST = (
    Command(
        "cast.add",
        "Cast",
        "Add from the cast…",
        "",
        "One of the shipped figures joins the shot",
        lambda port: port.show_menu(cast_menu(port)),
    ),
    Command(
        "cast.bring",
        "Cast",
        "Bring into this shot…",
        "",
        "Add the figure of a .glb, .gltf or .bvh file, with its motion (import)",
        ask_bring_in,
    ),
    Command(
        "cast.setup",
        "Cast",
        "Set up this figure…",
        "",
        "See what a brought figure's joints were taken for, and correct it",
        lambda port: port.open("set up"),
        _is_brought,
    ),
    Command(
        "cast.carry",
        "Cast",
        "Carry a motion here…",
        "",
        "The chosen figure moves as another one of the shot does; planted feet stay (retarget)",
        lambda port: port.show_menu(carry_menu(port)),
        lambda s: s.figure is not None and len(s.shot.cast) > 1,
    ),
    Command(
        "cast.remove",
        "Cast",
        "Take this figure out",
        "",
        "The chosen figure and its motion leave the shot",
        lambda port: port.session.do(
            f"Take out {port.session.figure_name}", lambda shot: left(shot, port.session.figure_name)
        ),
        has_figure,
    ),
)
