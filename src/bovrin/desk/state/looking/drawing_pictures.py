"""The drawings of flat figures as pictures for the window, without the clear space around them."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QImage

from bovrin.caching import cached_by_identity
from bovrin.desk.kit.images import seen_box
from bovrin.shot import Figure, Texture

LARGEST = 240
"""Pixels along the longer side of a picture that is kept."""


def fitted(image: QImage, room: QRectF) -> QRectF:
    """Where in a room a picture lies, as large as it can be."""
    scale = min(room.width() / max(image.width(), 1), room.height() / max(image.height(), 1))
    wide, high = image.width() * scale, image.height() * scale
    return QRectF(room.center().x() - wide / 2, room.center().y() - high / 2, wide, high)


@cached_by_identity
def pictures_of(figure: Figure) -> dict[tuple[str, str], QImage]:
    """The drawings of a flat figure, by part and name, without the clear space around them."""
    return {
        (piece.cut.control, piece.cut.drawing): _picture(piece.cover.texture)
        for piece in figure.model.pieces
        if piece.cut is not None and piece.cover.texture is not None
    }


@cached_by_identity
def _picture(texture: Texture) -> QImage:
    image = QImage.fromData(texture.data).convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)
    if max(image.width(), image.height()) > LARGEST:
        smooth = Qt.TransformationMode.SmoothTransformation
        image = image.scaled(QSize(LARGEST, LARGEST), Qt.AspectRatioMode.KeepAspectRatio, smooth)
    return image.copy(seen_box(image))
