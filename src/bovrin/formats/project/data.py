"""The project file's schema, version 9: a shot as JSON. Documented in docs/format.md."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Literal

import numpy as np
from msgspec import Meta, Struct
from msgspec.structs import fields
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.shot import Curve, EndKind
from bovrin.shot.curve import COLUMN_TYPES, MOST, sound_frames

VERSION = 9
FORMAT: Literal["bovrin shot"] = "bovrin shot"

KindName = Literal["smooth", "no overshoot", "flat", "linear", "stepped", "by hand"]
RoleName = Literal["key pose", "breakdown", "in-between"]
EndName = Literal["hold", "straight", "repeat", "repeat with offset", "back and forth", "round"]
ENDS = {kind.words: kind for kind in EndKind}
KINDS: dict[str, int] = {"smooth": 0, "no overshoot": 1, "flat": 2, "linear": 3, "stepped": 4, "by hand": 5}
ROLES: dict[str, int] = {"key pose": 0, "breakdown": 1, "in-between": 2}

Name = Annotated[str, Meta(min_length=1)]
Number = Annotated[float, Meta(ge=-MOST, le=MOST)]


class _Data(Struct, forbid_unknown_fields=True):
    """Rows of the project; what is not named here is refused."""


class CurveData(_Data):
    """The keys of one channel, a list per column. A column whose entries are all the same may be that one entry."""

    frames: list[Number]
    values: list[Number]
    enter: KindName | list[KindName] = "no overshoot"
    leave: KindName | list[KindName] = "no overshoot"
    enter_slope: Number | list[Number] = 0.0
    leave_slope: Number | list[Number] = 0.0
    enter_length: Number | list[Number] = 1.0
    leave_length: Number | list[Number] = 1.0
    joined: bool | list[bool] = True
    free: bool | list[bool] = False
    role: RoleName | list[RoleName] = "key pose"
    before: EndName = "hold"
    after: EndName = "hold"
    muted: bool = False


Pencil = Literal["slate", "sanguine", "teal", "plum", "ochre", "green"]


FollowerKind = Literal["swing", "bob", "turn", "noise", "spring"]


class FigureData(_Data):
    """A figure of the cast: its name in the shot and where its file lies."""

    name: Name
    file: Name
    orders: dict[str, Literal["XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX"]] = {}
    hooks: dict[str, Annotated[int, Meta(ge=1, le=12)]] = {}
    followers: Annotated[dict[str, FollowerKind], Meta(max_length=60)] = {}


class BlendData(_Data):
    """How a breakdown was made: the frames of both poses, and how far it has got from the one to the other."""

    before: Number
    after: Number
    favour: Number
    parts: dict[str, Number] = {}


class CardData(_Data):
    """What a pose carries besides its keys."""

    frame: Number
    name: str = ""
    blend: BlendData | None = None
    pushed: Number = 0.0


class TraceData(_Data):
    """A kept copy of one figure's curves."""

    name: Name
    figure: str
    curves: dict[str, CurveData]


class LeftNoteData(_Data):
    """A note of the proof that is left as it is."""

    kind: Name
    figure: Name
    part: str
    start: Number
    end: Number


class CycleData(_Data):
    """A loop of a figure."""

    first: Number
    last: Number
    gait: str = ""
    mirrored: bool = False


class LaidData(_Data):
    """A clip as it lies on a lane."""

    clip: Name
    at: Number
    first: Number
    last: Number
    repeats: Number = 1.0
    speed: Number = 1.0
    strength: Number = 1.0
    weight: CurveData | None = None
    hold: Number = 0.0
    mute: list[str] = []
    how: Literal["over", "added"] = "over"
    backwards: bool = False
    follows: bool = True
    in_step: bool = True


class LaneData(_Data):
    """A lane of clips."""

    clips: list[LaidData]
    muted: bool = False


class ClipData(_Data):
    """A stretch of motion kept under a name, its frames counted from its beginning."""

    name: Name
    length: Number
    curves: dict[str, CurveData]
    loops: bool = False
    neutral: dict[str, Number] = {}
    contacts: dict[str, list[tuple[Number, Number]]] = {}
    figure: str = ""


class AttachmentData(_Data):
    """What hangs on what: a control, its channel that says how far, the figure and joint that carry it ("": the ground), and
    where it hangs there."""

    control: Name
    channel: Name
    figure: str = ""
    joint: str = ""
    place: tuple[Number, Number, Number] = (0.0, 0.0, 0.0)
    turn: tuple[Number, Number, Number, Number] = (0.0, 0.0, 0.0, 1.0)
    what: Literal["both", "place", "turn"] = "both"


class FollowerData(_Data):
    """A rule for some controls; its settings are the curves of "name/setting". clear_of: joints that a spring stays out of,
    "" the ground."""

    name: Name
    controls: list[Name]
    on: bool = True
    clear_of: list[str] = []


class TakeData(_Data):
    """One take: for each figure the channels that carry keys, as "control/channel", and its cards."""

    name: str
    curves: dict[str, dict[str, CurveData]]
    cards: dict[str, list[CardData]] = {}
    traces: list[TraceData] = []
    order: int = 0
    first: Number | None = None
    last: Number | None = None
    loops: bool = False
    left: list[LeftNoteData] = []
    cycles: dict[str, CycleData] = {}
    contacts: dict[str, dict[str, list[tuple[Number, Number]]]] = {}
    lanes: dict[str, list[LaneData]] = {}
    instead: dict[str, list[str]] = {}
    attachments: dict[str, list[AttachmentData]] = {}
    followers: dict[str, list[FollowerData]] = {}


