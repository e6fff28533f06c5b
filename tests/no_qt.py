"""A plugin for pytest (`-p tests.no_qt`): Qt cannot be imported, as on a machine that has none."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from importlib.abc import MetaPathFinder
from types import ModuleType


class NoQt(MetaPathFinder):
    """Stands before all other finders and refuses one package."""

    def find_spec(self, name: str, path: Sequence[str] | None = None, target: ModuleType | None = None) -> None:
        """Refuses, or leaves it to the others."""
        if name.split(".")[0] == "PyQt6":
            raise ModuleNotFoundError("the core's tests run without Qt", name="PyQt6")


sys.meta_path.insert(0, NoQt())
