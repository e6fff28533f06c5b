"""Markers: added, changed, jumped to, snapped to."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from bovrin.errors import BadMotion
from bovrin.shot import MARKER_KINDS, PENCILS, Marker, Shot
from bovrin.shot.curve import SAME_FRAME


def _order(marker: Marker) -> tuple[float, float, str]:
    return marker.start, marker.end, marker.words


def _checked(marker: Marker) -> Marker:
    words = marker.words.strip()
    if not words:
        raise BadMotion("a marker needs words.", advice="Type some, such as 'horn sounds'.")
    if marker.end < marker.start:
        raise BadMotion(
            f"the marker '{words}' cannot end ({marker.end:g}) before it begins ({marker.start:g}).",
            advice="Give a later end.",
        )
    if marker.kind not in MARKER_KINDS or marker.pencil not in PENCILS:
        raise BadMotion(
            f"there is no marker of kind '{marker.kind}' and colour '{marker.pencil}'.",
            advice=f"Kinds: {', '.join(MARKER_KINDS)}. Colours: {', '.join(PENCILS)}.",
        )
    return replace(marker, words=words)


def add_marker(shot: Shot, marker: Marker) -> Shot:
    """A shot with one marker more; the same one is not kept twice."""
    return with_markers(shot, [_checked(marker)])


def with_markers(shot: Shot, markers: Iterable[Marker]) -> Shot:
    """A shot with these markers as well, in order of time."""
    both = tuple(sorted({*shot.markers, *markers}, key=_order))
    return shot if both == shot.markers else replace(shot, markers=both)


def change_marker(shot: Shot, old: Marker, new: Marker) -> Shot:
    """One marker exchanged for another."""
    kept = [m for m in shot.markers if m != old]
    changed = tuple(sorted({*kept, _checked(new)}, key=_order))
    return shot if changed == shot.markers else replace(shot, markers=changed)


def remove_marker(shot: Shot, marker: Marker) -> Shot:
    """A shot without a marker."""
    return replace(shot, markers=tuple(m for m in shot.markers if m != marker))


def marker_edges(shot: Shot) -> list[float]:
    """The frames on which markers begin or end, in order."""
    return sorted({edge for m in shot.markers for edge in (m.start, m.end)})


def marker_beside(shot: Shot, frame: float, *, after: bool) -> float | None:
    """Where the next marker begins, or the one before."""
    starts = sorted({m.start for m in shot.markers})
    found = [s for s in starts if (s > frame + SAME_FRAME if after else s < frame - SAME_FRAME)]
    return (found[0] if after else found[-1]) if found else None


def snapped(frame: float, edges: Iterable[float], within: float) -> float:
    """The nearest edge no further than so many frames, else the nearest whole frame."""
    near = min(edges, key=lambda edge: abs(edge - frame), default=None)
    return near if near is not None and abs(near - frame) <= within else float(round(frame))
