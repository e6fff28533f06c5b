"""What moves by rule, by script."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import NamedTuple

from bovrin.craft.following import follow as _follow
from bovrin.errors import BadMotion
from bovrin.script.basics import factor_of
from bovrin.shot import Shot
from bovrin.shot.follower import GROUND_BELOW, settings_of

EASE = 6.0
"""Frames over which a follower that counts on some frames alone is eased in and out, where nobody says."""


class ByRule(NamedTuple):
    """A follower: its name and kind, the controls it moves, what it is told on the shot's first frame (metres and degrees),
    whether it counts, and what it stays out of."""

    name: str
    kind: str
    controls: tuple[str, ...]
    settings: dict[str, float]
    on: bool
    clear_of: tuple[str, ...]


def follow(
    shot: Shot,
    figure: str,
    controls: Iterable[str],
    kind: str,
    name: str | None = None,
    start: float | None = None,
    end: float | None = None,
    ease: tuple[float, float] = (EASE, EASE),
    clear_of: Iterable[str] = (),
    **settings: float,
) -> Shot:
    """Controls that move by a rule, "swing", "bob", "turn", "noise" or "spring", on top of their keys; a chain from its first
    link on. start, end: on those frames alone, eased over so many. clear_of: joints, or "ground", springs stay out
    of. settings: as `followers` lists them, with _ for spaces; metres and degrees."""
    off = [GROUND_BELOW if joint == "ground" else joint for joint in clear_of]
    names = [controls] if isinstance(controls, str) else list(controls)
    made = _follow.follow(shot, figure, names, kind, name, clear_of=off)
    called = made.followers(figure)[-1].name
    made = _follow.told(made, figure, called, _plain(made, figure, called, settings))
    if start is None and end is None:
        return made
    return _follow.counting(made, figure, called, start, end, ease)


def _plain(shot: Shot, figure: str, name: str, settings: Mapping[str, float]) -> dict[str, float]:
    """Settings by the names of their channels, metres and radians."""
    kind, rig = _follow.follower(shot, figure, name).kind, shot.figure(figure).rig
    known = {setting.name.replace(" ", "_"): setting.name for setting in settings_of(kind)}
    found = {}
    for word, value in settings.items():
        if word not in known:
            raise BadMotion(f"a {kind} is not told '{word}'.", advice=f"It is told: {', '.join(known)}.")
        found[known[word]] = float(value) / factor_of(rig, rig.channel(f"{name}/{known[word]}"))
    return found


def followers(shot: Shot, figure: str) -> list[ByRule]:
    """What of a figure moves by rule in the shot's take, in the order in which rules are added."""
    rig = shot.figure(figure).rig

    def told(name: str) -> dict[str, float]:
        now = _follow.settings_at(shot, figure, name, shot.first)
        return {word.replace(" ", "_"): v * factor_of(rig, rig.channel(f"{name}/{word}")) for word, v in now.items()}

    return [
        ByRule(one.name, one.kind, one.controls, told(one.name), one.on, one.clear_of) for one in shot.followers(figure)
    ]


def set_follower(
    shot: Shot, figure: str, name: str, frame: float | None = None, on: bool | None = None, **settings: float
) -> Shot:
    """A follower told something else, throughout or keyed on a frame; on: whether it counts at all."""
    if on is not None:
        shot = _follow.changed(shot, figure, name, replace(_follow.follower(shot, figure, name), on=on))
    return _follow.told(shot, figure, name, _plain(shot, figure, name, settings), frame)


def let_go(shot: Shot, figure: str, name: str) -> Shot:
    """A figure without one of its followers."""
    return _follow.let_go(shot, figure, name)
