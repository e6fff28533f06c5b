"""The curve desk: a repaint against bare drawing, and a key dragged among very many against one among few."""

from __future__ import annotations

import os
import tempfile
import time

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QApplication

from benchmarks.row import Row, compare
from benchmarks.strip import _send
from bovrin.desk.application import dressed_application
from bovrin.desk.kit.gesture import cancel_under_way
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.timescale import GUTTER
from bovrin.desk.state.document.session import Session
from bovrin.desk.window import Window
from bovrin.shot import (
    Channel,
    Control,
    ControlKind,
    Curve,
    CurveSet,
    Figure,
    Joint,
    Model,
    Part,
    Rig,
    Shot,
    Unit,
)
from bovrin.shot.curve import Floats

CHANNELS, KEYS, WIDE = 60, 400, 1100
MANY = 100_000


def keyed_shot(keys: int, step: float) -> Shot:
    """A figure of 60 channels on ten controls, so many keys on each, a step apart."""
    joints = tuple(Joint(f"joint {n}", n - 1, (0.0, 0.1, 0.0)) for n in range(10))
    turns = tuple(Channel(n, f"rotate {a}", Unit.ANGLE) for n, a in (("turn", "y"), ("tilt", "x"), ("roll", "z")))
    moves = tuple(
        Channel(n, f"translate {a}", Unit.LENGTH) for n, a in (("across", "x"), ("up", "y"), ("forward", "z"))
    )
    controls = tuple(Control(f"control {n}", ControlKind.JOINT, n, moves + turns) for n in range(10))
    parts = tuple(Part(f"part {n}", (n,)) for n in range(10))
    figure = Figure("long", Rig(joints, controls, parts), Model(()), "long.glb", (0.5, 0.5, 0.5))
    rng = np.random.default_rng(3)
    frames = 101.0 + step * np.arange(keys)
    kinds = np.ones(keys, np.uint8)
    curves = CurveSet(
        tuple(
            Curve.from_columns(
                {
                    **{n: np.zeros(keys) for n in ("in_slope", "out_slope")},
                    **{n: np.ones(keys) for n in ("in_length", "out_length")},
                    "frames": frames,
                    "values": np.cumsum(rng.normal(size=keys)) * 0.01,
                    "in_kind": kinds,
                    "out_kind": kinds,
                    "joined": kinds.astype(bool),
                    "free": np.zeros(keys, bool),
                    "role": np.zeros(keys, np.uint8),
                }
            )
            for _ in range(CHANNELS)
        )
    )
    return Shot("Long", last=101.0 + step * keys).with_figure(figure, curves)


def opened(shot: Shot, controls: list[int]) -> Window:
    """The window in the Spline pass, with controls chosen."""
    window = Window(Session(shot))
    window.resize(WIDE + GUTTER + 18, 800)
    window.show()
    window.run("pass.spline")
    window.session.choose(shot.cast[0].name, controls)
    QApplication.processEvents()
    return window


def bare(lines: list[tuple[QPolygonF, QPen]], marks: list[tuple[Floats, Floats]], size: tuple[int, int]) -> None:
    """The same polylines and as many marks, drawn one by one."""
    pixmap = QPixmap(*size)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for line, pen in lines:
        painter.setPen(pen)
        painter.drawPolyline(line)
    painter.setBrush(Qt.GlobalColor.black)
    for xs, ys in marks:
        for x, y in zip(xs.tolist(), ys.tolist(), strict=True):
            painter.drawEllipse(QPointF(x, y), 3.4, 3.4)
    painter.end()


def repaint() -> Row:
    """60 curves of 400 keys, all in sight."""
    window = opened(keyed_shot(KEYS, 1.0), list(range(10)))
    window.bottom.scale.show_range(101, 101 + KEYS)
    QApplication.processEvents()
    desk = window.curves.desk
    rows = desk.plot.shown_rows()
    at, values = desk.painter._sampled([desk.plot.curve(r.channel) for r in rows], rows)
    lines, marks = [], []
    for row, column in zip(rows, values.T, strict=True):
        xs, ys = desk.scale.x(0.0) + at * desk.scale.per_frame, desk.plot.y_of(desk.plot.plot_of(row, column))
        pen = Look.pen(row.role, 1.8)
        if row.unit is Unit.ANGLE:
            pen.setStyle(Qt.PenStyle.DashLine)
        lines.append((QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]), pen))
        marks.append(desk.plot.key_places(row))

    def ours() -> None:
        desk.painter._kept = None
        desk.painter.still(rows)

    size = (desk.width(), desk.height())
    row = compare("curve desk of 60 x 400 keys, repaint", 0.5, ours, lambda: bare(lines, marks, size), 8)
    window.hide()
    return row


def step_of(shot: Shot) -> float:
    """A step of dragging one key with one control chosen, ms: the median of 40, paint and all."""
    window = opened(shot, [4])
    window.bottom.scale.show_range(101, 160)
    QApplication.processEvents()
    desk = window.curves.desk
    row = desk.plot.rows()[1]
    desk.plot.list.picked = {row.channel}
    desk.plot.fit()
    for _ in range(5):
        QApplication.processEvents()
    curve = desk.plot.curve(row.channel)
    index = int(np.searchsorted(curve.frames, 130.0))
    place = desk.plot.key_point(row, index)
    desk.plot.stretch(0.5, place.y())
    place = desk.plot.key_point(row, index)
    taken = []
    _send(desk, QEvent.Type.MouseButtonPress, place)
    for n in range(40):
        began = time.perf_counter()
        _send(desk, QEvent.Type.MouseMove, place + QPointF(0, 12 + 10 * np.sin(n / 3)))
        QApplication.processEvents()
        taken.append((time.perf_counter() - began) * 1000)
    assert window.session.document.previewing
    cancel_under_way()
    window.hide()
    return float(np.median(taken))


def sampled(shot: Shot) -> NDArray[np.float64]:
    """The frames at which curves are worked out for a picture."""
    window = opened(shot, [4])
    window.bottom.scale.show_range(101, 160)
    rows = window.curves.desk.plot.shown_rows()
    at, _ = window.curves.desk.painter._sampled([window.curves.desk.plot.curve(r.channel) for r in rows], rows)
    window.hide()
    return at


def rows() -> list[Row]:
    """A repaint, a drag among 100,000 keys, and how much is worked out."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as folder:
        for name in ("DATA", "CONFIG", "STATE", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = folder
        app = dressed_application()
        many, few = keyed_shot(MANY // CHANNELS, 1.0), keyed_shot(5, 12.0)
        found = [repaint()]
        large, small = step_of(many), step_of(few)
        found.append(
            Row(
                "one key of 100,000 dragged, over one of 300",
                round(large / small, 3),
                1.2,
                round(large, 2),
                round(small, 2),
            )
        )
        at = sampled(many)
        print(
            f"a picture of curves of {MANY // CHANNELS} keys works out {len(at)} frames for {WIDE} pixels, all in sight"
        )
        app.processEvents()
    return found
