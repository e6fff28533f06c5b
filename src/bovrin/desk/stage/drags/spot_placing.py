"""While a spot is asked for, the next click on a figure says which: its arc is kept."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from bovrin.craft.arcs.spots import keep_spot
from bovrin.craft.pose.posing import leader_of
from bovrin.desk.kit.gesture import Modifiers, Press
from bovrin.desk.stage.overlay import CROSS, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.figure.staging import stance
from bovrin.shot import Shot, Spot

PICK = "Click a spot on a figure: its arc is kept. Escape: none"


class SpotPlacing:
    """`on`: whether the next click says it."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.on = scene, False

    def hit(self, at: QPointF) -> Hit | None:
        """Everywhere, nearer than anything else."""
        return Hit(-1.0, CROSS, PICK) if self.on else None

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """Keep the spot under the pointer, in the axes of the joint that carries it most."""
        self.on = False
        scene, session = self.scene, self.scene.session
        found = scene.skin_at(at)
        if found is None:
            session.voice.tell("There is no figure under the pointer. Take up the spot again, and click on one.")
            return Press()
        name = found.figure.name
        if name != session.figure_name:
            session.choose(name, (scene.control_of(name, found.joint),))
        place, now = scene.skin_place(at), stance(session.seen, name, session.frame)
        joint = leader_of(now.rig, found.joint)
        matrix = now.world[joint]
        way = np.zeros(3) if place is None else np.linalg.solve(matrix[:3, :3], place - matrix[:3, 3])
        x, y, z = np.round(way, 4).tolist()
        spot = Spot(name, now.rig.joints[joint].name, (x, y, z))
        session.do(f"Keep an arc of {spot.joint}", lambda shot: keep_spot(shot, spot))
        return Press()

    def reset(self, hit: Hit) -> None:
        """The first click has said it."""

    def paint(self, painter: QPainter) -> None:
        """The pointer shows it."""
