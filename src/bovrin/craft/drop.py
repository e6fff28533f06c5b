"""A drop: a prop falls from a height, bounces lower and lower, goes its way forward, and comes to rest, as ordinary keys."""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.fitted_spans import fitted
from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.errors import BadMotion
from bovrin.figure.ground.skin import skinned
from bovrin.figure.ground.under import under_of
from bovrin.figure.solve.fit import continuous
from bovrin.figure.solve.plan import columns, special_column
from bovrin.figure.solve.rest_space import own_channels, put_turn
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import channel_values
from bovrin.motion.handles import raised
from bovrin.motion.rotations import about, euler_matrix
from bovrin.shot import ChannelRole, ControlKind, Curve, CurveSet, Figure, HandleKind, KeyRole, Shot
from bovrin.shot.checks import check_range

Floats = NDArray[np.float64]

GRAVITY = 9.81
NEAR = 0.5
"""The share of the usual tolerance within which keys lead it."""
LOWEST, MOST = 0.003, 40
"""Metres: a top lower than that is none any more; and how many bounces there are at most."""
ROLLS = 0.3
"""How strongly what has come down is slowed as it rolls, against what it loses at a contact."""
FINE = 8
STILL = 1e-9


class Drop(NamedTuple):
    """From which height it falls (metres, its lowest point over the ground); which share of its speed it has upward after a
    contact; how fast it goes forward (metres a second), to where (radians from the world's z to its x), and the share of that
    which a contact takes; how far it turns about its way, 1 as if it rolled; and by what share it is squashed at the first
    contact, less at slower ones."""

    height: float = 1.0
    bounciness: float = 0.6
    speed: float = 0.0
    heading: float = 0.0
    friction: float = 0.2
    turn: float = 0.0
    squash: float = 0.0


class _Path(NamedTuple):
    """Frames of the fall's beginning, contacts (N,) and rest; how fast it goes on each stretch (N + 1,), metres a frame."""

    start: float
    contacts: Floats
    rest: float
    ways: Floats


def drop(shot: Shot, figure: str, contact: float, how: Drop = Drop(), gravity: float = GRAVITY) -> Shot:
    """The shot in which a figure touches the ground first on a frame, where it stands on it, having fallen from a height, and
    bounces on until it rests. Contacts lie on whole frames; between them it flies on true parabolas.

    BadMotion where numbers make no drop, it would begin before the shot does, or the figure cannot be moved as a whole.
    """
    _check(how, gravity)
    who = shot.figure(figure)
    control = _whole(who)
    if any(one.control == who.rig.controls[control].name for one in shot.attachments(figure)):
        raise BadMotion(f"{figure} hangs on something.", advice="Let go of it first: what hangs does not fall.")
    contact = float(round(contact))
    path = _path(shot, contact, how, gravity)
    check_range("the drop", path.start, path.rest)
    if path.start < shot.first:
        raise BadMotion(
            f"{figure} would have to begin to fall on frame {path.start:g}, before the shot does.",
            advice="Let it touch later, or fall from lower.",
        )
    return _squashed(_led(shot, who, control, contact, path, how, gravity), who, control, path, how)


def _check(how: Drop, gravity: float) -> None:
    if not all(np.isfinite(x) for x in (*how, gravity)) or gravity <= 0 or not 0 < how.height <= 1000:
        raise BadMotion("it cannot fall like that.", advice="Give a height over 0, up to 1000 m, and a gravity over 0.")
    if not 0 <= how.bounciness <= 0.95:
        raise BadMotion(
            f"with a bounciness of {how.bounciness:g} it never rests.", advice="Say a share from 0 to 0.95."
        )
    if not (0 <= how.friction <= 1 and 0 <= how.squash <= 0.9 and 0 <= how.speed <= 1000 and abs(how.turn) <= 100):
        raise BadMotion(
            "friction, squash, speed or turn cannot be that much.", advice="Friction and squash are shares."
        )
    if how.turn and how.squash:
        raise BadMotion(
            "what turns over cannot be squashed as well: its squash turns with it.", advice="Take one of the two."
        )


def _whole(who: Figure) -> int:
    for control, what in enumerate(who.rig.controls):
        if what.kind is ControlKind.WHOLE and min(columns(who.rig, control, "translate")) >= 0:
            return control
    raise BadMotion(f"{who.name} cannot be moved as a whole.", advice="Give its root channels to move, in its set-up.")


def _path(shot: Shot, contact: float, how: Drop, gravity: float) -> _Path:
    rate = shot.frame_rate
    fall = max(float(round(np.sqrt(2 * how.height / gravity) * rate)), 1.0)
    upward = np.sqrt(2 * how.height * gravity) * how.bounciness
    contacts, ways = [contact], [how.speed / rate]
    while len(contacts) < MOST and upward**2 / (2 * gravity) > LOWEST:
        frames = float(round(2 * upward / gravity * rate))
        if frames < 2:
            break
        contacts.append(contacts[-1] + frames)
        ways.append(ways[-1] * (1 - how.friction))
        upward *= how.bounciness
    last = ways[-1] * (1 - how.friction)
    slowed = ROLLS * max(how.friction, 0.05) * gravity / rate**2
    rolls = float(np.clip(np.ceil(last / slowed), 2.0, 10 * rate)) if last > 1e-6 else 0.0
    return _Path(contact - fall, np.array(contacts), contacts[-1] + rolls, np.array([*ways, last if rolls else 0.0]))


