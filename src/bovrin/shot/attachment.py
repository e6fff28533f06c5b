"""What hangs on what: a control carried by a joint of a figure, or by the ground, as far as a channel says."""

from __future__ import annotations

import math

from bovrin.errors import BadMotion
from bovrin.frozen import frozen_equal
from bovrin.shot.rig import HANGS, Quaternion, Vector

TO_GROUND = ""
"""The carrier of what hangs on the ground."""


@frozen_equal
class Attachment:
    """A control of a figure that hangs on something, as far as its `channel` says: "hangs", "hangs 2" …

    carrier: the figure that carries it, and which of its joints; TO_GROUND: the world. place: where it hangs in the joint's
    axes, metres; turn: how it is turned there, a unit quaternion xyzw. what: "both", "place" or "turn".
    """

    control: str
    channel: str
    carrier: str = TO_GROUND
    joint: str = ""
    place: Vector = (0.0, 0.0, 0.0)
    turn: Quaternion = (0.0, 0.0, 0.0, 1.0)
    what: str = "both"

    def __post_init__(self) -> None:
        if not all(math.isfinite(x) for x in (*self.place, *self.turn)) or not any(self.turn):
            raise BadMotion(f"'{self.control}' hangs on something at a place that is none.")
        if self.what not in ("both", "place", "turn"):
            raise BadMotion(
                f"'{self.control}' hangs on something by its '{self.what}'.", advice="By place, turn or both."
            )
        if not self.channel.startswith(HANGS):
            raise BadMotion(f"'{self.control}' hangs by a channel '{self.channel}'.", advice='Such are called "hangs".')

    @property
    def column(self) -> str:
        """Its channel as "control/channel"."""
        return f"{self.control}/{self.channel}"

    @property
    def onto(self) -> str:
        """What it hangs on, in words."""
        return carrier_words(self.carrier, self.joint)


def carrier_words(figure: str, joint: str) -> str:
    """A carrier in words: the ground, a thing that is one joint, or a joint of a figure."""
    if figure == TO_GROUND:
        return "the ground"
    return f"the {figure}" if joint == figure else f"{joint} of {figure}"
