"""What lies over the stage's picture and can be dragged."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple, Protocol

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter

from bovrin.desk.kit.gesture import Press
from bovrin.desk.stage.scene import Scene
from bovrin.shot import Shot

Modifiers = Qt.KeyboardModifier
HAND, ARROW, CROSS = (
    Qt.CursorShape.PointingHandCursor,
    Qt.CursorShape.ArrowCursor,
    Qt.CursorShape.CrossCursor,
)


class Hit(NamedTuple):
    """Something under the pointer: how far from it in pixels, the pointer's shape over it, the words for it, and what it is
    to its overlay."""

    distance: float
    cursor: Qt.CursorShape
    words: str
    what: object = None


class Overlay(Protocol):
    """One kind of mark over the stage. It is made with the scene that it lies on."""

    def paint(self, painter: QPainter) -> None:
        """Draw it."""

    def hit(self, at: QPointF) -> Hit | None:
        """What of it is under a point; None: nothing that can be pressed."""

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """What a press there begins."""

    def reset(self, hit: Hit) -> None:
        """What a double click there does."""


MakeOverlay = Callable[[Scene], Overlay]


class Mark:
    """An overlay that is only seen."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene

    def hit(self, at: QPointF) -> Hit | None:
        """Nothing to press."""
        return None

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """Nothing begins."""
        return Press()

    def reset(self, hit: Hit) -> None:
        """Nothing to reset."""
