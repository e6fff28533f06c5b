"""Bringing figures and motions in the window: as a project of their own, or into the shot that is open."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFileDialog, QMenu

from bovrin import cast
from bovrin.craft.company import at_rate, joined, left
from bovrin.desk.command import Command, has_figure
from bovrin.desk.waiting import waited_for
from bovrin.errors import BovrinError
from bovrin.formats.project import keep_beside, load, load_figure, save
from bovrin.shot import Shot

if TYPE_CHECKING:
    from bovrin.desk.session import Session
    from bovrin.desk.window import Window

FIGURES = "Figures and motions (*.glb *.gltf *.bvh);;All files (*)"


def bring(desk: Window, source: Path, target: Path) -> bool:
    """Make a project of a file and open it; what it was taken for and what was left out is told."""

    def work() -> tuple[Shot, list[str]]:
        from bovrin.formats.bringing import bring_file  # noqa: PLC0415 - readers are loaded when they are needed

        shot, left_out = bring_file(source)
        save(shot, target)
        return load(target), left_out

    try:
        found = waited_for(desk, f"Bringing {source.name}…", work)
    except BovrinError as error:
        desk.session.fail(error)
        return False
    if found is None:
        desk.session.tell(f"Stopped. {source.name} was not brought.")
        return False
    shot, left_out = found
    desk.show_shot(shot, target)
    desk.session.tell(_said(source.name, shot, left_out))
    return True


def bring_in(desk: Window, source: Path) -> bool:
    """Bring a file's figure, and its motion, into the shot that is open; the figure is kept beside the project."""
    session = desk.session
    if _is_shipped(session.path) and not desk.save_as():
        return False
    assert session.path is not None
    folder, now = session.path.parent, session.shot

    def work() -> tuple[Shot, list[str]]:
        from bovrin.formats.bringing import bring_file  # noqa: PLC0415

        shot, left_out = bring_file(source)
        figure = keep_beside(shot.cast[0], folder)
        return at_rate(replace(shot, cast=(figure,), takes=()), now), left_out

    try:
        found = waited_for(desk, f"Bringing {source.name}…", work)
    except BovrinError as error:
        session.fail(error)
        return False
    if found is None:
        session.tell(f"Stopped. {source.name} was not brought.")
        return False
    brought, left_out = found
    figure = brought.cast[0]
    done = session.do(
        f"Bring {figure.name}",
        lambda shot: joined(shot, figure, brought.curves(figure.name), brought.last if _moves(brought) else None),
    )
    if done:
        session.choose(session.shot.cast[-1].name, ())
        session.tell(_said(source.name, brought, left_out))
    return done


def _moves(shot: Shot) -> bool:
    return any(len(curve) for curves in shot.take.curves.values() for curve in curves.curves)


def _is_shipped(path: Path | None) -> bool:
    return path is None or cast.FOLDER.resolve() in path.resolve().parents


def _said(name: str, shot: Shot, left_out: list[str]) -> str:
    from bovrin.figure.setup import taken_for  # noqa: PLC0415 - kept out of the window's start

    figure = shot.cast[0]
    build = taken_for(figure.rig).build
    words = f"{name}: a {build} figure" if build != "other" else f"{name}: a figure"
    length = f", {len(shot.whole_frames)} frames" if _moves(shot) else ""
    said = f"{words} of {len(figure.rig.joints)} joints{length}."
    if shot.takes:
        said += f" Its {len(shot.takes) + 1} animations are takes."
    if left_out:
        said += f" {len(left_out)} left out: {left_out[0]}"
    return said


def ask_bring(desk: Window) -> None:
    """Let the animator choose a file and where the project shall lie that it becomes."""
    if not desk.may_leave():
        return
    name, _ = QFileDialog.getOpenFileName(desk, "Bring a figure or a motion", str(desk.folder()), FIGURES)
    if not name:
        return
    start = Path(name).with_suffix(".bovrin.json")
    target, _ = QFileDialog.getSaveFileName(
        desk, "Keep it as a project", str(start), "Bovrin projects (*.bovrin.json);;All files (*)"
    )
    if target:
        bring(desk, Path(name), Path(target))


