"""How edits are keyed: what they key, when, as which keys, and what is locked against them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import field, replace
from types import MappingProxyType

from bovrin.craft.keying.edits import Scope
from bovrin.craft.keying.keys import KeyStyle
from bovrin.desk.state.passes import Pass
from bovrin.frozen import frozen_equal
from bovrin.shot import Figure, HandleKind

Place = tuple[str, str]
"""A figure's name, and a part's or a channel's."""


@frozen_equal
class Keying:
    """only_k: changes are keyed only when K is pressed.

    mirror_about: the plane that mirrors, the figure's own or the world's; mirror_place: where the figure stands is mirrored too.
    kinds: the handle kind chosen for new keys, by pass. whole_frames: keys stay on whole frames when they are dragged.
    locked: parts by figure and part; locked_channels: by figure and "control/channel".
    travel: the directions of a travel that is taken out or put back. plant_blend: frames over which a planted foot comes and
    goes. travel_steady: what is taken out or put back has one speed.
    """

    scope: Scope = Scope.WHOLE
    only_k: bool = False
    whole_frames: bool = True
    mirror_about: str = "figure"
    mirror_place: bool = False
    kinds: Mapping[str, HandleKind] = field(default_factory=lambda: MappingProxyType({}))
    locked: frozenset[Place] = frozenset()
    locked_channels: frozenset[Place] = frozenset()
    travel: tuple[str, ...] = ("forward",)
    plant_blend: float = 5.0
    travel_steady: bool = False

    def style_in(self, one: Pass) -> KeyStyle:
        """What a new key is in a pass, with the handle kind that was chosen for it."""
        return replace(one.style, out_kind=self.kinds.get(one.name, one.style.out_kind))

    def for_another_shot(self) -> Keying:
        """What stays when another document comes: habits do, locks do not."""
        return replace(self, locked=frozenset(), locked_channels=frozenset())

    def channels_locked(self, figure: Figure | None) -> frozenset[int]:
        """The channels of a figure that are locked, by themselves or with their part."""
        if figure is None or not (self.locked or self.locked_channels):
            return frozenset()
        rig = figure.rig
        parts = [n for n, part in enumerate(rig.parts) if (figure.name, part.name) in self.locked]
        alone = [rig.channel(channel) for name, channel in self.locked_channels if name == figure.name]
        return frozenset([i for part in parts for i in rig.part_channels(part)] + alone)

    def locked_part(self, figure: Figure, controls: Iterable[int]) -> str | None:
        """The part of the first of some controls that is locked, or None."""
        parts = figure.rig.parts_of(controls)
        return next((part for part in parts if (figure.name, part) in self.locked), None)
