"""An animator's work for so many minutes on end, and whether anything grows: `make soak MINUTES=20`.

The real window, driven by its commands, the mouse and files. Every half a minute a line: memory, what there is on the graphics
side, objects, open files, and how long four things take. It fails where memory goes on growing after the first minutes.
"""

from __future__ import annotations

import argparse
import ctypes
import gc
import os
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from bovrin import script
from bovrin.caching import RESULTS
from bovrin.desk.application import dressed_application
from bovrin.desk.state.document.session import Session
from bovrin.desk.table import TABLE
from bovrin.desk.window import Window
from bovrin.picture.graphics import graphics_context

EVERY = 30.0
"""Seconds between two lines."""
SETTLES = 5.0
"""Minutes in which caches fill; a shorter run takes its first third."""
MOST = 1.0
"""Megabytes a minute that memory may grow by after that."""
KINDS = ("Renderbuffer", "Buffer", "Texture")
PASSES = [command.id for command in TABLE if command.id.startswith("pass.")]
EDITS = ("pose.key", "pose.breakdown", "pose.longer", "pose.shorter", "pose.mirror", "pose.push", "motion.twos")


class Animator:
    """Does this and that in a window, always in the same order for a seed, and says how long it took, milliseconds."""

    def __init__(self, folder: Path, seed: int) -> None:
        self._rng = np.random.default_rng(seed)
        self._projects = []
        for name in ("heave", "goat", "across"):
            self._projects.append(folder / f"{name}.bovrin.json")
            script.save(script.demo(name), self._projects[-1])
        self.window = Window(Session(script.load(self._projects[0]), self._projects[0]))
        self.window.resize(1280, 800)
        self.window.show()
        self.took: dict[str, list[float]] = {"frame": [], "drag step": [], "pass": [], "save": []}
        self._jobs: list[tuple[Callable[[], None], int]] = [
            (self.scrub, 30), (self.drag, 20), (self.edit, 20), (self.undo, 10), (self.change_pass, 6),
            (self.play, 3), (self.resize, 5), (self.save, 3), (self.hand_on, 1), (self.another, 2),
        ]  # fmt: skip

    def job(self) -> None:
        """One thing, chosen by how often it is done."""
        weights = np.array([often for _, often in self._jobs], float)
        self._jobs[int(self._rng.choice(len(weights), p=weights / weights.sum()))][0]()
        QApplication.processEvents()

    def _timed(self, name: str, work: Callable[[], object]) -> None:
        began = time.perf_counter()
        work()
        QApplication.processEvents()
        self.took[name].append((time.perf_counter() - began) * 1000)

    def _frame(self) -> float:
        shot = self.window.session.shot
        return float(self._rng.integers(int(shot.first), int(shot.last) + 1))

    def scrub(self) -> None:
        """Over some frames, one after another."""
        start = self._frame()
        for n in range(12):
            self._timed("frame", lambda frame=start + n: self.window.session.go_to(frame))  # type: ignore[misc]

    def drag(self) -> None:
        """A joint, away and part of the way back."""
        session, stage = self.window.session, self.window.stage.main
        stance = session.stance()
        if stance is None:
            return
        joint = int(self._rng.integers(len(stance.world)))
        self._drag_from(stage.scene.on_screen(stance.world[joint, :3, 3]).toPoint())

    def _drag_from(self, at: QPoint) -> None:
        stage = self.window.stage.main
        if not stage.rect().contains(at):
            return
        way = self._rng.integers(-6, 7, 2)
        QTest.mousePress(stage, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
        for n in (1, 2, 3, 4, 5, 6, 5, 4):
            to = at + QPoint(int(way[0]) * n, int(way[1]) * n)
            self._timed("drag step", lambda to=to: QTest.mouseMove(stage, to))  # type: ignore[misc]
        QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)

    def edit(self) -> None:
        """A command on some frame."""
        self.window.session.go_to(self._frame())
        self.window.run(str(self._rng.choice(EDITS)))

    def undo(self) -> None:
        """Some steps back, some of them forward again."""
        for command in ("edit.undo",) * 3 + ("edit.redo",) * 2:
            self.window.run(command)

    def change_pass(self) -> None:
        """To another pass, which brings its panels."""
        self._timed("pass", lambda: self.window.run(str(self._rng.choice(PASSES))))

    def play(self) -> None:
        """A second and a half."""
        self.window.run("time.play")
        QTest.qWait(1500)
        self.window.run("time.play")

    def resize(self) -> None:
        """To another size, in steps, as a hand does."""
        width, height = int(self._rng.integers(1150, 1400)), int(self._rng.integers(760, 900))
        now = self.window.size()
        for share in (0.25, 0.5, 0.75, 1.0):
            self.window.resize(*(round(a + (b - a) * share) for a, b in ((now.width(), width), (now.height(), height))))
            QApplication.processEvents()

    def save(self) -> None:
        """Where it came from."""
        path = self.window.session.document.path
        assert path is not None
        self._timed("save", lambda: self.window.files.save(path))

    def hand_on(self) -> None:
        """As a .glb beside it."""
        self.window.files.export(self._projects[0].with_name("out.glb"))

    def another(self) -> None:
        """Another project, the work on this one saved."""
        self.save()
        self.window.files.open(self._projects[int(self._rng.integers(len(self._projects)))])


