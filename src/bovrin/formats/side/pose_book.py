"""Pose books: poses in a JSON file that any project can open. Documented in docs/format.md."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Annotated, Any, Literal

import msgspec
import numpy as np
from msgspec import Meta, Struct

from bovrin.errors import BrokenFile, NewerFile
from bovrin.formats.figures.rig_data import spoken_fault
from bovrin.formats.files import read_bytes, write_atomically
from bovrin.shot import Pose

FORMAT: Literal["bovrin poses"] = "bovrin poses"
VERSION = 1
DIGITS = 10
Name = Annotated[str, Meta(min_length=1)]
_KEEP = "Nothing was changed. If you have a copy of the file, open that."


class PoseData(Struct, forbid_unknown_fields=True, omit_defaults=True):
    """One pose: turns are unit quaternions xyzw, moves metres, both away from rest in the figure's own axes."""

    name: Name
    figure: str
    turns: dict[str, tuple[float, float, float, float]] = {}
    moves: dict[str, tuple[float, float, float]] = {}
    amounts: dict[str, dict[str, float]] = {}
    note: str = ""
    reference: float | None = None


class BookData(Struct, forbid_unknown_fields=True):
    """The whole file."""

    format: Literal["bovrin poses"]
    version: int
    poses: list[PoseData]


def book_text(poses: tuple[Pose, ...]) -> str:
    """The file's text, one pose a line."""
    rows = []
    for pose in poses:
        data = PoseData(
            pose.name,
            pose.figure,
            {n: _short(q) for n, q in pose.turns.items()},
            {n: _short(v) for n, v in pose.moves.items()},
            {n: {k: round(v, DIGITS) for k, v in found.items()} for n, found in pose.amounts.items()},
            pose.note,
            pose.reference,
        )
        rows.append("  " + json.dumps(msgspec.to_builtins(data), ensure_ascii=False, allow_nan=False))
    head = f' "format": {json.dumps(FORMAT)},\n "version": {VERSION},\n'
    return "{\n" + head + ' "poses": [\n' + ",\n".join(rows) + "\n ]\n}\n"


def _short(numbers: Sequence[float]) -> tuple[Any, ...]:
    return tuple(round(x, DIGITS) for x in numbers)


def save_book(poses: tuple[Pose, ...], path: Path) -> None:
    """Write a pose book; a failure leaves the file on disk as it was."""
    write_atomically(path, book_text(poses).encode())


def load_book(path: Path) -> tuple[Pose, ...]:
    """Read a pose book. FileProblem says in one sentence what is wrong with it."""
    return book_from_bytes(read_bytes(path, "pose book"), str(path))


class _Head(Struct):
    """What must be known before the rest can be read."""

    format: Any = None
    version: Any = None


def book_from_bytes(data: bytes, where: str) -> tuple[Pose, ...]:
    """The poses in a pose book's bytes."""
    try:
        _check_head(_head(data), where)
        book = msgspec.json.decode(data, type=BookData)
    except msgspec.ValidationError as error:
        raise BrokenFile(f"the pose book is damaged{spoken_fault(error)}.", where=where, advice=_KEEP) from error
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BrokenFile("the pose book is cut off or damaged.", where=where, advice=_KEEP) from error
    return tuple(_pose(row, where) for row in book.poses)


def _head(data: bytes) -> _Head:
    try:
        return msgspec.json.decode(data, type=_Head)
    except msgspec.ValidationError:
        return _Head()


def _check_head(head: _Head, where: str) -> None:
    if head.format != FORMAT:
        raise BrokenFile("this is not a pose book.", where=where, advice="Choose a file that Bovrin has saved.")
    if isinstance(head.version, int) and head.version > VERSION:
        raise NewerFile(
            f"the pose book was made by a newer Bovrin (version {head.version}).", where=where, advice="Update Bovrin."
        )


def _pose(row: PoseData, where: str) -> Pose:
    turns: Mapping[str, tuple[float, float, float, float]] = row.turns
    if turns:
        q = np.array(list(turns.values()))
        size = np.sqrt((q * q).sum(-1))
        if size.min() < 0.5 or size.max() > 2.0:
            control = list(turns)[int(np.abs(size - 1).argmax())]
            raise BrokenFile(f"the pose '{row.name}' turns '{control}' by what is no turn.", where=where, advice=_KEEP)
        if np.abs(size - 1).max() > 1e-6:
            turns = {name: (*map(float, v),) for name, v in zip(turns, q / size[:, None], strict=True)}  # type: ignore[misc]
    return Pose(row.name, row.figure, turns, row.moves, row.amounts, row.note, row.reference)
