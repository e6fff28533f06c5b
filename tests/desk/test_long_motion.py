"""Long recorded motions in the real window: nothing waits for what takes long, and looking at them stays quick."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from tests.formats import gltf_maker as make

from bovrin import script
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.strip import holds_row
from bovrin.desk.window import Window

FRAMES = 900


@pytest.fixture
def recorded(window: Window, tmp_path: Path) -> Window:
    """Every joint of a figure keyed on every frame."""
    maker = make.figure(make.TWO_LEGS)
    times = np.arange(FRAMES) / 24
    turns = np.tile([0.0, 0.0, 0.0, 1.0], (FRAMES, 1))
    turns[:, 0] = 0.3 * np.sin(times * 3)
    turns /= np.linalg.norm(turns, axis=1, keepdims=True)
    maker.animate("sway", *((name, "rotation", "LINEAR", times, turns) for name in make.TWO_LEGS))
    path = tmp_path / "sway.glb"
    path.write_bytes(maker.glb())
    assert bring(window.files, path, tmp_path / "sway.bovrin.json")
    QApplication.processEvents()
    return window


def test_no_ladder_has_hundreds_of_rungs(recorded: Window) -> None:
    assert recorded.session.shot.last == 101 + FRAMES - 1
    assert recorded.strip.places.chart.ladders() == []
    assert "900 frames" in recorded.notice.label.text()


def test_holds_of_very_long_motions_are_measured_aside(
    recorded: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The row is empty until it is known, then says the same as it does at once for short ones."""
    row = recorded.strip.places.holds
    at_once = row.stretches(None)
    assert at_once and row.words(None).startswith("Held")
    monkeypatch.setattr(holds_row, "MANY", 100)
    row._kept = None
    assert row.stretches(None) == [] and row.words(None) == ""
    qtbot.waitUntil(lambda: row._kept is not None, timeout=20000)
    assert row.stretches(None) == at_once


def test_a_key_on_every_frame_costs_little_memory(recorded: Window) -> None:
    """At most 64 bytes a key, columns that curves share counted once; as it was brought and as it was opened again."""
    curves = [c for c in recorded.session.shot.curves("sway").curves if len(c) > 1]
    assert len(curves) >= len(make.TWO_LEGS)
    arrays = {}
    for curve in curves:
        for value in vars(curve).values():
            if isinstance(value, np.ndarray):
                whole = value if value.base is None else value.base
                arrays[id(whole)] = whole.nbytes
    assert sum(arrays.values()) <= 64 * sum(len(curve) for curve in curves)


def test_scrubbing_shows_every_frame_s_own_pose(recorded: Window) -> None:
    session = recorded.session
    for frame in (101, 137, 460, 461, 1000):
        session.go_to(frame)
        QApplication.processEvents()
        shown = recorded.session.stance().world
        motion = script.sample(replace(session.shot), "sway", [frame])
        assert np.allclose(shown[:, :3, 3], motion.position[0], atol=1e-9), frame