class MarkerData(_Data):
    """Words over a stretch of frames."""

    start: Number
    end: Number
    words: str
    kind: Literal["note", "section", "dialogue"] = "note"
    pencil: Pencil = "slate"


class GroupData(_Data):
    """Controls kept under a name."""

    name: Name
    controls: list[str]


class SpotData(_Data):
    """A point whose arc is kept."""

    figure: Name
    joint: Name
    at: tuple[Number, Number, Number] = (0.0, 0.0, 0.0)
    pencil: Pencil = "slate"


class StrokeData(_Data):
    """A line of a pencil."""

    points: list[tuple[Number, Number, Number]]
    widths: list[Number]
    pencil: Pencil = "slate"
    pin: tuple[str, str] | None = None
    aspect: Number = 0.0


class DrawingData(_Data):
    """What is drawn from a frame on."""

    frame: Number
    strokes: list[StrokeData] = []


class ProjectData(_Data):
    """The whole file."""

    title: str
    frame_rate: Number
    first: Number
    last: Number
    cast: list[FigureData]
    take: TakeData
    markers: list[MarkerData] = []
    groups: list[GroupData] = []
    second: tuple[Number, Number] | None = None
    takes: list[TakeData] = []
    retiming: Literal["the figure", "all"] = "the figure"
    ground: Literal["flat", "set"] = "flat"
    ruler: tuple[tuple[float, float], tuple[float, float]] | None = None
    loops: bool = False
    spots: list[SpotData] = []
    limits: dict[str, Number] = {}
    drawings: list[DrawingData] = []
    clips: list[ClipData] = []
    format: Literal["bovrin shot"] = FORMAT
    version: int = VERSION


_COLUMNS = {
    "enter": ("in_kind", KINDS),
    "leave": ("out_kind", KINDS),
    "enter_slope": ("in_slope", None),
    "leave_slope": ("out_slope", None),
    "enter_length": ("in_length", None),
    "leave_length": ("out_length", None),
    "joined": ("joined", None),
    "free": ("free", None),
    "role": ("role", ROLES),
}


_DEFAULTS = {field.name: field.default for field in fields(CurveData)}


def curve_to_data(curve: Curve) -> dict[str, object]:
    """A curve as plain JSON values, default columns left out."""
    curve = curve.settled()
    row: dict[str, object] = {"frames": curve.frames.tolist(), "values": curve.values.tolist()}
    for name, (column, words) in _COLUMNS.items():
        entries = getattr(curve, column)
        if not len(entries):
            continue
        short = entries[0].item() if (entries == entries[0]).all() else entries.tolist()
        if words is not None:
            spoken = list(words)
            short = [spoken[i] for i in short] if isinstance(short, list) else spoken[short]
        if short != _DEFAULTS[name]:
            row[name] = short
    row |= {name: getattr(curve, name).words for name in ("before", "after") if getattr(curve, name)}
    return {**row, "muted": True} if curve.muted else row


FEW = 400
"""Keys of a channel up to which its frames are shared with other channels."""
SPANS = ("in_span", "out_span")


@lru_cache(maxsize=256)
def _same(count: int, entry: float, column: str) -> NDArray[np.generic]:
    """A read-only column of one entry; many curves of a shot share it."""
    made: NDArray[np.generic] = np.full(count, entry, COLUMN_TYPES[column])
    made.setflags(write=False)
    return made


@lru_cache(maxsize=64)
def _shared_frames(frames: tuple[float, ...]) -> NDArray[np.float64]:
    """Frames of keys, which many channels of a figure share."""
    return sound_frames(list(frames))


def curve_from_data(data: CurveData, where: str) -> Curve:
    """The curve; BadMotion says which channel is wrong and how."""
    count = len(data.frames)
    own: dict[str, object] = {"values": data.values}
    alike: dict[str, NDArray[np.generic]] = {n: _same(count, 0.0, n) for n in SPANS}
    try:
        alike["frames"] = _shared_frames(tuple(data.frames)) if count <= FEW else sound_frames(data.frames)
    except BadMotion as error:
        raise BadMotion(f"the channel '{where}' is damaged: {error.what}") from error
    for name, (column, words) in _COLUMNS.items():
        entries = getattr(data, name)
        if not isinstance(entries, list):
            alike[column] = _same(count, words[entries] if words is not None else entries, column)
            continue
        if len(entries) != count:
            raise BadMotion(f"the channel '{where}' has {count} keys but {len(entries)} entries of '{name}'.")
        own[column] = [words[e] for e in entries] if words is not None else entries
    if len(data.values) != count:
        raise BadMotion(f"the channel '{where}' has {count} frames but {len(data.values)} values.")
    try:
        return Curve.from_parts(own, alike).ending(ENDS[data.before], ENDS[data.after]).silenced(data.muted)
    except BadMotion as error:
        raise BadMotion(f"the channel '{where}' is damaged: {error.what}") from error
