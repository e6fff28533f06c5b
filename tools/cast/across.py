"""Writes the third demo: the porter trudges across the landing, steps aside for the goat that trots by, and stands."""

from __future__ import annotations

from dataclasses import replace

from bovrin import script
from bovrin.cast import FOLDER
from bovrin.formats.figure_files import load_figure
from bovrin.shot import Marker, Shot
from tools.cast import walks

START, ASIDE, STAND, LAST = 101, 165, 232, 290
TROTS, WALKS = 135, 214
PORTER_AT = {"whole figure/across": -1.9, "whole figure/forward": 0.3}
GOAT_AT = {"whole figure/across": -2.6, "whole figure/forward": 0.5}
BEHIND, BESIDE, AFTER = 146, 190, 250
"""When the porter hears the goat, has it beside him, and looks after it."""


def across() -> Shot:
    """The shot, all clips and a few keys on top."""
    shot = Shot("Across the landing", last=float(LAST))
    for name in ("porter", "goat", "landing"):
        shot = shot.with_figure(load_figure(f"cast:{name}", name, FOLDER))
    shot = _with_clips(shot)
    shot = _porter(shot)
    shot = _goat(shot)
    markers = (Marker(float(BEHIND), float(BEHIND), "hooves"), Marker(float(ASIDE), float(ASIDE + 40), "steps aside"))
    return replace(shot, markers=markers)


def _with_clips(shot: Shot) -> Shot:
    """What both of them do, under names."""
    sources = {"trudge": walks.trudge(), "walk home": walks.brisk(), "stand": walks.stand()}
    sources |= {"goat walk": walks.goat_walk(), "goat trot": walks.goat_trot()}
    for name, source in sources.items():
        shot = walks.kept(shot, source, name, *walks.round_of(source))
    alone = walks.alone("porter")
    aside = script.sidestep(replace(alone, clips=shot.clips), "porter", "trudge", "left", START, repeats=3.0)
    keyed = script.clips_to_keys(aside, "porter")
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


def _goat(shot: Shot) -> Shot:
    shot = script.lay_clip(shot, "goat", "goat walk", START, repeats=2.0)
    shot = script.lay_clip(shot, "goat", "goat trot", TROTS + 20, repeats=5.0)
    shot = script.crossfade(shot, "goat", 0, TROTS, 16)
    shot = script.lay_clip(shot, "goat", "goat walk", WALKS + 20, repeats=3.0)
    shot = script.crossfade(shot, "goat", 0, WALKS, 14)
    return script.set_values(shot, "goat", START, GOAT_AT)