def graphics_objects() -> dict[str, int]:
    """What the graphics library says there is in this thread's context."""
    graphics_context().gc()
    library, found = ctypes.CDLL("libGL.so.1"), {}
    for kind in KINDS:
        asked = getattr(library, f"glIs{kind}")
        asked.restype = ctypes.c_ubyte
        found[kind] = sum(bool(asked(n)) for n in range(1, 5000))
    return found


def memory() -> float:
    """Megabytes that are resident."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def bounded(window: Window) -> float:
    """Megabytes of what has a bound of its own: undo steps, results, pictures of frames that playing and cards show again."""
    pictures = sum(image.sizeInBytes() for image in window.stage.main.picture.kept.values())
    return (window.session.document.steps.size() + RESULTS.size + pictures) / 1e6


def line(minutes: float, animator: Animator) -> float:
    """Print what there is now; returns the megabytes besides what is bounded."""
    gc.collect()
    held, counts = bounded(animator.window), graphics_objects()
    taken = memory() - held
    times = ", ".join(f"{name} {statistics.median(own):.0f}" for name, own in animator.took.items() if own)
    for own in animator.took.values():
        own.clear()
    print(
        f"{minutes:5.1f} min  {taken:6.1f} MB, and {held:5.1f} MB within bounds  graphics {'/'.join(map(str, counts.values()))}"
        f"  objects {len(gc.get_objects())}  files {len(os.listdir('/proc/self/fd'))}  ms: {times}",
        flush=True,
    )
    return taken


def soak(minutes: float, seed: int) -> float:
    """Megabytes a minute by which memory grows once it has settled."""
    app = dressed_application()
    with tempfile.TemporaryDirectory() as folder:
        for name in ("STATE", "CONFIG", "DATA", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = folder
        animator, rows = Animator(Path(folder), seed), list[tuple[float, float]]()
        began = told = time.monotonic()
        while (now := time.monotonic()) - began < minutes * 60:
            animator.job()
            if now - told >= EVERY:
                told = now
                rows.append(((now - began) / 60, line((now - began) / 60, animator)))
        animator.window.session.document.undo_stack.setClean()
        animator.window.close()
        app.processEvents()
    settled = [row for row in rows if row[0] >= min(SETTLES, minutes / 3)]
    return float(np.polyfit(*np.array(settled).T, 1)[0]) if len(settled) > 2 else 0.0


def main() -> int:
    """0 where memory stays as it is, 1 where it grows."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=20.0)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    slope = soak(given.minutes, given.seed)
    print(f"Memory goes by {slope:+.2f} MB a minute; {MOST:g} is allowed.")
    return int(slope > MOST)


if __name__ == "__main__":
    sys.exit(main())
