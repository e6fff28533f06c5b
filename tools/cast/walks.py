"""The cast's cycles: the porter's trudge, a quicker walk, his stand, and the goat's walk and trot, acted on a laid-out gait."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bovrin import script
from bovrin.cast import FOLDER
from bovrin.formats.figures.files import load_figure
from bovrin.shot import Clip, Curve, EndKind, Key, Shot
from bovrin.shot.curve import NO_KEYS

Wave = tuple[float, float, int, float]
"""Mean, size, how often a round, and at which share of a round it is most."""


def alone(name: str) -> Shot:
    """A shot with one figure of the cast."""
    return Shot(name).with_figure(load_figure(f"cast:{name}", name, FOLDER))


def acted(shot: Shot, figure: str, waves: dict[str, Wave]) -> Shot:
    """A cycle in which channels go up and down on its poses; its second half is its first mirrored."""
    cycle = shot.cycle(figure)
    assert cycle is not None
    poses = [f for f in script.keys(shot, figure, "hips/up") if cycle.first <= f <= cycle.last]
    for frame in poses:
        phase = (frame - cycle.first) / cycle.length
        values = {
            channel: mean + size * float(np.cos(2 * np.pi * beats * (phase - at)))
            for channel, (mean, size, beats, at) in waves.items()
        }
        shot = script.set_values(shot, figure, frame, values)
    return script.mirror_half(shot, figure, cycle.first, cycle.last) if cycle.mirrored else shot


def ways(shot: Shot, figure: str, **amounts: float) -> Shot:
    """A cycle with so much of each way of the body."""
    for name, amount in amounts.items():
        shot = script.set_body_way(shot, figure, name.replace("_", " "), amount)
    return shot


def lowered(shot: Shot, figure: str, by: float) -> Shot:
    """A cycle with softer legs: the hips lower by so many metres."""
    for frame in script.keys(shot, figure, "hips/up"):
        now = script.values(shot, figure, frame)["hips/up"]
        shot = script.set_values(shot, figure, frame, {"hips/up": now - by})
    return shot


def turned(clip: Clip) -> Clip:
    """A clip that goes the way of +x instead of +z."""
    whole = next(name.split("/")[0] for name in clip.curves if name.startswith("whole "))
    across, forward = (clip.curves.get(f"{whole}/{way}", NO_KEYS) for way in ("across", "forward"))
    back = across.changed(values=-across.values, in_slope=-across.in_slope, out_slope=-across.out_slope)
    still = Curve.from_keys([Key(0.0, 0.0), Key(clip.length, 0.0)]).ending(EndKind.ROUND, EndKind.ROUND)
    facing = still.changed(values=still.values + np.pi / 2)
    curves = {
        f"{whole}/across": forward if len(forward) else still,
        f"{whole}/forward": back if len(across) else still,
        f"{whole}/turn": facing,
    }
    neutral = {**clip.neutral, f"{whole}/turn": float(np.pi / 2)}
    return replace(clip, curves={**clip.curves, **curves}, neutral=neutral)


def _hands(curl: float) -> dict[str, Wave]:
    """Fingers that hang."""
    found: dict[str, Wave] = {}
    for side in ("left", "right"):
        for finger in ("index", "middle", "little", "thumb"):
            share = 0.5 if finger == "thumb" else 1.0
            found[f"{side} {finger}/curl"] = (curl * share, 0.0, 1, 0.0)
            found[f"{side} {finger} tip/curl"] = (curl * 0.8 * share, 0.0, 1, 0.0)
    return found


def _arms(lower: float, bend: float, swing: float, late: float) -> dict[str, Wave]:
    """Arms that hang nearer to the body than at rest, elbows bent, hands that come late."""
    found: dict[str, Wave] = {}
    for side, sign, at in (("left", 1.0, 0.0), ("right", -1.0, 0.5)):
        found[f"{side} upper arm/roll"] = (-sign * lower, sign * 2.0, 2, 0.3)
        found[f"{side} forearm/tilt"] = (-bend, swing * 0.45, 1, at + late)
        found[f"{side} wrist/tilt"] = (-4.0, swing * 0.5, 1, at + 2 * late)
        found[f"{side} shoulder/roll"] = (-sign * 3.0, sign * 1.5, 2, 0.2)
    return found


def trudge() -> Shot:
    """The porter after a long day: 32 frames, heavy on each foot, the head low and steady, hands and bobble late."""
    shot = script.new_cycle(alone("porter"), "porter", "walk", 32, 0.74)
    shot = ways(shot, "porter", twist=7.0, weight=4.2, bounce=1.6, sway=2.4, lean=7.0, arm_swing=15.0)
    waves: dict[str, Wave] = {
        "spine/tilt": (4.0, 1.2, 2, 0.16),
        "chest/tilt": (4.5, 1.6, 2, 0.2),
        "neck/turn": (0.0, -5.2, 1, 0.0),
        "head/turn": (0.0, -2.6, 1, 0.03),
        "neck/tilt": (5.0, 2.0, 2, 0.2),
        "head/tilt": (-4.0, -2.4, 2, 0.17),
        "neck/roll": (0.0, -1.6, 1, 0.22),
        "bobble/tilt": (0.0, 12.0, 2, 0.28),
        "bobble/roll": (0.0, 6.0, 1, 0.4),
        "left lid/close": (30.0, 0.0, 1, 0.0),
        "right lid/close": (30.0, 0.0, 1, 0.0),
        "left brow/roll": (-7.0, 0.0, 1, 0.0),
        "right brow/roll": (7.0, 0.0, 1, 0.0),
        "mouth/smile": (-0.25, 0.0, 1, 0.0),
        **_arms(14.0, 16.0, 15.0, 0.07),
        **_hands(24.0),
    }
    return acted(lowered(shot, "porter", 0.008), "porter", waves)


def brisk() -> Shot:
    """The porter on his way home: 24 frames, upright, on springy feet."""
    shot = script.new_cycle(alone("porter"), "porter", "walk", 24, 0.9)
    shot = ways(shot, "porter", twist=9.0, weight=2.4, bounce=2.6, sway=1.4, lean=2.5, arm_swing=26.0)
    waves: dict[str, Wave] = {
        "neck/turn": (0.0, -6.0, 1, 0.0),
        "head/turn": (0.0, -3.2, 1, 0.02),
        "head/tilt": (-3.0, -1.6, 2, 0.16),
        "bobble/tilt": (0.0, 18.0, 2, 0.3),
        "bobble/roll": (0.0, 8.0, 1, 0.42),
        "left brow/up": (0.006, 0.0, 1, 0.0),
        "right brow/up": (0.006, 0.0, 1, 0.0),
        "mouth/smile": (0.5, 0.0, 1, 0.0),
        **_arms(14.0, 26.0, 26.0, 0.06),
        **_hands(30.0),
    }
    return acted(shot, "porter", waves)


CARRY, CARRIED = 32, 0.62
"""Frames of a round with the crate, and its stride, metres."""
BEFORE, OVER = 0.35, 0.592
"""How far before him he has the crate, and how high, metres."""
HANDS_UP, GRIP = 0.148, (0.29, 0.2)
"""How high his hands go, and where they hold: so far aside and so far over its bottom, metres."""
GIVES: Wave = (0.0, 0.011, 2, 0.42)
"""How the crate goes up and down: less than he does, and after him."""
ROCKS: Wave = (0.0, 1.6, 1, 0.06)
"""How it rocks from side to side, degrees: toward the foot that bears."""


def carry() -> Shot:
    """The porter with the crate: leaning against its weight, knees soft, steps short and wide, heavy on each foot."""
    shot = script.new_cycle(alone("porter"), "porter", "walk", CARRY, CARRIED)
    shot = ways(shot, "porter", twist=3.5, weight=3.4, bounce=1.0, sway=3.6)
    waves: dict[str, Wave] = {
        "hips/tilt": (-5.0, 1.0, 2, 0.2),
        "spine/tilt": (-9.0, 1.2, 2, 0.16),
        "chest/tilt": (-6.0, 1.4, 2, 0.22),
        "neck/tilt": (6.0, 1.4, 2, 0.2),
        "head/tilt": (9.0, -1.6, 2, 0.17),
        "head/turn": (0.0, -2.0, 1, 0.03),
        "neck/turn": (0.0, -3.0, 1, 0.0),
        "neck/roll": (0.0, -1.6, 1, 0.2),
        "bobble/tilt": (4.0, 11.0, 2, 0.28),
        "bobble/roll": (0.0, 6.0, 1, 0.4),
        "left lid/close": (38.0, 0.0, 1, 0.0),
        "right lid/close": (38.0, 0.0, 1, 0.0),
        "left brow/roll": (5.0, 0.0, 1, 0.0),
        "right brow/roll": (-5.0, 0.0, 1, 0.0),
        "mouth/wide": (-0.2, 0.0, 1, 0.0),
        "mouth/smile": (-0.3, 0.0, 1, 0.0),
        "left knee/across": (0.1, 0.0, 1, 0.0),
        "right knee/across": (-0.1, 0.0, 1, 0.0),
        **_hands(46.0),
    }
    for side, sign in (("left", 1.0), ("right", -1.0)):
        waves |= {
            f"{side} hand/reach": (1.0, 0.0, 1, 0.0),
            f"{side} hand/forward": (0.27, 0.0, 1, 0.0),
            f"{side} hand/tilt": (-58.0, 0.0, 1, 0.0),
            f"{side} hand/roll": (-sign * 18.0, 0.0, 1, 0.0),
        }
    shot = acted(lowered(shot, "porter", 0.028), "porter", waves)
    return _hands_on_the_crate(shot)


def _hands_on_the_crate(shot: Shot) -> Shot:
    """Hands that go as the crate does."""
    cycle = shot.cycle("porter")
    assert cycle is not None
    for frame in (f for f in script.keys(shot, "porter", "hips/up") if cycle.first <= f <= cycle.last):
        up, side = (_at(wave, (frame - cycle.first) / cycle.length) for wave in (GIVES, ROCKS))
        values = {}
        for name, sign in (("left hand", 1.0), ("right hand", -1.0)):
            place = np.exp(1j * np.radians(side)) * complex(sign * GRIP[0], GRIP[1]) - complex(sign * GRIP[0], GRIP[1])
            values[f"{name}/across"] = -sign * 0.118 + place.real
            values[f"{name}/up"] = HANDS_UP + up + place.imag
        shot = script.set_values(shot, "porter", frame, values)
    return shot


def _at(wave: Wave, phase: float) -> float:
    mean, size, beats, at = wave
    return mean + size * float(np.cos(2 * np.pi * beats * (phase - at)))


def carried() -> Shot:
    """The crate as he carries it."""
    shot = alone("crate")
    for n in range(9):
        phase = n / 8
        values = {
            "whole crate/forward": BEFORE + CARRIED * phase,
            "whole crate/up": OVER + _at(GIVES, phase),
            "whole crate/roll": _at(ROCKS, phase),
            "whole crate/tilt": -3.0,
        }
        shot = script.set_values(shot, "crate", 101.0 + CARRY * phase, values)
    return script.close_loop(script.splined(shot, "crate"), "crate", 101, 101 + CARRY)


def stand() -> Shot:
    """The porter at rest: 48 frames of breath."""
    shot = alone("porter")
    base = {f"{side} {limb}/reach": on for side in ("left", "right") for limb, on in (("hand", 0.0), ("foot", 1.0))}
    still = {channel: mean for channel, (mean, _, _, _) in {**_arms(14.0, 14.0, 0.0, 0.0), **_hands(22.0)}.items()}
    feet = {
        f"{side} foot/{way}": 0.0 for side in ("left", "right") for way in ("forward", "across", "up", "heel", "ball")
    }
    for frame, breath in ((101, 0.0), (121, 1.0), (149, 0.0)):
        values = {
            "hips/up": -0.012 + 0.002 * breath,
            "chest/tilt": 3.0 - 1.8 * breath,
            "neck/tilt": 3.0 + 0.8 * breath,
            "head/tilt": -2.0 + 0.8 * breath,
            "left shoulder/roll": -3.0 - 1.4 * breath,
            "right shoulder/roll": 3.0 + 1.4 * breath,
            "whole figure/forward": 0.0,
            "whole figure/across": 0.0,
            "whole figure/turn": 0.0,
        }
        shot = script.set_values(shot, "porter", frame, {**base, **still, **feet, **values})
    shot = script.close_loop(script.splined(shot, "porter"), "porter", 101, 149)
    for leg in ("left leg", "right leg"):
        shot = script.set_contacts(shot, "porter", leg, [(101, 149)])
    return shot


def _goat(shot: Shot, nod: float, ears: float, tail: float, late: float) -> Shot:
    beats = 2
    waves: dict[str, Wave] = {
        "neck/tilt": (4.0, nod, beats, 0.1),
        "upper neck/tilt": (0.0, nod * 0.6, beats, 0.1 + late),
        "head/tilt": (2.0, -nod * 1.1, beats, 0.1 + late),
        "left ear/roll": (0.0, ears, beats, 0.2 + late),
        "right ear/roll": (0.0, -ears, beats, 0.2 + late),
        "tail/turn": (0.0, tail, 1, 0.1),
        "tail tip/turn": (0.0, tail * 1.3, 1, 0.22),
        "beard/tilt": (0.0, 9.0, beats, 0.3),
    }
    return acted(lowered(shot, "goat", 0.022), "goat", waves)


def goat_walk() -> Shot:
    """The goat on its way: 32 frames, each foot by itself."""
    shot = script.new_cycle(alone("goat"), "goat", "walk", 32, 0.62)
    shot = ways(shot, "goat", twist=4.0, weight=0.8, bounce=0.8, sway=0.8)
    return _goat(shot, 4.0, 5.0, 9.0, 0.04)


def goat_trot() -> Shot:
    """The goat trots: 18 frames, diagonal feet together, in the air between."""
    shot = script.new_cycle(alone("goat"), "goat", "trot", 18, 0.78)
    shot = ways(shot, "goat", twist=3.0, weight=1.6, bounce=2.4, sway=0.4)
    return _goat(shot, 3.0, 12.0, 12.0, 0.05)


def kept(shot: Shot, source: Shot, name: str, start: float, end: float) -> Shot:
    """A shot with a clip of another one's only figure."""
    (figure,) = source.cast
    made = script.keep_clip(replace(source, clips=shot.clips), figure.name, name, start, end, loop=True)
    return replace(shot, clips=made.clips)


def round_of(shot: Shot) -> tuple[float, float]:
    """The first and the last frame of the only figure's cycle."""
    cycle = shot.cycle(shot.cast[0].name)
    assert cycle is not None
    return cycle.first, cycle.last
