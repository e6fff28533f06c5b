"""A frame of a flat figure as an SVG: every part a group with its transform, its drawing as it is, in its order."""

from __future__ import annotations

import base64
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure
from bovrin.figure.flat.assembling import as_drawn
from bovrin.figure.flat.shown import shown_pieces
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Shot

Floats = NDArray[np.float64]
PIXELS = 1000.0
"""Units of the picture in a metre."""
MARGIN = 0.03


def frame_svg(shot: Shot, figure: str, frame: float) -> str:
    """The picture of a flat figure on a frame. A part that bends is drawn by the nearest move, turn, size and lean."""
    what = shot.figure(figure)
    if not what.model.is_flat:
        raise BadFigure(f"'{figure}' is no flat figure.", advice="Hand it on as GLB.")
    found = staged(shot, figure, np.array([frame]))
    world = found.world[0]
    places = skinned(what, world)
    back = np.linalg.inv(world[0])
    spots = as_drawn(what, places @ back[:3, :3].T + back[:3, 3]) * PIXELS
    ends = np.cumsum([0, *(len(piece.positions) for piece in what.model.pieces)])
    rows, seen = [], []
    for n in shown_pieces(what, found.values[0]).tolist():
        piece = what.model.pieces[n]
        own = spots[ends[n] : ends[n + 1]]
        if piece.cut is None or piece.cover.texture is None or piece.cover.uv is None:
            continue
        a, b, c, d, e, f = _affine(piece.cover.uv.astype(float), own)
        data = base64.b64encode(piece.cover.texture.data).decode()
        name = quoteattr(f"{piece.cut.control}:{piece.cut.drawing}" if piece.cut.drawing != "1" else piece.cut.control)
        rows.append(
            f'<g id="part_{n}" data-name={name} transform="matrix({a:.6g} {b:.6g} {c:.6g} {d:.6g} {e:.6g} {f:.6g})">'
            f'<image width="1" height="1" preserveAspectRatio="none" href="data:image/png;base64,{data}"/></g>'
        )
        seen.append(own)
    if not seen:
        raise BadFigure(f"nothing of '{figure}' is seen on {frame:g}.", advice="Choose another frame.")
    low, high = np.concatenate(seen).min(0) - MARGIN * PIXELS, np.concatenate(seen).max(0) + MARGIN * PIXELS
    wide, tall = high - low
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{low[0]:.3f} {low[1]:.3f} {wide:.3f} {tall:.3f}" '
        f'width="{wide:.0f}" height="{tall:.0f}">'
    )
    return head + "\n" + "\n".join(rows) + "\n</svg>\n"


def _affine(uv: Floats, spots: Floats) -> list[float]:
    """The numbers of an SVG matrix that brings places in a picture (N, 2) to spots (N, 2)."""
    way = np.linalg.lstsq(np.column_stack([uv, np.ones(len(uv))]), spots, rcond=None)[0]
    return [float(x) for x in (way[0, 0], way[0, 1], way[1, 0], way[1, 1], way[2, 0], way[2, 1])]
