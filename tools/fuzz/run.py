"""`make fuzz MINUTES=10`: damaged files for every reader; a traceback, a hang over five seconds or a gigabyte is a failure."""

from __future__ import annotations

import argparse
import resource
import shutil
import signal
import sys
import tempfile
import time
import traceback
from pathlib import Path

import numpy as np

from bovrin.errors import BovrinError
from tools.fuzz.targets import Target, targets

SECONDS, ROOM = 5, 1 << 30


class Hang(Exception):
    """It took too long."""


def _too_long(*_args: object) -> None:
    raise Hang


def one(target: Target, seed: int) -> tuple[str, bytes]:
    """What a damaged file does: "loaded", "refused", or a traceback; and the file."""
    rng = np.random.default_rng(seed)
    data = target.mutate(target.seeds[int(rng.integers(0, len(target.seeds)))], rng)
    home = Path(tempfile.mkdtemp())
    folder = home / "in"
    folder.mkdir()
    signal.signal(signal.SIGPROF, _too_long)
    signal.setitimer(signal.ITIMER_PROF, SECONDS)  # of work: the machine may be busy with other things
    try:
        target.use(data, folder)
    except BovrinError:
        return "refused", data
    except Exception:  # noqa: BLE001 - that is what is looked for
        return traceback.format_exc(), data
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0)
        shutil.rmtree(home, ignore_errors=True)
    return "loaded", data


def run(
    seconds: float, first: int = 0, keep: Path | None = None, most: int | None = None, only: str = ""
) -> dict[str, list[str]]:
    """Go through all readers in turn for so long; the failures of each, the last lines of their tracebacks."""
    every = [target for target in targets() if only in target.name]
    failures: dict[str, list[str]] = {target.name: [] for target in every}
    counts = dict.fromkeys(failures, 0)
    began, number = time.monotonic(), first
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    while time.monotonic() - began < seconds and (most is None or number - first < most):
        for target in every:
            what, data = one(target, number)
            counts[target.name] += 1
            if what not in ("loaded", "refused"):
                failures[target.name].append(f"seed {number}: {_last(what)}")
                if keep is not None:
                    (keep / f"{target.name} {number}").write_bytes(data)
            now = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
            if (now - before) * 1024 > ROOM:
                failures[target.name].append(f"seed {number}: {(now - before) / 1e6:.1f} GB")
                before = now
        number += 1
    for name, found in failures.items():
        print(f"{name}: {counts[name]} files, {len(found)} failures")
        for words in found[:12]:
            print(f"  {words}")
    return failures


def _last(trace: str) -> str:
    lines = [line.strip() for line in trace.strip().splitlines()]
    places = [line for line in lines if line.startswith("File") and "bovrin" in line]
    return f"{places[-1] if places else lines[0]} | {lines[-1][:160]}"


def main() -> None:
    """From the command line."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--keep", type=Path)
    parser.add_argument("--only", default="", help="readers with this in their name")
    chosen = parser.parse_args()
    if chosen.keep is not None:
        chosen.keep.mkdir(parents=True, exist_ok=True)
    sys.exit(any(run(chosen.minutes * 60, chosen.first, chosen.keep, only=chosen.only).values()))


if __name__ == "__main__":
    main()
