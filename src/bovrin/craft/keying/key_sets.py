"""What is done to chosen keys in time: moved, copied, scaled, spread, removed, told apart.

Chosen keys are frames (N,) by channel index.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.cards import carried_cards, copied_cards
from bovrin.craft.keying.keys import merged, stretched_to_keys
from bovrin.craft.keying.lag import NOBODY, belonging
from bovrin.craft.keying.retiming import all_retimed
from bovrin.craft.keying.timing import room
from bovrin.errors import BadMotion
from bovrin.shot import Curve, CurveSet, KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
Chosen = Mapping[int, Floats]

NO_ROOM = "Leave more frames between the keys, or choose fewer."


def keys_on(curves: CurveSet, channels: Iterable[int], low: float, high: float) -> dict[int, Floats]:
    """All keys of some channels from one frame to another, both included."""
    found = {}
    for i in channels:
        frames = curves[i].frames
        inside = frames[(frames >= low - SAME_FRAME) & (frames <= high + SAME_FRAME)]
        if len(inside):
            found[i] = inside
    return found


def joined_keys(*some: Chosen) -> dict[int, Floats]:
    """All keys of several choices."""
    channels = {i for chosen in some for i in chosen}
    return {i: np.unique(np.concatenate([c[i] for c in some if i in c])) for i in channels}


def keys_on_frames(curves: CurveSet, channels: Iterable[int], frames: Floats) -> dict[int, Floats]:
    """All keys of some channels that lie on some frames (F,), in order."""
    found = {i: curves[i].frames[_mask(curves[i], frames)] for i in channels if len(curves[i]) and len(frames)}
    return {i: own for i, own in found.items() if len(own)}


def wholly_chosen(curves: CurveSet, chosen: Chosen) -> Floats:
    """The frames (N,) on which every key there is is chosen."""
    frames = frames_of(chosen)
    keyed, picked = np.zeros(len(frames), int), np.zeros(len(frames), int)
    if not len(frames):
        return frames
    for there, count in _alike(curve.frames for curve in curves.curves):  # most channels are keyed alike
        at = np.clip(np.searchsorted(there, frames - SAME_FRAME), 0, len(there) - 1)
        keyed += count * (np.abs(there[at] - frames) <= SAME_FRAME)
    for own, count in _alike(chosen.values()):
        picked[np.searchsorted(frames, own - SAME_FRAME)] += count
    return np.asarray(frames[keyed == picked])


def _alike(some: Iterable[Floats]) -> list[tuple[Floats, int]]:
    """Frames that are not alike, and how often each are there; no frames are left out."""
    found: dict[bytes, list[Floats]] = {}
    for frames in some:
        found.setdefault(frames.tobytes(), []).append(frames)
    return [(own[0], len(own)) for own in found.values() if len(own[0])]


def without_keys(chosen: Chosen, gone: Chosen) -> dict[int, Floats]:
    """A choice without the keys of another."""
    left = {i: np.setdiff1d(frames, gone[i]) if i in gone else frames for i, frames in chosen.items()}
    return {i: frames for i, frames in left.items() if len(frames)}


def shifted_keys(chosen: Chosen, by: float) -> dict[int, Floats]:
    """The same keys some frames later."""
    return {i: frames + by for i, frames in chosen.items()}


def frames_of(chosen: Chosen) -> Floats:
    """The frames on which any chosen key lies, in order."""
    return np.unique(np.concatenate(list(chosen.values()))) if chosen else np.empty(0)


def _mask(curve: Curve, frames: Floats) -> NDArray[np.bool_]:
    at = np.clip(np.searchsorted(frames, curve.frames - SAME_FRAME), 0, len(frames) - 1)
    return np.abs(frames[at] - curve.frames) <= SAME_FRAME


def _all_whole(frames: Floats) -> bool:
    return bool((frames == np.round(frames)).all())


def _placed(shot: Shot, figure: str, chosen: Chosen, places: Chosen) -> Shot:
    """Chosen keys on other frames, in the same order by channel; BadMotion when two would meet."""
    curves = shot.curves(figure)
    kept: dict[tuple[bytes, ...], Floats] = {}
    wanted: dict[int, Floats] = {}
    moves: dict[float, float] = {}
    for i, frames in chosen.items():
        curve = curves[i]
        shape = (curve.frames.tobytes(), frames.tobytes(), places[i].tobytes())
        if shape not in kept:
            new = curve.frames.copy()
            new[_mask(curve, frames)] = places[i]
            if len(new) > 1 and np.diff(new).min() < 1e-3:
                raise BadMotion("there is no room for the chosen keys there.", advice=NO_ROOM)
            kept[shape] = new
            moves |= dict(zip(frames.tolist(), places[i].tolist(), strict=True))
        wanted[i] = kept[shape]
    changes = all_retimed(curves, wanted)
    moved = stretched_to_keys(shot.with_curves(figure, curves.replaced(changes)), shot)
    return carried_cards(moved, figure, moves)


def move_keys(shot: Shot, figure: str, chosen: Chosen, by: float) -> Shot:
    """Chosen keys later (or sooner) by frames, all by the same; no nearer than a frame to keys that stay."""
    curves = shot.curves(figure)
    alike = {(curves[i].frames.tobytes(), frames.tobytes()): i for i, frames in chosen.items()}
    for i in alike.values():
        by = room(curves[i].frames, _mask(curves[i], chosen[i]), by)
    return _placed(shot, figure, chosen, shifted_keys(chosen, by)) if by and chosen else shot


def _stands(curves: CurveSet, chosen: Chosen) -> dict[int, Floats]:
    """Where chosen keys stand in time: those of a late part with their pose, when that is chosen too."""
    poses, owners = belonging(curves)
    if not len(poses):
        return dict(chosen)
    there, stands = frames_of(chosen), {}
    for i, frames in chosen.items():
        own = owners[i][_mask(curves[i], frames)]
        of_pose = poses.frames[own]
        stands[i] = np.where((own != NOBODY) & np.isin(of_pose, there), of_pose, frames)
    return stands


def scaled(curves: CurveSet, chosen: Chosen, about: float, factor: float) -> dict[int, Floats]:
    """Where chosen keys lie when they are drawn apart or together about a frame; whole frames stay whole, and what comes late
    to a pose stays as late."""
    whole = _all_whole(frames_of(chosen))
    stands = _stands(curves, chosen)
    drawn = {i: about + (own - about) * factor + (chosen[i] - own) for i, own in stands.items()}
    return {i: np.round(frames) for i, frames in drawn.items()} if whole else drawn


def scale_keys(shot: Shot, figure: str, chosen: Chosen, about: float, factor: float) -> Shot:
    """Chosen keys drawn apart or together about a frame; keys on whole frames stay on whole frames."""
    if not factor > 0:
        raise BadMotion(f"keys cannot be scaled by {factor:g}.", advice="Use a number above zero, such as 50 %.")
    return _placed(shot, figure, chosen, scaled(shot.curves(figure), chosen, about, factor))


def spread(curves: CurveSet, chosen: Chosen) -> dict[int, Floats]:
    """Where chosen keys lie when their frames, or those of the poses they come late to, are at even distances."""
    stands = _stands(curves, chosen)
    frames = frames_of(stands)
    if len(frames) < 3:
        raise BadMotion("keys are spread from at least three frames.", advice="Choose more keys.")
    even = np.linspace(frames[0], frames[-1], len(frames))
    if _all_whole(frames):
        even = np.round(even)
    return {i: even[np.searchsorted(frames, own - SAME_FRAME)] + (chosen[i] - own) for i, own in stands.items()}


def spread_keys(shot: Shot, figure: str, chosen: Chosen) -> Shot:
    """The frames of chosen keys at even distances between the first and the last."""
    return _placed(shot, figure, chosen, spread(shot.curves(figure), chosen))


def copy_keys(shot: Shot, figure: str, chosen: Chosen, by: float) -> Shot:
    """Copies of chosen keys, handles and all, later or sooner by frames. A key that lies there is replaced."""
    if not by:
        return shot
    curves = shot.curves(figure)
    changes = {}
    for i, frames in chosen.items():
        own = curves[i].settled()
        copies = own.taken(_mask(own, frames))
        copies = copies.changed(frames=copies.frames + by)
        changes[i] = merged(own.taken(~_mask(own, copies.frames)), copies)
    copied = stretched_to_keys(shot.with_curves(figure, curves.replaced(changes)), shot)
    return copied_cards(copied, figure, {f: f + by for f in frames_of(chosen).tolist()})


def remove_keys(shot: Shot, figure: str, chosen: Chosen) -> Shot:
    """Without the chosen keys."""
    curves = shot.curves(figure)
    return shot.with_curves(
        figure, curves.replaced({i: curves[i].taken(~_mask(curves[i], frames)) for i, frames in chosen.items()})
    )


def set_role(shot: Shot, figure: str, chosen: Chosen, role: KeyRole) -> Shot:
    """Call the chosen keys key poses, breakdowns or in-betweens."""
    curves = shot.curves(figure)
    return shot.with_curves(
        figure,
        curves.replaced(
            {
                i: curves[i].changed(role=np.where(_mask(curves[i], frames), int(role), curves[i].role))
                for i, frames in chosen.items()
            }
        ),
    )