def ask_bring_in(desk: Window) -> None:
    """Let the animator choose a file for the shot that is open."""
    name, _ = QFileDialog.getOpenFileName(desk, "Bring into this shot", str(desk.folder()), FIGURES)
    if name:
        bring_in(desk, Path(name))


def shipped() -> list[str]:
    """The names of the shipped figures."""
    return sorted(path.stem for path in cast.FOLDER.glob("*.glb"))


def add_shipped(desk: Window, name: str) -> None:
    """One of the shipped figures joins the shot."""
    desk.session.do(f"Add {name}", lambda shot: joined(shot, load_figure(f"cast:{name}", name, Path())))
    desk.session.choose(desk.session.shot.cast[-1].name, ())


def cast_menu(desk: Window) -> QMenu:
    """The shipped figures."""
    menu = QMenu(desk)
    for name in shipped():
        action = menu.addAction(name.capitalize())
        assert action is not None
        action.triggered.connect(lambda _checked, n=name: add_shipped(desk, n))
    return menu


def carry_menu(desk: Window) -> QMenu:
    """The other figures of the shot, whose motion can be carried to the chosen one."""
    session = desk.session
    menu = QMenu(desk)
    for figure in session.shot.cast:
        if figure.name != session.figure_name:
            action = menu.addAction(f"The motion of {figure.name}")
            assert action is not None
            action.triggered.connect(lambda _checked, n=figure.name: carry(desk, n))
    return menu


def carry(desk: Window, source: str) -> bool:
    """Carry the motion of another figure to the chosen one."""
    session = desk.session
    target, shot = session.figure_name, session.shot

    def work() -> Shot:
        from bovrin.craft.carry import carried  # noqa: PLC0415 - kept out of the window's start

        return carried(shot, source, target)

    try:
        found = waited_for(desk, f"Carrying the motion of {source} to {target}…", work)
    except BovrinError as error:
        session.fail(error)
        return False
    if found is None or session.shot is not shot:
        return False
    session.commit(f"Carry a motion to {target}", found)
    session.tell(f"{target.capitalize()} moves as {source} does; every frame is keyed.")
    return True


def _popup(desk: Window, menu: QMenu) -> None:
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    menu.popup(desk.cast_panel.list.mapToGlobal(QPoint(8, desk.cast_panel.list.height())))


def _set_up(desk: Window) -> None:
    from bovrin.desk.setup_sheet import SetupSheet  # noqa: PLC0415 - loaded when it is opened

    sheet = SetupSheet(desk.session, desk)
    sheet.open()


def _is_brought(session: Session) -> bool:
    figure = session.figure
    return figure is not None and not figure.source.startswith("cast:")


CAST = (
    Command(
        "cast.add",
        "Cast",
        "Add from the cast…",
        "",
        "One of the shipped figures joins the shot",
        lambda d: _popup(d, cast_menu(d)),
    ),
    Command(
        "cast.bring",
        "Cast",
        "Bring into this shot…",
        "",
        "Add the figure of a .glb, .gltf or .bvh file, with its motion",
        ask_bring_in,
    ),
    Command(
        "cast.setup",
        "Cast",
        "Set up this figure…",
        "",
        "See what a brought figure's joints were taken for, and correct it",
        _set_up,
        _is_brought,
    ),
    Command(
        "cast.carry",
        "Cast",
        "Carry a motion here…",
        "",
        "The chosen figure moves as another one of the shot does; planted feet stay",
        lambda d: _popup(d, carry_menu(d)),
        lambda s: s.figure is not None and len(s.shot.cast) > 1,
    ),
    Command(
        "cast.remove",
        "Cast",
        "Take this figure out",
        "",
        "The chosen figure and its motion leave the shot",
        lambda d: d.session.do(f"Take out {d.session.figure_name}", lambda shot: left(shot, d.session.figure_name)),
        has_figure,
    ),
)
