"""The document: frozen values and their invariants."""

from bovrin.shot.curve import Curve, CurveSet, EndKind, HandleKind, Key, KeyRole
from bovrin.shot.document import (
    CHANGED,
    MARKER_KINDS,
    PENCILS,
    Blend,
    Card,
    Figure,
    Group,
    Marker,
    Shot,
    Take,
    Trace,
    Unkeyed,
)
from bovrin.shot.model import PLAIN, Cover, Model, Piece, Texture
from bovrin.shot.pose import Pose
from bovrin.shot.rig import Bend, Channel, Control, ControlKind, Follow, Foot, Joint, Limb, Part, Rig, Unit

__all__ = [
    "CHANGED",
    "MARKER_KINDS",
    "PENCILS",
    "PLAIN",
    "Bend",
    "Blend",
    "Card",
    "Channel",
    "Control",
    "ControlKind",
    "Cover",
    "Curve",
    "CurveSet",
    "EndKind",
    "Figure",
    "Follow",
    "Foot",
    "Group",
    "HandleKind",
    "Joint",
    "Key",
    "KeyRole",
    "Limb",
    "Marker",
    "Model",
    "Part",
    "Piece",
    "Pose",
    "Rig",
    "Shot",
    "Take",
    "Texture",
    "Trace",
    "Unit",
    "Unkeyed",
]
