"""Drawings of parts as pictures: each is cut out of its file and drawn by itself, just as it lies there."""

from __future__ import annotations

import io
import re
from collections.abc import Iterable, Sequence
from xml.etree.ElementTree import Element, SubElement, tostring

import numpy as np
from numpy.typing import NDArray

from bovrin.cast import FONTS
from bovrin.errors import BadFigure
from bovrin.formats.flat.found_parts import Placed
from bovrin.formats.flat.svg_file import HREFS, SVG, Page, local_name

COARSE = 128
"""Pixels along the longer side of the coarse picture in which it is looked where a drawing lies."""
AROUND = 0.5
"""Shares of the page that a drawing may lie beside it on each side."""
LONGEST = 2048
"""Pixels along the longer side of a drawing's picture."""
REFERENCE = re.compile(r"url\(\s*['\"]?#([^)'\"]+)['\"]?\s*\)")
FONT = FONTS / "Cabin-Regular.otf"
Box = tuple[float, float, float, float]
"""Left, top, right, bottom in the drawing's own units."""


class Sheet:
    """An SVG tree out of which parts are cut."""

    def __init__(self, root: Element, page: Page) -> None:
        self.page = page
        self._root = root
        self._ids = {own: e for e in root.iter() if isinstance(e.tag, str) and (own := e.get("id"))}
        self._styles = [e for e in root.iter() if local_name(e) == "style"]
        self._used_by_styles = {i for style in self._styles for i in REFERENCE.findall(style.text or "")}

    @property
    def around(self) -> Page:
        """The page, and what lies a little beside it."""
        left, top, width, height = self.page
        return Page(left - AROUND * width, top - AROUND * height, width * (1 + 2 * AROUND), height * (1 + 2 * AROUND))

    def text(self, spots: Iterable[Placed]) -> Element:
        """A drawing that shows only some groups and shapes, where they are, with all that they refer to."""
        made = Element(
            self._root.tag, {k: v for k, v in self._root.attrib.items() if k not in ("width", "height", "x", "y")}
        )
        made.attrib.pop("display", None)
        shown = [_shown(spot.element) for spot in spots]
        made.extend(self._styles)
        defs = SubElement(made, f"{SVG}defs")
        defs.extend(self._needed([*shown, *(e for spot in spots for e in spot.within)], shown))
        chains: dict[tuple[int, ...], Element] = {}
        for spot, element in zip(spots, shown, strict=True):
            key = tuple(id(e) for e in spot.within)
            if key not in chains:
                chains[key] = _chain(made, spot.within[1:])
            chains[key].append(element)
        return made

    def _needed(self, elements: Sequence[Element], shown: Sequence[Element]) -> list[Element]:
        """What elements refer to, also through one another."""
        own = {e.get("id") for top in shown for e in top.iter()}
        found: dict[str, Element] = {}
        wanted = set(self._used_by_styles)
        for element in elements:
            wanted |= _references(element.iter() if element in shown else (element,))
        while wanted:
            name = wanted.pop()
            target = self._ids.get(name)
            if name not in found and name not in own and target is not None and target is not self._root:
                found[name] = target
                wanted |= _references(target.iter())
        inside = {id(e) for top in found.values() for e in top.iter() if e is not top}
        return [e for e in found.values() if id(e) not in inside]


def _references(elements: Iterable[Element]) -> set[str]:
    found: set[str] = set()
    for element in elements:
        for name, value in element.attrib.items():
            if name in HREFS:
                found.add(value.strip().removeprefix("#"))
            elif "url(" in value:
                found.update(REFERENCE.findall(value))
    return found


def _shown(element: Element) -> Element:
    """An element that is shown whatever it was told."""
    keep = {k: v for k, v in element.attrib.items() if k not in ("display", "visibility")}
    if "style" in keep:
        keep["style"] = re.sub(r"(display|visibility)\s*:\s*(none|hidden)\s*;?", "", keep["style"])
    if keep == element.attrib:
        return element
    made = Element(element.tag, keep)
    made.text = element.text
    made.extend(list(element))
    return made


def _chain(made: Element, within: Iterable[Element]) -> Element:
    """The groups that an element lies in, without what else lies in them."""
    at = made
    for group in within:
        at = SubElement(at, group.tag, {k: v for k, v in _shown(group).attrib.items() if k != "id"})
    return at


def drawn(text: Element, page: Page, zoom: float) -> bytes:
    """A PNG of a page of a drawing, so many pixels a unit, drawn by resvg with the shipped font alone.

    BadFigure when it cannot be drawn."""
    import resvg_py  # noqa: PLC0415 - only flat figures need it

    width, height = max(round(page.width * zoom), 1), max(round(page.height * zoom), 1)
    text.set("viewBox", f"{page.left!r} {page.top!r} {page.width!r} {page.height!r}")
    text.set("width", str(width))
    text.set("height", str(height))
    text.set("preserveAspectRatio", "none")
    try:
        return bytes(
            resvg_py.svg_to_bytes(
                svg_string=tostring(text, encoding="unicode"),
                skip_system_fonts=True,
                font_files=[str(FONT)],
                font_family="Cabin",
            )
        )
    except ValueError as error:
        raise BadFigure(f"a part of the drawing cannot be drawn ({error}).", advice="Save it as plain SVG.") from error


def alpha_of(png: bytes) -> NDArray[np.uint8]:
    """How opaque each pixel (H, W) of a picture is."""
    from PIL import Image  # noqa: PLC0415

    with Image.open(io.BytesIO(png)) as opened:
        return np.asarray(opened.convert("RGBA"))[..., 3]


def coarse_zoom(page: Page) -> float:
    """Pixels a unit of coarse pictures."""
    return COARSE / max(page.width, page.height)


def box_of(alpha: NDArray[np.uint8], page: Page) -> Box | None:
    """The box, units, that holds all that is seen in a coarse picture of a page, with a pixel to spare; None: nothing is."""
    rows, columns = np.flatnonzero(alpha.any(1)), np.flatnonzero(alpha.any(0))
    if not len(rows):
        return None
    height, width = alpha.shape
    across, down = page.width / width, page.height / height
    return (
        page.left + (columns[0] - 1) * across,
        page.top + (rows[0] - 1) * down,
        page.left + (columns[-1] + 2) * across,
        page.top + (rows[-1] + 2) * down,
    )


def cut_page(box: Box, page: Page, zoom: float) -> Page:
    """A box as a page whose edges lie between pixels of the whole page's picture at a zoom."""
    left, top = (np.floor((box[i] - page[i]) * zoom) / zoom + page[i] for i in (0, 1))
    right, bottom = (np.ceil((box[i + 2] - page[i]) * zoom) / zoom + page[i] for i in (0, 1))
    return Page(float(left), float(top), float(right - left), float(bottom - top))
