"""The tests that the files changed since the last commit touch: `make quick` runs them. Prints paths for pytest.

A changed room of the core is tested with the room above it, the window by the tests of its own room's name and a whole job.
"""

from __future__ import annotations

import subprocess
from pathlib import Path

ROOT = Path(__file__).parent.parent
CORE = {
    "shot": ("shot", "motion"),
    "motion": ("motion", "figure"),
    "figure": ("figure", "measure"),
    "measure": ("measure", "craft"),
    "craft": ("craft",),
    "formats": ("formats",),
    "picture": ("picture",),
}
"""The folders of tests for each room of the core: its own, and the next above it."""
WHOLE_JOB = "tests/desk/test_whole_job.py"
ROOMS = {
    "stage": ("stage", "posing", "choosing", "front_glass", "light_table", "drawing_ahead"),
    "strip": ("strip", "marker_row", "chart_row", "timescale", "unkeyed"),
    "curves": ("curve", "timescale"),
    "sheets": ("start_page", "setup_sheet", "commands"),
    "panels": ("panel", "pose_book", "right_column"),
    "state": ("session", "files", "locks", "undo", "recovery", "playback"),
    "commands": ("commands", "keying", "time", "locks"),
    "kit": ("gesture", "keyboard", "right_column"),
}


def changed_files() -> list[Path]:
    """Files that differ from the last commit, new ones too."""
    words = ["git", "status", "--porcelain", "--untracked-files=all"]
    lines = subprocess.run(words, cwd=ROOT, capture_output=True, text=True, check=True).stdout.splitlines()
    return [Path(line[3:].split(" -> ")[-1]) for line in lines]


def touched(files: list[Path]) -> list[str]:
    """Paths of tests for these files; the core's and a whole job when nothing is changed."""
    found: set[str] = set()
    for file in files:
        parts = file.parts
        if parts[0] == "tests" and file.name.startswith("test_"):
            found.add(str(file))
        elif parts[:2] == ("src", "bovrin"):
            found |= _tests_of(parts[2:])
    return sorted(path for path in found if (ROOT / path).exists()) or ["tests/shot", "tests/motion", WHOLE_JOB]


def _tests_of(parts: tuple[str, ...]) -> set[str]:
    room = parts[0].removesuffix(".py")
    if room in CORE:
        return {*(f"tests/{name}" for name in CORE[room]), "tests/test_script.py", WHOLE_JOB}
    if room == "desk":
        words = ROOMS.get(parts[1], (parts[1].removesuffix(".py"),))
        tests = (ROOT / "tests" / "desk").glob("test_*.py")
        return {f"tests/desk/{t.name}" for t in tests if any(word in t.stem for word in words)} | {WHOLE_JOB}
    return {f"tests/test_{room}.py", "tests/test_cli.py"}


if __name__ == "__main__":
    print(" ".join(touched(changed_files())))
