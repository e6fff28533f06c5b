"""Bringing figures by script."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from bovrin.errors import FileProblem
from bovrin.figure.guess import guess_build
from bovrin.formats.bvh_figure import shot_from_bvh
from bovrin.script.basics import PathLike
from bovrin.shot import Shot


def bring(path: PathLike, scale: float | None = None) -> Shot:
    """A shot that holds the figure and the motion of a .bvh file. scale: metres in a unit of the file, guessed if not given.

    The figure gets a rig of its own, guessed from its joints; saving the shot keeps it beside the project.
    """
    source = Path(path)
    if source.suffix.lower() != ".bvh":
        raise FileProblem(
            f"'{source.suffix or source.name}' is not an ending that can be brought.",
            where=str(source),
            advice="Use .bvh.",
        )
    return shot_from_bvh(source, scale)[0]


def rig_report(shot: Shot, figure: str) -> dict[str, Any]:
    """What a figure's skeleton was taken for: its build, its parts, pairs and limbs, and how sure each guess is, 0 to 1."""
    rig = shot.figure(figure).rig
    guess = guess_build(rig.joints)
    names = [joint.name for joint in rig.joints]
    return {
        "build": guess.build,
        "parts": {part.name: [rig.controls[c].name for c in part.controls] for part in rig.parts},
        "pairs": [list(pair) for pair in rig.pairs],
        "limbs": {limb.name: [names[limb.upper], names[limb.middle], names[limb.end]] for limb in rig.limbs},
        "sure": dict(guess.sure),
    }
