"""The files that a shot's figures come from: finding, reading, keeping and not overwriting them."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from bovrin.caching import cached_by_identity
from bovrin.cast import figure_path
from bovrin.errors import BovrinError, CannotWrite, FileProblem
from bovrin.formats.figures.file import figure_bytes, read_figure
from bovrin.formats.files import file_stem, real_path, write_atomically
from bovrin.shot import (
    CHANGED,
    Figure,
    Shot,
)

KEEP = "Nothing was changed. If you have a copy or an earlier version of the file, open that."


def lies_there(figure: Figure, folder: Path) -> bool:
    """Whether a figure is shipped, or lies in a folder as it is."""
    if not is_kept(figure) or figure.source.startswith("cast:"):
        return is_kept(figure)
    path = folder / figure.source
    try:
        if not real_path(path).is_relative_to(real_path(folder)) or not path.is_file():
            return False
        return _read_cached(str(path), _stamp(path)).model is figure.model
    except (OSError, RuntimeError, BovrinError):
        return False


def is_kept(figure: Figure) -> bool:
    """Whether a figure lies in a figure file of its own, shipped or beside the project; one with a new setup does not."""
    source = figure.source
    if source.endswith(CHANGED):
        return False
    return source.startswith("cast:") or (source.lower().endswith(".glb") and not Path(source).is_absolute())


def keep_beside(figure: Figure, folder: Path) -> Figure:
    """The figure, written into a figure file of its own in a folder."""
    return replace(figure, source=_kept_beside(figure, folder))


def _kept_beside(figure: Figure, folder: Path) -> str:
    data = figure_bytes(figure)
    stem = file_stem(figure.name)
    own = [str(figure.source)] if is_kept(figure) and Path(figure.source).parent == Path() else []
    names: tuple[str, ...] = (*own, f"{stem}.glb", *(f"{stem} {n}.glb" for n in range(2, 1000)))
    for name in names:
        there = folder / name
        if not there.exists():
            write_atomically(there, data)
            return name
        if there.is_file() and there.read_bytes() == data:
            return name
    raise CannotWrite(
        f"the folder is full of figures called '{figure.name}'.", where=str(folder), advice="Use another folder."
    )


def load_figure(file: str, name: str, folder: Path) -> Figure:
    """A figure by its place in a project: "cast:NAME" is shipped, else a path below the project's folder."""
    kind, _, shipped = file.partition(":")
    if kind == "cast":
        path = figure_path(shipped)
        if "/" in shipped or not path.is_file():
            raise FileProblem(
                f"there is no shipped figure '{shipped}'.", advice="Update Bovrin, or choose another figure."
            )
    else:
        if "\0" in file:
            raise FileProblem("a figure's file has a name that no file can have.", where=str(folder), advice=KEEP)
        path = folder / file
        inside = real_path(path).is_relative_to(real_path(folder))
        if not inside or Path(file).is_absolute():
            raise FileProblem(
                f"the figure file '{file}' lies outside the project's folder.",
                where=str(folder),
                advice="Move it into the folder.",
            )
    try:
        figure = _read_cached(str(path), _stamp(path))
    except BovrinError as error:
        raise type(error)(f"figure '{name}': {error.what}", where=error.where, advice=error.advice) from error
    return Figure(name, figure.rig, figure.model, file, figure.colour)


def _stamp(path: Path) -> tuple[float, int]:
    try:
        stat = path.stat()
    except OSError:
        return (0.0, 0)
    return (stat.st_mtime, stat.st_size)


@cached_by_identity
def _read_cached(path: str, stamp: tuple[float, int]) -> Figure:
    return read_figure(Path(path), path)


def used_files(shot: Shot, path: Path | None) -> set[Path]:
    """The files that a shot lives in: its project, and those of its figures beside it."""
    if path is None:
        return set()
    own = [f.source.removesuffix(CHANGED) for f in shot.cast if not f.source.startswith("cast:")]
    return {real_path(path), *(real_path(path.parent / source) for source in own)}


def check_free(shot: Shot, path: Path | None, target: Path) -> None:
    """CannotWrite when a file that is to be written is one that the shot lives in."""
    if real_path(target) in used_files(shot, path):
        raise CannotWrite(
            "the shot itself lives in this file.", where=str(target), advice="Hand it on under another name."
        )
