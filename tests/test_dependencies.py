"""Whatever the program imports stands among its dependencies, and it can be told without them being there by chance."""

import ast
import re
import sys
import tomllib
from collections.abc import Iterator, Mapping
from functools import cache
from importlib.metadata import packages_distributions
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]


def named(requirements: list[str]) -> set[str]:
    return {re.split(r"[<>=!~\[; ]", one)[0].lower().replace("_", "-") for one in requirements}


NEEDED = named(PROJECT["dependencies"])
EXTRAS = set().union(*(named(found) for extra, found in PROJECT["optional-dependencies"].items() if extra != "dev"))
SOURCES = sorted((ROOT / "src").rglob("*.py"))


def imports_of(tree: ast.AST) -> Iterator[str]:
    """First words of the modules that a node imports, also inside what it holds."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            yield from (alias.name.partition(".")[0] for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            yield node.module.partition(".")[0]


@cache
def distributions() -> Mapping[str, list[str]]:
    return packages_distributions()


def outside(tree: ast.AST) -> set[str]:
    """Distributions, by name, of whatever comes neither with Python nor with Bovrin; one of those that hold a module."""
    where = distributions()
    found = set()
    for module in set(imports_of(tree)) - sys.stdlib_module_names - {"bovrin"}:
        holders = {one.lower().replace("_", "-") for one in where.get(module, [module])}
        found.add(min(holders & (NEEDED | EXTRAS) or holders))
    return found


def at_the_top(tree: ast.Module) -> ast.Module:
    """A module without the bodies of its functions: what importing it imports."""

    class Emptied(ast.NodeTransformer):
        def visit_FunctionDef(self, node: ast.FunctionDef) -> None:
            return None

    return Emptied().visit(tree)  # type: ignore[no-any-return]


def test_what_is_imported_is_a_dependency() -> None:
    found: dict[str, str] = {}
    for path in SOURCES:
        found.update(dict.fromkeys(outside(ast.parse(path.read_text())), path.name))
    assert {name: path for name, path in found.items() if name not in NEEDED | EXTRAS} == {}
    assert NEEDED - set(found) == {"glcontext"}, "a dependency that nobody imports; glcontext is moderngl's way to EGL"


def test_what_an_extra_brings_is_never_imported_at_the_start() -> None:
    for path in SOURCES:
        assert not outside(at_the_top(ast.parse(path.read_text()))) & (EXTRAS - NEEDED), path


@pytest.mark.parametrize("name", sorted(NEEDED | EXTRAS | named(PROJECT["optional-dependencies"]["dev"])))
def test_every_dependency_is_pinned(name: str) -> None:
    pins = [
        line.partition("==")[0].lower().replace("_", "-") for line in (ROOT / "constraints.txt").read_text().split()
    ]
    assert name in pins
