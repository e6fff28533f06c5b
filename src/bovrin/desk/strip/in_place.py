"""Words typed where they stand on the strip: names of poses, words of markers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QRectF
from PyQt6.QtWidgets import QWidget

from bovrin.craft.keying.cards import card_at, name_pose
from bovrin.craft.markers import add_marker, change_marker
from bovrin.desk.kit.inline_edit import InlineEdit
from bovrin.desk.kit.timescale import GUTTER
from bovrin.desk.strip.layout import StripLayout
from bovrin.shot import Marker


class InPlace:
    """Opens fields over the strip; `field` is the one that was opened last."""

    def __init__(self, layout: StripLayout, host: QWidget) -> None:
        self._layout, self._host = layout, host
        self.field: InlineEdit | None = None

    def rename_card(self, frame: float) -> None:
        """Type the name of a card."""
        session = self._layout.session
        rect = next((r for f, r in self._layout.card_rects() if f == frame), None)
        if rect is None:
            session.voice.tell("That pose is not in sight. Go to it first.")
            return
        name = session.figure_name
        place = QRectF(rect.left() + 3, rect.bottom() - 24, max(rect.width() - 6, 90), 22)

        def take(words: str) -> None:
            session.do("Name the pose", lambda shot: name_pose(shot, name, frame, words))

        self.field = InlineEdit(self._host, place, card_at(session.shot, name, frame).name, "Name of the pose", take)

    def new_marker(self, frame: float) -> None:
        """Type the words of a new marker on a frame."""
        do = self._layout.session.do
        self._type_marker(
            frame, "", lambda words: do("Add a marker", lambda s: add_marker(s, Marker(frame, frame, words)))
        )

    def edit_marker(self, marker: Marker) -> None:
        """Type other words for a marker."""

        def take(words: str) -> None:
            new = replace(marker, words=words)
            self._layout.session.do("Reword a marker", lambda shot: change_marker(shot, marker, new))

        self._type_marker(marker.start, marker.words, take)

    def _type_marker(self, frame: float, words: str, take: Callable[[str], object]) -> None:
        left = min(max(self._layout.scale.x(frame), GUTTER), self._host.width() - 160)
        place = QRectF(left, self._layout.markers_top() - 3, 160, 22)
        self.field = InlineEdit(self._host, place, words, "Words of the marker", take)
