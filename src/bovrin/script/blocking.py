"""Blocking and timing by script."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

from bovrin.craft import markers as _craft_markers
from bovrin.craft.between import breakdown as _breakdown
from bovrin.craft.between import chart as _chart
from bovrin.craft.keying import timing as _timing
from bovrin.formats.side import markers as _markers
from bovrin.script.basics import PathLike
from bovrin.shot import Shot


def fill_breakdowns(shot: Shot, figure: str, start: float, end: float, every: float, favour: float = 0.5) -> Shot:
    """Breakdowns on every so many frames between the poses from start to end; favour: how far the middle one has got."""
    return _breakdown.fill_breakdowns(shot, figure, start, end, every, favour)


def chart(shot: Shot, figure: str, start: float, end: float, part: str | None = None) -> list[float]:
    """The share of the way from the pose at start to that at end on each whole frame, both ends included."""
    return _chart.chart(shot, figure, start, end, part)


def set_chart(
    shot: Shot, figure: str, start: float, end: float, shares: Sequence[float], part: str | None = None
) -> Shot:
    """Give each whole frame from start to end its share of the way; both poses stay as they are."""
    return _chart.set_chart(shot, figure, start, end, shares, part)


def slide(
    shot: Shot, figure: str, frames: float, parts: Iterable[str], start: float | None = None, end: float | None = None
) -> Shot:
    """Delay (or advance) parts by frames: all their keys, or those from start to end."""
    return _timing.slide(shot, figure, frames, parts, start, end)


def insert_frames(shot: Shot, frame: float, count: int) -> Shot:
    """Put empty frames after a frame; everything later moves along."""
    return _timing.insert_frames(shot, frame, count)


def remove_frames(shot: Shot, frame: float, count: int) -> Shot:
    """Take out empty frames after a frame."""
    return _timing.remove_frames(shot, frame, count)


def import_markers(shot: Shot, path: PathLike) -> Shot:
    """Add the markers of a .srt, .vtt or .csv file; entries that cannot be read are left out."""
    found, _ = _markers.read_markers(Path(path), shot.frame_rate, shot.first)
    return _craft_markers.with_markers(shot, found)


def markers(shot: Shot) -> list[tuple[float, float, str]]:
    """The shot's markers: start, end, words."""
    return [(m.start, m.end, m.words) for m in shot.markers]
