"""Measures Bovrin against plain baselines in the same run: `make bench` prints ratios and writes build/bench.json.

`python -m benchmarks.run strip start` measures these alone and leaves the other rows of the file as they were.
"""

from __future__ import annotations

import importlib
import json
import sys
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path

from rich.console import Console
from rich.table import Table

from benchmarks.row import Row

ORDER = (
    "curves",
    "cycles",
    "rigs",
    "hanging",
    "following",
    "posing",
    "pulls",
    "pictures",
    "files",
    "flat",
    "figures",
    "motions",
    "recordings",
    "strip",
)
ORDER += ("curve_desk", "polish", "start", "long_work")
WHERE = Path("build/bench.json")


def main(names: Sequence[str]) -> None:
    """Run what is named, or everything; what was measured is kept module by module."""
    kept = json.loads(WHERE.read_text()) if WHERE.exists() and names else []
    WHERE.parent.mkdir(exist_ok=True)
    for name in names or ORDER:
        found = importlib.import_module(f"benchmarks.{name}").rows()
        Console(width=120).print(table_of(found))
        told = {row.name for row in found}
        kept = [one for one in kept if one["name"] not in told] + [asdict(row) for row in found]
        WHERE.write_text(json.dumps(kept, indent=1) + "\n")


def table_of(rows: Sequence[Row]) -> Table:
    """Ratios, green where they are within what is aimed at."""
    table = Table("what", "ratio", "aim", "ours ms", "base ms")
    for row in rows:
        met = "green" if row.ratio <= row.aim else "red"
        table.add_row(
            row.name, f"[{met}]{row.ratio:.3f}[/]", f"{row.aim:g}", f"{row.ours_ms:.2f}", f"{row.base_ms:.2f}"
        )
    return table


if __name__ == "__main__":
    main(sys.argv[1:])
