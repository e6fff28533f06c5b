"""A glTF file of any maker, .glb or .gltf, as one document with one buffer: what lies outside it is taken in."""

from __future__ import annotations

import base64
import binascii
import copy
import json
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from bovrin.errors import BrokenFile, FileProblem
from bovrin.formats.files import read_bytes, real_path
from bovrin.formats.gltf.container import GlbReader, mime_of, packed

PRESSED = ("KHR_draco_mesh_compression", "EXT_meshopt_compression", "KHR_meshopt_compression", "KHR_texture_basisu")
KNOWN = ("KHR_materials_", "KHR_texture_transform", "KHR_mesh_quantization", "KHR_lights_punctual", "KHR_xmp")


def read_source(path: Path) -> tuple[GlbReader, list[str]]:
    """The file, whole, and what was left out of it. FileProblem says in a sentence why it cannot be read."""
    data = read_bytes(path, "figure file")
    return source_of(data, path)


def source_of(data: bytes, path: Path) -> tuple[GlbReader, list[str]]:
    """The same from bytes; `path` is where they lie, for what they point at."""
    where = str(path)
    reader = GlbReader(data if data[:4] == b"glTF" else _as_glb(data, where), where)
    _check_needs(reader)
    buffers, images = reader.items("buffers"), reader.items("images")
    outside = len(buffers) > 1 or any("uri" in item for item in (*buffers, *images))
    if not outside:
        return reader, []
    left_out: list[str] = []
    return _gathered(reader, path.parent, left_out), left_out


def _as_glb(data: bytes, where: str) -> bytes:
    try:
        document = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise BrokenFile(
            "this is not a glTF file, or it is cut off.",
            where=where,
            advice="Ask for the file again, or export it anew.",
        ) from error
    if not isinstance(document, dict) or not isinstance(document.get("asset"), dict):
        raise BrokenFile("this is not a glTF file.", where=where, advice="Choose a .glb or .gltf file.")
    try:
        return packed({**document, "buffers": document.get("buffers", [])}, b"")
    except (ValueError, RecursionError) as error:
        raise BrokenFile(
            "the file holds numbers that are not finite.", where=where, advice="Export it anew."
        ) from error


def _check_needs(reader: GlbReader) -> None:
    asset = reader.document.get("asset")
    version = asset.get("version", "2.0") if isinstance(asset, dict) else "2.0"
    if not str(version).startswith("2"):
        raise reader.fault(f"the file is glTF {version}, and only glTF 2 is understood.")
    needed = reader.document.get("extensionsRequired", [])
    for name in needed if isinstance(needed, list) else []:
        if not str(name).startswith(KNOWN):
            kind = "compression" if str(name) in PRESSED else "extension"
            raise BrokenFile(
                f"the file needs the {kind} '{name}', which is not understood.",
                where=reader.where,
                advice="Export it again without that.",
            )


def _gathered(reader: GlbReader, folder: Path, left_out: list[str]) -> GlbReader:
    """The file with every buffer and picture in one buffer of its own."""
    document: dict[str, Any] = copy.deepcopy(reader.document)
    blob = bytearray()
    starts = []
    for number, buffer in enumerate(reader.items("buffers")):
        blob.extend(b"\0" * (-len(blob) % 4))
        starts.append(len(blob))
        blob.extend(_buffer(reader, number, buffer, folder))
    for view in _rows(document, "bufferViews"):
        number = view.get("buffer", 0)
        if isinstance(number, int) and 0 <= number < len(starts) and isinstance(view.get("byteOffset", 0), int):
            view["byteOffset"] = view.get("byteOffset", 0) + starts[number]
            view["buffer"] = 0
    for image in _rows(document, "images"):
        if "uri" in image:
            _take_in(image, document, blob, folder, left_out)
    document.pop("buffers", None)
    return GlbReader(packed(document, bytes(blob)), reader.where)


def _rows(document: dict[str, Any], group: str) -> list[dict[str, Any]]:
    found = document.get(group)
    return [row for row in found if isinstance(row, dict)] if isinstance(found, list) else []


def _buffer(reader: GlbReader, number: int, buffer: dict[str, Any], folder: Path) -> bytes:
    if "uri" not in buffer:
        if number != 0:
            raise reader.fault("the figure file keeps arrays in a part that it does not have.")
        return reader.blob
    found, fault = _fetched(buffer["uri"], folder)
    if found is None:
        raise reader.fault(f"the figure's arrays {fault}.")
    return found


def _take_in(
    image: dict[str, Any], document: dict[str, Any], blob: bytearray, folder: Path, left_out: list[str]
) -> None:
    found, fault = _fetched(image["uri"], folder)
    if found is not None and not mime_of(found):
        found, fault = None, "is neither PNG nor JPEG"
    if found is None:
        left_out.append(f"The picture '{_shown(image)}' {fault}; the mesh has its plain colour.")
        return
    blob.extend(b"\0" * (-len(blob) % 4))
    views: list[Any] = document.setdefault("bufferViews", [])
    views.append({"buffer": 0, "byteOffset": len(blob), "byteLength": len(found)})
    blob.extend(found)
    image.setdefault("name", _shown(image))
    image["bufferView"], image["mimeType"] = len(views) - 1, mime_of(found)
    del image["uri"]


def _shown(image: dict[str, Any]) -> str:
    uri = str(image["uri"])
    return str(image.get("name") or ("inside the file" if uri.startswith("data:") else Path(unquote(uri)).name))


def _fetched(uri: Any, folder: Path) -> tuple[bytes | None, str]:
    """The bytes that a URI names, or None and why not. Nothing outside the file's own folder is read."""
    if not isinstance(uri, str):
        return None, "are named by something that is no name"
    if uri.startswith("data:"):
        _, _, text = uri.partition(",")
        try:
            return base64.b64decode(text, validate=False), ""
        except (binascii.Error, ValueError):
            return None, "cannot be decoded"
    if "://" in uri or "\0" in uri:
        return None, "lies outside the file's folder"
    path = folder / unquote(uri)
    try:
        if not real_path(path).is_relative_to(real_path(folder)):
            return None, "lies outside the file's folder"
        return read_bytes(path, "file"), ""
    except (OSError, ValueError, RuntimeError, FileProblem):
        return None, f"cannot be read ('{Path(unquote(uri)).name}' is not there)"
