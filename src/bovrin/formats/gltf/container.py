"""The GLB container of glTF 2.0: packing and careful unpacking of its JSON and binary parts."""

from __future__ import annotations

import copy
import json
import struct
import sys
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BrokenFile, CannotWrite

MAGIC, JSON_CHUNK, BINARY_CHUNK = 0x46546C67, 0x4E4F534A, 0x004E4942
FLOAT = 5126
COMPONENTS = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, FLOAT: np.float32}
MOST_NOUGHTS = 3_000_000
"""Numbers of an array that is not in the file at all."""
DEEPEST = 100
"""Lists and objects of a description that lie in one another."""
MOST_NUMBERS = 60_000_000
"""More than this no array of a figure holds; a file that claims so is damaged."""
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}


@dataclass
class GlbWriter:
    """Collects arrays into one buffer and builds the JSON around them."""

    document: dict[str, Any] = field(default_factory=lambda: {"asset": {"version": "2.0", "generator": "Bovrin"}})
    pictures: dict[int, int] = field(default_factory=dict)
    """Which texture each picture became, by its identity."""
    _blob: bytearray = field(default_factory=bytearray)

    def append(self, group: str, item: dict[str, Any]) -> int:
        """Add an item to a list of the document, such as "nodes"; returns its index."""
        items: list[dict[str, Any]] = self.document.setdefault(group, [])
        items.append(item)
        return len(items) - 1

    def array(self, data: NDArray[Any], kind: str, *, target: int | None = None, bounds: bool = False) -> int:
        """Add an array as an accessor of the given kind ("VEC3" …); returns its index."""
        flat = as_floats(data) if data.dtype.kind == "f" else np.ascontiguousarray(data)
        code = next(c for c, dtype in COMPONENTS.items() if flat.dtype == dtype)
        self._blob.extend(b"\0" * (-len(self._blob) % 4))
        view = {"buffer": 0, "byteOffset": len(self._blob), "byteLength": flat.nbytes}
        if target is not None:
            view["target"] = target
        self._blob.extend(flat.tobytes())
        accessor: dict[str, Any] = {
            "bufferView": self.append("bufferViews", view),
            "componentType": code,
            "count": len(flat),
            "type": kind,
        }
        if bounds:
            rows = flat.reshape(len(flat), -1)
            accessor["min"], accessor["max"] = rows.min(0).tolist(), rows.max(0).tolist()
        return self.append("accessors", accessor)

    def zeros(self, count: int, kind: str) -> int:
        """Add an accessor of nothing but zeros, which takes no room in the file; returns its index."""
        nought = [0.0] * WIDTHS[kind]
        accessor = {"componentType": FLOAT, "count": count, "type": kind, "min": nought, "max": nought}
        return self.append("accessors", accessor)

    def add_bytes(self, data: bytes) -> int:
        """Add bytes as a view of their own; returns its index."""
        self._blob.extend(b"\0" * (-len(self._blob) % 4))
        view = {"buffer": 0, "byteOffset": len(self._blob), "byteLength": len(data)}
        self._blob.extend(data)
        return self.append("bufferViews", view)

    def to_bytes(self) -> bytes:
        """The whole file."""
        return packed(self.document, self._blob)


