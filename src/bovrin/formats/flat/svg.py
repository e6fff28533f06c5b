"""The parts of an SVG drawing, each with its pictures."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from xml.etree.ElementTree import Element

from bovrin.figure.flat.layers import Box, DrawnPart, PartPicture
from bovrin.formats.flat.found_parts import FlatPart, Placed, found_parts
from bovrin.formats.flat.seen import trimmed
from bovrin.formats.flat.svg_file import Page, local_name, page_of, read_svg
from bovrin.formats.flat.svg_pictures import LONGEST, Sheet, alpha_of, box_of, coarse_zoom, cut_page, drawn
from bovrin.progress import each

HIGH = 1400
"""Pixels along the longer side of the whole figure's picture."""


def svg_layers(path: Path) -> tuple[list[DrawnPart], list[str]]:
    """The parts of an `.svg` or `.svgz` file, the rearmost first, and what was left out."""
    root = read_svg(path)
    return layers_of(root, str(path))


def layers_of(root: Element, where: str) -> tuple[list[DrawnPart], list[str]]:
    """The parts of a drawing that was read."""
    page = page_of(root, where)
    parts, left_out = found_parts(root)
    sheet = Sheet(root, page)
    boxes = {(part.name, d.name): _box(sheet, d.spots) for part in each(parts) for d in part.drawings}
    zoom = HIGH / _longer([box for box in boxes.values() if box is not None])
    layers = []
    for part in each(parts):
        layer = _layer(sheet, part, boxes, zoom)
        if layer is None:
            left_out.append(f"The part '{part.name}' was left out: nothing of it is seen.")
        else:
            layers.append(layer)
    if any(local_name(e) == "text" for e in root.iter()):
        left_out.append(
            "Its text is drawn in the font that comes with the program; turn it into shapes to keep its own."
        )
    return layers, left_out


def _longer(boxes: list[Box]) -> float:
    """The longer side of what holds all boxes."""
    if not boxes:
        return 1.0
    left, top, right, bottom = zip(*boxes, strict=True)
    return float(max(max(right) - min(left), max(bottom) - min(top)))


def _box(sheet: Sheet, spots: Sequence[Placed]) -> Box | None:
    page = sheet.around
    return box_of(alpha_of(drawn(sheet.text(spots), page, coarse_zoom(page))), page)


def _layer(sheet: Sheet, part: FlatPart, boxes: dict[tuple[str, str], Box | None], zoom: float) -> DrawnPart | None:
    pictures = []
    for drawing in part.drawings:
        box = boxes[part.name, drawing.name]
        if box is not None:
            page = cut_page(box, sheet.page, min(zoom, LONGEST / max(box[2] - box[0], box[3] - box[1])))
            pictures.append(trimmed(PartPicture(drawing.name, _cut(sheet, drawing.spots, page, zoom), _box_of(page))))
    if not pictures:
        return None
    return DrawnPart(part.name, tuple(pictures), part.parent, _pivot(sheet, part.pivot))


def _cut(sheet: Sheet, spots: Sequence[Placed], page: Page, zoom: float) -> bytes:
    return drawn(sheet.text(spots), page, min(zoom, LONGEST / max(page.width, page.height)))


def _box_of(page: Page) -> Box:
    return page.left, page.top, page.left + page.width, page.top + page.height


def _pivot(sheet: Sheet, spot: Placed | None) -> tuple[float, float] | None:
    """The middle of the shape that marks a pivot."""
    box = _box(sheet, (spot,)) if spot is not None else None
    return None if box is None else ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
