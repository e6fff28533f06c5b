"""Parts of flat figures turned over, put on their joints again, and turned in chains."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from itertools import pairwise

from bovrin.craft.flat.parts import flat_controls, flat_part, flip_column, held_from
from bovrin.craft.keying.keys import local_style, set_channels
from bovrin.craft.pose.posing import in_reach, swings
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.figure.staging import stance
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Figure, KeyRole, Shot


def flip(shot: Shot, figure: str, part: str, frame: float) -> Shot:
    """A part, and what hangs on it, turned over about its pivot from a frame on, until its next key."""
    what = shot.figure(figure)
    column = flip_column(what.rig, flat_part(what, part))
    now = float(channel_values(shot.curves(figure), what.rig, [frame])[0, column])
    return held_from(shot, figure, frame, {column: 0.0 if now >= 0.5 else 1.0})


def loose_parts(shot: Shot, figure: str, frame: float) -> list[int]:
    """The controls of parts that are pulled off their joints on a frame."""
    rig = shot.figure(figure).rig
    values = channel_values(shot.curves(figure), rig, [frame])[0]
    return [
        c for c in flat_controls(rig) if swings(rig, c) and any(abs(values[m]) > 1e-9 for m in _moves(shot, figure, c))
    ]


def rejoin(shot: Shot, figure: str, frame: float, parts: Iterable[str] | None = None) -> Shot:
    """Parts that were pulled off put on their joints again on a frame, their turns kept. parts: all that are off, if none."""
    what = shot.figure(figure)
    chosen = [flat_part(what, name) for name in parts] if parts is not None else loose_parts(shot, figure, frame)
    values = {m: 0.0 for c in chosen if swings(what.rig, c) for m in _moves(shot, figure, c)}
    return (
        set_channels(shot, figure, frame, values, local_style(shot, figure, frame, KeyRole.KEY_POSE))
        if values
        else shot
    )


def _moves(shot: Shot, figure: str, control: int) -> list[int]:
    return [c for c in columns(shot.figure(figure).rig, control, "translate") if c >= 0]


def bend_chain(shot: Shot, figure: str, parts: Sequence[str], frame: float, degrees: float, soft: float = 0.0) -> Shot:
    """A chain of parts turned by degrees on a frame. soft 0: it turns about its first pivot, stiff; 1: each part bends by an
    equal share; the last is always turned by all of it."""
    if not 0.0 <= soft <= 1.0:
        raise BadMotion(f"a softness of {soft:g} is not possible.", advice="Use 0 (stiff) to 1 (soft).")
    what = shot.figure(figure)
    chain = [flat_part(what, name) for name in parts]
    _check_chain(shot, what, chain, frame)
    now = channel_values(shot.curves(figure), what.rig, [frame])[0]
    turn = math.radians(degrees)
    values = {}
    for n, control in enumerate(chain):
        share = soft / len(chain) + (1.0 - soft if n == 0 else 0.0)
        column = next(c for c in columns(what.rig, control, "rotate") if c >= 0)
        values[column] = float(now[column]) + share * turn
    return set_channels(shot, figure, frame, values, local_style(shot, figure, frame, KeyRole.KEY_POSE))


def _check_chain(shot: Shot, figure: Figure, chain: list[int], frame: float) -> None:
    if not chain:
        raise BadMotion("no parts are named.", advice="Name the parts of a chain, from the body outward.")
    rig = figure.rig
    joints = [rig.controls[c].joint for c in chain]
    for above, below in pairwise(joints):
        if rig.joints[below].parent != above:
            raise BadMotion(
                f"'{rig.joints[below].name}' does not hang on '{rig.joints[above].name}'.",
                advice="Name parts that hang on one another, from the body outward.",
            )
    here = stance(shot, figure.name, frame)
    for n, limb in enumerate(rig.limbs):
        if {limb.upper, limb.middle, limb.end} & set(joints) and in_reach(here, n):
            raise BadMotion(
                f"the {limb.name} reaches for its goal, so its parts do not turn by themselves.",
                advice="Put it into joints first.",
            )
