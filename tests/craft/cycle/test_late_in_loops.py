"""Parts come late in loops too, round the seam, halves mirrored or not: the loop closes in value and slope, no more moves."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from tests.cycles import cycle_of, lively, off_mirror, places

from bovrin import script as bv
from bovrin.craft.cycle.half import kept_in_step
from bovrin.shot import Shot

LOOPS = {
    "porter": (("walk", 24, 0.8), "head", "left arm"),
    "goat": (("trot", 16, 0.6), "tail", "left fore leg"),
}
EVERY = np.arange(101.0, 125.0, 0.25)


@cache
def loop(name: str, mirrored: bool) -> Shot:
    shot = lively(cycle_of(name, *LOOPS[name][0]), name)
    cycle = shot.cycle(name)
    assert cycle is not None
    return shot.with_cycle(name, replace(cycle, mirrored=mirrored))


def late(shot: Shot, name: str, by: float, parts: list[str]) -> Shot:
    """As the window does it: what was done to one key of a seam is done to its other."""
    return kept_in_step(shot, bv.slide(shot, name, by, parts))


def length(shot: Shot, name: str) -> float:
    cycle = shot.cycle(name)
    assert cycle is not None
    return cycle.length


def open_by(shot: Shot, name: str) -> float:
    """Metres by which a round is not the one before it, places beside the figure and steps of an eighth of a frame."""
    span = length(shot, name)
    frames = np.arange(101.0, 101.0 + span, 0.125)
    one, two = places(shot, name, frames), places(shot, name, frames + span)
    gone = two - one
    return float(np.ptp(gone, axis=(0, 1)).max())


def rough_by(shot: Shot, name: str) -> float:
    """The largest step of a step, metres in an eighth of a frame twice, over two rounds."""
    at = places(shot, name, np.arange(101.0, 101.0 + 2 * length(shot, name), 0.125))
    return float(np.abs(np.diff(at, 2, axis=0)).max())


def curves(shot: Shot, name: str) -> dict[str, tuple[bytes, ...]]:
    rig = shot.figure(name).rig
    rows = zip(rig.channel_names, shot.curves(name).curves, strict=True)
    return {channel: (c.frames.tobytes(), c.values.tobytes(), c.in_slope.tobytes()) for channel, c in rows}


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("by", [0.5, 1.0, 2.0, 3.0, -1.5])
@pytest.mark.parametrize("name", LOOPS)
def test_a_late_part_goes_round(name: str, by: float, mirrored: bool) -> None:
    shot = loop(name, mirrored)
    for part in LOOPS[name][1:]:
        made = late(shot, name, by, [part])
        assert made.cycle(name) == shot.cycle(name)
        assert (made.first, made.last) == (shot.first, shot.last), "a round is played, no frame more"
        assert open_by(made, name) < 1e-9
        if part == LOOPS[name][1]:  # a leg that comes early may be too short for its step
            assert rough_by(made, name) < 1.5 * rough_by(shot, name)
        own = set(bv.channels(shot, name, part))
        before, after = (bv.values(s, name, f) for s, f in ((shot, 107.25), (made, 107.25 + by)))
        assert all(after[c] == pytest.approx(before[c], abs=1e-9) for c in own)
        others = own | {c.replace("left", "right") for c in own}
        was, now = curves(shot, name), curves(made, name)
        assert {c for c in was if was[c] != now[c]} <= (others if mirrored else own)
        if mirrored:
            span = length(shot, name)
            assert off_mirror(made, name, 101, 101 + span) == pytest.approx(
                off_mirror(shot, name, 101, 101 + span), abs=1e-6
            )
        assert curves(late(made, name, -by, [part]), name) == was, "and back is as it was"


AFTER = {
    "a value": lambda s, n: bv.set_values(s, n, 107.0, {bv.channels(s, n, LOOPS[n][1])[0]: 9.0}),
    "held longer": lambda s, n: bv.lengthen(s, n, 101.0, 2.0),
    "a body slider": lambda s, n: bv.set_body_way(s, n, "bounce", 4.0),
    "planted": lambda s, n: bv.plant(s, n),
    "halves mirrored": lambda s, n: bv.mirror_half(s, n, 101.0, 101.0 + length(s, n)),
    "closed again": lambda s, n: bv.close_loop(s, n, 101.0, 101.0 + length(s, n)),
    "on the spot": lambda s, n: bv.on_the_spot(s, n),
    "later still": lambda s, n: bv.slide(s, n, 1.0, [LOOPS[n][1]]),
}


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("what", AFTER)
@pytest.mark.parametrize("name", LOOPS)
def test_and_another_command_leaves_a_loop(name: str, what: str, mirrored: bool) -> None:
    shot = late(loop(name, mirrored), name, 2.0, [LOOPS[name][1]])
    made = kept_in_step(shot, AFTER[what](shot, name))
    assert open_by(made, name) < 1e-6
    assert length(made, name) == length(shot, name) + (2.0 if what == "held longer" else 0.0)


@pytest.mark.parametrize("name", LOOPS)
def test_kept_as_a_clip_and_laid_it_comes_as_late(name: str) -> None:
    shot = late(loop(name, False), name, 2.0, [LOOPS[name][1]])
    span = length(shot, name)
    kept = bv.keep_clip(shot, name, "go", 101.0, 101.0 + span, loop=True)
    laid = bv.lay_clip(kept, name, "go", 101.0, repeats=3.0)
    frames = np.arange(101.0, 101.0 + 2.9 * span, 0.5)
    assert np.abs(places(laid, name, frames) - places(shot, name, frames)).max() < 1e-6
