"""Pose books: poses in a JSON file that any project can open. Documented in docs/format.md."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Literal

import msgspec
import numpy as np
from msgspec import Meta, Struct

from bovrin.errors import BrokenFile, NewerFile
from bovrin.formats.files import read_bytes, write_atomically
from bovrin.formats.rig_data import spoken_fault
from bovrin.shot import Pose

FORMAT: Literal["bovrin poses"] = "bovrin poses"
VERSION = 1
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
            pose.name, pose.figure, dict(pose.turns), dict(pose.moves), _plain(pose), pose.note, pose.reference
        )
        rows.append("  " + json.dumps(msgspec.to_builtins(data), ensure_ascii=False, allow_nan=False))
    head = f' "format": {json.dumps(FORMAT)},\n "version": {VERSION},\n'
    return "{\n" + head + ' "poses": [\n' + ",\n".join(rows) + "\n ]\n}\n"


def _plain(pose: Pose) -> dict[str, dict[str, float]]:
    return {control: dict(found) for control, found in pose.amounts.items()}


def save_book(poses: tuple[Pose, ...], path: Path) -> None:
    """Write a pose book; a failure leaves the file on disk as it was."""
    write_atomically(path, book_text(poses).encode())


def load_book(path: Path) -> tuple[Pose, ...]:
    """Read a pose book. FileProblem says in one sentence what is wrong with it."""
    return book_from_bytes(read_bytes(path, "pose book"), str(path))


def book_from_bytes(data: bytes, where: str) -> tuple[Pose, ...]:
    """The poses in a pose book's bytes."""
    try:
        head = msgspec.json.decode(data)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BrokenFile("the pose book is cut off or damaged.", where=where, advice=_KEEP) from error
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        raise BrokenFile("this is not a pose book.", where=where, advice="Choose a file that Bovrin has saved.")
    version = head.get("version")
    if isinstance(version, int) and version > VERSION:
        raise NewerFile(
            f"the pose book was made by a newer Bovrin (version {version}).", where=where, advice="Update Bovrin."
        )
    try:
        book = msgspec.convert(head, BookData)
    except msgspec.ValidationError as error:
        raise BrokenFile(f"the pose book is damaged{spoken_fault(error)}.", where=where, advice=_KEEP) from error
    return tuple(_pose(row, where) for row in book.poses)


def _pose(row: PoseData, where: str) -> Pose:
    turns = {}
    for control, q in row.turns.items():
        size = float(np.linalg.norm(q))
        if not 0.5 < size < 2.0:
            raise BrokenFile(f"the pose '{row.name}' turns '{control}' by what is no turn.", where=where, advice=_KEEP)
        turns[control] = tuple(float(x) / size for x in q)
    return Pose(row.name, row.figure, turns, row.moves, row.amounts, row.note, row.reference)  # type: ignore[arg-type]
