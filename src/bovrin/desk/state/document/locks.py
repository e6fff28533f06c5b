"""The one check where changes land: what is locked stays as it was."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.desk.state.choosing.keying import Keying
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, Figure, Shot
from bovrin.shot.comparing import alike

SAME = 1e-9
UNLOCK = "Unlock it with a right click on the figure map, or in the curve desk's list."


def guarded(old: Shot, new: Shot, keying: Keying) -> tuple[Shot, str]:
    """The new shot with the curves of locked channels as they are in the old one, and the words for what would have moved
    otherwise ("" when nothing would). Another take is another motion: there nothing is held back."""
    if not (keying.locked or keying.locked_channels) or new is old or new.take.name != old.take.name:
        return new, ""
    names: list[str] = []
    for figure in old.cast:
        locked = _locked_changes(figure, old, new, keying)
        if locked:
            was, now = old.curves(figure.name), new.curves(figure.name)
            moved = [i for i, at in locked.items() if not _same(was[i], now[at], figure.rig.defaults[i])]
            names += _named(figure, moved, keying)
            new = new.with_curves(figure.name, now.replaced({at: was[i] for i, at in locked.items()}))
    if alike(old, new):
        return old, locked_words(names) if names else ""
    return new, f"{_listed(names)} locked and stayed as it was." if names else ""


def locked_words(names: list[str]) -> str:
    """Why nothing happens."""
    return f"{_listed(names)} locked. {UNLOCK}"


def _listed(names: list[str]) -> str:
    return f"'{names[0]}' is" if len(names) == 1 else f"'{names[0]}' and {len(names) - 1} more are"


def _locked_changes(figure: Figure, old: Shot, new: Shot, keying: Keying) -> dict[int, int]:
    """The locked channels of a figure whose curves are others now, and which they are now; none when the figure has left or was
    set up anew. Channels to hang by, and those of followers, come and go beside them."""
    locked = keying.channels_locked(figure)
    there = next((f for f in new.cast if f.name == figure.name), None)
    if not locked or there is None:
        return {}
    names, at = figure.rig.channel_names, {name: n for n, name in enumerate(there.rig.channel_names)}
    if there.rig is not figure.rig and not _has_all(there, figure):
        return {}
    was, now = old.curves(figure.name), new.curves(figure.name)
    return {i: at[names[i]] for i in sorted(locked) if names[i] in at and was[i] is not now[at[names[i]]]}


def _has_all(there: Figure, figure: Figure) -> bool:
    """Whether a figure is the same one, with channels of its own more or fewer."""
    return there.rig.joints == figure.rig.joints and there.rig.setup == figure.rig.setup


def _same(one: Curve, other: Curve, default: float) -> bool:
    """Whether two curves say the same on all their keys and between them."""
    frames = np.unique(np.concatenate([one.frames, other.frames]))
    if not len(frames):
        return True
    at = np.concatenate([frames, (frames[1:] + frames[:-1]) / 2])
    return bool(np.abs(curve_values(one, at, default) - curve_values(other, at, default)).max() < SAME)


def _named(figure: Figure, channels: Iterable[int], keying: Keying) -> list[str]:
    """The locked parts that some channels belong to; a channel locked by itself goes by its own name."""
    found: dict[str, None] = {}
    rig = figure.rig
    for i in channels:
        control = next(c for c in range(len(rig.controls)) if i in rig.span(c))
        part = keying.locked_part(figure, [control])
        found.setdefault(part if part is not None else rig.channel_names[i])
    return list(found)
