"""What the stage, the pose strip, the curve desk and the pose cards share: a surface that is painted and dragged on."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QWidget


class Surface(QWidget):
    """A widget that hears the pointer all the time, and takes the keyboard when it is clicked."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName(name)

    def blank_layer(self) -> QPixmap:
        """A clear picture as large as the surface, to keep what does not change from paint to paint."""
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(Qt.GlobalColor.transparent)
        return pixmap
