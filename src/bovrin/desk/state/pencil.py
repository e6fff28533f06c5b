"""The pencil over the stage: in which colour, how thick, on what, and how its drawings are seen."""

from __future__ import annotations

from bovrin.frozen import frozen_equal
from bovrin.shot import PENCILS

PICTURE, WORLD, JOINT = "picture", "scene", "joint"
ONTO = {
    PICTURE: "As on a sheet of glass before the stage",
    WORLD: "In the scene: on the ground, or upright where there is none under the pointer",
    JOINT: "Carried along by the joint that is chosen",
}
SHOWN, DIMMED, HIDDEN = "shown", "dimmed", "hidden"
SEEN = {SHOWN: "Drawings are seen", DIMMED: "Drawings are faint", HIDDEN: "Drawings are not seen"}
THIN, MEDIUM, THICK = "thin", "medium", "thick"
SIZES = {THIN: 3.0, MEDIUM: 6.0, THICK: 14.0}
"""Thousandths of the picture's height."""


@frozen_equal
class Pencil:
    """on: whether the mouse draws; rubber: whether it rubs out."""

    on: bool = False
    rubber: bool = False
    colour: str = PENCILS[0]
    size: str = MEDIUM
    onto: str = PICTURE
    seen: str = SHOWN

    @property
    def sees(self) -> bool:
        """Whether drawings are seen at all."""
        return self.seen != HIDDEN
