"""Figures and motions from files: as a project of their own, or into the shot that is open; motions carried."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from bovrin.craft.company import at_rate, joined
from bovrin.desk.state.files import Files
from bovrin.errors import BovrinError
from bovrin.formats.project import keep_beside, load, save
from bovrin.shot import Shot

Brought = tuple[Shot, list[str]]


def bring(files: Files, source: Path, target: Path) -> bool:
    """Make a project of a file and open it; what it was taken for and what was left out is told."""

    def work() -> Brought:
        from bovrin.formats.bringing import bring_file  # noqa: PLC0415 - readers are loaded when they are needed

        shot, left_out = bring_file(source)
        save(shot, target)
        return load(target), left_out

    found = _waited(files, source, work)
    if found is None:
        return False
    files.show(found[0], target)
    files.session.voice.tell(_said(source.name, *found))
    return True


def bring_in(files: Files, source: Path) -> bool:
    """Bring a file's figure, and its motion, into the shot that is open, which lies in a file: it is kept beside that."""
    session = files.session
    assert session.document.path is not None
    folder, now = session.document.path.parent, session.shot

    def work() -> Brought:
        from bovrin.formats.bringing import bring_file  # noqa: PLC0415

        shot, left_out = bring_file(source)
        figure = keep_beside(shot.cast[0], folder)
        return at_rate(replace(shot, cast=(figure,), takes=()), now), left_out

    found = _waited(files, source, work)
    if found is None:
        return False
    brought, left_out = found
    figure = brought.cast[0]
    last = brought.last if _moves(brought) else None
    done = session.do(f"Bring {figure.name}", lambda shot: joined(shot, figure, brought.curves(figure.name), last))
    if done:
        session.choose(session.shot.cast[-1].name)
        session.voice.tell(_said(source.name, brought, left_out))
    return done


def _waited(files: Files, source: Path, work: Callable[[], Brought]) -> Brought | None:
    voice = files.session.voice
    try:
        found: Brought | None = files.wait(f"Bringing {source.name}…", work)
    except BovrinError as error:
        voice.fail(error)
        return None
    if found is None:
        voice.tell(f"Stopped. {source.name} was not brought.")
    return found


def carry(files: Files, source: str) -> bool:
    """Carry the motion of another figure to the chosen one."""
    session = files.session
    target, shot = session.figure_name, session.shot

    def work() -> Shot:
        from bovrin.craft.carry import carried  # noqa: PLC0415 - kept out of the window's start

        return carried(shot, source, target)

    try:
        found = files.wait(f"Carrying the motion of {source} to {target}…", work)
    except BovrinError as error:
        session.voice.fail(error)
        return False
    if found is None or session.shot is not shot:
        return False
    done = session.commit(f"Carry a motion to {target}", found)
    if done:
        session.voice.tell(f"{target.capitalize()} moves as {source} does; every frame is keyed.")
    return done


def _moves(shot: Shot) -> bool:
    return any(len(curve) for curves in shot.take.curves.values() for curve in curves.curves)


def _said(name: str, shot: Shot, left_out: list[str]) -> str:
    from bovrin.figure.setup import taken_for  # noqa: PLC0415 - kept out of the window's start
    from bovrin.figure.unequal import unequal_limbs  # noqa: PLC0415

    figure = shot.cast[0]
    build = taken_for(figure.rig).build
    words = f"{name}: a {build} figure" if build != "other" else f"{name}: a figure"
    length = f", {len(shot.whole_frames)} frames" if _moves(shot) else ""
    said = f"{words} of {len(figure.rig.joints)} joints{length}."
    if shot.takes:
        said += f" Its {len(shot.takes) + 1} animations are takes."
    for (longer, shorter), gap in unequal_limbs(figure.rig).items():
        said += f" The {longer} is {gap * 100:.1f} cm longer than the {shorter}."
    if left_out:
        said += f" {len(left_out)} left out: {left_out[0]}"
    return said