class GlbReader:
    """The JSON and the arrays of a GLB, every index and length checked before it is used."""

    def __init__(self, data: bytes, where: str) -> None:
        self.where = where
        self._checked: dict[str, list[dict[str, Any]]] = {}
        self.document, self.blob = self._unpack(data)

    def showing(self, document: dict[str, Any]) -> GlbReader:
        """A reader of the same arrays that shows another description."""
        other = copy.copy(self)
        other.document, other._checked = document, {}
        return other

    def fault(self, what: str) -> BrokenFile:
        """An error about this file."""
        return BrokenFile(what, where=self.where, advice="Ask for the file again, or export it anew.")

    def _unpack(self, data: bytes) -> tuple[dict[str, Any], bytes]:
        if len(data) < 20:
            raise self.fault("the figure file is empty or cut off.")
        magic, version, length = struct.unpack_from("<III", data)
        if magic != MAGIC or version != 2:
            raise self.fault("this is not a binary glTF 2.0 file.")
        if length > len(data):
            raise self.fault(f"the figure file is cut off: it says {length} bytes but has {len(data)}.")
        chunks: dict[int, bytes] = {}
        at = 12
        while at + 8 <= length:
            size, kind = struct.unpack_from("<II", data, at)
            if at + 8 + size > length:
                raise self.fault("a part of the figure file claims more bytes than the file has.")
            chunks.setdefault(kind, data[at + 8 : at + 8 + size])
            at += 8 + size
        try:
            document = _described(chunks.get(JSON_CHUNK, b""))
        except (ValueError, RecursionError) as error:
            raise self.fault("the description inside the figure file cannot be read.") from error
        if not isinstance(document, dict):
            raise self.fault("the description inside the figure file is not what glTF asks for.")
        if lies_deep(document):
            raise self.fault(f"the description inside the figure file lies more than {DEEPEST} levels deep.")
        return document, chunks.get(BINARY_CHUNK, b"")

    def items(self, group: str) -> list[dict[str, Any]]:
        """A list of the document, empty if it has none."""
        kept = self._checked.get(group)
        if kept is not None:
            return kept
        found = self.document.get(group, [])
        if not isinstance(found, list) or not all(isinstance(item, dict) for item in found):
            raise self.fault(f"'{group}' in the figure file is not a list of objects.")
        self._checked[group] = found
        return found

    def item(self, group: str, index: Any) -> dict[str, Any]:
        """One item of a list, its index checked."""
        items = self.items(group)
        if not isinstance(index, int) or isinstance(index, bool) or not 0 <= index < len(items):
            raise self.fault(f"the figure file points at entry {index!r} of '{group}', which is not there.")
        return items[index]

    def number(self, item: dict[str, Any], name: str, default: int | None = None) -> int:
        """A whole number, not negative, of an item."""
        value = item.get(name, default)
        if not isinstance(value, int) or isinstance(value, bool) or value < 0:
            raise self.fault(f"'{name}' in the figure file is {value!r} instead of a whole number.")
        return value

    def vector(self, item: dict[str, Any], name: str, default: tuple[float, ...]) -> tuple[float, ...]:
        """Finite numbers of an item, as many as the default has."""
        value = item.get(name, default)
        good = isinstance(value, (list, tuple)) and len(value) == len(default)
        if not good or not all(isinstance(x, (int, float)) and abs(x) <= sys.float_info.max for x in value):
            raise self.fault(f"'{name}' in the figure file is not {len(default)} finite numbers.")
        return tuple(float(x) for x in value)

    def array(self, index: Any, kind: str) -> NDArray[Any]:
        """The array (N, width) of an accessor, checked against its view and the file; normalised integers become 0..1."""
        accessor = self.item("accessors", index)
        code, count = accessor.get("componentType"), self.number(accessor, "count")
        if accessor.get("type") != kind or not isinstance(code, int) or code not in COMPONENTS:
            raise self.fault(
                f"an array of the figure file is of a kind that is not understood ({accessor.get('type')!r})."
            )
        dtype: np.dtype[Any] = np.dtype(COMPONENTS[code])
        if count * WIDTHS[kind] > MOST_NUMBERS:
            raise self.fault(f"an array of the figure file claims {count} entries.")
        if "bufferView" in accessor:
            raw = self._viewed(
                accessor["bufferView"], self.number(accessor, "byteOffset", 0), dtype, count, WIDTHS[kind]
            )
        elif count * WIDTHS[kind] > MOST_NOUGHTS:
            raise self.fault(f"an array of the figure file claims {count} entries and holds none.")
        else:
            raw = np.zeros((count, WIDTHS[kind]), dtype)
        if "sparse" in accessor:
            raw = self._with_sparse(raw, accessor["sparse"])
        if dtype == np.float32 and not np.isfinite(raw).all():
            raise self.fault("an array of the figure file holds numbers that are not finite.")
        if accessor.get("normalized") and dtype != np.float32:
            return np.asarray(np.maximum(raw / np.iinfo(dtype).max, -1.0), np.float32)
        return raw.copy()

    def _viewed(self, index: Any, offset: int, dtype: np.dtype[Any], count: int, width: int) -> NDArray[Any]:
        """Rows (count, width) in a view of the buffer."""
        view = self.item("bufferViews", index)
        if self.number(view, "buffer", 0) != 0:
            raise self.fault("the figure file keeps arrays outside itself.")
        row = dtype.itemsize * width
        stride = self.number(view, "byteStride", row) or row
        first = self.number(view, "byteOffset", 0)
        start = first + offset
        end = start + (stride * (count - 1) + row if count else 0)
        if end > len(self.blob) or end > first + self.number(view, "byteLength") or stride < row:
            raise self.fault("an array of the figure file reaches past its end.")
        if not count:
            return np.empty((0, width), dtype)
        return np.ndarray((count, width), dtype, self.blob, start, (stride, dtype.itemsize))

    def _with_sparse(self, raw: NDArray[Any], sparse: Any) -> NDArray[Any]:
        """A copy in which the rows that a sparse list names are its own."""
        if not isinstance(sparse, dict) or not all(isinstance(sparse.get(k), dict) for k in ("indices", "values")):
            raise self.fault("an array of the figure file has a sparse list that is damaged.")
        count, where = self.number(sparse, "count"), sparse["indices"]
        code = where.get("componentType")
        if code not in (5121, 5123, 5125) or count > len(raw):
            raise self.fault("an array of the figure file has a sparse list that is damaged.")
        dtype: np.dtype[Any] = np.dtype(COMPONENTS[code])
        rows = self._viewed(where.get("bufferView"), self.number(where, "byteOffset", 0), dtype, count, 1)[:, 0]
        values = sparse["values"]
        own = self._viewed(
            values.get("bufferView"), self.number(values, "byteOffset", 0), raw.dtype, count, raw.shape[1]
        )
        if count and int(rows.max()) >= len(raw):
            raise self.fault("an array of the figure file has a sparse list that reaches past its end.")
        result = raw.copy()
        result[rows.astype(np.intp)] = own
        return result

    def view_bytes(self, index: Any) -> bytes:
        """The bytes of a whole view, such as a picture."""
        view = self.item("bufferViews", index)
        start, size = self.number(view, "byteOffset", 0), self.number(view, "byteLength")
        if self.number(view, "buffer", 0) != 0 or start + size > len(self.blob):
            raise self.fault("a part of the figure file reaches past its end.")
        return self.blob[start : start + size]


