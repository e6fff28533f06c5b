"""What all tests share: the demo, a private place for settings, and a watch over the window's room."""

from __future__ import annotations

import gc
import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from bovrin import script
from bovrin.shot import Shot

settings.register_profile(
    "bovrin",
    deadline=None,
    max_examples=int(os.environ.get("EXAMPLES", "14")),
    suppress_health_check=[HealthCheck.too_slow],
    database=None,
)
settings.load_profile("bovrin")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("LP_NUM_THREADS", "1")  # tests run side by side; one that draws in software takes one core


@pytest.fixture(scope="session")
def demo() -> Shot:
    """The shipped demo; a value, so tests may share it."""
    return script.demo()


@pytest.fixture(autouse=True)
def private_places(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Settings and recovery files of a test stay in its own folder."""
    for name in ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME"):
        monkeypatch.setenv(name, str(tmp_path / name.lower()))
    yield


def pytest_collection_finish() -> None:
    """What is there before the first test stays: sweeps and looks for what is left behind need not go through it each time."""
    gc.collect()
    gc.freeze()
