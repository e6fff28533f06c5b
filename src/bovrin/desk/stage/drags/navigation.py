"""Looking round with the mouse: the middle button, or the space bar and the left one."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, Qt

from bovrin.desk.kit.gesture import Modifiers
from bovrin.desk.stage.scene import Scene

PER_PIXEL = 0.008
"""Radians that the view turns for a pixel."""


@dataclass
class SpaceBar:
    """Whether the space bar is down, and whether it has turned a view since: else letting go of it plays."""

    held: bool = False
    used: bool = False


class Navigation:
    """Turns the view, or with Shift slides it."""

    def __init__(self, scene: Scene, space: SpaceBar) -> None:
        self._scene, self.space = scene, space
        self._button: Qt.MouseButton | None = None
        self._at = QPointF()

    @property
    def active(self) -> bool:
        """Whether the view is being dragged."""
        return self._button is not None

    def press(self, button: Qt.MouseButton, at: QPointF) -> bool:
        """Whether a press begins to drag the view."""
        with_space = button == Qt.MouseButton.LeftButton and self.space.held
        if button != Qt.MouseButton.MiddleButton and not with_space:
            return False
        self.space.used = self.space.used or with_space
        self._button, self._at = button, at
        return True

    def move(self, at: QPointF, modifiers: Modifiers) -> None:
        """The view follows."""
        way, self._at = at - self._at, at
        view = self._scene.view
        if modifiers & Modifiers.ShiftModifier:
            self._scene.look_from(view.moved(way.x(), way.y(), self._scene.size.height()))
        else:
            self._scene.look_from(view.turned(-way.x() * PER_PIXEL, way.y() * PER_PIXEL))

    def release(self, button: Qt.MouseButton) -> bool:
        """Whether that was the end of a drag of the view."""
        ended = self._button == button
        if ended:
            self._button = None
        return ended
