"""Bringing figures by script."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from bovrin.formats.bringing import bring_file
from bovrin.formats.setups import taken_for
from bovrin.script.basics import PathLike
from bovrin.shot import Shot


def bring(path: PathLike, scale: float | None = None) -> Shot:
    """A shot that holds the figure of a .glb, .gltf or .bvh file and its motion; several animations become takes.

    scale: metres in a unit of the file, guessed if not given.

    The figure gets a rig of its own, guessed from its joints; saving the shot keeps it beside the project.
    """
    return bring_file(Path(path), scale)[0]


def rig_report(shot: Shot, figure: str) -> dict[str, Any]:
    """What a figure's skeleton was taken for: its build, its parts, pairs and limbs, and how sure each guess is, 0 to 1."""
    rig = shot.figure(figure).rig
    guess = taken_for(rig)
    names = [joint.name for joint in rig.joints]
    return {
        "build": guess.build,
        "parts": {part.name: [rig.controls[c].name for c in part.controls] for part in rig.parts},
        "pairs": [list(pair) for pair in rig.pairs],
        "limbs": {limb.name: [names[limb.upper], names[limb.middle], names[limb.end]] for limb in rig.limbs},
        "sure": dict(guess.sure),
    }
