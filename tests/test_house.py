"""The house stands as docs/architecture.md says: no circles, no widgets in the window's state, no class that does everything."""

from __future__ import annotations

import ast
from collections import Counter
from collections.abc import Iterator
from functools import cache
from pathlib import Path

SOURCE = Path(__file__).parents[1] / "src"
MOST_METHODS = 25
MOST_FILES = 26


@cache
def modules() -> dict[str, ast.Module]:
    found = {}
    for path in sorted((SOURCE / "bovrin").rglob("*.py")):
        name = ".".join(path.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__")
        found[name] = ast.parse(path.read_text())
    return found


def imported(tree: ast.Module) -> Iterator[str]:
    """Everything a module imports, anywhere in it: under TYPE_CHECKING and in functions too."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield str(node.module)
            yield from (f"{node.module}.{alias.name}" for alias in node.names)


def test_nothing_imports_in_a_circle() -> None:
    trees = modules()
    left = {name: {m for m in imported(tree) if m in trees and m != name} for name, tree in trees.items()}
    while free := [name for name, needs in left.items() if not needs & left.keys()]:
        for name in free:
            del left[name]
    assert not left, "these import each other, or hang on a circle"


def test_the_state_of_the_window_has_no_widgets() -> None:
    state = {n: t for n, t in modules().items() if n.startswith("bovrin.desk.state")}
    assert len(state) > 15
    assert [n for n, tree in state.items() if any(m.startswith("PyQt6.QtWidgets") for m in imported(tree))] == []


def test_no_class_does_everything() -> None:
    """Methods that are inherited from classes of ours count."""
    classes = [node for tree in modules().values() for node in ast.walk(tree) if isinstance(node, ast.ClassDef)]
    by_name = {node.name: node for node in classes}

    def methods(node: ast.ClassDef) -> int:
        own = sum(isinstance(one, ast.FunctionDef) for one in node.body)
        bases = [getattr(base, "id", getattr(base, "attr", "")) for base in node.bases]
        return own + sum(methods(by_name[b]) for b in bases if b in by_name and b != node.name)

    assert {node.name: methods(node) for node in classes if methods(node) > MOST_METHODS} == {}


def test_no_two_classes_have_one_name() -> None:
    """What is private to its file may be called as it likes there."""
    named = Counter(
        name
        for tree in modules().values()
        for name in {node.name for node in ast.walk(tree) if isinstance(node, ast.ClassDef)}
        if not name.startswith("_")
    )
    assert [name for name, times in named.items() if times > 1] == []


def test_no_room_is_crammed() -> None:
    rooms = Counter(path.parent for path in (SOURCE / "bovrin").rglob("*.py"))
    assert {str(room): files for room, files in rooms.items() if files > MOST_FILES} == {}
