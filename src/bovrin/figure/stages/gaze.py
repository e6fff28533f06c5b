"""Eyes that look: which joints are eyes, and how a gaze, a place in the figure's space, turns them and the head by a share."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import columns, plan_of, special_column, unit
from bovrin.motion.rotations import (
    euler_matrix,
    matrix_euler,
    nearest_euler,
    swings,
    turn_only,
    vector_matrix,
)
from bovrin.shot import Channel, ChannelRole, ControlKind, Joint, Rig, Unit

Floats = NDArray[np.float64]

EYES, OTHERS = ("eye", "auge", "oeil", "ojo", "occhio"), ("lid", "paup", "brow", "lash", "braue", "wimper", "pupil")
WIDEST, BEYOND = np.radians(38.0), np.radians(8.0)
"""How far an eye turns from where it looks at rest, and how far past straight ahead if it looks aside there."""
HEAD_WIDEST = np.radians(75.0)
"""How far a gaze turns the head."""
LEAVES = np.radians(110.0)
"""How far aside a place lies that head and eyes begin to let go of: straight behind neither is turned, both sides are as near."""
LID_SHARE = 0.6
"""How much of an eye's way up or down its lid goes along."""
CLOSED = np.radians(118.0)
"""How far a lid turns to be closed."""
AHEAD = 1.5
"""Metres before the eyes at which a gaze rests."""
UPRIGHT = 0.7
GAZE_CHANNELS = (
    Channel("across", "translate x", Unit.LENGTH),
    Channel("up", "translate y", Unit.LENGTH),
    Channel("forward", "translate z", Unit.LENGTH),
    Channel("look", ChannelRole.LOOK, Unit.AMOUNT),
    Channel("head", ChannelRole.SHARE, Unit.AMOUNT, 0.3),
)


class Eye(NamedTuple):
    """An eye: its joint and control, the columns that turn it about x, y, z (-1: none), the order of its turns, where it looks
    in its own axes (3,), its lid's channel (-1: none), and how far it turns from its way, radians."""

    joint: int
    control: int
    columns: tuple[int, int, int]
    order: str
    way: Floats
    lid: int
    widest: float


class GazePlan(NamedTuple):
    """A gaze: its columns of place (3,), of how much it is looked at and of the head's share, where it rests (3,) in the figure's
    space, the head's joint, control and columns, and the eyes."""

    move: tuple[int, int, int]
    look: int
    share: int
    rest: Floats
    head: int
    head_columns: tuple[int, int, int]
    head_order: str
    eyes: tuple[Eye, ...]


def is_eye(name: str) -> bool:
    """Whether a joint's name says that it is an eye."""
    word = name.lower()
    return any(eye in word for eye in EYES) and not any(other in word for other in OTHERS)


def eyes_among(joints: tuple[Joint, ...]) -> list[int]:
    """The joints that are eyes, by their names: two or more on one head; else none."""
    found = [n for n, joint in enumerate(joints) if is_eye(joint.name)]
    heads = {joints[n].parent for n in found}
    return found if len(found) >= 2 and len(heads) == 1 and -1 not in heads else []


@cached_by_identity
def eyes_of(rig: Rig) -> tuple[Eye, ...]:
    """The eyes of a rig that controls turn."""
    own = set(eyes_among(rig.joints))
    found = []
    for control, what in enumerate(rig.controls):
        x, y, z = columns(rig, control, "rotate")
        if what.joint in own and what.kind is ControlKind.JOINT and (x >= 0 and y >= 0):
            way = _way(rig, what.joint)
            widest = _widest(rig, what.joint, way)
            found.append(Eye(what.joint, control, (x, y, z), what.order, way, _lid(rig, control), widest))
    return tuple(found) if len(found) >= 2 else ()


def _way(rig: Rig, joint: int) -> Floats:
    """Where an eye looks in its axes: along z, when that points ahead or aside at rest, else along the axis that points ahead."""
    turn = plan_of(rig).rest_world[joint, :3, :3]
    axis = np.zeros(3)
    if turn[2, 2] > -0.2 and abs(turn[1, 2]) < UPRIGHT:
        axis[2] = 1.0
        return axis
    ahead = int(np.abs(turn[2]).argmax())
    axis[ahead] = np.sign(turn[2, ahead])
    return axis


