"""Draws the heron: a flat cut-out of a wading bird, its parts as named groups of one SVG with pivots and further drawings."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import CubicSpline

from bovrin.craft.flat.bends import bent_figure
from bovrin.formats.flat.figure import flat_figure
from bovrin.formats.flat.svg import layers_of
from bovrin.formats.flat.svg_file import svg_root
from bovrin.shot import Figure

INK, LINE = "#29272F", 6.0
GREY, PALE, BLUE, DARK = "#C5CFD8", "#E4E8EA", "#7C98AB", "#3A4658"
GOLD, ORANGE, LEG = "#E0A63C", "#C9822B", "#8F8050"
WHITE = "#FBF8F1"
Points = list[tuple[float, float]]
OUTLINED = f'stroke="{INK}" stroke-width="{LINE}" stroke-linejoin="round" stroke-linecap="round"'


def shape(d: str, fill: str) -> str:
    """A filled shape with the ink around it."""
    return f'<path d="{d}" fill="{fill}" {OUTLINED}/>'


def line(d: str, width: float = 4.0, colour: str = INK) -> str:
    """A line of ink."""
    return f'<path d="{d}" fill="none" stroke="{colour}" stroke-width="{width}" stroke-linecap="round"/>'


def tapered(points: Points, widths: list[float], steps: int = 24) -> str:
    """The outline of a smooth band along points, so wide at each."""
    at = np.linspace(0, 1, len(points))
    fine = np.linspace(0, 1, steps)
    way = CubicSpline(at, np.array(points))
    wide = np.interp(fine, at, widths) / 2
    along = way(fine, 1)
    along /= np.linalg.norm(along, axis=1)[:, None]
    aside = np.stack([-along[:, 1], along[:, 0]], 1) * wide[:, None]
    one, other = way(fine) + aside, (way(fine) - aside)[::-1]
    cap, foot = wide[-1], wide[0]
    text = "M" + " L".join(f"{x:.1f},{y:.1f}" for x, y in one)
    text += f" A{cap:.1f},{cap:.1f} 0 0 0 {other[0][0]:.1f},{other[0][1]:.1f} L"
    text += " L".join(f"{x:.1f},{y:.1f}" for x, y in other[1:])
    return f"{text} A{foot:.1f},{foot:.1f} 0 0 0 {one[0][0]:.1f},{one[0][1]:.1f} Z"


def pivot(x: float, y: float) -> str:
    """What marks where a part turns."""
    return f'<circle id="pivot_{x:.0f}_{y:.0f}" data-name="pivot" cx="{x}" cy="{y}" r="6" fill="#C2342A"/>'


def part(name: str, *content: str) -> str:
    """A named group."""
    return f'<g id="{name}">' + "".join(content) + "</g>"


def drawings(name: str, turn: tuple[float, float], *rows: tuple[str, str]) -> str:
    """A part with several drawings, of which the first is shown."""
    hidden = [
        f'<g id="{name}_{n}" data-name="{word}" {"" if n == 0 else HIDDEN}>{art}</g>'
        for n, (word, art) in enumerate(rows)
    ]
    return part(name, pivot(*turn), *hidden)


HIDDEN = 'display="none"'


def _leg(side: str, hip: Points, colour: str) -> str:
    """Three parts: the feathered thigh with the long shank to the joint that bends backward, the shin below it, the foot."""
    (hx, hy), (kx, ky), (fx, fy) = hip
    upper = tapered([(hx, hy), ((hx + kx) / 2, (hy + ky) / 2), (kx, ky)], [52, 25, 17])
    lower = tapered([(kx, ky), ((kx + fx) / 2 + 2, (ky + fy) / 2), (fx, fy)], [18, 13, 15])
    toes = (
        f"M{fx - 8},{fy - 8} C{fx + 20},{fy - 4} {fx + 52},{fy + 12} {fx + 84},{fy + 22} Q{fx + 88},{fy + 30} {fx + 78},{fy + 30} "
        f"L{fx - 38},{fy + 30} Q{fx - 46},{fy + 26} {fx - 38},{fy + 20} Q{fx - 18},{fy + 12} {fx - 8},{fy - 8} Z"
    )
    knob = f'<circle cx="{kx}" cy="{ky}" r="12" fill="{colour}" {OUTLINED}/>'
    return (
        part(f"{side}_upper_leg", pivot(hx, hy), shape(upper, colour))
        + part(f"{side}_lower_leg", pivot(kx, ky), shape(lower, colour), knob)
        + part(f"{side}_foot", pivot(fx, fy), shape(toes, colour), line(f"M{fx + 22},{fy + 14} L{fx + 46},{fy + 27}"))
    )


def _wing(side: str, x: float, y: float, fill: str, tip: str) -> str:
    """A wing folded along the body, half open, and spread."""
    folded = shape(
        f"M{x + 18},{y - 14} C{x - 60},{y - 62} {x - 170},{y - 18} {x - 232},{y + 96} C{x - 250},{y + 128} {x - 262},{y + 140} "
        f"{x - 276},{y + 156} C{x - 200},{y + 150} {x - 70},{y + 130} {x + 6},{y + 58} C{x + 34},{y + 30} {x + 36},{y + 4} "
        f"{x + 18},{y - 14} Z",
        fill,
    )
    folded += shape(
        f"M{x - 276},{y + 156} C{x - 240},{y + 96} {x - 210},{y + 74} {x - 168},{y + 52} C{x - 150},{y + 92} {x - 120},{y + 116} "
        f"{x - 84},{y + 112} C{x - 140},{y + 142} {x - 220},{y + 152} {x - 276},{y + 156} Z",
        tip,
    )
    folded += line(f"M{x - 44},{y + 6} C{x - 84},{y + 14} {x - 118},{y + 34} {x - 140},{y + 62}")
    folded += line(f"M{x - 4},{y + 22} C{x - 36},{y + 34} {x - 62},{y + 56} {x - 80},{y + 84}")
    return drawings(
        f"{side}_wing",
        (x, y),
        ("folded", folded),
        ("half", _fan(x, y, [(-268, 24), (-262, 78), (-226, 122), (-166, 146), (-92, 134)], fill, tip)),
        (
            "spread",
            _fan(x, y, [(-226, -300), (-286, -232), (-304, -150), (-280, -66), (-214, 8), (-120, 62)], fill, tip),
        ),
    )


def _fan(x: float, y: float, tips: Points, fill: str, tip: str) -> str:
    """Feathers from a shoulder to tips, the outermost first, and the arm of the wing over them."""
    made = ""
    for n, (dx, dy) in enumerate(tips):
        root = (x - 10 - 8 * n, y - 4 + 8 * n)
        bend = (x + 0.55 * dx - 0.12 * dy, y + 0.55 * dy + 0.10 * dx)
        made += shape(tapered([root, bend, (x + dx, y + dy)], [40, 62, 26]), tip if n < 3 else fill)
    dx, dy = tips[0]
    arm = [(x + 6, y + 10), (x + 0.34 * dx, y + 0.34 * dy - 8), (x + 0.62 * dx, y + 0.62 * dy + 2)]
    return (
        made
        + shape(tapered(arm, [84, 74, 44]), fill)
        + line(
            f"M{x + 0.1 * dx},{y + 0.1 * dy + 12} Q{x + 0.3 * dx - 8},{y + 0.3 * dy + 16} {x + 0.5 * dx},{y + 0.5 * dy + 14}"
        )
    )


def _beak(x: float, y: float, gape: float) -> str:
    """A dagger of a beak, opened by so many degrees, about where it begins."""
    lower = f"M{x - 14},{y + 4} L{x + 134},{y + 14} Q{x + 60},{y + 32} {x - 12},{y + 26} Z"
    upper = f"M{x - 16},{y - 22} C{x + 40},{y - 24} {x + 100},{y - 6} {x + 158},{y + 12} L{x - 14},{y + 8} Z"
    red = ""
    if gape:
        red = shape(f"M{x - 10},{y - 6} L{x + 40},{y + 2} L{x + 36},{y + 2 + gape} L{x - 10},{y + 22} Z", "#B9533B")
    return (
        red
        + f'<g transform="rotate({gape:.0f} {x} {y + 8})">{shape(lower, ORANGE)}</g>'
        + f'<g transform="rotate({-gape / 3:.1f} {x} {y + 4})">{shape(upper, GOLD)}{line(f"M{x + 26},{y - 8} L{x + 48},{y - 5}")}</g>'
    )


def _eye(x: float, y: float) -> str:
    ball = f'<circle cx="{x}" cy="{y}" r="13" fill="#F0CE4E" {OUTLINED}/>'
    pupil = (
        f'<circle cx="{x + 3}" cy="{y}" r="6" fill="{INK}"/><circle cx="{x + 5}" cy="{y - 2.5}" r="2" fill="{WHITE}"/>'
    )
    lid = shape(f"M{x - 13},{y} A13,13 0 0 1 {x + 13},{y} Q{x},{y + 3} {x - 13},{y} Z", PALE)
    shut = shape(f"M{x - 14},{y - 1} A14,14 0 0 1 {x + 14},{y - 1} A18,18 0 0 1 {x - 14},{y - 1} Z", PALE)
    lash = line(f"M{x - 14},{y + 3} Q{x},{y + 12} {x + 14},{y + 3}", 5.0)
    return drawings("eye", (x, y), ("open", ball + pupil), ("half", ball + pupil + lid), ("shut", shut + lash))


def _body() -> str:
    d = (
        "M500,392 C548,420 552,486 508,532 C470,572 404,590 340,584 C282,580 236,588 190,610 C214,566 236,520 290,470 "
        "C346,416 430,362 500,392 Z"
    )
    plumes = "".join(line(f"M{x},{y} q{10},{26} {2},{46}") for x, y in ((520, 456), (500, 482), (474, 504)))
    return part(
        "body", pivot(392, 512), shape(d, GREY), plumes, line("M300,560 q34,10 66,2"), line("M256,566 q20,4 38,0")
    )


def drawing() -> str:
    """The whole drawing, the rearmost part first."""
    neck = tapered([(486, 462), (546, 388), (520, 292), (528, 214), (566, 152)], [98, 70, 50, 44, 46])
    throat = line("M536,330 q-6,-20 -2,-40") + line("M544,372 q0,-10 -3,-20") + line("M534,262 q2,-14 6,-26")
    crest = (
        "M566,118 C530,86 470,84 404,112 C396,118 400,126 412,124 C462,118 500,126 530,146 C548,158 572,140 566,118 Z"
    )
    head = (
        "M528,142 C532,104 576,88 612,106 C640,120 646,150 628,168 C606,190 560,196 540,176 C530,168 526,156 528,142 Z"
    )
    mask = "M540,124 C560,96 596,96 622,116 C600,118 580,126 566,140 C556,140 546,134 540,124 Z"
    parts = [
        _wing("far", 470, 446, "#6F8A9C", "#4B5E70"),
        _leg("far", [(444, 548), (424, 742), (440, 930)], "#7A6D45"),
        _leg("near", [(390, 556), (366, 748), (384, 930)], LEG),
        _body(),
        part("neck", pivot(492, 452), shape(neck, PALE), throat),
        _wing("near", 470, 446, BLUE, DARK),
        part("crest", pivot(556, 126), shape(crest, DARK), line("M430,116 C470,106 506,110 540,126", 3.0, "#6B7C8C")),
        drawings(
            "beak",
            (624, 138),
            ("shut", _beak(628, 140, 0)),
            ("half", _beak(628, 140, 14)),
            ("wide", _beak(628, 140, 34)),
        ),
        part("head", pivot(556, 160), shape(head, WHITE), f'<path d="{mask}" fill="{DARK}"/>'),
        _eye(598, 136),
    ]
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 900 1000" width="900" height="1000">'
        "<title>Heron</title>" + "".join(parts) + "</svg>\n"
    )


def heron() -> Figure:
    """The figure: the drawing brought as anybody's is, its neck bent by four points."""
    root = svg_root(drawing().encode(), "heron.svg")
    layers, _ = layers_of(root, "heron.svg")
    return bent_figure(flat_figure("heron", layers, "cast:heron"), "neck", 4)
