"""Parts that are pictures: a layered picture (OpenRaster), a folder of pictures, one picture."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Sequence
from pathlib import Path, PurePosixPath
from typing import NamedTuple
from xml.etree.ElementTree import Element, ParseError

from defusedxml import ElementTree  # type: ignore[import-untyped]
from defusedxml.common import DefusedXmlException  # type: ignore[import-untyped]

from bovrin.errors import BadFigure, BrokenFile
from bovrin.figure.flat.layers import DrawnPart, PartPicture
from bovrin.formats.files import read_bytes, stem_of
from bovrin.formats.flat.found_parts import FIRST, MOST_PARTS, PIVOT, VARIANT
from bovrin.formats.flat.svg_file import DEEPEST
from bovrin.progress import each

DAMAGED = (
    *(zipfile.BadZipFile, zlib.error, EOFError, KeyError, RuntimeError, NotImplementedError, ValueError, OverflowError),
    *(ParseError, DefusedXmlException),
)
"""What reading a damaged file of layers ends in."""
MOST_PIXELS = 70_000_000
MOST_BYTES = 200_000_000
LARGEST = 2048
"""Pixels along the longer side of a part's picture; larger ones are made smaller."""


class LayerSheet(NamedTuple):
    """A picture among others: its name, whether it is hidden, the group that it is one of several drawings of, its PNG and where
    its upper left corner lies, pixels."""

    name: str
    hidden: bool
    choice_of: str
    data: bytes
    left: int = 0
    top: int = 0


def ora_layers(path: Path) -> tuple[list[DrawnPart], list[str]]:
    """The parts of an OpenRaster file, the rearmost first, and what was left out."""
    where = str(path)
    try:
        with zipfile.ZipFile(io.BytesIO(read_bytes(path, "layered picture"))) as packed:
            stack = ElementTree.fromstring(_member(packed, "stack.xml", where), forbid_external=True)
            sheets: list[LayerSheet] = []
            _stack(packed, stack, sheets, where, "", 0, hidden=False)
    except DAMAGED as error:
        raise BrokenFile(
            "the layered picture is damaged, or is none.", where=where, advice="Save it again as OpenRaster."
        ) from error
    sheets.reverse()  # the file tells the topmost first
    return _parts(sheets, where)


def _member(packed: zipfile.ZipFile, name: str, where: str) -> bytes:
    info = packed.getinfo(name)
    if info.file_size > MOST_BYTES:
        raise BadFigure(f"'{name}' in it is too large.", where=where, advice="Save a smaller picture.")
    return packed.read(info)


def _stack(
    packed: zipfile.ZipFile,
    element: Element,
    sheets: list[LayerSheet],
    where: str,
    choice_of: str,
    depth: int,
    *,
    hidden: bool,
) -> None:
    if depth > DEEPEST or len(sheets) > 3 * MOST_PARTS:
        raise BadFigure("it has too many layers.", where=where, advice="Keep only those that shall move apart.")
    for child in element:
        tag = str(child.tag)
        name = (child.get("name") or "").strip()
        unseen = hidden or child.get("visibility") == "hidden"
        if tag == "stack":
            layers = [c for c in child if c.tag in ("layer", "stack")]
            seen = sum(c.get("visibility") != "hidden" for c in layers)
            one = name if name and len(layers) > 1 and seen == 1 and element is not child else choice_of
            _stack(packed, child, sheets, where, one, depth + 1, hidden=unseen)
        elif tag == "layer":
            source = PurePosixPath(child.get("src") or "")
            left, top = int(float(child.get("x") or 0)), int(float(child.get("y") or 0))
            sheets.append(
                LayerSheet(name or source.stem, unseen, choice_of, _member(packed, str(source), where), left, top)
            )


def folder_layers(path: Path) -> tuple[list[DrawnPart], list[str]]:
    """The parts that the PNG files of a folder are, in the order of their names; other files are told."""
    left_out: list[str] = []
    sheets: list[LayerSheet] = []
    for file in sorted(path.iterdir(), key=lambda p: p.name.lower()):
        if file.suffix.lower() == ".png" and file.is_file():
            if len(sheets) > 3 * MOST_PARTS:
                raise BadFigure("the folder holds too many pictures.", where=str(path))
            sheets.append(LayerSheet(file.stem.replace("_", " "), False, "", read_bytes(file, "picture")))
        elif not file.name.startswith("."):
            left_out.append(f"'{file.name}' was left out: it is no PNG.")
    if not sheets:
        raise BadFigure(
            "the folder holds no PNG.", where=str(path), advice="Choose a folder with a picture of each part."
        )
    names = {sheet.name for sheet in sheets}
    told = [sheet._replace(hidden=_is_further(sheet.name, names)) for sheet in sheets]
    parts, more = _parts(told, str(path))
    return parts, left_out + more


