"""Windows opened and closed again and again, whatever goes on in them: no fault, nothing left, memory as it was."""

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

GROWS = 0.15
"""Megabytes a window that memory may grow by; it took 3.6 once."""


def readings(count: int) -> np.ndarray:
    """Megabytes and threads after each of so many windows (count, 2)."""
    program = [sys.executable, "-X", "faulthandler", "-m", "tests.desk.many_windows", str(count)]
    found = subprocess.run(program, cwd=Path(__file__).parents[2], env=dict(os.environ), capture_output=True, text=True)
    assert found.returncode == 0, found.stderr[-3000:]
    assert "Traceback" not in found.stderr and "Fatal" not in found.stderr
    return np.array([[float(word) for word in row.split()[1:]] for row in found.stdout.splitlines()])


def test_a_few_windows_with_all_that_hangs_on_them() -> None:
    found = readings(4)
    assert len(found) == 4 and (found[:, 1] == 1).all(), "no thread outlives its window"
    assert found[-1, 0] - found[1, 0] < 60, "megabytes"


@pytest.mark.sweep
def test_three_hundred_windows_take_no_more_than_thirty() -> None:
    found = readings(300)
    assert len(found) == 300 and (found[:, 1] == 1).all()
    assert np.polyfit(np.arange(270), found[30:, 0], 1)[0] < GROWS
