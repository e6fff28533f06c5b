"""Figures and motions from files: as a project of their own, or into the shot that is open; motions carried."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from bovrin.desk.state.files.files import Files
from bovrin.errors import BovrinError
from bovrin.figure.reading.rates import at_rate
from bovrin.figure.reading.reaching import reaching
from bovrin.formats.bringing import RATE
from bovrin.formats.figures.files import keep_beside
from bovrin.formats.project.store import load, save
from bovrin.shot import Figure, Shot

if TYPE_CHECKING:
    from bovrin.formats.found import Found

T = TypeVar("T")
WantedSize = Callable[[Figure], float | None]
"""Asked, where a file leaves doubts, how many metres a unit of it is; None: nothing is brought."""
WantedRate = Callable[[float, float], float | None]
"""Asked with a file's rate and the usual one which is wanted; None: nothing is brought."""


def bring(
    files: Files, source: Path, target: Path, rate: WantedRate | None = None, size: WantedSize | None = None
) -> bool:
    """Make a project of a file and open it; what it was taken for and what was left out is told.

    rate: asked with the file's frames a second, where they are not a shot's usual ones, for those that the project gets.
    """
    found = _read(files, source, size)
    if found is None:
        return False
    brought, left_out, own_rate, _ = found
    wanted = brought.frame_rate if own_rate else RATE
    if rate is not None and brought.frame_rate != wanted and _moves(brought):
        answer = rate(brought.frame_rate, wanted)
        if answer is None:
            return False
        wanted = answer

    def work() -> Shot:
        save(reaching(at_rate(brought, wanted, brought.first)), target)
        return load(target)

    shot = _waited(files, source, work)
    if shot is None:
        return False
    files.show(shot, target)
    files.session.voice.tell(_said(source.name, shot, left_out))
    return True


def bring_in(files: Files, source: Path, size: WantedSize | None = None) -> bool:
    """Bring a file's figure, and its motions, into the shot that is open, which lies in a file: it is kept beside that."""
    from bovrin.craft.company import all_joined  # noqa: PLC0415 - kept out of the window's start

    session = files.session
    assert session.document.path is not None
    folder, now = session.document.path.parent, session.shot
    found = _read(files, source, size)
    if found is None:
        return False
    read, left_out, *_ = found

    def work() -> Shot:
        told = reaching(at_rate(read, now.frame_rate, now.first))
        return replace(told, cast=tuple(keep_beside(figure, folder) for figure in told.cast))

    brought = _waited(files, source, work)
    if brought is None:
        return False
    names = ", ".join(figure.name for figure in brought.cast)
    done = session.do(f"Bring {names}", lambda shot: all_joined(shot, brought))
    if done:
        session.choose(session.shot.cast[-1].name)
        session.voice.tell(_said(source.name, brought, left_out))
    return done


def bring_as_clips(files: Files, source: Path, size: WantedSize | None = None) -> bool:
    """Keep a file's motions as clips of the chosen figure."""
    session = files.session
    if session.figure is None:
        session.voice.tell("Choose the figure that shall have the clips first.")
        return False
    name, now = session.figure_name, session.shot
    found = _read(files, source, size)
    if found is None:
        return False

    def work() -> Shot:
        from bovrin.craft.clips.from_motion import motions_as_clips  # noqa: PLC0415 - kept out of the window's start

        return motions_as_clips(now, name, reaching(at_rate(found.shot, now.frame_rate, now.first)), source.stem)

    made = _waited(files, source, work)
    if made is None or session.shot is not now:
        return False
    done = session.commit("Bring clips", made)
    if done:
        count = len(made.clips) - len(now.clips)
        session.voice.tell(f"{count} {'clip' if count == 1 else 'clips'} from {source.name}, for {name}.")
    return done


def _read(files: Files, source: Path, size: WantedSize | None) -> Found | None:
    """What a file holds, as large as it was said to be where its size is in doubt."""

    def work(scale: float | None = None) -> Found:
        from bovrin.formats.bringing import read_file  # noqa: PLC0415 - readers are loaded when they are needed

        return read_file(source, scale)

    found = _waited(files, source, work)
    if found is None or size is None or not found.doubtful:
        return found
    figure = found.shot.cast[0]
    metres = size(figure)
    if metres is None or metres == figure.model.metres:
        return None if metres is None else found
    return _waited(files, source, lambda: work(metres))


def _waited(files: Files, source: Path, work: Callable[[], T]) -> T | None:
    voice = files.session.voice
    try:
        found: T | None = files.wait(f"Bringing {source.name}…", work)
    except BovrinError as error:
        voice.fail(error)
        return None
    if found is None:
        voice.tell(f"Stopped. {source.name} was not brought.")
    return found


def carry(files: Files, source: str) -> bool:
    """Carry the motion of another figure to the chosen one."""
    target = files.session.figure_name

    def work(shot: Shot) -> Shot:
        from bovrin.craft.recorded.carry import carried  # noqa: PLC0415 - kept out of the window's start

        return carried(shot, source, target)

    words = f"Carry a motion to {target}"
    done = files.change(words, f"Carrying the motion of {source} to {target}…", work)
    if done:
        files.session.voice.tell(f"{target.capitalize()} moves as {source} does; every frame is keyed.")
    return done


def _moves(shot: Shot) -> bool:
    return any(len(curve) for curves in shot.take.curves.values() for curve in curves.curves)


def _said(name: str, shot: Shot, left_out: list[str]) -> str:
    from bovrin.figure.making.setup import taken_for  # noqa: PLC0415 - kept out of the window's start
    from bovrin.figure.solve.unequal import unequal_limbs  # noqa: PLC0415

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
