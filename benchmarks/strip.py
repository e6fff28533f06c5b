"""The pose strip: a repaint against bare marks, and the worst frame of a card dragged over a long shot."""

from __future__ import annotations

import os
import tempfile
import time

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPixmap, QPolygonF
from PyQt6.QtWidgets import QApplication, QWidget

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.craft.keying.key_sets import copy_keys, keys_on
from bovrin.desk.application import dressed_application
from bovrin.desk.kit.gesture import cancel_under_way
from bovrin.desk.kit.taking_down import take_down
from bovrin.desk.state.document.session import Session
from bovrin.desk.strip.strip import PoseStrip
from bovrin.desk.window import Window
from bovrin.shot import (
    Channel,
    Control,
    ControlKind,
    Curve,
    CurveSet,
    Figure,
    Joint,
    Key,
    KeyRole,
    Model,
    Part,
    Rig,
    Shot,
    Unit,
)

PARTS, KEYS = 40, 50
LONG = 5000


def many_parts() -> Shot:
    """One figure of 40 parts with 50 keys each, of every role."""
    joints = tuple(Joint(f"joint {n}", n - 1, (0.0, 0.1, 0.0)) for n in range(PARTS))
    turn = (Channel("turn", "rotate y", Unit.ANGLE),)
    controls = tuple(Control(f"control {n}", ControlKind.JOINT, n, turn) for n in range(PARTS))
    parts = tuple(Part(f"part {n}", (n,)) for n in range(PARTS))
    figure = Figure("many", Rig(joints, controls, parts), Model(()), "many.glb", (0.5, 0.5, 0.5))
    curves = CurveSet(
        tuple(
            Curve.from_keys(Key(101.0 + 2 * n, 0.1 * ((n + p) % 5), role=KeyRole((n + p) % 3)) for n in range(KEYS))
            for p in range(PARTS)
        )
    )
    return Shot("Many", last=101.0 + 2 * KEYS).with_figure(figure, curves)


def bare_marks(size: tuple[int, int]) -> None:
    """As many circles, triangles and ticks, drawn one by one."""
    pixmap = QPixmap(*size)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.GlobalColor.black)
    for part in range(PARTS):
        y = 20.0 + part * 15
        for n in range(KEYS):
            x = 170.0 + n * 20
            at, role = QPointF(x, y), (n + part) % 3
            if role == KeyRole.KEY_POSE:
                painter.drawEllipse(at, 3.4, 3.4)
            elif role == KeyRole.BREAKDOWN:
                painter.drawPolygon(QPolygonF([at + QPointF(0, -4), at + QPointF(4, 3), at + QPointF(-4, 3)]))
            else:
                painter.drawLine(at + QPointF(0, -3), at + QPointF(0, 3))
    painter.end()


def _many_window() -> Window:
    window = Window(Session(many_parts()))
    window.resize(1280, 1100)
    window.show()
    window.halves.setSizes([200, 800])
    QApplication.processEvents()
    return window


def _repaint(strip: PoseStrip) -> None:
    strip.painter._kept = None
    strip.painter.still()


def long_shot() -> Shot:
    """The porter's poses of the demo again and again, over 5,000 frames."""
    shot = script.demo()
    every = keys_on(shot.curves("porter"), range(len(shot.curves("porter"))), 101, 160)
    length = 48.0
    while every and shot.last < LONG:
        shot = copy_keys(shot, "porter", every, length)
        every = keys_on(shot.curves("porter"), range(len(shot.curves("porter"))), 101, 101 + 2 * length)
        length *= 2
    return shot


def worst_step() -> tuple[float, float]:
    """A card dragged to and fro at the beginning of the long shot: the worst and the median step, ms."""
    window = Window(Session(long_shot()))
    window.resize(1280, 800)
    window.show()
    QApplication.processEvents()
    window.bottom.scale.show_range(101, 160)
    for _ in range(40):
        QApplication.processEvents()
        time.sleep(0.02)
    strip = window.strip
    rect = dict(strip.places.card_rects())[119.0]
    taken = []
    edge = QPointF(rect.right() - 2, rect.center().y())
    _send(strip, QEvent.Type.MouseButtonPress, edge)
    for n in range(40):
        began = time.perf_counter()
        _send(strip, QEvent.Type.MouseMove, edge + QPointF(8 * np.sin(n / 3) * 10, 0))
        QApplication.processEvents()
        taken.append((time.perf_counter() - began) * 1000)
    cancel_under_way()
    take_down(window)
    return max(taken), float(np.median(taken))


def _send(widget: QWidget, kind: QEvent.Type, at: QPointF) -> None:
    left = Qt.MouseButton.LeftButton
    event = QMouseEvent(kind, at, widget.mapToGlobal(at), left, left, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(widget, event)


def rows() -> list[Row]:
    """A repaint, and the worst step over a tenth of a second, which is when a drag begins to feel stuck."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as folder:
        for name in ("DATA", "CONFIG", "STATE", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = folder
        app = dressed_application()
        window = _many_window()
        strip = window.strip
        size = (strip.width(), strip.height())
        found = [compare("strip of 2,000 keys, repaint", 1.5, lambda: _repaint(strip), lambda: bare_marks(size))]
        take_down(window)
        worst, median = worst_step()
        print(f"a card dragged over {LONG} frames: worst step {worst:.0f} ms, median {median:.0f} ms")
        found.append(
            Row("card over 5,000 frames, worst step over 100 ms", round(worst / 100, 3), 0.6, round(worst, 1), 100.0)
        )
        app.processEvents()
    return found
