"""An SVG file as a tree of elements, read so that nothing outside of it is ever looked at."""

from __future__ import annotations

import gzip
import re
import zlib
from io import BytesIO
from pathlib import Path
from typing import NamedTuple
from xml.etree.ElementTree import Element, ParseError

from defusedxml import ElementTree  # type: ignore[import-untyped]
from defusedxml.common import DefusedXmlException  # type: ignore[import-untyped]

from bovrin.errors import BadFigure, BrokenFile
from bovrin.formats.files import read_bytes

MOST = 200_000_000
"""Bytes of the largest drawing that is read, unpacked."""
DEEPEST = 200
"""Groups within groups that are followed."""
MOST_ELEMENTS = 400_000
LEAST_SIDE, LARGEST_SIDE = 1e-3, 1e7
"""Units that a drawing is wide and high."""
UNITS = {"": 1.0, "px": 1.0, "pt": 4 / 3, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "q": 96 / 101.6}
"""Pixels in the units of a length."""
SVG = "{http://www.w3.org/2000/svg}"
HREFS = ("href", "{http://www.w3.org/1999/xlink}href")


class Page(NamedTuple):
    """What of a drawing's own units is its picture: its left, its top, how wide and how high it is."""

    left: float
    top: float
    width: float
    height: float


def read_svg(path: Path) -> Element:
    """The root of an `.svg` or `.svgz` file; BrokenFile says what is wrong with it."""
    return svg_root(_unpacked(read_bytes(path, "drawing"), str(path)), str(path))


def svg_root(data: bytes, where: str) -> Element:
    """The root of a drawing's text. Entities of its own and what it would fetch from elsewhere are refused."""
    try:
        tree = ElementTree.parse(BytesIO(data), forbid_dtd=False, forbid_entities=True, forbid_external=True)
        root: Element | None = tree.getroot()
    except DefusedXmlException as error:
        raise BrokenFile(
            "the drawing defines entities of its own, which are not read.",
            where=where,
            advice="Save it as plain SVG.",
        ) from error
    except (ParseError, ValueError, LookupError, RecursionError, MemoryError) as error:
        raise BrokenFile(
            f"this is no drawing that can be read ({error}).", where=where, advice="Save it again as plain SVG."
        ) from error
    if root is None or local_name(root) != "svg":
        raise BrokenFile("the file holds no SVG drawing.", where=where, advice="Choose an .svg file.")
    _check(root, where)
    return root


def _unpacked(data: bytes, where: str) -> bytes:
    if data[:2] != b"\x1f\x8b":
        return data
    try:
        with gzip.GzipFile(fileobj=BytesIO(data)) as packed:
            plain = packed.read(MOST + 1)
    except (OSError, EOFError, zlib.error) as error:
        raise BrokenFile("the packed drawing is damaged.", where=where, advice="Save it again.") from error
    if len(plain) > MOST:
        raise BrokenFile(
            f"unpacked the drawing has more than {MOST // 1_000_000} MB.", where=where, advice="Save a smaller one."
        )
    return plain


def _check(root: Element, where: str) -> None:
    """Refuse what is too deep or too much; take away what would be read from elsewhere."""
    level, depth, count = [root], 0, 0
    while level:
        depth, count = depth + 1, count + len(level)
        if depth > DEEPEST or count > MOST_ELEMENTS:
            what = (
                f"groups lie more than {DEEPEST} deep in one another" if depth > DEEPEST else "it has too many shapes"
            )
            raise BadFigure(f"{what}.", where=where, advice="Save a simpler drawing.")
        for element in level:
            _keep_inside(element)
        level = [child for element in level for child in element if isinstance(child.tag, str)]


def _keep_inside(element: Element) -> None:
    """Only what lies in the file itself is shown: references to other files and hosts are taken out."""
    for name in HREFS:
        to = element.get(name)
        if to is not None and not to.strip().startswith(("#", "data:image/")):
            del element.attrib[name]
    if local_name(element) == "style" and element.text:
        element.text = re.sub(r"@import[^;]*;?", "", element.text)


def local_name(element: Element) -> str:
    """What an element is, without its namespace."""
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""


def page_of(root: Element, where: str) -> Page:
    """The page of a drawing in its own units."""
    told = [_number(word) for word in re.split(r"[\s,]+", (root.get("viewBox") or "").strip()) if word]
    if len(told) == 4 and None not in told:
        left, top, width, height = (float(n or 0.0) for n in told)
    else:
        left = top = 0.0
        width, height = _length(root.get("width")) or 100.0, _length(root.get("height")) or 100.0
    if not all(LEAST_SIDE <= side <= LARGEST_SIDE for side in (width, height)):
        raise BadFigure(
            f"the drawing is {width:g} by {height:g} units large.",
            where=where,
            advice="Give it a page of an ordinary size.",
        )
    return Page(left, top, width, height)


def _number(word: str) -> float | None:
    try:
        found = float(word)
    except ValueError:
        return None
    return found if abs(found) < 1e12 else None


def _length(text: str | None) -> float | None:
    found = re.fullmatch(r"\s*([-+]?[0-9.]+(?:e[-+]?\d+)?)\s*([a-zA-Z]*)\s*", text or "")
    number = _number(found[1]) if found else None
    return number * UNITS[found[2].lower()] if found and number and found[2].lower() in UNITS else None
