"""The channels that the curve desk and the values panel list, in the animator's units."""

from __future__ import annotations

import math

import numpy as np

from bovrin.desk.state.document.session import Session
from bovrin.frozen import frozen_equal
from bovrin.shot import HOLDING, Curve, Unit

FACTORS = {
    Unit.LENGTH: 100.0,
    Unit.ANGLE: 180 / math.pi,
    Unit.AMOUNT: 100.0,
    **dict.fromkeys(HOLDING, 1.0),
    Unit.NUMBER: 1.0,
}
UNITS = {Unit.LENGTH: "cm", Unit.ANGLE: "°", Unit.AMOUNT: "%", **dict.fromkeys(HOLDING, ""), Unit.NUMBER: ""}
_ROLES = {"x": "axis_x", "y": "axis_y", "z": "axis_z"}


@frozen_equal
class Row:
    """One channel of a chosen control. factor: from the program's unit to the shown one; role: its colour."""

    channel: int
    control: str
    words: str
    technical: str
    unit: Unit
    factor: float
    default: float
    role: str

    @property
    def suffix(self) -> str:
        """The shown unit."""
        return UNITS[self.unit]


@frozen_equal
class Heading:
    """A line of the list that names a control."""

    words: str


def is_still(curve: Curve) -> bool:
    """Whether a channel has no key, or one value at all of them."""
    return len(curve) == 0 or float(np.ptp(curve.values)) < 1e-9


def rows_of(session: Session) -> list[Row]:
    """The channels of all chosen controls."""
    figure = session.figure
    if figure is None:
        return []
    rows = []
    for control in session.controls:
        what = figure.rig.controls[control]
        for index, channel in zip(figure.rig.span(control), what.channels, strict=True):
            role = _ROLES.get(channel.technical[-1:], "muted") if " " in channel.technical else "muted"
            words = channel.name if len(session.controls) == 1 else f"{what.name} {channel.name}"
            rows.append(
                Row(
                    index,
                    what.name,
                    words,
                    channel.technical,
                    channel.unit,
                    FACTORS[channel.unit],
                    channel.default,
                    role,
                )
            )
    return rows
