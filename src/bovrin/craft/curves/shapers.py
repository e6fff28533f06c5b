"""Shapers: what sliders do to chosen keys. Each works on the values, slopes or frames of runs of keys that follow one another.

An amount of 0 changes nothing. Chosen keys are frames (N,) by channel index.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.bending import keys_dragged
from bovrin.craft.curves.filling import filled, thinned
from bovrin.craft.keying.key_sets import Chosen
from bovrin.errors import BadMotion
from bovrin.frozen import frozen, frozen_equal
from bovrin.motion.handles import gather, raised
from bovrin.shot import HOLDING, Curve, HandleKind, Rig, Shot, Unit
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
Which = NDArray[np.intp]

STIFF = 40.0
"""How much an evenly bent course counts against nearness when keys are softened altogether, in frames to the fourth."""
NEAREST = 0.05
"""How near keys that are shifted in time may come to others, frames."""
SHOWN = {
    Unit.LENGTH: 0.01,
    Unit.ANGLE: np.radians(1.0),
    Unit.AMOUNT: 0.01,
    **dict.fromkeys(HOLDING, 1e-9),
    Unit.NUMBER: 0.01,
}
"""What one of the units that tolerances are told in is inside: centimetres, degrees, hundredths."""
TREMBLES = {Unit.ANGLE: np.radians(4.0), Unit.LENGTH: 0.02, Unit.AMOUNT: 0.1}
"""How far a whole amount trembles, by what a channel measures."""


@frozen_equal
class Settings:
    """What some shapers are told besides their amount. about: flatten about the "line" through the neighbours, or the "mean";
    beats: of trembling, a second; seed: which tremble; every: frames between keys that are filled in."""

    about: str = "line"
    beats: float = 6.0
    seed: int = 1
    every: float = 1.0


@frozen
class Run:
    """Keys of a curve that follow one another and are chosen, and what a shaper must know of their channel."""

    curve: Curve
    which: Which
    default: float
    unit: Unit
    channel: int
    rate: float
    settings: Settings

    @property
    def frames(self) -> Floats:
        """Their frames (N,)."""
        return self.curve.frames[self.which]

    @property
    def values(self) -> Floats:
        """Their values (N,)."""
        return self.curve.values[self.which]

    def beside(self, side: int) -> tuple[float, float] | None:
        """Frame and value of the key before (-1) or after (1) them; None where there is none."""
        at = int(self.which[0]) - 1 if side < 0 else int(self.which[-1]) + 1
        return (float(self.curve.frames[at]), float(self.curve.values[at])) if 0 <= at < len(self.curve) else None


Shaper = Callable[[Run, float], Curve]


def toward(run: Run, amount: float) -> Curve:
    """Toward the key before (below 0) or after them."""
    beside = run.beside(-1 if amount < 0 else 1)
    return (
        run.curve if beside is None else _scaled_about(run, np.full(len(run.which), beside[1]), 0.0, 1.0 - abs(amount))
    )


def toward_default(run: Run, amount: float) -> Curve:
    """Toward the channel's default."""
    return _scaled_about(run, np.full(len(run.which), run.default), 0.0, 1.0 - amount)


def exaggerate(run: Run, amount: float) -> Curve:
    """Flatter (below 0) or farther from the line through the neighbours, or from the mean."""
    before, after = run.beside(-1), run.beside(1)
    if run.settings.about == "mean" or (before is None and after is None):
        line, slope = np.full(len(run.which), float(run.values.mean())), 0.0
    elif before is None or after is None:
        line, slope = np.full(len(run.which), (before or after or (0.0, 0.0))[1]), 0.0
    else:
        slope = (after[1] - before[1]) / (after[0] - before[0])
        line = before[1] + (run.frames - before[0]) * slope
    return _scaled_about(run, line, slope, 1.0 + amount)


def _scaled_about(run: Run, line: Floats, slope: float, factor: float) -> Curve:
    """Values and slopes made by hand, scaled about a line."""
    curve = run.curve.settled()
    values = curve.values.copy()
    values[run.which] = line + (run.values - line) * factor
    columns = {"values": values}
    for side in ("in", "out"):
        slopes = getattr(curve, f"{side}_slope").copy()
        slopes[run.which] = slope + (slopes[run.which] - slope) * factor
        columns[f"{side}_slope"] = slopes
    return curve.changed(**columns)


