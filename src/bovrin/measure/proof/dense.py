"""Notes on recorded motion, keyed on every frame: what a person would call a fault stands out of its noise and is seen."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import columns, special_column
from bovrin.measure.planted import spans
from bovrin.measure.proof.notes import FAR, Note
from bovrin.measure.proof.reading import SEEN, UNITS, Reading
from bovrin.measure.proof.stretches import FOR, dense_spans
from bovrin.motion.rotations import euler_matrix, rotation_vector
from bovrin.shot import ChannelRole, ControlKind, Curve, Unit

Floats = NDArray[np.float64]

TREMBLES, LEAST = 0.55, 0.01
"""The share of frames on which noise changes its sign, and what is no noise but rounding."""
OF_USUAL = 4.0
"""How many times its usual size even noise comes to."""
UNSEEN = 0.2
"""Centimetres on the figure, less than a pixel on a stage, under which nobody sees that something trembles: it does no harm."""
AGREED = 0.35
"""Centimetres to which it comes somewhere where a person would agree that a recording trembles."""
ON_END = 1.0
"""Seconds that noise lasts at least, and that stretches of it lie apart at most to be one."""
MANY = 2
"""Parts that tremble together up to which each has a note of its own."""
HIGH = np.array([1.0, -4.0, 6.0, -4.0, 1.0]) / 16.0
"""Fourth differences: of a smooth curve nothing is left, of what goes to and fro all."""
AHEAD = np.array([-1.0, 4.0, 0.0, 4.0, -1.0]) / 6.0
"""The cubic through two frames on either side, on the one between them."""
SPIKE, OUT = 1.5, 2.0
"""Centimetres by which a frame lies off its course to be noticed, and how many times farther that is than the course changes."""
NOISE = 6.0
"""How many times the usual distance from the course is no noise any more."""
TURNED, TURNS_MORE = 45.0, 4.0
"""Degrees that a joint turns on a frame when it flips, and how many times more that is than on the frames beside."""
LED_OVER = 8
"""Frames that are led over at most: the acting in more of them would be lost."""
APART = 1.0
"""Seconds within which a flip and the flip back are one fault."""


class _Stretch(NamedTuple):
    start: float
    end: float
    amount: float
    channel: int


class _Run(NamedTuple):
    start: float
    end: float
    rows: list[_Stretch]


def trembles(read: Reading, limit: float) -> Iterator[Note]:
    """Dense curves that go to and fro by less than is noticed; a note for a part and stretch, or for the whole figure where many
    parts do. In a recording it is something only if it lasts and comes to more than nothing on the figure."""
    found: dict[str, list[_Stretch]] = {}
    seen = _Seen(read) if read.recorded.any() else None
    gap = ON_END * read.shot.frame_rate if seen is not None else 0.0
    idle, worst = _not_in_force(read), 0.0
    for i, (curve, channel) in enumerate(zip(read.curves.curves, read.rig.channels, strict=True)):
        scale = 0.0 if i in idle else SEEN[channel.unit]
        for start, end, amount in _trembling(curve, scale) if scale else ():
            if amount > limit or end - start < gap:
                continue
            by = np.inf if seen is None else seen.by(i, amount, start, end)
            if by > UNSEEN:
                worst = max(worst, by)
                found.setdefault(read.part_of(i), []).append(_Stretch(start, end, amount, i))
    if worst > AGREED:
        runs = [(part, run) for part, rows in found.items() for run in _runs(rows, gap)]
        groups = [runs] if seen is not None else _overlapping(runs)
        yield from (_note(read, part, run) for group in groups for part, run in _as_one(read.name, group))


def _as_one(figure: str, group: list[tuple[str, _Run]]) -> list[tuple[str, _Run]]:
    """Runs of few parts as they are; of many, one for the whole figure."""
    if len({part for part, _ in group}) <= MANY and len(group) <= MANY:
        return group
    runs = [run for _, run in group]
    start, end = min(run.start for run in runs), max(run.end for run in runs)
    return [(figure, _Run(start, end, [row for run in runs for row in run.rows]))]


def _note(read: Reading, part: str, run: _Run) -> Note:
    most = max(run.rows, key=lambda row: row.amount)
    unit = UNITS[read.rig.channels[most.channel].unit]
    shown = f"{most.amount:.1f}°" if unit == "degrees" else f"{most.amount:.1f} {unit}"
    names = tuple(dict.fromkeys(read.rig.channel_names[row.channel] for row in run.rows))
    remedy = "calm" if read.recorded.any() else "thin out"
    words = f"{part} trembles unseen ({shown})"
    return Note("tremble", read.name, part, run.start, run.end, most.amount, unit, words, remedy, names)


def _not_in_force(read: Reading) -> set[int]:
    """The channels that turn the joints of limbs which reach all along: nothing comes of them."""
    found: set[int] = set()
    for limb in read.rig.limbs:
        switch = special_column(read.rig, limb.goal, ChannelRole.REACH)
        if switch >= 0 and (read.values[:, switch] > 0.99).all():
            own = {limb.upper, limb.middle, limb.end}
            controls = [c for c, w in enumerate(read.rig.controls) if w.kind is ControlKind.JOINT and w.joint in own]
            found |= {i for c in controls for i in read.rig.span(c)}
    return found


def _runs(rows: list[_Stretch], gap: float) -> list[_Run]:
    """Stretches of one part that lie less than a gap apart, as one."""
    found: list[_Run] = []
    for row in sorted(rows):
        if found and row.start <= found[-1].end + gap:
            found[-1] = _Run(found[-1].start, max(row.end, found[-1].end), [*found[-1].rows, row])
        else:
            found.append(_Run(row.start, row.end, [row]))
    return found


def _overlapping(runs: list[tuple[str, _Run]]) -> list[list[tuple[str, _Run]]]:
    """Runs of several parts that share frames."""
    groups: list[list[tuple[str, _Run]]] = []
    reach = -np.inf
    for part, run in sorted(runs, key=lambda own: own[1].start):
        if groups and run.start <= reach:
            groups[-1].append((part, run))
        else:
            groups.append([(part, run)])
        reach = max(reach, run.end)
    return groups


class _Seen:
    """How much the ends of a figure go to and fro from frame to frame, as it is seen."""

    def __init__(self, read: Reading) -> None:
        places, joints = read.places, read.rig.joints
        off = np.zeros(places.shape[:2])
        if len(places) >= len(HIGH):
            off[2:-2] = np.linalg.norm(_windowed(places, HIGH), axis=2)
        self._off, self._first = off, float(read.frames[0]) if len(read.frames) else 0.0
        far, self._tip = np.zeros(len(joints)), np.arange(len(joints))
        for joint in range(len(joints) - 1, 0, -1):
            above = joints[joint].parent
            away = far[joint] + float(np.linalg.norm(places[0, joint] - places[0, above])) if above >= 0 else 0.0
            if above >= 0 and away > far[above]:
                far[above], self._tip[above] = away, self._tip[joint]
        self._joints = [max(control.joint, 0) for control in read.rig.controls for _ in control.channels]
        self._arms, self._turns = far, [channel.unit is Unit.ANGLE for channel in read.rig.channels]

    def by(self, channel: int, amount: float, start: float, end: float) -> float:
        """Centimetres that the outermost joint below what a channel drives goes to and fro by it in some frames, if it does so at
        all."""
        joint = self._joints[channel]
        rows = slice(max(round(start - self._first), 0), max(round(end - self._first) + 1, 1))
        off = self._off[rows, self._tip[joint]]
        gone = 100.0 * OF_USUAL * float(np.median(off)) if len(off) else 0.0
        return min(gone, 100.0 * np.radians(amount) * float(self._arms[joint]) if self._turns[channel] else amount)


@cached_by_identity
def _trembling(curve: Curve, scale: float) -> list[tuple[float, float, float]]:
    """From where to where a dense curve trembles, and by how much, in what is seen."""
    found = []
    for own_first, own_last in dense_spans(curve):
        first, last = np.searchsorted(curve.frames, [own_first, own_last]).tolist()
        values = curve.values[first : last + 1] * scale
        rest = high_of(values)
        signs = np.sign(np.where(np.abs(rest) < LEAST / 4, 0.0, rest))
        turns = np.concatenate([[0.0], signs[1:] * signs[:-1] < 0]).astype(float)
        share = np.convolve(turns, np.ones(FOR) / FOR, "same")
        for a, b in spans(share >= TREMBLES):
            low, high = max(a - FOR // 2, 0), min(b + FOR // 2, len(values) - 1)
            start, end = curve.frames[[first + low, first + high]].tolist()
            off = np.abs(rest[a : b + 1])
            amount = float(min(off.max(), OF_USUAL * np.median(off)))  # not what goes fast for a frame
            if amount > LEAST:
                found.append((start, end, amount))
    return found


def high_of(values: Floats) -> Floats:
    """What goes to and fro from frame to frame in values (N,)."""
    return np.convolve(np.pad(values, 2, mode="edge"), HIGH, "valid")


def _windowed(values: Floats, weights: Floats) -> Floats:
    """Weighted sums of five rows each of values (F, ...): (F - 4, ...)."""
    return np.asarray(sum(w * values[n : len(values) - 4 + n] for n, w in enumerate(weights)))


def noise_of(curve: Curve, scale: float, start: float, end: float) -> float:
    """The most that a curve trembles in some frames, in what is seen; 0 where it does not."""
    return max((by for a, b, by in _trembling(curve, scale) if a <= end and start <= b), default=0.0)


# -- frames that lie off -----------------------------------------------------------------------------------------------


def spikes(read: Reading, limit: float, watched: list[int]) -> Iterator[Note]:
    """Single frames of a recording on which ends of limbs lie off their course: one note, however many ends do. limit: of kinks,
    degrees; what lies off is told unless they are told of nothing."""
    if limit >= FAR or not read.recorded.any() or len(read.frames) < 8:
        return
    off: dict[int, dict[int, float]] = {}
    for joint in watched:
        for row, by in off_course(read.places[:, joint]).items():
            if read.recorded[row]:
                off.setdefault(row, {})[joint] = by
    for row, joints in sorted(off.items()):
        worst = max(joints, key=joints.__getitem__)
        name = read.rig.joints[worst].name
        part = read.part_at(worst) if len(joints) <= MANY else read.name
        frame, by = float(read.frames[row]), joints[worst]
        words = f"{name if part != read.name else part} {by:.1f} cm off its way"
        channels = tuple(read.rig.channel_names[i] for i in _jumping(read, row))
        remedy = "smooth" if channels else None
        yield Note("kink", read.name, part, frame, frame, by, "cm", words, remedy, channels)


def off_course(places: Floats) -> dict[int, float]:
    """Rows that lie off the course of a path (F, 3) by themselves, and by how many centimetres."""
    if len(places) < 5:
        return {}
    off = np.zeros(len(places))
    off[2:-2] = np.linalg.norm(_windowed(places, AHEAD) - places[2:-2], axis=1)
    without = (places[2:] - places[:-2]) / 2
    before, after = without[1:-1] - (places[1:-3] - places[:-4]), without[1:-1] - (places[4:] - places[3:-1])
    change = np.zeros(len(places))
    change[2:-2] = np.maximum(np.linalg.norm(before, axis=1), np.linalg.norm(after, axis=1))
    usual = float(np.median(off))
    found = (off > SPIKE / 100) & (off > OUT * change) & (off > NOISE * usual)
    return {int(row): float(off[row]) * 100 for row in np.flatnonzero(found)}


def _jumping(read: Reading, row: int) -> list[int]:
    """The channels that lie off on a frame by themselves."""
    near = read.seen[row - 2 : row + 3]
    if len(near) < 5:
        return []
    course = AHEAD @ near
    off = np.abs(near[2] - course)
    change = np.maximum(
        np.abs((near[3] - near[1]) / 2 - (near[1] - near[0])), np.abs((near[3] - near[1]) / 2 - (near[4] - near[3]))
    )
    most = off > np.maximum(OUT * change, 0.05 * float(off.max(initial=0.0)))
    dense = [len(curve) > 2 and not curve.muted for curve in read.curves.curves]
    return [int(i) for i in np.flatnonzero(most & dense & (off > LEAST))]


# -- turns that jump ---------------------------------------------------------------------------------------------------


def jumps(read: Reading, limit: float) -> Iterator[Note]:
    """Joints of a recording that flip, by more than a limit, degrees: they turn farther on one frame than on any beside it; there
    and back is one note."""
    if not read.recorded.any() or len(read.frames) < 8:
        return
    for number, control in enumerate(read.rig.controls):
        cols = columns(read.rig, number, "rotate")
        own = [i for i in cols if i >= 0]
        if (
            control.kind is not ControlKind.JOINT
            or not own
            or np.abs(np.diff(read.seen[:, own], axis=0)).max() < TURNED
        ):
            continue
        turn = _turning(read, cols, control.order)
        for rows in _near(_alone(turn, read.recorded), APART * read.shot.frame_rate):
            start, end = float(read.frames[rows[0] + 1]), float(read.frames[rows[-1] + 1])
            amount = float(turn[rows].max())
            back = len(rows) > 1
            if amount > limit:
                yield _jump_note(read, number, start, end - 1 if back else start, amount, back=back)


def _jump_note(read: Reading, number: int, start: float, end: float, amount: float, *, back: bool) -> Note:
    """A flip; one that comes back soon, between frames that tell the way, can be led over."""
    inside = read.frames[0] + 2 <= start and end <= read.frames[-1] - 2
    remedy = "smooth" if back and inside and end - start < LED_OVER else None
    control = read.rig.controls[number]
    own = list(read.rig.span(number))
    part = read.part_of(own[0])
    return Note(
        "pop",
        read.name,
        part,
        start,
        end,
        amount,
        "degrees a frame",
        f"{control.name} flips by {amount:.0f}°",
        remedy,
        tuple(read.rig.channel_names[i] for i in own if len(read.curves[i])),
    )


def _turning(read: Reading, cols: list[int], order: str) -> Floats:
    """By how many degrees a control turns from each frame to the next (F - 1,)."""
    zero = np.zeros(len(read.frames))
    turns = euler_matrix(np.stack([read.values[:, i] if i >= 0 else zero for i in cols], -1), order)
    return np.asarray(np.degrees(np.linalg.norm(rotation_vector(turns[1:] @ np.swapaxes(turns[:-1], -1, -2)), axis=-1)))


def _alone(turn: Floats, recorded: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Steps that turn far, and much farther than those two beside on one side or the other."""
    padded = np.pad(turn, 2, mode="edge")
    before, after = np.maximum(padded[:-4], padded[1:-3]), np.maximum(padded[3:-1], padded[4:])
    beside = np.minimum(before, after)
    return np.flatnonzero((turn > TURNED) & (turn > TURNS_MORE * beside) & recorded[1:])


def _near(rows: NDArray[np.intp], gap: float) -> list[NDArray[np.intp]]:
    return [own for own in np.split(rows, np.flatnonzero(np.diff(rows) > gap) + 1) if len(own)]
