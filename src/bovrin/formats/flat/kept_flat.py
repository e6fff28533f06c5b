"""What an animator corrected of a flat figure, kept for every drawing with the same parts: JSON in the user's data folder."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import Path

import msgspec

from bovrin.figure.flat.assembling import FlatSetup
from bovrin.figure.flat.layers import Box, DrawnPart, Facing
from bovrin.formats.figures.kept_setups import setups_folder
from bovrin.formats.files import write_atomically

Spot = tuple[float, float]


class KeptFlat(msgspec.Struct):
    """By each part's name the part that it hangs on and where it turns, as shares of the drawing's box; which way it faces."""

    parents: dict[str, str]
    pivots: dict[str, Spot]
    facing: str

    @property
    def body(self) -> str:
        """The part that carries all."""
        return next((name for name, parent in self.parents.items() if not parent), "")


def _path(names: Sequence[str]) -> Path:
    sign = hashlib.sha256("\n".join(sorted(names)).encode()).hexdigest()[:24]
    return setups_folder() / f"flat-{sign}.json"


def known_flat(names: Sequence[str]) -> KeptFlat | None:
    """What was kept for drawings with such parts, or None. A file that is damaged counts as none."""
    try:
        found = msgspec.json.decode(_path(names).read_bytes(), type=KeptFlat)
        Facing(found.facing)
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError, ValueError):
        return None
    return found if set(found.parents) == set(names) == set(found.pivots) and found.body else None


def keep_flat(setup: FlatSetup, box: Box) -> Path:
    """Keep a setup for drawings with the same parts. box: what holds the whole drawing, as the setup's pivots are told."""
    left, top, right, bottom = box
    shares = {n: ((x - left) / (right - left), (y - top) / (bottom - top)) for n, (x, y) in setup.pivots}
    path = _path([name for name, _ in setup.parents])
    path.parent.mkdir(parents=True, exist_ok=True)
    write_atomically(path, msgspec.json.encode(KeptFlat(dict(setup.parents), shares, setup.facing)))
    return path


def told(layer: DrawnPart, known: KeptFlat, box: Box) -> DrawnPart:
    """A part that is told what was kept for it, unless its file tells its own."""
    left, top, right, bottom = box
    x, y = known.pivots[layer.name]
    pivot = layer.pivot or (left + x * (right - left), top + y * (bottom - top))
    return DrawnPart(layer.name, layer.drawings, layer.parent or known.parents[layer.name], pivot)