def mime_of(data: bytes) -> str:
    """What kind of picture bytes are: PNG or JPEG, "" for others."""
    if data[:8] == b"\x89PNG\r\n\x1a\n":
        return "image/png"
    return "image/jpeg" if data[:3] == b"\xff\xd8\xff" else ""


def as_floats(data: NDArray[Any]) -> NDArray[np.float32]:
    """Numbers as files hold them; CannotWrite when some are too large for that."""
    with np.errstate(over="ignore"):
        flat = np.ascontiguousarray(data, np.float32)
    if not np.isfinite(flat).all():
        raise CannotWrite(
            "the shot holds numbers that are too large for the file.", advice="Look for a key far off, and mend it."
        )
    return flat


def _described(text: bytes) -> Any:
    """A JSON document: quickly, or with what only a patient reader takes: numbers that are none, halves of letters."""
    with suppress(msgspec.DecodeError, RecursionError):
        return msgspec.json.decode(text)
    document = json.loads(text, parse_constant=lambda _: None)
    if b"\\ud" in text.lower():  # halves of letters
        return json.loads(json.dumps(document, ensure_ascii=False).encode("utf-8", "replace"))
    return document


def lies_deep(document: Any) -> bool:
    """Whether more of a JSON document lies in one another than anybody means to."""
    level = [document]
    for _ in range(DEEPEST):
        rows = (item.values() if isinstance(item, dict) else item for item in level)
        level = [inner for row in rows for inner in row if isinstance(inner, dict | list)]
        if not level:
            return False
    return True


def packed(document: dict[str, Any], blob: bytes | bytearray) -> bytes:
    """A GLB of a document whose arrays all lie in one buffer."""
    room = len(blob) + -len(blob) % 4
    whole = {**document, "buffers": [{"byteLength": room}]} if blob else document
    text = json.dumps(whole, separators=(",", ":"), allow_nan=False).encode()
    text += b" " * (-len(text) % 4)
    chunks: list[bytes | bytearray] = [struct.pack("<II", len(text), JSON_CHUNK), text]
    if blob:
        chunks += [struct.pack("<II", room, BINARY_CHUNK), blob, b"\0" * (room - len(blob))]
    length = 12 + sum(len(chunk) for chunk in chunks)
    return b"".join([struct.pack("<III", MAGIC, 2, length), *chunks])
