"""Markers in and out: subtitles (SRT, VTT) and tables (CSV), with a report of what could not be read."""

from __future__ import annotations

import csv
import io
import re
from pathlib import Path

from bovrin.errors import BrokenFile, FileProblem
from bovrin.formats.files import read_bytes, write_atomically
from bovrin.shot import MARKER_KINDS, PENCILS, Marker, Shot

_TIME = re.compile(r"(?:(\d+):)?(\d{1,2}):(\d{1,2})[.,](\d{1,3})")
_TAGS = re.compile(r"<[^>]*>|\{\\[^}]*\}")


def decoded(data: bytes) -> str:
    """The text of a file in whatever encoding it came: marks at its beginning, UTF-8, or else Western European."""
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(name, "replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def read_markers(path: Path, frame_rate: float, first: float) -> tuple[list[Marker], list[str]]:
    """The markers of a file, and a line for each entry that was skipped. Seconds count from the shot's first frame."""
    text = decoded(read_bytes(path, "marker file")).replace("\r\n", "\n").replace("\r", "\n")
    ending = path.suffix.lower()
    if ending in (".srt", ".vtt"):
        found, skipped = _subtitles(text, frame_rate, first)
    elif ending == ".csv":
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
    found, skipped = [], []
    lines = text.split("\n")
    for number, line in enumerate(lines, 1):
        if "-->" not in line:
            continue
        times = _TIME.findall(line)
        if len(times) != 2:
            skipped.append(f"Line {number}: '{line.strip()}' is not a time.")
            continue
        start, end = (first + _seconds(t) * frame_rate for t in times)
        words = []
        for below in lines[number:]:
            if not below.strip() or "-->" in below:
                break
            words.append(_TAGS.sub("", below).strip())
        if "-->" in "".join(lines[number : number + 1 + len(words)][len(words) :]) and words and words[-1].isdigit():
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
    found, skipped = [], []
    dialect = ";" if text.split("\n", 1)[0].count(";") > text.split("\n", 1)[0].count(",") else ","
    for number, row in enumerate(csv.reader(io.StringIO(text), delimiter=dialect), 1):
        if not any(cell.strip() for cell in row):
            continue
        try:
            start, end = float(row[0].replace(",", ".")), float(row[1].replace(",", "."))
            words = row[2].strip()
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
    rows.writerows((f"{m.start:g}", f"{m.end:g}", m.words, m.kind, m.pencil) for m in shot.markers)
    write_atomically(path, out.getvalue().encode())
