"""Which groups of a drawing are the parts of a figure, which are drawings of one part, and where pivots are told."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple
from xml.etree.ElementTree import Element

from bovrin.errors import BadFigure
from bovrin.formats.flat.svg_file import local_name

SHAPES = {
    "path",
    "rect",
    "circle",
    "ellipse",
    "line",
    "polyline",
    "polygon",
    "text",
    "image",
    "use",
    "g",
    "a",
    "svg",
    "switch",
}
"""What is drawn; all else only helps to."""
LABELS = ("{http://www.inkscape.org/namespaces/inkscape}label", "{http://www.serif.com/}id", "data-name", "id")
MADE = re.compile(
    r"(g|path|rect|layer|group|svg|circle|ellipse|use|text|image|polygon|polyline|line|object|shape|_)[-_ ]?\d[\w-]*|_+",
    re.I,
)
"""Names that a program gave, not a person."""
PIVOT = re.compile(r"pivot\b[\s:_-]*(.*)", re.I)
VARIANT = re.compile(r"(.*?\S)\s*(?:[:/]\s*(\S.*)|[\s_#-]+(\d{1,3}))")
"""How a further drawing of a part is called: "hand 2", "hand:fist", "mouth/open"."""
MOST_PARTS, MOST_DRAWINGS = 400, 1200
REST = "rest"
FIRST = "1"
"""What the drawing of a part is called that has no name of its own."""


class Placed(NamedTuple):
    """A group or shape, and the groups that it lies in, from the root down."""

    element: Element
    within: tuple[Element, ...]


class PartDrawing(NamedTuple):
    """A drawing of a part: its name, its shapes (Placed), and whether the file shows it."""

    name: str
    spots: tuple[Placed, ...]
    shown: bool = True


class FlatPart(NamedTuple):
    """A part: its drawings, the shown one first; the part that it lies in, or ""; a shape that marks its pivot."""

    name: str
    drawings: tuple[PartDrawing, ...]
    parent: str = ""
    pivot: Placed | None = None


class _Found:
    """Collects parts in the order in which they are painted."""

    def __init__(self) -> None:
        self.parts: dict[str, FlatPart] = {}
        self.hidden: list[tuple[str, Placed]] = []
        self.pivots: list[tuple[str, Placed]] = []
        self.left_out: list[str] = []

    def free(self, name: str) -> str:
        """A name that no part has yet."""
        plain = " ".join(name.split())[:60] or "part"
        if plain not in self.parts:
            return plain
        return next(f"{plain} {n}" for n in range(2, MOST_PARTS + 3) if f"{plain} {n}" not in self.parts)

    def add(self, name: str, drawings: list[PartDrawing], parent: str) -> str:
        """A new part."""
        if len(self.parts) >= MOST_PARTS:
            raise BadFigure(
                f"the drawing has more than {MOST_PARTS} named groups.", advice="Keep only those that shall move apart."
            )
        own = self.free(name)
        self.parts[own] = FlatPart(own, tuple(drawings), parent)
        return own


def found_parts(root: Element) -> tuple[list[FlatPart], list[str]]:
    """The parts of a drawing, the rearmost first, and what was left out."""
    found = _Found()
    top, within = _top(root)
    _walk(found, top, within, "")
    loose = tuple(Placed(child, within) for child in _drawn(top) if not name_of(child) and not is_hidden(child))
    if loose:
        _add_first(found, found.free(REST), loose)
    _lay_hidden(found)
    _lay_pivots(found)
    if not found.parts:
        raise BadFigure("the drawing shows nothing.", advice="Draw something, or show its layers.")
    if sum(len(part.drawings) for part in found.parts.values()) > MOST_DRAWINGS:
        raise BadFigure(f"the drawing has more than {MOST_DRAWINGS} drawings of parts.", advice="Keep fewer.")
    return list(found.parts.values()), found.left_out


def _add_first(found: _Found, name: str, loose: tuple[Placed, ...]) -> None:
    """Loose shapes are one part, behind what is named."""
    found.parts = {name: FlatPart(name, (PartDrawing(FIRST, loose),)), **found.parts}


def _top(root: Element) -> tuple[Element, tuple[Element, ...]]:
    """Where the parts lie: in the root, or in the only group in it that holds them all."""
    top: Element = root
    within: tuple[Element, ...] = (root,)
    while True:
        children = [child for child in _drawn(top) if not is_hidden(child)]
        if len(children) != 1 or local_name(children[0]) not in ("g", "svg", "a"):
            return top, within
        if len([c for c in _drawn(children[0]) if local_name(c) in ("g", "svg") and name_of(c)]) < 2:
            return top, within
        top = children[0]
        within = (*within, top)


def _drawn(element: Element) -> Iterator[Element]:
    return (child for child in element if local_name(child) in SHAPES)


def name_of(element: Element) -> str:
    """The name that somebody gave a group or shape, or ""."""
    for label in LABELS:
        told = (element.get(label) or "").strip()
        if told and not (label == "id" and MADE.fullmatch(told)):
            return re.sub(r"_x([0-9A-Fa-f]{2})_", lambda m: chr(int(m[1], 16)), told).replace("_", " ").strip()
    return ""


def is_hidden(element: Element) -> bool:
    """Whether an element itself is told not to be shown."""
    style = (element.get("style") or "").replace(" ", "").lower()
    told = (element.get("display"), element.get("visibility"))
    return "none" in told[:1] or told[1] == "hidden" or "display:none" in style or "visibility:hidden" in style


def _walk(found: _Found, group: Element, within: tuple[Element, ...], parent: str) -> None:
    """All named groups in a group, and at the top named shapes too."""
    for child in _drawn(group):
        name, spot = name_of(child), Placed(child, within)
        pivot = PIVOT.fullmatch(name)
        if pivot:
            found.pivots.append((pivot[1].strip() or parent, spot))
        elif name and is_hidden(child):
            found.hidden.append((name, spot))
        elif name and (local_name(child) in ("g", "svg", "a") or not parent):
            _add_group(found, name, spot, parent)


def _add_group(found: _Found, name: str, spot: Placed, parent: str) -> None:
    group = spot.element
    below = (*spot.within, group)
    named = [
        c for c in _drawn(group) if name_of(c) and local_name(c) in ("g", "svg", "a") and not PIVOT.match(name_of(c))
    ]
    own = [c for c in _drawn(group) if not (name_of(c) and (c in named or PIVOT.match(name_of(c)) or is_hidden(c)))]
    choices = [c for c in _drawn(group) if name_of(c) and not PIVOT.match(name_of(c))]
    alone = len(choices) == sum(not PIVOT.match(name_of(c)) for c in _drawn(group))
    if alone and len(choices) > 1 and sum(not is_hidden(c) for c in choices) == 1:
        ordered = sorted(choices, key=is_hidden)
        found.add(name, [PartDrawing(name_of(c), (Placed(c, below),), not is_hidden(c)) for c in ordered], parent)
        return
    here = parent
    if own or local_name(group) != "g":
        variant = VARIANT.fullmatch(name)
        word = (variant[2] or variant[3]) if variant and variant[2] else ""
        shapes = (spot,) if not named and not _has_pivot(group) else tuple(Placed(c, below) for c in own)
        here = found.add(variant[1] if variant and word else name, [PartDrawing(word or FIRST, shapes)], parent)
    elif len(named) == 1:  # a group around one part alone
        here = parent
    _walk(found, group, below, here)


def _has_pivot(group: Element) -> bool:
    return any(PIVOT.match(name_of(child)) or (name_of(child) and is_hidden(child)) for child in _drawn(group))


def _lay_hidden(found: _Found) -> None:
    """Hidden groups are drawings of the part that they are named after."""
    for name, spot in found.hidden:
        variant = VARIANT.fullmatch(name)
        base = variant[1].strip() if variant else name
        part = found.parts.get(base) or next((p for n, p in found.parts.items() if n.lower() == base.lower()), None)
        if part is None:
            found.left_out.append(f"The hidden layer '{name}' was left out: there is no part '{base}'.")
            continue
        word = (variant[2] or variant[3]) if variant else name
        taken = {drawing.name for drawing in part.drawings}
        free = word if word not in taken else next(f"{word} {n}" for n in range(2, 2000) if f"{word} {n}" not in taken)
        found.parts[part.name] = part._replace(drawings=(*part.drawings, PartDrawing(free, (spot,), shown=False)))


def _lay_pivots(found: _Found) -> None:
    for name, spot in found.pivots:
        part = found.parts.get(name) or next((p for n, p in found.parts.items() if n.lower() == name.lower()), None)
        if part is None:
            found.left_out.append(f"The pivot '{name}' was left out: there is no such part.")
        else:
            found.parts[part.name] = part._replace(pivot=spot)
