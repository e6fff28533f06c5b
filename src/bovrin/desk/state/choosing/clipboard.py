"""What was copied. It outlives the document, so that it can be pasted into another; poses go to other windows too."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QClipboard, QGuiApplication

from bovrin.craft.keying.key_clips import KeyClip
from bovrin.errors import BovrinError
from bovrin.formats.side.pose_book import book_from_bytes, book_text
from bovrin.frozen import frozen
from bovrin.shot import Pose

MIME = "application/x-bovrin-poses+json"
"""A pose book of one pose, as it stands in a file."""
MOST = 4_000_000
"""Letters of the longest text that is looked at for a pose."""


@frozen
class Clipboard:
    """A pose, keys, and the shares of a timing chart. told: the pose as the system's clipboard was given it."""

    pose: Pose | None = None
    keys: KeyClip | None = None
    chart: tuple[float, ...] | None = None
    told: str = ""


def tell_system(pose: Pose) -> str:
    """Give the system's clipboard a pose, as data and as text; returns the text."""
    text = book_text((pose,))
    board = _board()
    if board is not None:
        data = QMimeData()
        data.setData(MIME, text.encode())
        data.setText(text)
        board.setMimeData(data)
    return text


def told_pose(known: str) -> Pose | None:
    """The pose that the system's clipboard holds, if it comes from elsewhere: it is not the text that is known here."""
    board = _board()
    data = None if board is None else board.mimeData()
    if data is None:
        return None
    text = bytes(data.data(MIME).data()).decode("utf-8", "replace") if data.hasFormat(MIME) else data.text()
    if text == known or len(text) > MOST or not text.lstrip().startswith("{"):
        return None
    with suppress(BovrinError):
        found = book_from_bytes(text.encode(), str(Path("the clipboard")))
        return found[0] if found else None
    return None


def _board() -> QClipboard | None:
    return QGuiApplication.clipboard() if isinstance(QGuiApplication.instance(), QGuiApplication) else None
