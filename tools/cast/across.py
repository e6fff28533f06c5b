"""Writes the third demo: the porter trudges across the landing, steps aside for the goat that trots by, and stands. In a second
take he carries the crate across, and the goat stays where it is."""

from __future__ import annotations

from dataclasses import replace

from bovrin import script
from bovrin.cast import FOLDER
from bovrin.craft.takes import chosen_take, copied_take, renamed_take
from bovrin.formats.figures.files import load_figure
from bovrin.shot import Marker, Shot
from tools.cast import walks

START, ASIDE, STAND, LAST = 101, 165, 232, 290
TROTS, WALKS = 135, 214
PORTER_AT = {"whole figure/across": -1.9, "whole figure/forward": 0.3}
GOAT_AT = {"whole figure/across": -2.6, "whole figure/forward": 0.5}
CRATE_AT = {"whole crate/across": 0.9, "whole crate/forward": -0.75, "whole crate/turn": 20.0}
ROUNDS = 4.0
"""Rounds of the walk with the crate."""
BEHIND, BESIDE, AFTER = 146, 190, 250
"""When the porter hears the goat, has it beside him, and looks after it."""


def across() -> Shot:
    """The shot, all clips and a few keys on top."""
    shot = Shot("Across the landing", last=float(LAST))
    for name in ("porter", "goat", "crate", "landing"):
        shot = shot.with_figure(load_figure(f"cast:{name}", name, FOLDER))
    shot = _with_clips(shot)
    shot = _porter(shot)
    shot = _goat(shot)
    shot = script.set_values(shot, "crate", START, CRATE_AT)
    markers = (Marker(float(BEHIND), float(BEHIND), "hooves"), Marker(float(ASIDE), float(ASIDE + 40), "steps aside"))
    shot = replace(renamed_take(shot, "steps aside"), markers=markers)
    return chosen_take(_with_the_crate(shot), "steps aside")


def _with_clips(shot: Shot) -> Shot:
    """What both of them do, under names."""
    sources = {"trudge": walks.trudge(), "walk home": walks.brisk(), "stand": walks.stand()}
    sources |= {"goat walk": walks.goat_walk(), "goat trot": walks.goat_trot()}
    for name, source in sources.items():
        shot = walks.kept(shot, source, name, *walks.round_of(source))
    alone = walks.alone("porter")
    aside = script.sidestep(replace(alone, clips=shot.clips), "porter", "trudge", "left", START, repeats=3.0)
    keyed = script.clips_to_keys(aside, "porter")
    shot = walks.kept(shot, walks.carry(), "carry", START, START + walks.CARRY)
    shot = walks.kept(shot, walks.carried(), "crate carried", START, START + walks.CARRY)
    made = walks.kept(shot, replace(keyed, clips=shot.clips), "trudge aside", START + 32, START + 64)
    return replace(made, clips=tuple(map(walks.turned, made.clips)))


def _porter(shot: Shot) -> Shot:
    shot = script.lay_clip(shot, "porter", "trudge", START, repeats=3.0)
    shot = script.lay_clip(shot, "porter", "trudge aside", ASIDE + 30, repeats=2.0)
    shot = script.crossfade(shot, "porter", 0, ASIDE, 16)
    shot = script.lay_clip(shot, "porter", "stand", ASIDE + 90, repeats=2.0, in_step=False)
    shot = script.crossfade(shot, "porter", 0, STAND, 18, in_step=False)
    looks = (
        (START, 0.0, 0.0, 0.0),
        (BEHIND - 8, 0.0, 0.0, 0.0),
        (BEHIND + 2, -30.0, -38.0, 4.0),
        (BEHIND + 14, -26.0, -34.0, 2.0),
        (ASIDE + 2, 0.0, 0.0, 0.0),
        (BESIDE, -14.0, -24.0, -6.0),
        (BESIDE + 22, -4.0, -12.0, -2.0),
        (AFTER, 0.0, -4.0, -3.0),
        (LAST, 0.0, -2.0, 0.0),
    )
    shot = script.set_values(shot, "porter", START, PORTER_AT)
    for frame, neck, head, up in looks:
        values = {"neck/turn": neck, "head/turn": head, "head/tilt": -up}
        shot = script.set_values(shot, "porter", frame, values)
    return script.splined(shot, "porter")


def _with_the_crate(shot: Shot) -> Shot:
    """A second take: he carries the crate, one clip each for him and for it, from one place."""
    shot = copied_take(shot, "with the crate")
    for name in ("porter", "goat", "crate"):
        shot = shot.with_lanes(name, ()).with_curves(name, shot.figure(name).no_motion())
    for name, clip in (("porter", "carry"), ("crate", "crate carried")):
        shot = script.lay_clip(shot, name, clip, START, repeats=ROUNDS)
        whole = "whole figure" if name == "porter" else "whole crate"
        at = {way.replace("whole figure", whole): value for way, value in PORTER_AT.items()}
        shot = script.set_values(shot, name, START, at)
    shot = script.set_values(shot, "goat", START, {"whole figure/across": 1.95, "whole figure/turn": -105.0})
    return replace(shot, last=START + ROUNDS * walks.CARRY)


def _goat(shot: Shot) -> Shot:
    shot = script.lay_clip(shot, "goat", "goat walk", START, repeats=2.0)
    shot = script.lay_clip(shot, "goat", "goat trot", TROTS + 20, repeats=5.0)
    shot = script.crossfade(shot, "goat", 0, TROTS, 16)
    shot = script.lay_clip(shot, "goat", "goat walk", WALKS + 20, repeats=3.0)
    shot = script.crossfade(shot, "goat", 0, WALKS, 14)
    return script.set_values(shot, "goat", START, GOAT_AT)
