"""Markers in and out: subtitles (SRT, VTT) and tables (CSV), with a report of what could not be read."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from pathlib import Path

from bovrin.errors import BrokenFile, FileProblem
from bovrin.formats.files import read_bytes, write_atomically
from bovrin.shot import MARKER_KINDS, PENCILS, Marker, Shot

_TIME = re.compile(r"(?:(?<!\d)(\d{1,4}):)?(?<!\d)(\d{1,2}):(\d{1,2})[.,](\d{1,3})")
_TAGS = re.compile(r"<[^<>]{0,200}>|\{\\[^{}]{0,200}\}")


MOST_OF_LINE = 200
"""Signs of a line in which times are looked for."""
FORMULA = tuple("=+-@\t\r")
"""What a cell begins with that table programs take for a formula."""


def decoded(data: bytes) -> str:
    """The text of a file in whatever encoding it came: marks at its beginning, UTF-8, or else Western European."""
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(name, "replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


ENDINGS = (".srt", ".vtt", ".csv")


def read_markers(path: Path, frame_rate: float, first: float) -> tuple[list[Marker], list[str]]:
    """The markers of a file, and a line for each entry that was skipped. Seconds count from the shot's first frame."""
    text = decoded(read_bytes(path, "marker file")).replace("\r\n", "\n").replace("\r", "\n")
    ending = path.suffix.lower()
    if ending in ENDINGS[:2]:
        found, skipped = _subtitles(text, frame_rate, first)
    elif ending == ENDINGS[2]:
        found, skipped = _table(text)
    else:
        raise FileProblem(
            f"'{path.suffix}' is not an ending of markers.", where=str(path), advice="Use .srt, .vtt or .csv."
        )
    if not found:
        raise BrokenFile(
            "no marker can be read from the file." + (f" {skipped[0]}" if skipped else ""), where=str(path)
        )
    return sorted(found, key=lambda m: (m.start, m.end)), skipped


def _subtitles(text: str, frame_rate: float, first: float) -> tuple[list[Marker], list[str]]:
    found: list[Marker] = []
    skipped: list[str] = []
    lines = text.split("\n")
    for number, line in enumerate(lines, 1):
        if "-->" not in line:
            continue
        times = _TIME.findall(line[:MOST_OF_LINE])
        if len(times) != 2:
            skipped.append(f"Line {number}: '{line.strip()}' is not a time.")
            continue
        start, end = (first + _seconds(t) * frame_rate for t in times)
        stop = number
        while stop < len(lines) and lines[stop].strip() and "-->" not in lines[stop]:
            stop += 1
        words = [_TAGS.sub("", below).strip() for below in lines[number:stop]]
        if stop < len(lines) and "-->" in lines[stop] and words and words[-1].isdigit():
            words.pop()  # the next entry's number, when no empty line stands between
        if not " ".join(words).strip():
            skipped.append(f"Line {number}: there are no words.")
        elif end < start:
            skipped.append(f"Line {number}: it ends before it begins.")
        else:
            found.append(Marker(round(start, 3), round(end, 3), " ".join(words), "dialogue"))
    return found, skipped


def _seconds(parts: tuple[str, str, str, str]) -> float:
    hours, minutes, seconds, rest = parts
    return int(hours or 0) * 3600 + int(minutes) * 60 + int(seconds) + int(rest.ljust(3, "0")) / 1000


def _table(text: str) -> tuple[list[Marker], list[str]]:
    found: list[Marker] = []
    skipped: list[str] = []
    dialect = ";" if text.split("\n", 1)[0].count(";") > text.split("\n", 1)[0].count(",") else ","
    for number, row in enumerate(_csv_rows(text, dialect, skipped), 1):
        if not any(cell.strip() for cell in row):
            continue
        try:
            start, end = float(row[0].replace(",", ".")), float(row[1].replace(",", "."))
            words = _unarmed(row[2].strip())
        except (ValueError, IndexError):
            if number > 1:  # the first line may be a heading
                skipped.append(f"Line {number}: '{dialect.join(row)}' is not start, end and words.")
            continue
        if end < start or not words or not (abs(start) < 1e9 and abs(end) < 1e9):
            skipped.append(f"Line {number}: its frames or words make no marker.")
        else:
            found.append(Marker(start, end, words, *_kind_and_pencil(row)))
    return found, skipped


def _kind_and_pencil(row: list[str]) -> tuple[str, str]:
    """The fourth and fifth column where they say something that is known."""
    kind, pencil = ([cell.strip().lower() for cell in row[3:5]] + ["", ""])[:2]
    return (
        kind if kind in MARKER_KINDS else MARKER_KINDS[0],
        pencil if pencil in PENCILS else PENCILS[0],
    )


def write_markers(shot: Shot, path: Path) -> None:
    """Write the shot's markers as CSV: start, end, words, kind, colour."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(("start", "end", "words", "kind", "colour"))
    rows.writerows((_number(m.start), _number(m.end), _armed(m.words), m.kind, m.pencil) for m in shot.markers)
    write_atomically(path, out.getvalue().encode("utf-8", "replace"))


def _number(frame: float) -> str:
    """A frame with as many digits as it has."""
    return f"{frame:.6f}".rstrip("0").rstrip(".")


def _armed(words: str) -> str:
    """Words that no table program takes for a formula."""
    return f"'{words}" if words[:1] in FORMULA else words


def _unarmed(words: str) -> str:
    return words[1:] if words[:1] == "'" and words[1:2] in FORMULA else words


def _csv_rows(text: str, delimiter: str, skipped: list[str]) -> Iterator[list[str]]:
    """The rows of a table as far as they can be told apart."""
    rows = csv.reader(io.StringIO(text), delimiter=delimiter)
    while True:
        try:
            yield next(rows)
        except StopIteration:
            return
        except csv.Error as error:
            skipped.append(f"Line {rows.line_num}: {error}; what follows is left out.")
            return
