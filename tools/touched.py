"""The tests that the files changed since the last commit touch: `make quick` runs them. Prints paths for pytest.

A changed file is tested by the tests that name it or what it defines most, of words that few tests have; where none does, by
those that name a module which imports it. A whole job is always among them.
"""

from __future__ import annotations

import ast
import re
import subprocess
from collections import Counter
from collections.abc import Iterable
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parent.parent
SOURCE, TESTS = ROOT / "src" / "bovrin", ROOT / "tests"
WHOLE_JOB = "tests/desk/test_whole_job.py"
COMMON, MOST = 0.12, 8
"""A word that more than this share of all tests has says nothing about one of them; tests of a module at the most."""


def changed_files() -> list[Path]:
    """Files that differ from the last commit, new ones too."""
    words = ["git", "status", "--porcelain", "--untracked-files=all"]
    lines = subprocess.run(words, cwd=ROOT, capture_output=True, text=True, check=True).stdout.splitlines()
    return [Path(line[3:].split(" -> ")[-1]) for line in lines]


@cache
def words_of_tests() -> dict[str, frozenset[str]]:
    """The words of every test file, by its path."""
    found = {}
    for file in sorted(TESTS.rglob("test_*.py")):
        text = file.stem.removeprefix("test_") + " " + file.read_text()
        found[str(file.relative_to(ROOT))] = frozenset(re.findall(r"\w+", text))
    return found


@cache
def tests_with() -> Counter[str]:
    """In how many tests each word stands."""
    return Counter(word for words in words_of_tests().values() for word in words)


def names_of(file: Path) -> frozenset[str]:
    """What a module is called, and all that it defines for others."""
    tree = ast.parse(file.read_text())
    kinds = (ast.FunctionDef, ast.ClassDef)
    inside = [n for c in tree.body if isinstance(c, ast.ClassDef) for n in c.body]
    return frozenset({file.stem, *(n.name for n in (*tree.body, *inside) if isinstance(n, kinds) and n.name[0] != "_")})


@cache
def importers() -> dict[str, frozenset[str]]:
    """By the name of a module, the files that import it or something of it."""
    found: dict[str, set[str]] = {}
    for file in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module:
                found.setdefault(node.module, set()).add(str(file))
    return {module: frozenset(files) for module, files in found.items()}


def module_of(file: Path) -> str:
    """The name by which a file is imported."""
    parts = file.relative_to(SOURCE.parent).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def tests_naming(file: Path) -> set[str]:
    """The tests that name a module, or what it defines: those that do so most, in words that are rare."""
    count, every = tests_with(), words_of_tests()
    names = {name for name in names_of(file) if 0 < count[name] <= COMMON * len(every)}
    desk = SOURCE / "desk" in file.parents
    scores = {
        path: sum(1 / count[name] for name in names & words)
        for path, words in every.items()
        if names & words and path.startswith("tests/desk/") == desk
    }
    return set(sorted(scores, key=scores.__getitem__, reverse=True)[:MOST])


def tests_of(file: Path) -> set[str]:
    """The tests of a module; where none names it, those of the modules that import it."""
    found = tests_naming(file)
    if not found:
        for importer in importers().get(module_of(file), ()):
            found |= tests_naming(Path(importer))
    return found


def touched(files: Iterable[Path]) -> list[str]:
    """Paths of tests for these files, relative to the project; a whole job as well."""
    found = {WHOLE_JOB}
    for file in files:
        if file.name.startswith("test_") and (ROOT / file).exists():
            found.add(str(file))
        elif file.suffix == ".py" and file.parts[:2] == ("src", "bovrin") and (ROOT / file).exists():
            found |= tests_of(ROOT / file)
    return sorted(found)


if __name__ == "__main__":
    print(" ".join(touched(changed_files())))
