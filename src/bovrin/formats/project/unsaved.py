"""Work that is not saved yet, as one file: a line about the run that wrote it, the shot without its keys, and the keys as they
lie in memory."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Any

import msgspec
import numpy as np

from bovrin.errors import BovrinError, BrokenFile
from bovrin.formats.project.store import shot_from_bytes
from bovrin.formats.project.text import shot_to_bytes
from bovrin.formats.raw_motion import Manifest, keys_of, with_keys, without_keys
from bovrin.shot import Shot


class Head(msgspec.Struct):
    """The run and what it worked on. pid, began: its process and when that began; path: the project that is open, if one is;
    figures: files of figures that were brought, by what the project calls them; text: bytes of the shot without its keys."""

    pid: int
    began: str
    path: str | None = None
    figures: dict[str, str] = {}
    text: Annotated[int, msgspec.Meta(ge=0)] = 0
    keys: Manifest | None = None
    project: str | None = None


def unsaved_bytes(shot: Shot, head: Mapping[str, Any], figures: Mapping[str, str]) -> bytes:
    """The file of a shot."""
    text = shot_to_bytes(without_keys(shot))
    manifest, arrays = keys_of(shot)
    told = {**head, "figures": dict(figures), "text": len(text), "keys": manifest}
    blocks = (np.ascontiguousarray(array).tobytes() for array in arrays)
    return b"".join([msgspec.json.encode(told), b"\n", text, *blocks])


def head_of(data: bytes) -> Head:
    """What a file says about the run that wrote it, or BrokenFile. Files of the first kind are one JSON document."""
    try:
        found = msgspec.json.decode(data.partition(b"\n")[0], type=Head)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BrokenFile("the work that was kept cannot be read.") from error
    if "\0" in (found.path or "") or any("\0" in name or "/" in name for name in found.figures.values()):
        raise BrokenFile("the work that was kept names files that there cannot be.")
    return found


def unsaved_shot(data: bytes, head: Head, where: Path, figures: Path) -> Shot:
    """The shot of a file. where: the project, beside which figures are looked for; figures: the folder of brought ones."""
    spare = {source: figures / name for source, name in head.figures.items()}
    if head.project is not None:
        return shot_from_bytes(head.project.encode("utf-8", "replace"), where, spare)
    rest = data.partition(b"\n")[2]
    shot = shot_from_bytes(rest[: head.text], where, spare)
    try:
        return with_keys(shot, head.keys or Manifest(), memoryview(rest)[head.text :])
    except BovrinError:
        raise
    except (ValueError, IndexError, KeyError, TypeError, OverflowError) as error:
        raise BrokenFile("the keys that were kept are damaged.", where=str(where)) from error
