"""The figures themselves: a click on skin chooses, a drag pulls and the body follows."""

from __future__ import annotations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from bovrin.craft.pose import posing
from bovrin.craft.pose.body import follows_a_drag
from bovrin.desk.kit.gesture import Modifiers, Press
from bovrin.desk.stage.drags.gripping import grip_here
from bovrin.desk.stage.drags.handle_places import HandlePlaces, distance
from bovrin.desk.stage.drags.place_drag import place_drag
from bovrin.desk.stage.drags.posing import StageDrag, body_drag
from bovrin.desk.stage.overlay import HAND, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.desk.stage.words import skin_words
from bovrin.shot import ControlKind, Shot

BEHIND = 20.0
"""Pixels that skin counts as away: grips of the handle lie over it."""
ADDS = Modifiers.ShiftModifier | Modifiers.ControlModifier


class FigureSkin:
    """What is seen of the cast."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session = scene, scene.session
        self._places = HandlePlaces(scene)

    def paint(self, painter: QPainter) -> None:
        """It is in the picture."""

    def hit(self, at: QPointF) -> Hit | None:
        """The control whose skin is under a point."""
        found = None if self.session.playing else self.scene.control_at(at)
        return None if found is None else Hit(self._away(*found, at), HAND, skin_words(self.session, *found), found)

    def _away(self, name: str, control: int, at: QPointF) -> float:
        """How far away skin counts: behind all grips, but what is not chosen is as near as its own place is."""
        if name == self.session.figure_name and control not in self.session.controls:
            return min(BEHIND, distance(self.scene.on_screen(self._places.place_of(control)), at))
        return BEHIND

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """Choose what is pressed, or add it; without a key held a drag pulls it."""
        assert isinstance(hit.what, tuple)
        name, control = hit.what
        self._choose(name, control, add=bool(modifiers & ADDS))
        if modifiers & ADDS or not self.session.controls:
            return Press()
        return Press(self._pull(at), lambda: self._alone(name, control))

    def reset(self, hit: Hit) -> None:
        """A double click on skin only chooses."""

    def _alone(self, name: str, control: int) -> None:
        """Of several that are chosen, the one that was clicked."""
        if self.session.controls != (control,):
            self.session.choose(name, (control,))

    def _choose(self, name: str, control: int, *, add: bool) -> None:
        now = self.session.controls
        if add and name == self.session.figure_name:
            self.session.choose(name, [c for c in now if c != control] if control in now else (*now, control))
        elif name != self.session.figure_name or control not in now:
            self.session.choose(name, (control,))

    def _pull(self, at: QPointF) -> StageDrag | None:
        grip = grip_here(self.session, at)
        if grip is None:
            return None
        joint = self._pulled_joint(at)
        if joint is not None:
            return body_drag(grip, self.scene, joint)
        place = self._places.place_of(self.session.controls[-1])
        return place_drag(grip, self.scene, place)

    def _pulled_joint(self, at: QPointF) -> int | None:
        """The joint to pull the whole body by: of the bone under the pointer the nearer end; None for small parts."""
        figure, found = self.session.figure, self.scene.skin_at(at)
        if figure is None or found is None:
            return None
        rig = figure.rig
        if any(rig.controls[c].kind is ControlKind.WHOLE for c in self.session.controls):
            return None
        joint = posing.leader_of(rig, found.joint)
        if not follows_a_drag(rig, joint):
            return None
        ends = [joint, *(j for j in posing.children_of(rig, joint) if follows_a_drag(rig, j))]
        stance = self.session.stance()
        return min(ends, key=lambda j: distance(self.scene.on_screen(stance.seen(j)), at))
