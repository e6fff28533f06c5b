"""Recorded motion in hands: its key poses, its film on the strip, and a view that keeps it in sight."""

from __future__ import annotations

import os
import tempfile
import time
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPixmap
from PyQt6.QtWidgets import QApplication

from benchmarks.motions import smooth_motion
from benchmarks.row import Row, compare
from benchmarks.strip import _repaint
from bovrin.craft.recorded.key_pose_search import find_key_poses
from bovrin.desk.application import dressed_application
from bovrin.desk.state.document.session import Session
from bovrin.desk.window import Window
from bovrin.figure.reading.reaching import reaching
from bovrin.formats.bvh.figure import shot_of
from bovrin.formats.bvh.source import bvh_from_bytes
from bovrin.picture.item import items_at
from bovrin.picture.renderer import PictureStyle, Renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Shot

FRAMES, MOST = 1000, 500
SECONDS = 3.0
SIZE = (776, 410)


def recording(frames: int = FRAMES) -> Shot:
    """A motion of the porter's joints, read from a file and made to reach."""
    return reaching(shot_of(bvh_from_bytes(smooth_motion(frames)[0], "long.bvh"), "long", "long.bvh").shot)


def key_poses(shot: Shot) -> Row:
    """All numbers of poses at once, over the time that an animator waits without a bar."""
    frames = np.array(shot.whole_frames, float)
    began = time.perf_counter()
    find_key_poses(shot, "long", frames, MOST)
    taken = time.perf_counter() - began
    joints = len(shot.figure("long").rig.joints)
    name = f"key poses of {FRAMES} frames x {joints} joints, over {SECONDS:g} s"
    return Row(name, round(taken / SECONDS, 3), 1.0, round(taken * 1000, 1), SECONDS * 1000)


def film(shot: Shot) -> Row:
    """A repaint of a dense strip whose pictures are there, over drawing as many pictures, marks and bands bare."""
    window = Window(Session(shot))
    window.resize(1280, 800)
    window.show()
    strip = window.strip
    for _ in range(400):
        QApplication.processEvents()
        time.sleep(0.01)
        if not window.pictures._wanted and len(window.pictures._kept):
            break
    made = list(window.pictures._kept.values())
    found = compare("dense strip, repaint", 2.0, lambda: _repaint(strip), lambda: bare(window, made))
    window.hide()
    return found


def bare(window: Window, made: list[QImage]) -> None:
    """What is seen of a film, drawn by its painter alone."""
    strip = window.strip
    ratio = strip.devicePixelRatioF()
    pixmap = QPixmap(round(strip.width() * ratio), round(strip.height() * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.white)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    scale = strip.scale
    for n, image in enumerate(made[:14]):
        painter.drawImage(QPointF(170.0 + 74 * n, 60.0), image)
    low, high = scale.seen()
    for frame in scale.numbers(window.session.shot.first):
        painter.drawText(QRectF(scale.x(frame) - 30, 0, 60, 14), Qt.AlignmentFlag.AlignCenter, str(frame))
        painter.drawLine(QLineF(scale.x(frame), 14, scale.x(frame), 22))
    for n in range(12):
        painter.drawText(QRectF(24, 20 + 9 * n, 120, 16), Qt.AlignmentFlag.AlignLeft, "Timing chart")
        painter.drawRoundedRect(QRectF(180 + 60 * n, 150, 50, 10), 3, 3)
    for n, lane in enumerate(strip.places.lanes()):
        y = 170.0 + 15 * n
        painter.drawText(QRectF(24, y - 8, 120, 16), Qt.AlignmentFlag.AlignLeft, lane.words)
        painter.drawRoundedRect(QRectF(scale.x(low), y - 3, scale.x(high) - scale.x(low), 7), 2, 2)
    painter.end()


def in_view(shot: Shot) -> Row:
    """A picture whose view goes along, over one whose view stands."""
    renderer = Renderer()
    look = PictureStyle(backdrop=PAPER_STAGE)
    items = [items_at(shot, frame) for frame in (120.0, 121.0)]
    here = VIEWS["three-quarter"]
    views = [replace(here, target=(0.01 * n, 0.86, 0.02 * n)) for n in range(40)]
    turn = iter(range(10_000))

    def going() -> None:
        renderer.draw(items[0], views[next(turn) % 40], SIZE, look)

    return compare("keeping in view, a picture", 1.5, going, lambda: renderer.draw(items[1], here, SIZE, look))


PAPER_STAGE = PictureStyle().backdrop


def rows() -> list[Row]:
    """Search, film and view."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as folder:
        for name in ("DATA", "CONFIG", "STATE", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = folder
        app = dressed_application()
        shot = recording()
        found = [key_poses(shot), film(shot), in_view(shot)]
        app.processEvents()
    return found
