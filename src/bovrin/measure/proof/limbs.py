"""Notes on paths and limbs: arcs that kink, goals out of reach, joints that snap straight."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from bovrin.measure.kinks import kinks_of, turns_of
from bovrin.measure.planted import spans
from bovrin.measure.proof.dense import spikes
from bovrin.measure.proof.notes import Note
from bovrin.measure.proof.reading import Reading
from bovrin.shot import ChannelRole, Rig

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

STRAIGHT = 15.0
"""Degrees of bend below which a limb is straight."""
BESIDE = 2


def kinks(read: Reading, limit: float) -> Iterator[Note]:
    """Frames on which the path of a limb's end or of the head kinks, off the contacts of feet."""
    watched = _watched(read)
    yield from spikes(read, limit, watched)
    for joint in watched:
        places = read.places[:, joint]
        turns = np.degrees(turns_of(places))
        foot = any(limb.foot is not None and joint == limb.end for limb in read.rig.limbs)
        rolls = _rolls(read, joint)
        for row in kinks_of(places):
            around = slice(max(row - BESIDE, 0), row + BESIDE + 1)
            if (
                turns[row] <= limit
                or read.recorded[row]
                or not read.eased[around].all()
                or (foot and (read.contacts[around].any() or rolls[row]))
            ):
                continue
            name = read.rig.joints[joint].name
            yield Note(
                "kink",
                read.name,
                read.part_at(joint),
                float(read.frames[row]),
                float(read.frames[row]),
                float(turns[row]),
                "degrees",
                f"{name} kinks by {turns[row]:.0f}°",
                "mend",
                (name,),
            )


def _rolls(read: Reading, joint: int) -> Bools:
    """Frames (F,) on which the end of a leg is carried back by the ground that goes by under it, and rolls."""
    told = [read.told_down.get(limb.name) for limb in read.rig.limbs if limb.end == joint and limb.foot is not None]
    on_ground = [down for down in told if down is not None and read.on_spot]
    return on_ground[0] if on_ground else np.zeros(len(read.frames), bool)


def _watched(read: Reading) -> list[int]:
    """The ends of limbs, and of the chains that hang on what carries limbs: heads and tails."""
    rig = read.rig
    limbs = {joint for limb in rig.limbs for joint in read.below(limb.upper)}
    carriers = {0}
    for limb in rig.limbs:
        at = rig.joints[limb.upper].parent
        while at >= 0:
            carriers.add(at)
            at = rig.joints[at].parent
    driven = {control.joint for control in rig.controls}
    found = {limb.end for limb in rig.limbs}
    for joint, one in enumerate(rig.joints):
        if one.parent in carriers and joint in driven and joint not in carriers | limbs:
            end, length = _chain_end(read, joint, driven)
            if length > 1:
                found.add(end)
    return sorted(found)


def _chain_end(read: Reading, joint: int, driven: set[int]) -> tuple[int, int]:
    """The last joint of the chain that begins with one, and of how many joints the chain is: where it branches, it ends."""
    length = 1
    while True:
        below = [j for j, one in enumerate(read.rig.joints) if one.parent == joint and j in driven]
        if len(below) != 1:
            return joint, length
        joint, length = below[0], length + 1


def locked(read: Reading, limit: float) -> Iterator[Note]:
    """Limbs that do not come to their goals: pulled straight, they hang behind."""
    for number, limb in enumerate(read.rig.limbs):
        switch = switch_of(read.rig, number)
        if switch is None:
            continue
        off = np.linalg.norm(read.solved.goals[:, number] - read.places[:, limb.end], axis=1) * 100
        off = np.where((read.values[:, switch] > 0.99) & read.eased, off, 0.0)
        for first, last in spans(off > limit):
            amount = float(off[first : last + 1].max())
            yield Note(
                "locked",
                read.name,
                read.part_at(limb.end),
                *read.span(np.arange(first, last + 1)),
                amount,
                "cm",
                f"{limb.name} is {amount:.1f} cm too short",
                "bend",
                (limb.name,),
            )


def switch_of(rig: Rig, number: int) -> int | None:
    """The channel that says whether a limb reaches for its goal; None where it never does."""
    return next((i for i in rig.span(rig.limbs[number].goal) if rig.channels[i].technical == ChannelRole.REACH), None)


def snaps(read: Reading, limit: float) -> Iterator[Note]:
    """Limbs that come to be straight at such a pace that they stop on one frame, or leave it so."""
    for limb in read.rig.limbs:
        bend = bend_of(read.places, limb.upper, limb.middle, limb.end)
        if len(bend) < 3:
            continue
        jump = np.zeros(len(bend))
        jump[1:-1] = np.abs(np.diff(bend, 2))
        near = np.minimum(np.minimum(bend, np.roll(bend, 1)), np.roll(bend, -1)) < STRAIGHT
        around = read.eased & np.roll(read.eased, 1) & np.roll(read.eased, -1)
        for first, last in spans((jump > limit) & near & around):
            row = first + int(jump[first : last + 1].argmax())
            yield Note(
                "snap",
                read.name,
                read.part_at(limb.end),
                *read.span(np.arange(first, last + 1)),
                float(jump[row]),
                "degrees",
                f"{read.rig.joints[limb.middle].name} snaps by {jump[row]:.0f}°",
                "bend",
                (limb.name,),
            )


def bend_of(places: Floats, upper: int, middle: int, end: int) -> Floats:
    """By how many degrees a limb is bent on each frame (F,); 0: straight. places: (F, J, 3)."""
    a, b = places[:, middle] - places[:, upper], places[:, end] - places[:, middle]
    size = np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
    return np.asarray(np.degrees(np.arccos(np.clip((a * b).sum(1) / np.maximum(size, 1e-12), -1.0, 1.0))))
