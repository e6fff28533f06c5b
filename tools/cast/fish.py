"""Draws the fish: a small flat cut-out of two parts."""

from __future__ import annotations

from dataclasses import replace

from bovrin.formats.flat.figure import flat_figure
from bovrin.formats.flat.svg import layers_of
from bovrin.formats.flat.svg_file import svg_root
from bovrin.shot import Figure
from tools.cast.heron import INK, OUTLINED, line, part, pivot, shape

LONG = 0.19
"""Metres from its nose to its tail."""


def drawing() -> str:
    """The drawing: a body that faces right, and a tail."""
    tail = shape("M96,60 C70,40 44,26 22,24 C34,44 34,76 22,98 C46,94 72,80 96,62 Z", "#6F86C0")
    body = shape("M84,60 C120,14 200,10 250,54 C254,58 254,62 250,66 C200,110 120,106 84,60 Z", "#8FA3D6")
    belly = '<path d="M104,72 C140,102 200,98 244,66 C210,82 150,88 104,72 Z" fill="#E4E8EA"/>'
    eye = f'<circle cx="222" cy="50" r="9" fill="#FBF8F1" {OUTLINED}/><circle cx="224" cy="50" r="4" fill="{INK}"/>'
    gill = line("M196,40 q12,20 0,40") + line("M236,70 q8,-1 14,-6", 3.0)
    fin = shape("M150,64 C160,82 150,94 138,96 C136,82 138,72 150,64 Z", "#6F86C0")
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 280 120" width="280" height="120">'
        + part("tail", pivot(92, 60), tail)
        + part("body", pivot(168, 60), body, belly, eye, gill, fin)
        + "</svg>\n"
    )


def fish() -> Figure:
    """The figure, as long as told."""
    layers, _ = layers_of(svg_root(drawing().encode(), "fish.svg"), "fish.svg")
    made = flat_figure("fish", layers, "cast:fish", LONG / 240)
    return replace(made, colour=(0.36, 0.43, 0.69))