def _widest(rig: Rig, joint: int, way: Floats) -> float:
    """How far an eye turns: one that looks aside at rest reaches what is straight ahead."""
    aside = float(np.arccos(np.clip((plan_of(rig).rest_world[joint, :3, :3] @ way)[2], -1.0, 1.0)))
    return max(float(WIDEST), aside + float(BEYOND)) if aside > float(WIDEST) / 2 else float(WIDEST)


def head_turn(aside: Floats, share: Floats | float) -> Floats:
    """How far the head turns (F,) toward places so far aside (F,), radians: its share of the way, within its limit."""
    return np.minimum(aside * share, HEAD_WIDEST) * _kept(aside, float(LEAVES))


def eye_turn(aside: Floats, widest: float) -> Floats:
    """How far an eye turns (F,) toward places so far aside (F,), radians."""
    return np.minimum(aside, widest) * _kept(aside, max(float(LEAVES), widest))


def _kept(aside: Floats, leaves: float) -> Floats:
    """1 as far as a place is looked at, and down to 0 straight behind."""
    left = np.clip((np.pi - aside) / (np.pi - leaves), 0.0, 1.0)
    return np.asarray(left * left * (3.0 - 2.0 * left))


def _lid(rig: Rig, eye: int) -> int:
    """The channel that closes the lid of an eye: of the control named alike."""
    wanted = rig.controls[eye].name.lower().replace("eye", "lid")
    for control, what in enumerate(rig.controls):
        if what.name.lower() == wanted:
            return next((i for i in rig.span(control) if rig.channels[i].unit is Unit.ANGLE), -1)
    return -1


@cached_by_identity
def gaze_plan(rig: Rig) -> GazePlan | None:
    """What a rig's gaze works with; None where it has none."""
    index = next((c for c, what in enumerate(rig.controls) if what.kind is ControlKind.GAZE), None)
    eyes = eyes_of(rig)
    if index is None or not eyes:
        return None
    head = rig.joints[eyes[0].joint].parent
    control = next((c for c, w in enumerate(rig.controls) if w.joint == head and w.kind is ControlKind.JOINT), None)
    head_columns = (-1, -1, -1) if control is None else tuple(columns(rig, control, "rotate"))
    x, y, z = columns(rig, index, "translate")
    return GazePlan(
        (x, y, z),
        special_column(rig, index, ChannelRole.LOOK),
        special_column(rig, index, ChannelRole.SHARE),
        rest_place(rig),
        head,
        head_columns,  # type: ignore[arg-type]
        rig.controls[control].order if control is not None else "YXZ",
        eyes,
    )


def rest_place(rig: Rig) -> Floats:
    """Where a gaze rests (3,), in the figure's space at rest: straight before both eyes."""
    world = plan_of(rig).rest_world
    return np.asarray(world[[eye.joint for eye in eyes_of(rig)], :3, 3].mean(0) + [0.0, 0.0, AHEAD])


def gaze_places(rig: Rig, values: Floats, world: Floats) -> Floats:
    """Where the gaze is (F, 3), in the world."""
    plan = gaze_plan(rig)
    assert plan is not None
    back = plan_of(rig).root_back
    root = world[:, 0] if back is None else world[:, 0] @ back
    place = plan.rest + values[:, list(plan.move)]
    return np.asarray((root[:, :3, :3] @ place[..., None])[..., 0] + root[:, :3, 3])


def looked(rig: Rig, values: Floats) -> Floats:
    """Channel values (F, C) in which eyes, lids and head are turned to the gaze, as much as it is looked at."""
    plan = gaze_plan(rig)
    if plan is None:
        return values
    rows = np.flatnonzero(values[:, plan.look] > 0)
    if not len(rows):
        return values
    made = values.copy()
    own = made[rows]
    look = np.clip(own[:, plan.look], 0.0, 1.0)
    world = solve(rig, own)
    place = gaze_places(rig, own, world)
    turn = turn_only(world[..., :3, :3])
    head = _with_head(rig, plan, own, turn, world, place, look)
    for eye in plan.eyes:
        _with_eye(rig, plan, eye, own, head, world, turn, place, look)
    made[rows] = own
    return made


