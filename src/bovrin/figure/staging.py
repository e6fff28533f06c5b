"""What a figure does: the only place that knows in which order keys become joints.

keys -> layers -> attachments -> followers -> gaze -> reach -> joints (figure.solve does reach). Each stage takes channel values
and hands channel values on. Craft that edits keys reads keys; whoever asks what a figure does asks here.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.caching import RESULTS
from bovrin.figure.solve.joints import Motion, motion_of, solve
from bovrin.figure.stages.following import Rules, following_of
from bovrin.figure.stages.gaze import looked
from bovrin.figure.stages.hanging import Hook, hung
from bovrin.figure.stages.hooks import hooks_of
from bovrin.figure.stages.layers import Layers, beneath, layers_of, on_top
from bovrin.figure.stages.stance import Stance
from bovrin.motion.evaluate import channel_values
from bovrin.shot import CurveSet, Rig, Shot

Floats = NDArray[np.float64]

KEPT_FRAMES = 1
"""Frames of a staging up to which it is kept: views ask for one frame again and again, ranges are asked for once."""


class Staged:
    """What a figure does at frames (F,): `values` (F, C) after every stage, and `world` (F, J, 4, 4), solved when asked for.

    Both are read-only.
    """

    def __init__(self, rig: Rig, frames: Floats, values: Floats) -> None:
        self.rig, self.frames, self.values = rig, frames, values
        values.setflags(write=False)

    @cached_property
    def world(self) -> Floats:
        """The joints' world matrices (F, J, 4, 4)."""
        world = solve(self.rig, self.values)
        world.setflags(write=False)
        return world

    def solved(self, world: Floats) -> Staged:
        """The same, its joints (F, J, 4, 4) worked out elsewhere."""
        world.setflags(write=False)
        self.__dict__["world"] = world
        return self

    @property
    def places(self) -> Floats:
        """Where the joints are (F, J, 3), metres."""
        return np.asarray(self.world[..., :3, 3])

    @property
    def amounts(self) -> Floats:
        """The amounts of the figure's shapes (F, K), as `rig.morph_columns` names them."""
        return np.asarray(self.values[:, list(self.rig.morph_columns)])

    @cached_property
    def stance(self) -> Stance:
        """The first frame as a stance."""
        return Stance(self.rig, self.values[0], self.world[0])


HangsOn = tuple[CurveSet, Rig, Layers | None, tuple[Hook, ...], Rules | None]
Wanted = tuple[type[Staged], CurveSet, Rig, Layers | None, tuple[Hook, ...], Rules | None, tuple[float]]
"""What the joints of a figure at a frame hang on."""


def hangs_on(shot: Shot, figure: str) -> HangsOn:
    """All that a figure's joints hang on, at whatever frame: equal for two shots in which it moves the same. Whatever is kept of
    what a figure does is kept by this."""
    hooks = hooks_of(shot, figure) if shot.take.of(figure).attachments else ()
    return shot.curves(figure), shot.figure(figure).rig, layers_of(shot, figure), hooks, following_of(shot, figure)


def staged(shot: Shot, figure: str, frames: ArrayLike) -> Staged:
    """What a figure does at frames (F,), or at one frame; a single frame is kept by what it hangs on."""
    return staged_by(hangs_on(shot, figure), np.atleast_1d(np.asarray(frames, float)))


def staged_by(what: HangsOn, frames: Floats) -> Staged:
    """What a figure does at frames (F,), by all that it hangs on; a single frame is kept."""
    if len(frames) > KEPT_FRAMES:
        return _staged(what, frames)
    return RESULTS.get((Staged, *what, tuple(frames.tolist())), lambda: _staged(what, frames))


def _staged(what: HangsOn, frames: Floats) -> Staged:
    """The stages, in their order."""
    return Staged(what[1], frames, looked(what[1], unlooked(what, frames)))


def unlooked(what: HangsOn, frames: Floats) -> Floats:
    """What keys, clips, carriers and rules make of the channels (F, C), before anything is looked at."""
    curves, rig, _, _, time = what
    values = unfollowed(what, frames)
    if time is None:
        return values
    from bovrin.figure.stages.followers import followed  # noqa: PLC0415 - kept out of the window's start

    return followed(curves, rig, time, values, frames, lambda others: unfollowed(what, others), what)


def unfollowed(what: HangsOn, frames: Floats) -> Floats:
    """What keys, clips and carriers make of the channels (F, C), before anything follows."""
    curves, rig, layers, hooks, _ = what
    values = channel_values(curves, rig, frames)
    if layers is not None:
        values = on_top(layers, rig, *beneath(layers, rig, frames), values)
    return hung(rig, values, frames, hooks, world_of) if hooks else values


def world_of(what: HangsOn, frames: Floats) -> Floats:
    """The joints (F, J, 4, 4) of what carries something."""
    return staged_by(what, frames).world


def stance(shot: Shot, figure: str, frame: float) -> Stance:
    """The stance of a figure at a frame."""
    return staged(shot, figure, frame).stance


def stances(shot: Shot, figures: Iterable[str], frame: float) -> dict[str, Stance]:
    """The stances of some figures at a frame, by name: those with one rig are solved together."""
    at = (float(frame),)
    named = {name: (Staged, *hangs_on(shot, name), at) for name in figures}
    by_rig: dict[int, list[Wanted]] = {}
    for keys in named.values():
        if not RESULTS.holds(keys):
            by_rig.setdefault(id(keys[2]), []).append(keys)
    for alike in by_rig.values():
        _solve_together(alike)
    return {name: stance(shot, name, frame) for name in named}


def _solve_together(alike: list[Wanted]) -> None:
    """Keep what figures of one rig do at a frame."""
    apart = [_staged(keys[1:-1], np.array(keys[-1])) for keys in alike]
    rig = alike[0][2]
    worlds = solve(rig, np.concatenate([one.values for one in apart]))
    for keys, one, world in zip(alike, apart, worlds, strict=True):
        own = world[None].copy()  # a part of the whole would keep all of it alive
        RESULTS.get(keys, lambda one=one, own=own: one.solved(own))  # type: ignore[misc]


def sample(shot: Shot, figure: str, frames: ArrayLike) -> Motion:
    """A figure's joints at frames (F,)."""
    found = staged(shot, figure, frames)
    return motion_of(found.rig, found.frames, found.world)