def _is_further(name: str, names: set[str]) -> bool:
    found = VARIANT.fullmatch(name)
    return found is not None and found[1].strip() in names


def png_layers(path: Path) -> tuple[list[DrawnPart], list[str]]:
    """One picture as a figure of one part."""
    return _parts([LayerSheet(stem_of(path), False, "", read_bytes(path, "picture"))], str(path))


def _parts(sheets: Sequence[LayerSheet], where: str) -> tuple[list[DrawnPart], list[str]]:
    found: dict[str, list[tuple[str, LayerSheet]]] = {}
    left_out: list[str] = []
    pivots: dict[str, LayerSheet] = {}
    for sheet in sorted(sheets, key=lambda s: s.hidden):
        pivot = PIVOT.fullmatch(sheet.name)
        if pivot:
            pivots[pivot[1].strip()] = sheet
        elif sheet.choice_of:
            found.setdefault(sheet.choice_of, []).append((sheet.name, sheet))
        elif not sheet.hidden:
            found.setdefault(_free(sheet.name, found), []).append((FIRST, sheet))
        else:
            variant = VARIANT.fullmatch(sheet.name)
            base = variant[1].strip() if variant else sheet.name
            if base in found:
                found[base].append(((variant[2] or variant[3]) if variant else sheet.name, sheet))
            else:
                left_out.append(f"The hidden layer '{sheet.name}' was left out: there is no part '{base}'.")
    if len(found) > MOST_PARTS:
        raise BadFigure(
            f"it has more than {MOST_PARTS} layers.", where=where, advice="Keep only those that shall move apart."
        )
    order = {id(sheet): n for n, sheet in enumerate(sheets)}
    rows = sorted(found.items(), key=lambda row: order[id(row[1][0][1])])
    parts = [_part(name, drawings, pivots.get(name), where) for name, drawings in each(rows)]
    seen = [part for part in parts if part is not None]
    left_out += [
        f"The part '{n}' was left out: nothing of it is seen."
        for (n, _), p in zip(rows, parts, strict=True)
        if p is None
    ]
    if not seen:
        raise BadFigure("the picture shows nothing.", where=where, advice="Show its layers.")
    return seen, left_out


def _free(name: str, taken: dict[str, list[tuple[str, LayerSheet]]]) -> str:
    plain = " ".join(name.split())[:60] or "part"
    return plain if plain not in taken else next(f"{plain} {n}" for n in range(2, 9999) if f"{plain} {n}" not in taken)


def _part(
    name: str, drawings: Sequence[tuple[str, LayerSheet]], pivot: LayerSheet | None, where: str
) -> DrawnPart | None:
    pictures = [made for word, sheet in drawings if (made := _picture(word, sheet, where)) is not None]
    if not pictures:
        return None
    marked = _picture("pivot", pivot, where) if pivot is not None else None
    box = marked.box if marked is not None else None
    middle = None if box is None else ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    names = dict.fromkeys(p.name for p in pictures)
    unique = [next(p for p in pictures if p.name == n) for n in names]
    return DrawnPart(name, tuple(unique), "", middle)


def _picture(name: str, sheet: LayerSheet, where: str) -> PartPicture | None:
    """A picture without the clear space around it; None where nothing is seen."""
    from PIL import Image, UnidentifiedImageError  # noqa: PLC0415 - only flat figures need it

    try:
        with Image.open(io.BytesIO(sheet.data), formats=("PNG",)) as opened:
            if opened.size[0] * opened.size[1] > MOST_PIXELS:
                raise BadFigure(f"the picture '{sheet.name}' is too large.", where=where, advice="Make it smaller.")
            image = opened.convert("RGBA")
    except (OSError, UnidentifiedImageError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise BrokenFile(
            f"the picture '{sheet.name}' cannot be read.", where=where, advice="Save it as PNG."
        ) from error
    seen = image.getchannel("A").getbbox()
    if seen is None:
        return None
    cut = image.crop(seen)
    cut.thumbnail((LARGEST, LARGEST))
    out = io.BytesIO()
    cut.save(out, "PNG", compress_level=1)
    left, top, right, bottom = seen
    box = (float(sheet.left + left), float(sheet.top + top), float(sheet.left + right), float(sheet.top + bottom))
    return PartPicture(name, out.getvalue(), box)
