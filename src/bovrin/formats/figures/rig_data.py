"""A rig as JSON: what stands in the `extras` of a figure file. Joints themselves are the file's nodes."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta, Struct

from bovrin.errors import BadFigure
from bovrin.shot import Bend, Channel, Control, ControlKind, Follow, Foot, Joint, Limb, Part, Rig, Side, Unit
from bovrin.shot.follower import without_followers

Number = Annotated[float, Meta(ge=-1e6, le=1e6)]
"""A length in metres, an angle in radians or a share, as a rig can be worked with."""
Vector3 = tuple[Number, Number, Number]
Name = Annotated[str, Meta(min_length=1)]
RIG_VERSION, WITHOUT_CHOICES = 4, 3
"""The version of rigs with channels that choose, and of all others, so that older programs read what they can."""


class _Data(Struct, forbid_unknown_fields=True, omit_defaults=True):
    """Rows of the rig; what is not named here is refused."""


class ChannelData(_Data):
    """One channel."""

    name: Name
    technical: str
    unit: Literal["length", "angle", "amount", "switch", "number", "choice", "rank"]
    default: Number = 0.0
    choices: list[Name] = []


class ControlData(_Data):
    """One control; joints by name."""

    name: Name
    kind: Literal["whole", "joint", "goal", "pole", "gaze"]
    joint: str
    channels: list[ChannelData]
    order: str = "YXZ"
    limb: int = -1


class FootData(_Data):
    """Roll points of a foot."""

    heel: Vector3
    ball: Vector3
    toes: str


class LimbData(_Data):
    """One limb; joints and controls by name."""

    name: str
    upper: str
    middle: str
    end: str
    goal: str
    pole: str
    pole_rest: Vector3
    pole_anchors: Annotated[list[str], Meta(min_length=1)]
    foot: FootData | None = None


class FollowData(_Data):
    """A helper joint."""

    joint: str
    leader: str
    share: Number
    twist: bool = False


class PartData(_Data):
    """A part; controls by name."""

    name: str
    controls: list[str]
    side: Literal["left", "right", ""] = ""


class BendData(_Data):
    """How a joint gives way."""

    joint: str
    stiffness: Vector3
    low: Vector3
    high: Vector3
    move: Number = 0.0


class RigData(_Data):
    """The whole rig besides its joints."""

    name: Name
    colour: Vector3
    controls: list[ControlData]
    parts: list[PartData]
    limbs: list[LimbData] = []
    follows: list[FollowData] = []
    pairs: list[tuple[str, str]] = []
    bends: list[BendData] = []
    setup: str = ""
    version: int = RIG_VERSION


def spoken_fault(error: Exception) -> str:
    """A validation error as the rest of a sentence: where, and what was expected."""
    what, _, place = str(error).replace("`", "").partition(" - at ")
    where = f" at '{place.removeprefix('$.')}'" if place.removeprefix("$") else ""
    return f"{where}: {what[:1].lower()}{what[1:]}"


def _check_version(raw: Any) -> None:
    version = raw.get("version", RIG_VERSION) if isinstance(raw, dict) else RIG_VERSION
    if isinstance(version, int) and version > RIG_VERSION:
        raise BadFigure(
            f"the rig was made by a newer Bovrin (rig version {version}).", advice="Update Bovrin to open it."
        )


def rig_to_data(rig: Rig, name: str, colour: Vector3) -> dict[str, Any]:
    """The rig as plain JSON values, without the followers that a shot gave it."""
    rig = without_followers(rig)
    joints = [joint.name for joint in rig.joints]
    controls = [control.name for control in rig.controls]
    data = RigData(
        name=name,
        colour=colour,
        controls=[
            ControlData(
                name=c.name,
                kind=c.kind.value,  # type: ignore[arg-type]
                joint=joints[c.joint],
                channels=[
                    ChannelData(
                        name=h.name,
                        technical=h.technical,
                        unit=h.unit.value,
                        default=h.default,
                        choices=list(h.choices),
                    )
                    for h in c.channels
                ],
                order=c.order,
                limb=c.limb,
            )
            for c in rig.controls
        ],
        parts=[PartData(name=p.name, controls=[controls[i] for i in p.controls], side=p.side.value) for p in rig.parts],
        limbs=[_limb_data(limb, joints, controls) for limb in rig.limbs],
        follows=[
            FollowData(joint=joints[f.joint], leader=joints[f.leader], share=f.share, twist=f.twist)
            for f in rig.follows
        ],
        pairs=list(rig.pairs),
        bends=[
            BendData(joint=joints[b.joint], stiffness=b.stiffness, low=b.low, high=b.high, move=b.move)
            for b in rig.bends
        ],
        setup=rig.setup,
    )
    found: dict[str, Any] = msgspec.to_builtins(data)
    chooses = any(channel.unit in (Unit.CHOICE, Unit.RANK) for channel in rig.channels)
    return {"version": RIG_VERSION if chooses else WITHOUT_CHOICES, **found}


def _limb_data(limb: Limb, joints: list[str], controls: list[str]) -> LimbData:
    foot = FootData(heel=limb.foot.heel, ball=limb.foot.ball, toes=joints[limb.foot.toes]) if limb.foot else None
    return LimbData(
        name=limb.name,
        upper=joints[limb.upper],
        middle=joints[limb.middle],
        end=joints[limb.end],
        goal=controls[limb.goal],
        pole=controls[limb.pole],
        pole_rest=limb.pole_rest,
        pole_anchors=[joints[i] for i in limb.pole_anchors],
        foot=foot,
    )


def rig_from_data(raw: Any, joints: tuple[Joint, ...]) -> tuple[Rig, str, Vector3]:
    """The rig, the figure's name and its colour; BadFigure with a plain sentence when it does not hold together."""
    _check_version(raw)
    try:
        data = msgspec.convert(raw, RigData)
    except msgspec.ValidationError as error:
        raise BadFigure(f"the rig in the figure file is damaged{spoken_fault(error)}.") from error
    joint_at = {joint.name: i for i, joint in enumerate(joints)}
    control_at = {control.name: i for i, control in enumerate(data.controls)}

    def j(name: str) -> int:
        if name not in joint_at:
            raise BadFigure(f"the rig names a joint '{name}' that the figure does not have.")
        return joint_at[name]

    def c(name: str) -> int:
        if name not in control_at:
            raise BadFigure(f"the rig names a control '{name}' that it does not have.")
        return control_at[name]

    rig = Rig(
        joints=joints,
        controls=tuple(
            Control(
                d.name,
                ControlKind(d.kind),
                j(d.joint),
                tuple(Channel(h.name, h.technical, Unit(h.unit), h.default, tuple(h.choices)) for h in d.channels),
                d.order,
                d.limb,
            )
            for d in data.controls
        ),
        parts=tuple(Part(p.name, tuple(c(n) for n in p.controls), Side(p.side)) for p in data.parts),
        limbs=tuple(
            Limb(
                d.name,
                j(d.upper),
                j(d.middle),
                j(d.end),
                c(d.goal),
                c(d.pole),
                d.pole_rest,
                tuple(j(n) for n in d.pole_anchors),
                Foot(d.foot.heel, d.foot.ball, j(d.foot.toes)) if d.foot else None,
            )
            for d in data.limbs
        ),
        follows=tuple(Follow(j(f.joint), j(f.leader), f.share, f.twist) for f in data.follows),
        pairs=tuple(data.pairs),
        bends=tuple(Bend(j(b.joint), b.stiffness, b.low, b.high, b.move) for b in data.bends),
        setup=data.setup,
    )
    return rig, data.name, data.colour
