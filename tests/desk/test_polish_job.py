"""The crate shot from splined blocking to polished, by mouse and keys: head late, the bobble drags and settles, arcs of both
wrists pulled by their dots, the last pose kept alive, the proof read to empty; then played at speed, and undone."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand

from bovrin import script
from bovrin.craft.keying.lag import lags_at
from bovrin.desk.panels.overlap_panel import OverlapPanel
from bovrin.desk.stage.overlays.arcs import ArcDots
from bovrin.desk.window import Window
from bovrin.measure.kinks import turns_of
from bovrin.shot import Shot

STEP = 40
"""Remedies after which the proof must have come to an end."""


def typed(panel: OverlapPanel, row: str, words: str) -> None:
    field = panel.rows[row].field
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, words)
    QTest.keyClick(field, Qt.Key.Key_Return)
    QApplication.processEvents()


def chosen_on_the_map(window: Window, hand: Hand, *names: str) -> None:
    """The first by a click, the others by Shift and click."""
    figure_map = window.cast_panel.map
    for n, name in enumerate(names):
        keys = Qt.KeyboardModifier.ShiftModifier if n else Qt.KeyboardModifier.NoModifier
        hand.click(figure_map, figure_map.point_of(name), keys)


def pull_dot(window: Window, hand: Hand, control: str, frame: float) -> None:
    """A dot of a wrist's arc pulled toward the shoulder."""
    session, stage = window.session, window.stage.main
    chosen_on_the_map(window, hand, control)
    session.go_to(frame)
    dots = next(o for o in stage.overlays if isinstance(o, ArcDots))
    (one,) = dots.drawn()
    x, y = one.dots[int(np.flatnonzero(one.arc.frames == frame)[0])]
    motion = script.sample(session.shot, "porter", [frame])
    side = control.split()[0]
    shoulder = stage.scene.on_screen(motion.position[0, motion.joints.index(f"{side} upper arm")])
    hand.drag(stage, QPointF(x, y), QPointF(x, y) + (shoulder - QPointF(x, y)) * 0.12)


def test_from_splined_blocking_to_polished(window: Window, hand: Hand, demo: Shot, qtbot: QtBot) -> None:
    session = window.session
    window.stage.main.setFocus()
    window.run("motion.spline_all")
    splined = session.shot
    hand.key(Qt.Key.Key_5)
    overlap = window.right.open("overlap")
    assert isinstance(overlap, OverlapPanel)

    chosen_on_the_map(window, hand, "chest", "neck", "head")
    assert overlap.chain.text() == "chest > neck > head"
    typed(overlap, "delay", "0.75")
    rig = session.shot.figure("porter").rig
    assert lags_at(session.shot.curves("porter"), 127)[rig.channel("head/tilt")] == 1.5, "the head comes late"
    session.choose("porter", [rig.control(name) for name in ("neck", "head", "bobble")])
    for row, amount in (("drag", "50"), ("overshoot", "40")):
        before = session.shot
        typed(overlap, row, amount)
        assert session.shot is not before, row

    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_A)
    for control in ("left hand", "right hand"):
        before = session.shot
        pull_dot(window, hand, control, 123)
        assert session.shot is not before
        frames = np.arange(119.0, 128.0)
        place = script.arc(session.shot, "porter", control, frames).position
        assert np.degrees(turns_of(place)).max() < 90, "no corner was pulled into the arc"
        for frame in (119.0, 127.0):
            now, was = (script.values(shot, "porter", frame) for shot in (session.shot, before))
            assert now == pytest.approx(was, abs=1e-6), "poses stay"
    hand.key(Qt.Key.Key_A)

    session.go_to(150)
    session.keys.clear()
    session.choose("porter", ())
    typed(overlap, "drift on", "8")
    held = script.sample(session.shot, "porter", [147, 158]).position
    assert np.linalg.norm(held[0] - held[1], axis=1).max() > 0.001, "the last pose is alive"

    window.run("proof.next")
    qtbot.waitUntil(lambda: window.proofread.up_to_date, timeout=20000)
    panel = window.right.panel("proof")
    for _ in range(STEP):
        notes = window.proofread.notes
        if not notes:
            break
        window.proofread.pick(notes[0])
        if notes[0].remedy is None:
            window.run("proof.leave")
        else:
            window.run("proof.keep")  # seen
            assert window.proofread.trying == notes[0]
            window.run("proof.keep")
        qtbot.waitUntil(lambda: window.proofread.up_to_date, timeout=20000)
    assert window.proofread.notes == [], "read to empty"
    assert panel.empty.text() == "Nothing to note."  # type: ignore[attr-defined]
    assert len(session.shot.take.left) <= 2, "what could not be mended was seldom left"

    session.go_to(101)
    seen: list[float] = []
    session.document.frame_changed.connect(lambda: seen.append(session.frame))
    window.run("time.play")
    qtbot.waitUntil(lambda: len(set(seen)) > 12, timeout=20000)
    window.run("time.play")
    assert seen[:12] == sorted(seen[:12]), "forward, at speed"
    while session.shot is not splined and session.document.undo_stack.canUndo():
        window.run("edit.undo")
    assert session.shot is splined and session.shot is not demo