def _far(path: _Path, frames: Floats) -> Floats:
    """How far (F,), metres, it has gone since it began to fall."""
    ends = np.concatenate([[path.start], path.contacts])
    gone = np.concatenate([[0.0], np.cumsum(np.diff(ends) * path.ways[:-1])])
    stretch = np.clip(np.searchsorted(ends, frames, side="right") - 1, 0, len(ends) - 1)
    since = frames - ends[stretch]
    rolls = path.rest - path.contacts[-1]
    slowing = since - since**2 / (2 * rolls) if rolls else 0.0 * since
    return np.asarray(gone[stretch] + path.ways[stretch] * np.where(stretch == len(ends) - 1, slowing, since))


def _high(path: _Path, frames: Floats, how: Drop, loss: float) -> Floats:
    """How high (F,), metres, its lowest point is over the ground; loss: gravity a frame, each frame."""
    fall = path.contacts[0] - path.start
    found = np.where(frames < path.contacts[0], how.height * (1 - ((frames - path.start) / fall) ** 2), 0.0)
    for a, b in zip(path.contacts[:-1], path.contacts[1:], strict=True):
        inside = (frames >= a) & (frames < b)
        found = np.where(inside, loss / 2 * (frames - a) * (b - frames), found)
    return np.asarray(np.maximum(found, 0.0))


def _led(shot: Shot, who: Figure, control: int, contact: float, path: _Path, how: Drop, gravity: float) -> Shot:
    """The whole figure led along, stretch by stretch, so that contacts stay sharp."""
    rig, name = who.rig, who.name
    shot = _cleared(shot, who, control, path, contact)
    body = _Body(shot, who, control, contact)
    way = np.array([np.sin(how.heading), 0.0, np.cos(how.heading)])
    axis, before = np.cross([0.0, 1.0, 0.0], way), float(_far(path, np.array([contact]))[0])
    after = float(_far(path, np.array([path.rest]))[0]) - before
    quarters = np.round(how.turn * after / body.radius / (np.pi / 2)) * (np.pi / 2)  # it rests on a side of it

    def turned(frames: Floats) -> Floats:
        gone = _far(path, frames) - before
        return about(axis, quarters * gone / max(after, 1e-12))

    borne = np.unique(np.concatenate([[path.start], path.contacts, [path.rest]]))
    stands = body.stands(turned(borne))
    moves, turns = columns(rig, control, "translate"), [c for c in columns(rig, control, "rotate") if c >= 0]
    across = [*moves[::2], *turns] if quarters else moves[::2] if how.speed else []
    tops = (path.contacts[:-1] + path.contacts[1:]) / 2
    curves = shot.curves(name)
    for wanted, ends in ((across, borne), (moves[1:2], np.union1d(borne, tops))):
        for a, b in pairwise(ends.tolist()):
            fine = np.linspace(a, b, max(int((b - a) * FINE), FINE) + 1)
            turn = turned(fine)
            high = _high(path, fine, how, gravity / shot.frame_rate**2) + np.interp(fine, borne, stands)
            place = body.start + way * (_far(path, fine) - before)[:, None]
            place[:, 1] += np.maximum(high, body.stands(turn))
            target = channel_values(curves, rig, fine)
            body.put(target, place, turn)
            moving = [c for c in wanted if np.ptp(target[:, c]) > STILL or len(shot.curves(name)[c])]
            curves = fitted(curves, rig, fine, continuous(rig, target, turns), moving, NEAR)
    curves = _without_idle(curves, wanted=[*moves, *turns], path=path)
    return shot.with_curves(name, curves.replaced({moves[1]: _with_roles(curves[moves[1]], path, tops)}))


def _with_roles(curve: Curve, path: _Path, tops: Floats) -> Curve:
    """The way up and down: its contacts are key poses, its tops breakdowns."""
    role = curve.role.copy()
    for frames, what in ((np.append(path.contacts, path.start), KeyRole.KEY_POSE), (tops, KeyRole.BREAKDOWN)):
        for at in map(curve.index_at, frames.tolist()):
            if at is not None:
                role[at] = what
    return curve.changed(role=role)


def _without_idle(curves: CurveSet, wanted: list[int], path: _Path) -> CurveSet:
    """Curves without the keys between fall and rest of channels that stay the same all the way."""
    found = {}
    for c in wanted:
        own = curves[c]
        inside = (own.frames > path.start) & (own.frames < path.rest)
        if len(own) and np.ptp(own.values[(own.frames >= path.start) & (own.frames <= path.rest)]) < STILL:
            found[c] = own.taken(~inside)
    return curves.replaced(found)


