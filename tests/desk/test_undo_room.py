"""Undo steps share what did not change, and the oldest are let go of beyond a bound, never the last 200."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np
import pytest
from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QApplication, QInputDialog
from tests.strategies import thinned

from bovrin import script
from bovrin.desk.state.document.undo import ALWAYS, UndoSteps
from bovrin.desk.state.settings import undo_room
from bovrin.desk.window import Window
from bovrin.shot import Shot


@pytest.fixture
def owner(qapp: QApplication) -> Iterator[QObject]:
    made = QObject()
    yield made
    made.deleteLater()


def shots(demo: Shot, count: int) -> list[Shot]:
    found = [demo]
    for n in range(count):
        found.append(script.set_values(found[-1], "porter", 119, {"hips/up": 0.001 * (n + 1)}))
    return found


def test_the_latest_steps_stay_and_lead_back_one_by_one(owner: QObject, demo: Shot) -> None:
    seen: list[Shot] = []
    steps = UndoSteps(owner, lambda shot, _frame: seen.append(shot), bound=200_000)
    made = shots(demo, 420)
    for old, new in pairwise(made):
        steps.push("Pose", old, new, 119)
    count = steps.stack.count()
    assert ALWAYS <= count < 420 and steps.stack.undoText() == "Pose" and steps.stack.index() == count
    for back in range(1, count + 1):
        steps.stack.undo()
        assert seen[-1] is made[-1 - back]
    steps.stack.redo()
    assert seen[-1] is made[-count]


def test_what_was_saved_is_known_after_steps_were_let_go_of(owner: QObject, demo: Shot) -> None:
    made = shots(demo, 420)
    steps = UndoSteps(owner, lambda _shot, _frame: None, bound=200_000)
    for n, (old, new) in enumerate(pairwise(made)):
        steps.push("Pose", old, new, 119)
        if n == 400:
            steps.stack.setClean()
    assert not steps.stack.isClean()
    for _ in range(19):
        steps.stack.undo()
    assert steps.stack.isClean()


def test_a_step_is_as_small_as_what_it_changed(owner: QObject, demo: Shot) -> None:
    """One channel on one frame: a step holds the keys of that curve, not half a megabyte."""
    steps = UndoSteps(owner, lambda _shot, _frame: None, bound=1 << 40)
    made = shots(demo, 2)
    steps.push("Pose", made[1], made[2], 119)
    changed = [
        a is not b for a, b in zip(made[1].curves("porter").curves, made[2].curves("porter").curves, strict=True)
    ]
    assert np.count_nonzero(changed) == 1 and steps.size() < 20_000


def test_the_room_is_chosen_and_remembered(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    assert undo_room() == 256
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_args: (64, True))
    window.run("edit.room")
    assert undo_room() == 64 and window.session.document.steps.bound == 64_000_000
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_args: (0, False))
    window.run("edit.room")
    assert undo_room() == 64


@pytest.mark.parametrize("saved", thinned([0, 1, 150, 219, 220, 221, 222, 300, 418, 419], [0, 220, 221, 419]))
def test_what_was_saved_is_the_one_clean_step_or_there_is_none(saved: int, owner: QObject, demo: Shot) -> None:
    """Wherever it was saved: of the steps that stay, that one alone is clean; if it was let go of, none is."""
    steps = UndoSteps(owner, lambda _shot, _frame: None, bound=200_000)
    made = shots(demo, 420)
    for n, (old, new) in enumerate(pairwise(made)):
        steps.push("Pose", old, new, 119)
        if n == saved:
            steps.stack.setClean()
    gone = 420 - steps.stack.count()
    clean = [steps.stack.index() + gone - 1] if steps.stack.isClean() else []
    while steps.stack.canUndo():
        steps.stack.undo()
        clean += [steps.stack.index() + gone - 1] if steps.stack.isClean() else []
    assert clean == ([saved] if saved >= gone else [])
