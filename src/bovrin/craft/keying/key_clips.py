"""Copied keys: put in elsewhere in time, on other channels, on other figures, in other shots."""

from __future__ import annotations

import numpy as np

from bovrin.craft.keying.key_sets import Chosen, frames_of
from bovrin.craft.keying.keys import merged, stretched_to_keys
from bovrin.errors import BadMotion
from bovrin.frozen import frozen
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, Rig, Shot, Unit
from bovrin.shot.curve import SAME_FRAME


@frozen
class KeyClip:
    """Keys by channel name ("control/channel"), with what each measures, and the first frame of all."""

    curves: tuple[tuple[str, Unit, Curve], ...]
    start: float

    @property
    def count(self) -> int:
        """How many keys."""
        return sum(len(curve) for _, _, curve in self.curves)


def copied_keys(shot: Shot, figure: str, chosen: Chosen) -> KeyClip:
    """The chosen keys, handles and all."""
    if not chosen:
        raise BadMotion("there is no key chosen to copy.", advice="Choose keys on the curve desk or the strip.")
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    rows = []
    for i, frames in sorted(chosen.items()):
        at = np.abs(curves[i].frames[:, None] - frames[None]).min(1) <= SAME_FRAME
        if at.any():
            rows.append((rig.channel_names[i], rig.channels[i].unit, curves[i].settled().taken(at)))
    if not rows:
        raise BadMotion("none of the chosen keys is there any more.", advice="Choose keys that are there.")
    return KeyClip(tuple(rows), float(frames_of(chosen)[0]))


def _targets(rig: Rig, clip: KeyClip, onto: list[int]) -> dict[int, Curve]:
    """Which channel gets which keys: one copied channel goes onto every chosen one of its kind, else by name."""
    if len(clip.curves) == 1 and onto:
        name, unit, curve = clip.curves[0]
        alike = [i for i in onto if rig.channels[i].unit is unit]
        if not alike:
            raise BadMotion(f"the copied keys of '{name}' measure something else than the chosen channels.")
        return dict.fromkeys(alike, curve)
    known = {name: i for i, name in enumerate(rig.channel_names)}
    found = {known[name]: curve for name, _, curve in clip.curves if name in known}
    if not found:
        raise BadMotion(
            "the figure has none of the channels whose keys were copied.", advice="Choose one channel to paste onto."
        )
    return found


def pasted_keys(
    shot: Shot, figure: str, clip: KeyClip, frame: float | None, onto: list[int] | None = None, *, offset: bool = False
) -> tuple[Shot, Chosen]:
    """The copied keys put in, and what was put in: the first on a frame, or where they were (None).

    A single copied channel can go onto others of its kind (`onto`, indices). offset: values move along so that the first
    key begins where each channel is. A key that lies where one is put is replaced.
    """
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    by = 0.0 if frame is None else frame - clip.start
    changes, made = {}, {}
    for i, keys in _targets(rig, clip, onto or []).items():
        frames = keys.frames + by
        values = keys.values
        if offset:
            there = float(curve_values(curves[i], [frames[0]], rig.channels[i].default)[0])
            values = values + (there - float(keys.values[0]))
        own = curves[i].settled()
        free = np.abs(own.frames[:, None] - frames[None]).min(1) > SAME_FRAME if len(own) else np.zeros(0, bool)
        changes[i] = merged(own.taken(free), keys.changed(frames=frames, values=values)).like(curves[i])
        made[i] = changes[i].frames[np.abs(changes[i].frames[:, None] - frames[None]).min(1) <= SAME_FRAME]
    return stretched_to_keys(shot.with_curves(figure, curves.replaced(changes)), shot), made
