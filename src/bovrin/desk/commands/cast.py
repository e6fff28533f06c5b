"""Commands about who is in the shot: figures brought, added, set up, taken out; motions carried."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtWidgets import QMenu

from bovrin import cast
from bovrin.desk.commands.command import Command, has_figure
from bovrin.desk.commands.files import bring_as_project, may_leave, open_path, save_as
from bovrin.desk.commands.port import Port
from bovrin.desk.kit.menus import add_action
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.files.bringing import bring_in, carry
from bovrin.formats.bringing import ENDINGS as BROUGHT
from bovrin.formats.figures.files import load_figure
from bovrin.formats.files import PROJECT
from bovrin.formats.side.markers import ENDINGS as MARKER_ENDINGS
from bovrin.shot import Shot

FIGURES = f"Figures, drawings and motions ({' '.join(f'*{ending}' for ending in BROUGHT)});;All files (*)"


KINDS_BROUGHT = f"{', '.join(BROUGHT[:-1])} or {BROUGHT[-1]}"


def new_shot(port: Port, figure: str = "") -> bool:
    """A shot that lies in no file yet, with one of the shipped figures in it, or nobody; says whether it is there."""
    if not may_leave(port):
        return False
    shot = Shot("New shot")
    if figure:
        shot = _with_shipped(shot, figure)
    port.files.show(shot, None)
    port.stage.see_all()
    words = "Pull the figure into a first pose." if figure else "Add a figure from the cast, or bring one."
    port.session.voice.tell(f"A new shot. {words}")
    return True


def new_menu(port: Port) -> QMenu:
    """What a new shot begins with."""
    menu = QMenu()
    for name in shipped():
        add_action(menu, name.capitalize(), lambda n=name: new_shot(port, n))  # type: ignore[misc]
    menu.addSeparator()
    add_action(menu, "A figure or motion from a file…", lambda: ask_bring(port))
    add_action(menu, "Nobody yet", lambda: new_shot(port))
    return menu


def take_dropped(port: Port, paths: Sequence[Path]) -> None:
    """What was dropped on the window: a project is opened, figures and motions join the shot, markers are added."""
    projects = [path for path in paths if dropped_as(path) == "project"]
    if projects:
        open_path(port, projects[0])
    for path in paths:
        if dropped_as(path) == "figure":
            bring_into(port, path)
        elif dropped_as(path) == "markers":
            port.files.import_markers(path)


def dropped_as(path: Path) -> str:
    """What a file is taken for when it is dropped, by its ending; "" for nothing."""
    if path.is_dir():  # of pictures
        return "figure"
    name = path.name.lower()
    kinds = (("project", (PROJECT, ".json")), ("figure", BROUGHT), ("markers", MARKER_ENDINGS))
    return next((kind for kind, endings in kinds if name.endswith(endings)), "")


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
    if source is not None:
        bring_into(port, source)


def bring_into(port: Port, source: Path) -> None:
    """A file's figure or motion joins the shot, which must lie in a file first."""
    before = port.session.shot.first, port.session.shot.last
    if not (port.files.is_kept or save_as(port)):
        return
    if bring_in(port.files, source, port.how_large) and before != (port.session.shot.first, port.session.shot.last):
        port.strip.see_range()


def shipped() -> list[str]:
    """The names of the shipped figures."""
    return sorted(path.stem for path in cast.FOLDER.glob("*.glb"))


def add_shipped(session: Session, name: str) -> None:
    """One of the shipped figures joins the shot."""
    if session.do(f"Add {name}", lambda shot: _with_shipped(shot, name)):
        session.choose(session.shot.cast[-1].name)


def _with_shipped(shot: Shot, name: str) -> Shot:
    from bovrin.craft.company import joined  # noqa: PLC0415 - kept out of the window's start

    return joined(shot, load_figure(f"cast:{name}", name, Path()))


def take_out(session: Session) -> None:
    """The chosen figure and its motion leave the shot."""
    from bovrin.craft.company import left  # noqa: PLC0415 - kept out of the window's start

    name = session.figure_name
    session.do(f"Take out {name}", lambda shot: left(shot, name))


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


NEW = Command(
    "shot.new",
    "Shot",
    "New shot…",
    "Ctrl+N",
    "Begin with a figure of the cast, one from a file, or nobody",
    lambda port: port.show_menu(new_menu(port)),
)
BRING = Command(
    "shot.bring",
    "Shot",
    "Bring a figure or motion…",
    "",
    f"Make a project of a {KINDS_BROUGHT} file (import)",
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
        f"Add the figure of a {KINDS_BROUGHT} file, with its motion (import)",
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
        lambda port: take_out(port.session),
        has_figure,
    ),
)
