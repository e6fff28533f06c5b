"""What the stage, the pose strip and the curve desk share: a surface with drags that can be put back."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPixmap
from PyQt6.QtWidgets import QWidget

from bovrin.desk.session import Session


class Surface(QWidget):
    """A widget of the session that is dragged on."""

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self.session = session
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

    def cancel_drag(self) -> bool:
        """Put everything back; says whether a drag was under way."""
        raise NotImplementedError

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() != Qt.Key.Key_Escape or not self.cancel_drag():
            super().keyPressEvent(event)