def soften(run: Run, amount: float) -> Curve:
    """Smoother (below 0; E. T. Whittaker's graduation, 1923), or rougher by as much as a little smoothing takes away."""
    if amount == 0 or not len(run.which):
        return run.curve
    first, last = int(run.which[0]), int(run.which[-1])
    low, high = max(first - 1, 0), min(last + 1, len(run.curve) - 1)
    frames, values = run.curve.frames[low : high + 1], run.curve.values[low : high + 1]
    free = np.zeros(len(frames), bool)
    free[first - low : last - low + 1] = True
    if low == first:
        free[0] = False
    if high == last:
        free[-1] = False
    if not free.any():
        return run.curve
    share = min(abs(amount), 1.0) if amount < 0 else 0.5
    smooth = _graduated(frames, values, free, STIFF * (share / (1.0 - 0.98 * share)) ** 2)
    new = run.curve.values.copy()
    new[low : high + 1] = np.where(free, smooth if amount < 0 else values + amount * (values - smooth), values)
    return raised(run.curve, new)


def _graduated(frames: Floats, values: Floats, free: NDArray[np.bool_], stiff: float) -> Floats:
    """Values (N,) with the free ones where they are near what they were and the course bends evenly."""
    from scipy.linalg import solveh_banded  # noqa: PLC0415 - kept out of the window's start

    count = len(frames)
    if count < 3:
        return values
    span = np.diff(frames)
    mean = float(span.mean())
    before, after = span[:-1] / mean, span[1:] / mean
    rows = np.stack([2 / (before * (before + after)), -2 / (before * after), 2 / (after * (before + after))])
    bend = np.zeros((3, count))  # the symmetric bands of rows^T rows
    for a in range(3):
        for b in range(a, 3):
            bend[2 - (b - a), b : b + count - 2] += rows[a] * rows[b]
    bands = stiff * bend
    bands[2] += 1.0
    hold = np.where(free, 0.0, 1e9)
    bands[2] += hold
    return np.asarray(solveh_banded(bands, values * (1.0 + hold)))


def ease(run: Run, amount: float) -> Curve:
    """Slower into the last of them (below 0), or slower out of the first; both stay. Two keys alone ease by their handles."""
    if len(run.which) < 2 or not amount:
        return run.curve
    if len(run.which) == 2:
        return _eased_handles(run, amount)
    frames, values = run.frames, run.values
    share = (frames - frames[0]) / (frames[-1] - frames[0])
    power = 2.0 ** (1.6 * abs(amount))
    warped = share**power if amount > 0 else 1.0 - (1.0 - share) ** power
    new = run.curve.values.copy()
    new[run.which] = np.interp(frames[0] + warped * (frames[-1] - frames[0]), frames, values)
    return raised(run.curve, new)


def _eased_handles(run: Run, amount: float) -> Curve:
    curve = run.curve.settled()
    first, last = int(run.which[0]), int(run.which[1])
    now = gather([curve])
    secant = float(run.values[1] - run.values[0]) / float(run.frames[1] - run.frames[0])
    share = min(abs(amount), 1.0)
    slow = now.out_slope[first] if amount > 0 else now.in_slope[last]
    fast = now.in_slope[last] if amount > 0 else now.out_slope[first]
    ends = (slow * (1.0 - share), fast + (2.2 * secant - fast) * share)
    columns = {n: getattr(curve, n).copy() for n in ("out_kind", "out_slope", "in_kind", "in_slope", "joined")}
    for side, at, slope in zip(("out", "in"), (first, last), ends if amount > 0 else ends[::-1], strict=True):
        columns[f"{side}_kind"][at], columns[f"{side}_slope"][at] = HandleKind.BY_HAND, slope
        columns["joined"][at] = False
    return curve.changed(**columns)


def tremble(run: Run, amount: float) -> Curve:
    """Up and down by a share of a few degrees or centimetres, so many beats a second; the same again for the same seed."""
    beat = run.rate / max(run.settings.beats, 0.1)
    at = run.frames / beat
    low = np.floor(at)
    corners = np.stack([_dice(low + n, run.settings.seed, run.channel) for n in (-1, 0, 1, 2)])
    t = at - low
    a, b, c, d = corners
    wave = b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)))
    new = run.curve.values.copy()
    new[run.which] += amount * TREMBLES.get(run.unit, 0.1) * wave
    return raised(run.curve, new)


def _dice(number: Floats, seed: int, channel: int) -> Floats:
    """A number from -1 to 1 for each whole number, by mixing bits (after Steele, Lea and Flood 2014), so that no order counts."""
    bits = number.astype(np.int64).astype(np.uint64)
    with np.errstate(over="ignore"):
        bits = bits * np.uint64(0x9E3779B97F4A7C15) + np.uint64((seed * 7919 + channel * 104729) & 0xFFFFFFFF)
        for shift, factor in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB)):
            bits = (bits ^ (bits >> np.uint64(shift))) * np.uint64(factor)
        bits ^= bits >> np.uint64(31)
    return np.asarray((bits >> np.uint64(11)).astype(float) / 2.0**52 - 1.0)


