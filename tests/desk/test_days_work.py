"""A day of work in one window: memory levels off, undo goes all the way back, and nothing is left that nobody can read."""

import resource
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication
from tests.desk.changes import WINDOWS

from bovrin import script
from bovrin.desk.state.document.session import Session
from bovrin.desk.table import TABLE
from bovrin.desk.window import Window
from bovrin.formats.project.store import load, save
from bovrin.formats.project.text import shot_to_text

MOST = 1_500_000
"""Kilobytes of the process at the end of the day."""


def posed(session: Session, figure: str, values: dict[str, float]) -> None:
    frame = session.frame
    session.do("Pose", lambda now: script.set_values(now, figure, frame, values))


@pytest.mark.sweep
def test_twenty_thousand_steps_stay_in_memory_and_can_be_saved(window: Window, quiet: None, tmp_path: Path) -> None:
    steps, rng, session = 20_000, np.random.default_rng(7), window.session
    begun = shot_to_text(session.shot)
    own = [c.id for c in TABLE if c.id not in WINDOWS and not c.id.startswith(("take.", "edit.", "shot."))]
    for n in range(steps):
        figure = session.shot.cast[int(rng.integers(0, len(session.shot.cast)))]
        session.choose(figure.name, [int(rng.integers(0, len(figure.rig.controls)))])
        session.go_to(float(rng.integers(101, 150)))
        window.run(own[int(rng.integers(0, len(own)))])
        if n % 7 == 0:
            channel = figure.rig.channel_names[int(rng.integers(0, len(figure.rig.channels)))]
            posed(session, figure.name, {channel: float(rng.normal(0, 0.05))})
        if n % 11 == 0:
            session.document.undo_stack.undo()
        if n % 50 == 0:
            QApplication.processEvents()
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)  # as the window's own loop does
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss < MOST
    kept = save(session.shot, tmp_path / "day.bovrin.json")
    assert shot_to_text(load(tmp_path / "day.bovrin.json")) == shot_to_text(kept)
    stack = session.document.undo_stack
    here, last = stack.index(), shot_to_text(session.shot)
    stack.setIndex(0)
    assert shot_to_text(session.shot) == begun or stack.count() >= 200, "the oldest steps may have been let go of"
    stack.setIndex(here)
    assert shot_to_text(session.shot) == last
