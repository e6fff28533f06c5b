"""Small faults put into the code one at a time, and whether the tests nearest to it notice: `make mutants COUNT=40`.

Works on a copy of the project. Prints each fault that no test noticed, and how many were by module.
"""

from __future__ import annotations

import argparse
import ast
import copy
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from tools.touched import ROOT, SOURCE, tests_of

MODULES = (
    "shot/take.py", "shot/curve.py", "shot/comparing.py", "motion/evaluate.py", "motion/handles.py", "figure/stages/lane.py",
    "figure/stages/mixing.py", "figure/stages/pieces.py", "figure/stages/layers.py", "craft/keying/timing.py",
    "craft/keying/lag.py", "craft/keying/cards.py", "craft/clips/instead.py", "craft/pose/gaze.py", "measure/proof/curves.py",
    "formats/project/takes.py", "formats/project/text.py", "formats/raw_motion.py", "desk/state/document/locks.py",
    "desk/state/document/undo.py", "desk/state/book.py", "caching.py",
)  # fmt: skip
"""The sample: where a fault that nobody notices would cost the most."""
SECONDS = 300
"""After which a run of tests counts as having noticed that nothing comes of it any more."""
OTHER = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Add: ast.Sub, ast.Sub: ast.Add,
    ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip


def faults(tree: ast.Module) -> Iterator[tuple[str, ast.Module]]:
    """Every fault that can be put into a module: what and where, and the module with it."""
    for number, node in enumerate(ast.walk(tree)):
        for words, change in _changes(node):
            made = copy.deepcopy(tree)
            change(list(ast.walk(made))[number])
            yield f"line {getattr(node, 'lineno', 0)}: {words}", made


def _changes(node: ast.AST) -> Iterator[tuple[str, object]]:
    if isinstance(node, ast.Compare) and type(node.ops[0]) in OTHER:
        other = OTHER[type(node.ops[0])]
        yield f"{type(node.ops[0]).__name__} for {other.__name__}", lambda n: n.ops.__setitem__(0, other())
    elif isinstance(node, (ast.BinOp, ast.BoolOp)) and type(node.op) in OTHER:
        other = OTHER[type(node.op)]
        yield f"{type(node.op).__name__} for {other.__name__}", lambda n: setattr(n, "op", other())
    elif isinstance(node, ast.Constant) and type(node.value) in (int, float, bool):
        new = (not node.value) if isinstance(node.value, bool) else node.value + 1
        yield f"{node.value} for {new}", lambda n: setattr(n, "value", new)
    elif isinstance(node, ast.IfExp):
        yield "the other of two", lambda n: n.__dict__.update(body=n.orelse, orelse=n.body)
    elif isinstance(node, ast.keyword) and node.arg is not None and isinstance(node.value, (ast.Name, ast.Attribute)):
        yield f"'{node.arg}' is None", lambda n: setattr(n, "value", ast.Constant(None))


def sample(modules: list[Path], count: int, seed: int) -> list[tuple[Path, str, str]]:
    """So many faults over some modules, the same for a seed: the module, the words, and its text with the fault."""
    rng = np.random.default_rng(seed)
    found = []
    for number in range(count):
        module = modules[number % len(modules)]
        every = list(faults(ast.parse(module.read_text())))
        words, made = every[int(rng.integers(len(every)))]
        found.append((module, words, ast.unparse(ast.fix_missing_locations(made))))
    return found


def noticed(copied: Path, module: Path, text: str, tests: set[str]) -> bool:
    """Whether one of some tests fails on a copy of the project in which a module is another."""
    place = copied / module.relative_to(ROOT)
    sound = place.read_text()
    place.write_text(text)
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-n", "2", "-m", "not sweep", *sorted(tests)]
    path = {"PYTHONPATH": str(copied / "src"), "QT_QPA_PLATFORM": "offscreen", "PATH": "/usr/bin:/bin", "HOME": "/tmp"}
    try:
        return bool(subprocess.run(command, cwd=copied, env=path, capture_output=True, timeout=SECONDS).returncode)
    except subprocess.TimeoutExpired:
        return True
    finally:
        place.write_text(sound)


def main() -> None:
    """From the command line."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default="", help="modules with this in their path")
    given = parser.parse_args()
    modules = [SOURCE / name for name in MODULES if given.only in name]
    tried, survived = Counter[str](), Counter[str]()
    with tempfile.TemporaryDirectory() as folder:
        copied = Path(folder) / "project"
        shutil.copytree(ROOT, copied, ignore=shutil.ignore_patterns(".venv", ".git", "build", "__pycache__", ".*cache"))
        for module, words, text in sample(modules, given.count, given.seed):
            name = str(module.relative_to(SOURCE))
            tried[name] += 1
            if not noticed(copied, module, text, tests_of(module)):
                survived[name] += 1
                print(f"not noticed: {name}, {words}", flush=True)
    for name, count in tried.items():
        print(f"{name}: {count - survived[name]} of {count} noticed")
    print(f"{tried.total() - survived.total()} of {tried.total()} noticed")


if __name__ == "__main__":
    main()