def shift(run: Run, amount: float) -> Curve:
    """Later by frames, fractions too; no nearer to other keys than a twentieth of a frame."""
    return keys_dragged(run.curve, run.which, amount, 0.0, nearest=NEAREST)


SHAPERS: dict[str, Shaper] = {
    "before": lambda run, amount: toward(run, -amount),
    "after": toward,
    "toward": toward,
    "soften": soften,
    "exaggerate": exaggerate,
    "ease": ease,
    "tremble": tremble,
    "shift": shift,
    "default": toward_default,
}
"""By name: what they do to a run of keys by an amount."""
WHOLE = ("thin out", "fill in")
"""Shapers that change which keys there are."""


@frozen
class Shaped:
    """A shot after a shaper: what became of the chosen keys, how many keys went or came, and how far a thinner curve is off at
    most, centimetres, degrees or hundredths."""

    shot: Shot
    keys: dict[int, Floats]
    count: int = 0
    off: float = 0.0


def shaped(
    shot: Shot, figure: str, chosen: Chosen, shaper: str, amount: float, settings: Settings = Settings()
) -> Shaped:
    """Chosen keys of a figure's curves shaped by an amount. BadMotion when there is no such shaper, or nothing to work on.

    The amount of "thin out" is a tolerance in centimetres, degrees or hundredths, that of "fill in" so many frames.
    """
    if not np.isfinite(amount):
        raise BadMotion(f"keys cannot be shaped by {amount:g}.", advice="Give a finite number.")
    if shaper not in SHAPERS and shaper not in WHOLE:
        known = ", ".join((*SHAPERS, *WHOLE))
        raise BadMotion(f"there is no shaper '{shaper}'.", advice=f"Shapers: {known}.")
    if not chosen:
        raise BadMotion("no keys are chosen.", advice="Choose keys on curves, cards or lanes.")
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    if shaper == "thin out":
        return _thinned(shot, figure, chosen, amount)
    if shaper == "fill in":
        return _filled(shot, figure, chosen, settings.every if amount == 0 else amount)
    changes, keys = {}, dict[int, Floats]()
    for i, frames in chosen.items():
        own = curves[i]
        which = np.flatnonzero(np.isin(own.frames, frames))
        keys[i] = own.frames[which]
        if rig.channels[i].unit.holds and shaper != "shift":
            continue  # on or off, nothing between
        for part in np.split(which, np.flatnonzero(np.diff(which) > 1) + 1):
            run = Run(own, part, rig.channels[i].default, rig.channels[i].unit, i, shot.frame_rate, settings)
            own = SHAPERS[shaper](run, amount) if len(part) else own
        changes[i] = own
        keys[i] = own.frames[which]
    return Shaped(shot.with_curves(figure, curves.replaced(changes)), keys)


def _thinned(shot: Shot, figure: str, chosen: Chosen, tolerance: float) -> Shaped:
    rig: Rig = shot.figure(figure).rig
    curves, changes, keys = shot.curves(figure), {}, dict[int, Floats]()
    gone, off = 0, 0.0
    for i, frames in chosen.items():
        measure = SHOWN[rig.channels[i].unit]
        own, error = thinned(curves[i], frames, abs(tolerance) * measure, rig.channels[i].default)
        gone, off = gone + len(curves[i]) - len(own), max(off, error / measure)
        changes[i], keys[i] = own, np.intersect1d(own.frames, frames)
    return Shaped(shot.with_curves(figure, curves.replaced(changes)), keys, gone, off)


def _filled(shot: Shot, figure: str, chosen: Chosen, every: float) -> Shaped:
    if every < SAME_FRAME:
        raise BadMotion("keys are filled in on every so many frames.", advice="Give a number above zero.")
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    changes, keys, came = {}, dict[int, Floats](), 0
    for i, frames in chosen.items():
        own = filled(curves[i], float(frames[0]), float(frames[-1]), every, rig.channels[i].default)
        came += len(own) - len(curves[i])
        inside = (own.frames >= frames[0] - SAME_FRAME) & (own.frames <= frames[-1] + SAME_FRAME)
        changes[i], keys[i] = own, own.frames[inside]
    return Shaped(shot.with_curves(figure, curves.replaced(changes)), keys, came)
