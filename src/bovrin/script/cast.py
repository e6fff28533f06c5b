"""Bringing figures by script."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Any

import numpy as np

from bovrin.craft.company import all_joined, free_name, joined
from bovrin.craft.recorded import key_pose_keeping as _keeping
from bovrin.craft.recorded import key_pose_search as _search
from bovrin.craft.recorded import travel as _travel
from bovrin.craft.recorded.carry import carried
from bovrin.craft.takes import chosen_take, next_name
from bovrin.figure.making.setup import taken_for
from bovrin.figure.solve.unequal import unequal_limbs
from bovrin.formats.bringing import bring_file
from bovrin.formats.figures.files import load_figure
from bovrin.script.basics import PathLike
from bovrin.shot import Shot


def bring(path: PathLike, scale: float | None = None, rate: float | None = None, keep_rate: bool = False) -> Shot:
    """A shot that holds the figure of a .glb, .gltf or .bvh file and its motion; several animations become takes.

    scale: metres in a unit of the file, guessed if not given. rate: the shot's frames a second, 24 if not given (or what Bovrin
    wrote); the motion is sampled anew on whole frames. keep_rate: it stays at the file's own rate.

    The figure gets a rig of its own, guessed from its joints; saving the shot keeps it beside the project.
    """
    return bring_file(Path(path), scale, rate, keep_rate=keep_rate)[0]


def carry(shot: Shot, from_figure: str, to_figure: str) -> Shot:
    """The motion of one figure on another with matching parts, keyed on every whole frame of the range.

    Turns stay, travel goes by the legs' length, and feet that are down stay where they are.
    """
    return carried(shot, from_figure, to_figure)


def rig_report(shot: Shot, figure: str) -> dict[str, Any]:
    """What a figure's skeleton was taken for: its build, its parts, pairs and limbs, how sure each guess is, 0 to 1, and which
    limbs are of unequal length: [longer, shorter, by how many metres]."""
    rig = shot.figure(figure).rig
    guess = taken_for(rig)
    names = [joint.name for joint in rig.joints]
    return {
        "build": guess.build,
        "parts": {part.name: [rig.controls[c].name for c in part.controls] for part in rig.parts},
        "pairs": [list(pair) for pair in rig.pairs],
        "limbs": {limb.name: [names[limb.upper], names[limb.middle], names[limb.end]] for limb in rig.limbs},
        "sure": dict(guess.sure),
        "unequal": [[*names, gap] for names, gap in unequal_limbs(rig).items()],
    }


def travel_to_whole(shot: Shot, figure: str, ways: Iterable[str] = ("across", "up", "forward", "turn")) -> Shot:
    """The shot in which the whole figure goes and turns the ways that its hips do, as recorded figures have it; nothing that is
    seen moves. ways: the shot's directions, and "turn"; the hips keep the rest."""
    return _travel.travel_to_whole(shot, figure, tuple(ways))


def find_key_poses(
    shot: Shot, figure: str, count: int | None = None, error: float = 0.03, frames: tuple[float, float] | None = None
) -> list[float]:
    """The frames of the fewest key poses that tell a recorded motion to so many metres at the worst joint, or of so many.

    frames: from where to where; the shot's range if not given.
    """
    first, last = frames or (shot.first, shot.last)
    whole = np.arange(np.ceil(first), np.floor(last) + 1)
    found = _search.find_key_poses(shot, figure, whole)
    if count is not None:
        return list(map(float, found.of(count)))
    return list(map(float, _keeping.fewest(shot, figure, found, error)))


def keep_key_poses(shot: Shot, figure: str, frames: Iterable[float], take: str) -> Shot:
    """A new take of this name in which a figure's motion is told by key poses on some frames, with curves fitted between; the
    recording stays in the take that was worked on."""
    return _keeping.keep_key_poses(shot, figure, frames, take)


def find_poses(
    shot: Shot,
    figure: str,
    count: int | None = None,
    error: float | None = None,
    start: float | None = None,
    end: float | None = None,
) -> Shot:
    """A dense motion told by its key poses, so many or as few as tell it to so many metres (0.03), in a new take."""
    span = (shot.first if start is None else start, shot.last if end is None else end)
    frames = find_key_poses(shot, figure, count, 0.03 if error is None else error, span)
    return keep_key_poses(shot, figure, frames, next_name(shot))


def takes(shot: Shot) -> list[str]:
    """The names of a shot's takes, in their order."""
    return [take.name for take in shot.all_takes]


def take_range(shot: Shot, take: str) -> tuple[float, float, bool]:
    """The first and the last frame of a take, and whether it loops."""
    span = shot.span_of(shot.with_take(take).take)
    return span.first, span.last, span.loops


def use_take(shot: Shot, take: str) -> Shot:
    """The shot with another take worked on."""
    return chosen_take(shot, take)


def add_figure(shot: Shot, path: PathLike) -> Shot:
    """A figure, with its motion if it has any, joins a shot: a shipped one ("cast:goat"), or that of a file."""
    if str(path).startswith("cast:"):
        name = free_name(shot, str(path).removeprefix("cast:"))
        return joined(shot, load_figure(str(path), name, Path()))
    return all_joined(shot, bring(path, rate=shot.frame_rate))