def _with_head(
    rig: Rig, plan: GazePlan, own: Floats, turn: Floats, world: Floats, place: Floats, look: Floats
) -> tuple[Floats, Floats]:
    """Write the head's turn, and return it as a rotation (F, 3, 3) with the way its joint's space was swung (F, 3, 3)."""
    now = turn[:, plan.head]
    still = np.broadcast_to(np.eye(3), now.shape)
    share = np.clip(own[:, plan.share], 0.0, 1.0) * look
    if min(plan.head_columns) < 0 or not share.any():
        return now, still
    ahead = now @ (plan_of(rig).rest_world[plan.head, :3, :3].T @ [0.0, 0.0, 1.0])
    middle = world[..., :3, 3][:, [eye.joint for eye in plan.eyes]].mean(1)
    toward = swings(ahead, unit(place - middle))
    aside = np.linalg.norm(toward, axis=-1)
    swing = vector_matrix(toward * (head_turn(aside, share) / np.maximum(aside, 1e-12))[:, None])
    new = swing @ now
    parent = rig.joints[plan.head].parent
    above = turn[:, parent] if parent >= 0 else still
    local = plan_of(rig).rest_local[plan.head, :3, :3].T @ np.swapaxes(above, -1, -2) @ new
    cols = list(plan.head_columns)
    own[:, cols] = nearest_euler(matrix_euler(local, plan.head_order), own[:, cols], plan.head_order)
    return new, swing


def _with_eye(
    rig: Rig,
    plan: GazePlan,
    eye: Eye,
    own: Floats,
    head: tuple[Floats, Floats],
    world: Floats,
    turn: Floats,
    place: Floats,
    look: Floats,
) -> None:
    """Write the turns of one eye and of its lid."""
    new, swing = head
    centre = world[:, plan.head, :3, 3]
    at = centre + (swing @ (world[:, eye.joint, :3, 3] - centre)[..., None])[..., 0]
    socket = new @ plan_of(rig).rest_local[eye.joint, :3, :3]
    wanted = (np.swapaxes(socket, -1, -2) @ unit(place - at)[..., None])[..., 0]
    angles = turns_to(eye, within(wanted, eye))
    cols = [c for c in eye.columns if c >= 0]
    kept = [n for n, c in enumerate(eye.columns) if c >= 0]
    before = (swing @ turn[:, eye.joint]) @ eye.way
    own[:, cols] += (angles[:, kept] - own[:, cols]) * look[:, None]
    if eye.lid >= 0:
        full = np.zeros((len(own), 3))
        full[:, kept] = own[:, cols]
        after = socket @ euler_matrix(full, eye.order) @ eye.way
        up = new @ (plan_of(rig).rest_world[plan.head, :3, :3].T @ [0.0, 1.0, 0.0])
        lower = [np.arcsin(np.clip((way * up).sum(-1), -1.0, 1.0)) for way in (before, after)]
        own[:, eye.lid] = np.clip(own[:, eye.lid] + LID_SHARE * (lower[0] - lower[1]), 0.0, CLOSED)


def within(wanted: Floats, eye: Eye) -> Floats:
    """Directions (F, 3) in an eye's socket, or what it turns to of them."""
    cosine = np.clip(wanted @ eye.way, -1.0, 1.0)
    off = wanted - cosine[:, None] * eye.way
    aside = np.arccos(cosine)
    turn = eye_turn(aside, eye.widest)
    edge = off / np.maximum(np.linalg.norm(off, axis=1, keepdims=True), 1e-12)
    led = np.cos(turn)[:, None] * eye.way + np.sin(turn)[:, None] * edge
    return np.where((aside <= eye.widest)[:, None], wanted, led)


def turns_to(eye: Eye, wanted: Floats) -> Floats:
    """Angles about x, y, z (F, 3) that turn an eye to directions in its socket's axes (F, 3); no roll where it looks along z."""
    if eye.way[2] == 1.0 and eye.order == "YXZ":
        x, y, z = wanted.T
        return np.stack([-np.arcsin(np.clip(y, -1.0, 1.0)), np.arctan2(x, z), np.zeros(len(wanted))], -1)
    return np.asarray(matrix_euler(vector_matrix(swings(np.broadcast_to(eye.way, wanted.shape), wanted)), eye.order))
