"""Where the chosen handle is: its square, its ring, its dots and arms, in the world and on the screen."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF

from bovrin.craft.pose import posing
from bovrin.craft.pose.modes import limb_of_control
from bovrin.craft.pose.pivot import can_size
from bovrin.desk.stage.scene import Scene
from bovrin.motion.rotations import turn_only
from bovrin.shot import ChannelRole, ControlKind

Floats = NDArray[np.float64]

RING, ARM = 44.0, 62.0
"""Pixels of the ring's radius and of an arm, for a handle of size one."""


class HandlePlaces:
    """Where the handle of what is chosen lies in a scene."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session = scene, scene.session

    def place_of(self, control: int) -> Floats:
        """Where a control's square is, world space: at the joint of a limb, else where it moves or swings to."""
        figure = self.session.figure
        assert figure is not None
        stance = self.session.stance()
        joint = posing.limb_joint(figure.rig, control)
        if joint is not None:
            return stance.seen(joint)
        if not posing.swings(figure.rig, control):
            return posing.handle_place(stance, control)
        return posing.aim_place(stance, control)

    def _pivot_of(self, control: int) -> Floats:
        figure = self.session.figure
        assert figure is not None
        return np.asarray(self.session.stance().world[figure.rig.controls[control].joint, :3, 3])

    def shared_pivot(self) -> Floats | None:
        """The place that turns and sizes go about, or None when each control has its own."""
        borrowed = self.session.looking.borrowed
        if borrowed is not None:
            return np.array(borrowed)
        if self.session.looking.pivot_for_all and len(self.session.controls) > 1:
            return np.asarray(np.mean([self._pivot_of(c) for c in self.session.controls], axis=0))
        return None

    def move_axes(self) -> Floats:
        """The axes that a handle moves along, as rows (3, 3)."""
        kind = self.session.looking.axes
        figure = self.session.figure
        if figure is None or not self.session.controls or kind == "view":
            return self.scene.view.axes()
        if kind == "world":
            return np.eye(3)
        control = figure.rig.controls[self.session.controls[-1]]
        joint = control.joint
        if kind == "parent":
            joint = 0 if control.kind is ControlKind.GOAL else figure.rig.joints[joint].parent
        return turn_only(self.session.stance().world[joint, :3, :3]).T if joint >= 0 else np.eye(3)

    def turn_axes(self) -> Floats:
        """What the up and down dots, the left and right dots and the ring turn about, as rows (3, 3): of the handle's
        axes the ones that lie nearest to the screen's own."""
        axes, screen = self.move_axes(), self.scene.view.axes()
        if self.session.looking.axes == "view":
            return screen
        match = np.abs(axes @ screen.T)
        ring = int(match[:, 2].argmax())
        others = [i for i in range(3) if i != ring]
        level = max(others, key=lambda i: match[i, 0])
        upright = next(i for i in others if i != level)
        order = (level, upright, ring)
        return np.array([axes[a] * np.copysign(1.0, axes[a] @ screen[k]) for k, a in enumerate(order)])

    def points(self) -> dict[str, QPointF]:
        """The chosen handle's points on the stage: square, ring (its right end), and the four dots."""
        figure = self.session.figure
        if figure is None or not self.session.controls or self.session.looking.clean:
            return {}
        control = self.session.controls[-1]
        if figure.rig.controls[control].kind is ControlKind.FOLLOWER:  # a rule has no place
            return {}
        place = self.place_of(control)
        points = {"square": self.scene.on_screen(place)}
        if self.session.looking.axes != "view":
            scale = self.scene.metres_per_pixel(place) * self.scene.handle_size
            for name, axis in zip("xyz", self.move_axes(), strict=True):
                points[name] = self.scene.on_screen(place + axis * scale * ARM)
        pivot = self.shared_pivot()
        if self._turnable(control) or (pivot is not None and can_size(figure.rig, control)):
            centre = self.scene.on_screen(self._pivot_of(control) if pivot is None else pivot)
            points["centre"] = centre
            ring = RING * self.scene.handle_size
            points["ring"] = centre + QPointF(ring * math.cos(0.7), ring * math.sin(0.7))
            for name, (x, y) in {"up": (0, -1), "right": (1, 0), "down": (0, 1), "left": (-1, 0)}.items():
                points[name] = centre + QPointF(x * ring, y * ring)
            if can_size(figure.rig, control) or can_size(figure.rig, control, ChannelRole.STRETCH):
                points["size"] = centre + QPointF(ring, ring) * 0.85
        return points

    def _turnable(self, control: int) -> bool:
        """Whether turning a control shows: a limb's joints do not turn by themselves while it reaches, nor its goal else."""
        figure = self.session.figure
        assert figure is not None
        if not posing.can_turn(figure.rig, control):
            return False
        what = figure.rig.controls[control]
        limb = limb_of_control(figure.rig, control)
        if limb is None:
            return True
        return posing.in_reach(self.session.stance(), limb) == (what.kind is ControlKind.GOAL)


def distance(a: QPointF, b: QPointF) -> float:
    """Pixels between two points."""
    return math.hypot(a.x() - b.x(), a.y() - b.y())
