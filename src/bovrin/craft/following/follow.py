"""Followers made, told, and let go of."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np

from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.errors import BadMotion, UnknownName
from bovrin.figure.solve.rest_space import rest_plan
from bovrin.motion.evaluate import curve_values
from bovrin.shot import ControlKind, Curve, Follower, HandleKind, KeyRole, Rig, Shot
from bovrin.shot.curve import NO_KEYS
from bovrin.shot.follower import WEIGHT, Setting, settings_of, with_followers
from bovrin.shot.regrown import with_channels_of

EASED = KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.IN_BETWEEN)
HELD = KeyStyle(HandleKind.STEPPED, KeyRole.IN_BETWEEN)
MOST = 60
"""Followers that a figure can have: each has a lane of its own."""


def follow(
    shot: Shot,
    figure: str,
    controls: Iterable[str],
    kind: str,
    name: str | None = None,
    settings: Mapping[str, float] | None = None,
    *,
    clear_of: Iterable[str] = (),
) -> Shot:
    """A figure of which some controls, by name, move by a rule from now on, besides what their keys say, as the last rule.

    settings: by name, in metres and radians; others are as `KINDS` has them at first. BadMotion where the controls cannot do it.
    """
    who = shot.figure(figure)
    names = tuple(dict.fromkeys(controls))
    if not names:
        raise BadMotion("nothing is named that could follow.", advice="Choose a part, or several in a row.")
    _check_able(who.rig, names, kind)
    called = _free_name(who.rig, f"{names[0]} {kind}") if name is None else name
    if len(who.followers) >= MOST:
        raise BadMotion(
            f"{figure} has {MOST} followers already.", advice="Let go of one first, or turn them into keys."
        )
    one = Follower(called, kind, names, True, tuple(clear_of))
    followers = (*who.followers, (called, kind))
    made = with_channels_of(shot, replace(who, rig=with_followers(who.rig, followers), followers=followers))
    made = having(made, figure, (*shot.followers(figure), one))
    return told(made, figure, called, settings or {})


def having(shot: Shot, figure: str, followers: Iterable[Follower]) -> Shot:
    """A shot in which a figure has these followers, in their order."""
    return replace(shot, take=shot.take.acted(figure, followers=tuple(followers)))


def _check_able(rig: Rig, names: tuple[str, ...], kind: str) -> None:
    settings_of(kind)
    plan = rest_plan(rig)
    turners, movers = set(plan.turners.tolist()), set(plan.movers.tolist())
    for name in names:
        control = rig.control(name)
        what = rig.controls[control].kind
        able = {"bob": movers, "noise": turners | movers}.get(kind, turners)
        inside = kind != "spring" or what in (ControlKind.JOINT, ControlKind.WHOLE)
        if control not in able or not inside:
            word = "moved" if kind == "bob" else "turned"
            raise BadMotion(
                f"'{name}' cannot be {word} by a {kind}.", advice="Choose a joint that can, or another kind."
            )


def _free_name(rig: Rig, wanted: str) -> str:
    taken = {control.name for control in rig.controls} | {part.name for part in rig.parts}
    return next(n for n in (wanted, *(f"{wanted} {k}" for k in range(2, 10_000))) if n not in taken)


def follower(shot: Shot, figure: str, name: str) -> Follower:
    """A follower by its name. UnknownName where the figure has none of that name in this take."""
    for one in shot.followers(figure):
        if one.name == name:
            return one
    known = ", ".join(one.name for one in shot.followers(figure)) or "none yet"
    raise UnknownName(f"{figure} has no follower '{name}'.", advice=f"Its followers: {known}.")


def told(shot: Shot, figure: str, name: str, settings: Mapping[str, float], frame: float | None = None) -> Shot:
    """A follower told something else, by the names of its settings, metres and radians: throughout, or keyed on a frame."""
    one, rig = follower(shot, figure, name), shot.figure(figure).rig
    known = {setting.name: setting for setting in settings_of(one.kind)}
    changed, curves = dict[int, Curve](), shot.curves(figure)
    for word, value in settings.items():
        if word not in known:
            raise BadMotion(f"a {one.kind} is not told '{word}'.", advice=f"It is told: {', '.join(known)}.")
        _check_value(known[word], value)
        column = rig.channel(f"{name}/{word}")
        changed[column] = _told(curves[column], shot.first, frame, float(value), known[word].first)
    return shot.with_curves(figure, curves.replaced(changed))


def _check_value(setting: Setting, value: float) -> None:
    if not np.isfinite(value) or not setting.low <= value <= setting.high:
        raise BadMotion(
            f"'{setting.name}' cannot be {value:g}.",
            advice=f"It goes from {setting.low:g} to {setting.high:g}, in metres and radians where it is a measure.",
        )


def _told(curve: Curve, first: float, frame: float | None, value: float, default: float) -> Curve:
    if frame is None:
        at = float(curve.frames[0]) if len(curve) else first
        return keyed(NO_KEYS, at, value, EASED)
    if not len(curve) and frame > first:
        curve = keyed(curve, first, default, EASED)
    return keyed(curve, frame, value, EASED)


def counting(
    shot: Shot, figure: str, name: str, start: float | None, end: float | None, ease: tuple[float, float]
) -> Shot:
    """A follower that counts from a frame to another alone, eased in and out over so many frames; None: from or to anywhere."""
    if start is not None and end is not None and not end > start:
        raise BadMotion(f"it would end ({end:g}) before it begins ({start:g}).")
    if min(ease) < 0.0:
        raise BadMotion("it cannot be eased over less than no frames.")
    column = shot.figure(figure).rig.channel(f"{name}/{WEIGHT}")
    curve = NO_KEYS
    if start is not None:
        begin = start if ease[0] else start - 1.0
        curve = keyed(curve, begin, 0.0, EASED if ease[0] else HELD)
        curve = keyed(curve, start + ease[0], 1.0, EASED)
    if end is not None:
        curve = keyed(curve, end - ease[1], 1.0, EASED if ease[1] else HELD)
        curve = keyed(curve, end if ease[1] else end + 1.0, 0.0, EASED)
    return shot.with_curves(figure, shot.curves(figure).replaced({column: curve}))


def changed(shot: Shot, figure: str, name: str, new: Follower) -> Shot:
    """A figure in which a follower is another one of the same name and kind: on or off, other controls."""
    one = follower(shot, figure, name)
    if (new.name, new.kind) != (one.name, one.kind):
        raise BadMotion("a follower keeps its name and kind.")
    _check_able(shot.figure(figure).rig, new.controls, new.kind)
    return having(shot, figure, [new if other is one else other for other in shot.followers(figure)])


def ordered(shot: Shot, figure: str, name: str, place: int) -> Shot:
    """A follower put at a place, from 0 on, among those of its figure."""
    one = follower(shot, figure, name)
    others = [other for other in shot.followers(figure) if other is not one]
    others.insert(max(min(place, len(others)), 0), one)
    return having(shot, figure, others)


def let_go(shot: Shot, figure: str, name: str) -> Shot:
    """A figure without a follower in this take; its channels go when no take has it."""
    return unused_gone(forgotten(shot, figure, [follower(shot, figure, name)]), figure)


def forgotten(shot: Shot, figure: str, some: Iterable[Follower]) -> Shot:
    """A figure without some of its followers in this take, their channels still there without keys."""
    gone, rig = {one.name for one in some}, shot.figure(figure).rig
    columns = [c for name in gone for c in rig.span(rig.control(name))]
    made = shot.with_curves(figure, shot.curves(figure).replaced(dict.fromkeys(columns, NO_KEYS)))
    return having(made, figure, [one for one in shot.followers(figure) if one.name not in gone])


def unused_gone(shot: Shot, figure: str) -> Shot:
    """A figure without the channels of followers that no take has any more."""
    who = shot.figure(figure)
    used = {one.name for take in shot.all_takes for one in take.of(figure).followers}
    left = tuple(row for row in who.followers if row[0] in used)
    if left == who.followers:
        return shot
    return with_channels_of(shot, replace(who, rig=with_followers(who.rig, left), followers=left))


def settings_at(shot: Shot, figure: str, name: str, frame: float) -> dict[str, float]:
    """What a follower is told on a frame, metres and radians."""
    one, rig, curves = follower(shot, figure, name), shot.figure(figure).rig, shot.curves(figure)
    found = {}
    for setting in settings_of(one.kind):
        column = rig.channel(f"{name}/{setting.name}")
        found[setting.name] = float(curve_values(curves[column], [frame], setting.first)[0])
    return found
