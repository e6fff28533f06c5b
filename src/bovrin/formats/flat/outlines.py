"""The points that the shapes of a drawing's parts are made of, where the drawing has them: what another pose is solved from."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple
from xml.etree.ElementTree import Element

import numpy as np
from numpy.typing import NDArray

from bovrin.formats.flat.found_parts import Placed, found_parts
from bovrin.formats.flat.svg_file import local_name, read_svg

Floats = NDArray[np.float64]
NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
COMMAND = re.compile(r"([MmLlHhVvCcSsQqTtAaZz])([^MmLlHhVvCcSsQqTtAaZz]*)")
TRANSFORM = re.compile(r"(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^)]*)\)")
TAKES = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}
"""Numbers that each command of a path takes."""
MOST_POINTS = 20_000
UNIT = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])


class Outline(NamedTuple):
    """A drawing of a part: its points (N, 2) in the drawing's units."""

    part: str
    drawing: str
    points: Floats


def outlines(path: Path) -> tuple[list[Outline], list[str]]:
    """The drawings of all parts of an SVG, parts as they lie, the rearmost first, the shown drawing of each before the others;
    and what was left out."""
    parts, left_out = found_parts(read_svg(path))
    found = [Outline(part.name, drawing.name, _points(drawing.spots)) for part in parts for drawing in part.drawings]
    return found, left_out


def _points(spots: Sequence[Placed]) -> Floats:
    rows: list[Floats] = []
    for spot in spots:
        way = np.eye(3)
        for group in spot.within[1:]:
            way = way @ transform_of(group)
        for element, own in _shapes(spot.element, way):
            own_points = shape_points(element)
            if len(own_points):
                rows.append(own_points @ own[:2, :2].T + own[:2, 2])
    return np.concatenate(rows)[:MOST_POINTS] if rows else np.zeros((0, 2))


def _shapes(element: Element, way: Floats) -> Iterator[tuple[Element, Floats]]:
    """All shapes in an element, and the way from their own units to the drawing's."""
    waiting = [(element, way)]
    while waiting:
        one, above = waiting.pop()
        own = above @ transform_of(one)
        yield one, own
        waiting += [(child, own) for child in reversed(list(one)) if isinstance(child.tag, str)]


def transform_of(element: Element) -> Floats:
    """What an element's own `transform` does (3, 3)."""
    made = np.eye(3)
    for word, inside in TRANSFORM.findall(element.get("transform") or ""):
        made = made @ _matrix(word, [float(n) for n in NUMBER.findall(inside)])
    return made


def _matrix(word: str, n: list[float]) -> Floats:
    made = np.eye(3)
    if word == "matrix" and len(n) == 6:
        made[:2] = [[n[0], n[2], n[4]], [n[1], n[3], n[5]]]
    elif word == "translate" and n:
        made[:2, 2] = n[0], n[1] if len(n) > 1 else 0.0
    elif word == "scale" and n:
        made[0, 0], made[1, 1] = n[0], n[1] if len(n) > 1 else n[0]
    elif word == "rotate" and n:
        cos, sin = math.cos(math.radians(n[0])), math.sin(math.radians(n[0]))
        made[:2, :2] = [[cos, -sin], [sin, cos]]
        if len(n) == 3:
            about = np.array(n[1:])
            made[:2, 2] = about - made[:2, :2] @ about
    elif word.startswith("skew") and n:
        made[(0, 1) if word == "skewX" else (1, 0)] = math.tan(math.radians(n[0]))
    return made


def shape_points(element: Element) -> Floats:
    """The points (N, 2) that say where a shape is, in its own units."""
    kind = local_name(element)

    def n(name: str, default: float = 0.0) -> float:
        found = NUMBER.match((element.get(name) or "").strip())
        return float(found[0]) if found else default

    if kind == "path":
        return _path_points(element.get("d") or "")
    if kind in ("rect", "image", "use", "text"):
        wide, high = n("width", 1.0) or 1.0, n("height", 1.0) or 1.0
        return np.asarray(np.array([n("x"), n("y")]) + UNIT * [wide, high], float)
    if kind in ("circle", "ellipse"):
        across, down = (n("r"), n("r")) if kind == "circle" else (n("rx"), n("ry"))
        return np.asarray(np.array([n("cx"), n("cy")]) + UNIT * [across, down], float)
    if kind == "line":
        return np.array([[n("x1"), n("y1")], [n("x2"), n("y2")]])
    if kind in ("polygon", "polyline"):
        numbers = [float(x) for x in NUMBER.findall(element.get("points") or "")]
        return np.array(numbers[: len(numbers) // 2 * 2]).reshape(-1, 2)
    return np.zeros((0, 2))


def _path_points(text: str) -> Floats:
    """The ends and handles of a path's pieces, absolute."""
    points: list[tuple[float, float]] = []
    at, start = np.zeros(2), np.zeros(2)
    for letter, inside in COMMAND.findall(text):
        word, relative = letter.upper(), letter.islower()
        if word == "Z":
            at = start
            continue
        numbers = [float(x) for x in NUMBER.findall(inside)]
        takes = TAKES[word]
        for first in range(0, len(numbers) - takes + 1, takes):
            row = numbers[first : first + takes]
            base = at if relative else np.zeros(2)
            at = _piece(word, row, at, base, relative, points)
            if word == "M" and first == 0:
                start = at
            if len(points) > MOST_POINTS:
                return np.array(points)
    return np.array(points) if points else np.zeros((0, 2))


def _piece(
    word: str, row: list[float], at: Floats, base: Floats, relative: bool, points: list[tuple[float, float]]
) -> Floats:
    if word in "HV":
        end = at.copy()
        axis = 0 if word == "H" else 1
        end[axis] = row[0] + (at[axis] if relative else 0.0)
    elif word == "A":
        end = base + row[5:]
    else:
        spots = base + np.array(row).reshape(-1, 2)
        points += [(float(x), float(y)) for x, y in spots[:-1]]
        end = spots[-1]
    points.append((float(end[0]), float(end[1])))
    return np.asarray(end)
