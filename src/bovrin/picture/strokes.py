"""Strokes of drawings: where they lie in a picture, and drawn into its pixels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.staging import staged
from bovrin.picture.theme import PAPER, PENCIL_ROLES, Theme
from bovrin.picture.view import View
from bovrin.shot import Drawing, Shot, Stroke

Floats = NDArray[np.float64]
Pixels = NDArray[np.uint8]

BEHIND = 1.0
"""Depth beyond which a point is not in front of the viewer."""


def world_points(shot: Shot, stroke: Stroke, frame: float) -> Floats | None:
    """Where a pinned stroke lies on a frame (N, 3), metres; None where its joint is not there (any more)."""
    assert stroke.pin is not None
    figure, joint = stroke.pin
    if not figure:
        return stroke.points
    known = next((one for one in shot.cast if one.name == figure), None)
    names = [] if known is None else [j.name for j in known.rig.joints]
    if joint not in names:
        return None
    world = staged(shot, figure, frame).world[0, names.index(joint)]
    return np.asarray(stroke.points @ world[:3, :3].T + world[:3, 3])


def on_picture(shot: Shot, stroke: Stroke, frame: float, view: View, size: tuple[int, int]) -> Floats | None:
    """Where a stroke lies in a picture (N, 2), pixels; None where it is not seen."""
    width, height = size
    if stroke.pin is None:
        wide = stroke.aspect * height if stroke.aspect > 0 else width
        return np.stack([width / 2 + (stroke.points[:, 0] - 0.5) * wide, stroke.points[:, 1] * height], -1)
    world = world_points(shot, stroke, frame)
    if world is None:
        return None
    seen = view.project(world, size)
    return None if (np.abs(seen[:, 2]) > BEHIND).any() else np.asarray(seen[:, :2])


def with_drawing(
    pixels: Pixels, shot: Shot, drawing: Drawing, frame: float, view: View, theme: Theme = PAPER
) -> Pixels:
    """A picture (H, W, 4) with a drawing over it."""
    made = pixels.astype(np.float32)
    height, width = made.shape[:2]
    for stroke in drawing.strokes:
        places = on_picture(shot, stroke, frame, view, (width, height))
        if places is not None:
            colour = np.array(
                [int(getattr(theme, PENCIL_ROLES[stroke.pencil])[i : i + 2], 16) for i in (1, 3, 5)], np.float32
            )
            _draw(made, places, np.maximum(stroke.widths * height / 1000, 1.0), colour)
    return np.round(made).astype(np.uint8)


def _draw(pixels: NDArray[np.float32], places: Floats, widths: Floats, colour: NDArray[np.float32]) -> None:
    """Lay a line of round ends into a picture: each pixel is covered by how far it is from the nearest piece."""
    low = np.maximum(np.floor(places.min(0) - widths.max() - 1), 0).astype(int)
    high = np.minimum(np.ceil(places.max(0) + widths.max() + 2), pixels.shape[1::-1]).astype(int)
    if (high <= low).any():
        return
    cover = np.zeros((high[1] - low[1], high[0] - low[0]), np.float32)
    ends = np.concatenate([places, places[-1:]])
    thick = np.concatenate([widths, widths[-1:]])
    for a, b, wide in zip(ends[:-1], ends[1:], np.maximum(thick[:-1], thick[1:]), strict=True):
        first = np.maximum(np.floor(np.minimum(a, b) - wide - 1).astype(int), low)
        last = np.minimum(np.ceil(np.maximum(a, b) + wide + 2).astype(int), high)
        if (last <= first).any():
            continue
        ys, xs = np.mgrid[first[1] : last[1], first[0] : last[0]] + 0.5
        way = b - a
        share = np.clip(((xs - a[0]) * way[0] + (ys - a[1]) * way[1]) / max(float(way @ way), 1e-12), 0, 1)
        off = np.hypot(xs - a[0] - share * way[0], ys - a[1] - share * way[1])
        part = cover[first[1] - low[1] : last[1] - low[1], first[0] - low[0] : last[0] - low[0]]
        np.maximum(part, np.clip(wide / 2 + 0.5 - off, 0, 1), out=part)
    block = pixels[low[1] : high[1], low[0] : high[0]]
    block[..., :3] += (colour - block[..., :3]) * cover[..., None]
    block[..., 3] = np.maximum(block[..., 3], cover * 255)
