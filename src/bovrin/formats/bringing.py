"""Bringing a figure or a motion from a file of another maker, by the file's ending."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from bovrin.errors import BadMotion, FileProblem
from bovrin.figure.reading.rates import at_rate
from bovrin.figure.reading.reaching import reaching
from bovrin.shot import Shot

if TYPE_CHECKING:
    from bovrin.formats.found import Found

SMALLEST, LARGEST = 1e-6, 1e6
"""Metres that a unit of a file can be."""
DRAWINGS = (".svg", ".svgz", ".ora", ".png")
"""Endings of layered drawings, which become flat figures."""
ENDINGS = (".glb", ".gltf", ".bvh", *DRAWINGS)


RATE = 24.0
"""Frames a second of a shot that is made of a file, when none are asked for."""


def bring_file(
    path: Path, scale: float | None = None, rate: float | None = None, *, keep_rate: bool = False
) -> tuple[Shot, list[str]]:
    """A shot that holds what a file does, and what was left out. scale: metres in a unit of the file.

    rate: the shot's frames a second, 24 if not given, or what Bovrin wrote into a file of its own. The motion is as fast as it
    was, with its keys on whole frames. With keep_rate it is left at the file's own rate.
    """
    if scale is not None and not SMALLEST <= scale <= LARGEST:
        raise BadMotion(
            f"a unit of {scale:g} metres is not possible.",
            advice=f"Use {SMALLEST:g} to {LARGEST:g}, such as 0.01 for cm.",
        )
    if rate is not None and not 1 <= rate <= 240:
        raise BadMotion(f"{rate:g} frames a second are not possible.", advice="Use 1 to 240.")
    shot, left_out, own_rate, doubtful = read_file(path, scale)
    if doubtful:
        from bovrin.formats.units import unit_name  # noqa: PLC0415 - kept out of the window's start

        unit = unit_name(shot.cast[0].model.metres)
        left_out = [
            *left_out,
            f"Its unit was guessed from its size: a {unit}. Say which it is (--scale) if it is another.",
        ]
    if keep_rate or (rate is None and own_rate):
        return reaching(shot), left_out
    return reaching(at_rate(shot, rate or RATE, shot.first)), left_out


def read_file(path: Path, scale: float | None = None) -> Found:
    """What a file holds, at its own rate."""
    ending = path.suffix.lower()
    if ending == ".bvh":
        from bovrin.formats.bvh.figure import shot_from_bvh  # noqa: PLC0415 - each reader is loaded when it is needed

        return shot_from_bvh(path, scale)
    if ending in (".glb", ".gltf"):
        from bovrin.formats.gltf.figure import shot_from_gltf  # noqa: PLC0415

        return shot_from_gltf(path, scale)
    if ending in DRAWINGS or path.is_dir():
        from bovrin.formats.flat.figure import shot_from_drawing  # noqa: PLC0415

        return shot_from_drawing(path, scale)
    raise FileProblem(
        f"'{path.suffix or path.name}' is not an ending that can be brought.",
        where=str(path),
        advice=f"Use {', '.join(ENDINGS[:-1])} or {ENDINGS[-1]}.",
    )
