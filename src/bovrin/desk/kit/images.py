"""Pictures as Qt has them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QGuiApplication, QImage, QPainter

from bovrin.desk.kit.look import Look


class Picture(QImage):
    """The renderer's pixels (H, W, 4) for a screen of the given pixel ratio. It keeps their bytes, which Qt does not copy."""

    def __init__(self, pixels: NDArray[np.uint8], ratio: float) -> None:
        height, width = pixels.shape[:2]
        self._bytes = pixels.tobytes()
        super().__init__(self._bytes, width, height, width * 4, QImage.Format.Format_RGBA8888_Premultiplied)
        self.setDevicePixelRatio(ratio)


def for_the_screens(picture: QImage) -> QImage:
    """A picture that is painted again and again, once as the screens have it, so that no paint scales or converts it."""
    app = QGuiApplication.instance()
    ratio = app.devicePixelRatio() if isinstance(app, QGuiApplication) else 1.0
    if ratio < picture.devicePixelRatio():
        size = picture.deviceIndependentSize() * ratio
        smooth = Qt.TransformationMode.SmoothTransformation
        picture = picture.scaled(size.toSize(), Qt.AspectRatioMode.IgnoreAspectRatio, smooth)
        picture.setDevicePixelRatio(ratio)
    return picture.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)


def seen_box(picture: QImage) -> QRect:
    """What of a picture is not clear."""
    plain = picture.convertToFormat(QImage.Format.Format_RGBA8888)
    bits = plain.constBits()
    if bits is None or plain.isNull():
        return plain.rect()
    bits.setsize(plain.sizeInBytes())
    alpha = np.frombuffer(bits.asstring(), np.uint8).reshape(plain.height(), plain.bytesPerLine())[:, 3::4]
    rows, columns = np.flatnonzero(alpha.any(1)), np.flatnonzero(alpha.any(0))
    if not len(rows):
        return plain.rect()
    return QRect(int(columns[0]), int(rows[0]), int(np.ptp(columns)) + 1, int(np.ptp(rows)) + 1)


def paint_paper(painter: QPainter, rect: QRectF) -> None:
    """The paper that a picture of a sheet lies on."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(Look.colour("stage_centre"))
    painter.drawRoundedRect(rect, 8, 8)