def _cleared(shot: Shot, who: Figure, control: int, path: _Path, contact: float) -> Shot:
    """The shot in which a figure stays as it is turned on its first contact, and is not stretched, from its fall to its rest; the
    keys of all that lay in between go."""
    rig, curves = who.rig, shot.curves(who.name)
    now = channel_values(curves, rig, [contact])[0]
    stretch = special_column(rig, control, ChannelRole.STRETCH)
    made: dict[int, float] = {}
    for word in ("translate", "rotate"):
        made |= {c: float(now[c]) for c in columns(rig, control, word) if c >= 0}
    made |= {stretch: 1.0} if stretch >= 0 and len(curves[stretch]) else {}
    found = {}
    for c, value in made.items():
        own = curves[c].settled()
        kept = own.taken((own.frames < path.start) | (own.frames > path.rest)) if len(own) else own
        held = keyed(kept, path.start, value, HELD) if len(own) or value != rig.channels[c].default else kept
        found[c] = keyed(held, path.rest, value, HELD) if len(held) else held
    return shot.with_curves(who.name, curves.replaced(found))


HELD = KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.KEY_POSE)


class _Body:
    """A figure on the frame on which it touches first: where its middle is over the ground (3,), and how it lies about it."""

    def __init__(self, shot: Shot, who: Figure, control: int, contact: float) -> None:
        self.rig, self.control = who.rig, control
        now = staged(shot, who.name, contact)
        world = now.world[0]
        skin = skinned(who, world, now.amounts[0])
        places = skin if len(skin) else world[:, :3, 3]
        middle = (places.min(0) + places.max(0)) / 2
        root = world[who.rig.controls[control].joint]
        self._arms = places - middle
        self._root = root[:3, 3] - middle
        under = under_of(shot, who.name)
        floor = 0.0 if under is None else float(under(middle[None])[0])
        self.start = np.array([middle[0], floor, middle[2]])
        self.radius = max(float(middle[1] - places[:, 1].min()), 1e-3)
        order = who.rig.controls[control].order
        self._turn = euler_matrix(own_channels(who.rig, control, "rotate", now.values), order)

    def stands(self, turn: Floats) -> Floats:
        """How high (F,) its middle is where it stands on the ground, turned on (F, 3, 3)."""
        return np.asarray(-(turn[:, 1:2] @ self._arms.T[None])[:, 0].min(1))

    def put(self, values: Floats, middle: Floats, turn: Floats) -> None:
        """Write into values (F, C) what puts its middle at places (F, 3), turned on (F, 3, 3)."""
        root = middle + turn @ self._root
        rest = self.rig.joints[self.rig.controls[self.control].joint].translation
        for axis, c in enumerate(columns(self.rig, self.control, "translate")):
            values[:, c] = root[:, axis] - rest[axis]
        put_turn(self.rig, self.control, values, turn @ self._turn)


def _squashed(shot: Shot, who: Figure, control: int, path: _Path, how: Drop) -> Shot:
    """The figure squashed at its contacts, by less at slower ones, its lowest point on the ground."""
    column = special_column(who.rig, control, ChannelRole.STRETCH)
    if not how.squash or column < 0:
        return shot
    speeds = how.bounciness ** np.arange(len(path.contacts))
    curve, after = shot.curves(who.name)[column], np.append(path.contacts[1:], np.inf)
    beside = KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.IN_BETWEEN)
    for frame, until, share in zip(path.contacts.tolist(), after.tolist(), (how.squash * speeds).tolist(), strict=True):
        aside = min(2.0, (until - frame) / 2)
        curve = keyed(curve, frame - min(aside, 1.0), 1.0, beside)
        curve = keyed(curve, frame, 1.0 - share, HELD)
        curve = keyed(curve, frame + aside, 1.0, beside)
    made = shot.with_curves(who.name, shot.curves(who.name).replaced({column: curve}))
    return _on_the_ground(made, who, columns(who.rig, control, "translate")[1], path.contacts)


def _on_the_ground(shot: Shot, who: Figure, up: int, contacts: Floats) -> Shot:
    """The figure with its lowest point on the ground at its contacts, however it is squashed there."""
    now, curve = staged(shot, who.name, contacts), shot.curves(who.name)[up]
    under, values = under_of(shot, who.name), curve.values.copy()
    for world, amounts, frame in zip(now.world, now.amounts, contacts.tolist(), strict=True):
        skin = skinned(who, world, amounts)
        at = curve.index_at(frame)
        if len(skin) and at is not None:
            lowest = skin[int(skin[:, 1].argmin())]
            values[at] -= lowest[1] - (0.0 if under is None else float(under(lowest[None])[0]))
    return shot.with_curves(who.name, shot.curves(who.name).replaced({up: raised(curve, values)}))
