"""Damage that follows how files are built: bytes, lines and numbers of texts, and places of JSON documents."""

from __future__ import annotations

import copy
import json
import re
import struct
from typing import Any

import numpy as np

Random = np.random.Generator

NUMBERS = [0, -1, 1, 3, 255, 65536, 2**31, 2**63, -(2**70), 10**400, 0.5, -0.0, 1e-300, 1e39, 1e308, -1e308]
STRANGE: list[Any] = [
    *NUMBERS, None, True, False, "", " ", "x" * 20_000, "A" * 20_000, "\0", "\ud800", "../../evil", "/etc/passwd", "whole",
    "\x1b[31m", "=1+1", "<b>", "NaN", [], {}, [[]], [None], [1, 2, 3], [0, 0, 0, 0], {"a": {}}, ["x"] * 50,
]  # fmt: skip
WORDS = [
    "nan",
    "inf",
    "-1e308",
    "1e39",
    "9" * 400,
    "",
    "-",
    "0x10",
    "\0",
    "é",
    "{",
    "}",
    "-->",
    "<" * 3000,
    "CHANNELS 3",
]


def of_bytes(data: bytes, rng: Random) -> bytes:
    """Cut off, changed, doubled or emptied somewhere."""
    if not data:
        return b"\0"
    made = bytearray(data)
    way, at = rng.integers(0, 5), int(rng.integers(0, len(made)))
    if way == 0:
        return bytes(made[:at])
    if way == 1:
        for _ in range(int(rng.integers(1, 8))):
            made[int(rng.integers(0, len(made)))] = int(rng.integers(0, 256))
    elif way == 2:
        made[at:at] = made[max(at - 200, 0) : at] * int(rng.integers(1, 5))
    elif way == 3:
        made[at : at + int(rng.integers(1, 64))] = b""
    else:
        made[at:at] = bytes(rng.integers(0, 256, int(rng.integers(1, 64)), dtype=np.uint8))
    return bytes(made)


def of_text(data: bytes, rng: Random) -> bytes:
    """Lines doubled, dropped or moved, numbers and words that are others."""
    text = data.decode("utf-8", "replace")
    way = rng.integers(0, 4)
    if way == 0:
        return of_bytes(data, rng)
    if way == 1:
        lines = text.split("\n")
        for _ in range(int(rng.integers(1, 4))):
            a, b = (int(x) for x in rng.integers(0, len(lines), 2))
            lines[a:a] = [lines[b]] * int(rng.integers(0, 3))
            del lines[b : b + int(rng.integers(0, 2))]
            lines = lines or [""]
        return "\n".join(lines).encode("utf-8", "replace")
    found = list(re.finditer(r"-?\d+(\.\d+)?" if way == 2 else r"\S+", text))
    if not found:
        return b""
    for _ in range(int(rng.integers(1, 4))):
        one = found[int(rng.integers(0, len(found)))]
        word = WORDS[int(rng.integers(0, len(WORDS)))]
        text = text[: one.start()] + word + text[one.end() :]
    return text.encode("utf-8", "replace")


def of_json(document: Any, rng: Random) -> Any:
    """A copy with one to three places that hold something else, are gone, or lie deep."""
    made = copy.deepcopy(document)
    for _ in range(int(rng.integers(1, 4))):
        _change(made, rng)
    return made


def _change(document: Any, rng: Random) -> None:
    value = document
    while isinstance(value, dict | list) and value:
        keys = list(value) if isinstance(value, dict) else list(range(len(value)))
        key = keys[int(rng.integers(0, len(keys)))]
        child = value[key]
        if isinstance(child, dict | list) and child and rng.random() < 0.85:
            value = child
            continue
        way = rng.random()
        if way < 0.2:
            del value[key]
        elif way < 0.25:
            value[key] = _deep()
        elif way < 0.32 and isinstance(value, list):
            value.extend(copy.deepcopy(value) * int(rng.integers(1, 4)))
        elif way < 0.4 and isinstance(value, dict):
            value[str(STRANGE[int(rng.integers(0, len(STRANGE)))])[:300]] = child
        else:
            value[key] = copy.deepcopy(STRANGE[int(rng.integers(0, len(STRANGE)))])
        return


def _deep() -> Any:
    made: Any = 1
    for _ in range(300):
        made = [made]
    return made


def of_json_bytes(data: bytes, rng: Random) -> bytes:
    """A JSON file with something else in it, or damaged as bytes are."""
    if rng.random() < 0.2:
        return of_bytes(data, rng)
    return json.dumps(of_json(json.loads(data), rng)).encode("utf-8", "replace")


def of_lined(data: bytes, rng: Random) -> bytes:
    """A line of JSON and what follows it: either of them damaged, or all of it as bytes."""
    line, _, rest = data.partition(b"\n")
    way = rng.random()
    if way < 0.2:
        return of_bytes(data, rng)
    return of_json_bytes(line, rng) + b"\n" + rest if way < 0.7 else line + b"\n" + of_bytes(rest, rng)


def of_glb(data: bytes, rng: Random) -> bytes:
    """A GLB whose description or arrays are others, its lengths mended or not."""
    if rng.random() < 0.25:
        return of_bytes(data, rng)
    (size,) = struct.unpack_from("<I", data, 12)
    document, rest = json.loads(data[20 : 20 + size]), data[20 + size :]
    if rng.random() < 0.2 and len(rest) > 16:
        rest = rest[:8] + of_bytes(rest[8:], rng)
        return _packed(document, rest[8:])
    return _packed(of_json(document, rng), rest[8:])


def _packed(document: Any, blob: bytes) -> bytes:
    text = json.dumps(document).encode("utf-8", "replace")
    text += b" " * (-len(text) % 4)
    blob += b"\0" * (-len(blob) % 4)
    body = struct.pack("<II", len(text), 0x4E4F534A) + text
    body += struct.pack("<II", len(blob), 0x004E4942) + blob if blob else b""
    return struct.pack("<III", 0x46546C67, 2, 12 + len(body)) + body
