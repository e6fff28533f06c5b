"""Measures Bovrin against plain baselines in the same run: `make bench` prints ratios and writes build/bench.json."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path

from rich.console import Console
from rich.table import Table


@dataclass
class Row:
    """One line: our time over the baseline's."""

    name: str
    ratio: float
    aim: float
    ours_ms: float
    base_ms: float


def best_of(run: Callable[[], object], times: int) -> float:
    """The shortest of several runs, milliseconds; the first warms up."""
    run()
    best = float("inf")
    for _ in range(times):
        start = time.perf_counter()
        run()
        best = min(best, time.perf_counter() - start)
    return best * 1000


def compare(name: str, aim: float, ours: Callable[[], object], base: Callable[[], object], times: int = 15) -> Row:
    """Ours and the baseline turn by turn, so that a noisy spell of the machine meets both."""
    ours()
    base()
    pairs = [(best_of(ours, 1), best_of(base, 1)) for _ in range(times)]
    mine, theirs = min(p[0] for p in pairs), min(p[1] for p in pairs)
    return Row(name, round(mine / theirs, 4), aim, round(mine, 3), round(theirs, 3))


def main() -> None:
    """Run everything."""
    from benchmarks import (  # noqa: PLC0415 - after the helpers above are there
        curve_desk,
        curves,
        cycles,
        figures,
        files,
        long_work,
        motions,
        pictures,
        polish,
        posing,
        pulls,
        recordings,
        rigs,
        start,
        strip,
    )

    rows: list[Row] = []
    for module in (
        curves,
        cycles,
        rigs,
        posing,
        pulls,
        pictures,
        files,
        figures,
        motions,
        recordings,
        strip,
        curve_desk,
        polish,
        start,
        long_work,
    ):
        rows += module.rows()
    table = Table("what", "ratio", "aim", "ours ms", "base ms")
    for row in rows:
        met = "green" if row.ratio <= row.aim else "red"
        table.add_row(
            row.name, f"[{met}]{row.ratio:.3f}[/]", f"{row.aim:g}", f"{row.ours_ms:.2f}", f"{row.base_ms:.2f}"
        )
    Console(width=120).print(table)
    build = Path("build")
    build.mkdir(exist_ok=True)
    (build / "bench.json").write_text(json.dumps([asdict(row) for row in rows], indent=1) + "\n")


if __name__ == "__main__":
    main()
