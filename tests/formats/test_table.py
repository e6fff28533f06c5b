"""The table of joints: made in pieces, so that a short file with a long range takes no more room than any other."""

import tracemalloc
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from bovrin import script
from bovrin.formats.side import table
from bovrin.shot import Shot


def test_pieces_make_the_table_there_is_in_one(demo: Shot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    whole = table.table_text(demo, ["porter", "crate"])
    monkeypatch.setattr(table, "AT_ONCE", 7)
    table.write_table(demo, tmp_path / "table.csv", ["porter", "crate"])
    pieces, rows = (
        [line.split(",") for line in text.splitlines()[1:]] for text in ((tmp_path / "table.csv").read_text(), whole)
    )
    assert [row[:3] for row in pieces] == [row[:3] for row in rows]
    numbers = [np.array([row[3:] for row in found], float) for found in (pieces, rows)]
    assert np.abs(numbers[0] - numbers[1]).max() <= 1.1e-9
    head = [row for row in rows if row[:2] == ["porter", "head"]]
    motion = script.sample(demo, "porter", [float(row[2]) for row in head])
    j = motion.joints.index("head")
    assert np.abs(np.array([row[3:6] for row in head], float) - motion.position[:, j]).max() < 1e-9
    assert np.abs(np.array([row[6:] for row in head], float) - motion.rotation[:, j]).max() < 1e-9


def test_a_long_range_is_written_within_bounds(demo: Shot, tmp_path: Path) -> None:
    long = replace(demo, first=1_000_000.0, last=1_040_000.0)
    tracemalloc.start()
    table.write_table(long, tmp_path / "table.csv", ["crate"])
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    lines = (tmp_path / "table.csv").read_text().splitlines()
    assert len(lines) == 40_002 and lines[-1].split(",")[2] == "1040000", "frames are told whole"
    assert peak < 8_000_000
