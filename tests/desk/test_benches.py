"""What measures the program still fits it."""

import importlib
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
MEASURES = [f"{place}.{path.stem}" for place in ("benchmarks", "tools") for path in sorted((ROOT / place).glob("*.py"))]


@pytest.mark.parametrize("name", MEASURES)
def test_every_measure_finds_what_it_measures(name: str) -> None:
    assert importlib.import_module(name).__doc__ or name.endswith("__init__")
