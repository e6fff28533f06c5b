"""Long work in seconds: crowds, wide figures, many takes, many triangles; opened, scrubbed, edited, saved, kept, handed on."""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from PyQt6.QtWidgets import QApplication

from benchmarks.row import Row
from bovrin import script
from bovrin.desk.application import dressed_application
from bovrin.desk.state.document.session import Session
from bovrin.desk.window import Window
from bovrin.figure.brought.guess import guess_build
from bovrin.figure.making.rig_growing import with_channels
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.solve.stick import stick_model
from bovrin.formats.gltf.out import shot_glb
from bovrin.formats.project.store import load, save
from bovrin.formats.project.unsaved import head_of, unsaved_bytes, unsaved_shot
from bovrin.shot import Acting, Curve, CurveSet, Figure, Joint, Model, Rig, Shot, Take
from bovrin.shot.curve import NO_KEYS, recorded_columns

EDITS, SCRUBS = 7, 25


def _moving(rig: Rig, frames: int, seed: int) -> CurveSet:
    """A key on every frame of all that turns or moves, slow waves about the defaults."""
    rng = np.random.default_rng(seed)
    shared = recorded_columns(101.0 + np.arange(frames))
    channels = [channel for control in rig.controls for channel in control.channels]
    curves = []
    for channel, rest in zip(channels, rig.defaults, strict=True):
        if channel.technical.startswith(("translate", "rotate")):
            wave = np.sin(np.arange(frames) * rng.uniform(0.02, 0.2) + rng.uniform(0, 6))
            curves.append(Curve.from_columns({**shared, "values": rest + 0.05 * wave}))
        else:
            curves.append(NO_KEYS)
    return CurveSet(tuple(curves))


def _shot(figures: list[Figure], frames: int) -> Shot:
    shot = Shot("long", first=101, last=100 + frames)
    for n, figure in enumerate(figures):
        shot = shot.with_figure(figure, _moving(figure.rig, frames, n))
    return shot


def crowd(count: int = 20, frames: int = 10_000) -> Shot:
    """Porters side by side, recorded."""
    porter = script.demo().figure("porter")
    return _shot([replace(porter, name=f"porter {n + 1}") for n in range(count)], frames)


def wide(joints: int = 300, frames: int = 3000) -> Shot:
    """A skeleton of chains, every joint recorded."""
    rows = [Joint("whole", -1, (0.0, 0.0, 0.0)), Joint("hips", 0, (0.0, 1.0, 0.0))]
    rows += [Joint(f"j{n}", 1 if n % 12 == 0 else n + 1, (0.02, 0.05, 0.01 * (n % 5))) for n in range(joints - 2)]
    made = tuple(rows)
    plain = make_rig(made, guess_build(made), {}, reach=False)
    rig = with_channels(plain, {1}, set(range(1, joints)), {})
    return _shot([Figure("long", rig, stick_model(rig), "long.glb.changed", (0.78, 0.62, 0.44))], frames)


def many_takes(count: int = 100) -> Shot:
    """The demo with so many takes of 200 frames."""
    shot = script.demo()
    figures = [shot.figure(f.name) for f in shot.cast]
    takes = [Take(f"take {n}", {f.name: Acting(_moving(f.rig, 200, n)) for f in figures}) for n in range(count)]
    return replace(shot, takes=tuple(takes))


def heavy(triangles: int = 500_000) -> Shot:
    """A porter in a coat of very many triangles."""
    shot = script.demo()
    porter = shot.figure("porter")
    piece = max(porter.model.pieces, key=lambda p: len(p.triangles))
    times = triangles // len(piece.triangles) + 1
    pieces = tuple(replace(piece, name=f"coat {n}") for n in range(times))
    model: Model = replace(porter.model, pieces=pieces)
    return Shot("heavy", first=101, last=160).with_figure(
        replace(porter, model=model, source="heavy.glb"), shot.curves("porter")
    )


SHOTS: dict[str, tuple[str, Callable[[], Shot]]] = {
    "crowd": ("20 figures x 10,000 frames", crowd),
    "wide": ("300 joints x 3,000 frames", wide),
    "takes": ("100 takes", many_takes),
    "heavy": ("500,000 triangles", heavy),
}
AIMS = {
    "open": 60.0,
    "scrub": 0.15,
    "edit": 0.25,
    "save": 60.0,
    "keep": 5.0,
    "take up": 5.0,
    "hand on": 60.0,
    "peak GB": 1.5,
}


def _taken(run: Callable[[], object]) -> float:
    began = time.perf_counter()
    run()
    return time.perf_counter() - began


def _desk(shot: Shot) -> dict[str, float]:
    """A step along the strip and an edit in the real window, until what is seen is drawn; the median of some."""
    keep = dressed_application()
    window = Window(Session(shot))
    window.resize(1280, 800)
    window.show()
    _let_go_by(1.5)
    session, name = window.session, shot.cast[0].name
    channel = shot.figure(name).rig.channel_names[5]

    def step(frame: float) -> None:
        session.go_to(frame)
        QApplication.processEvents()

    def edit(n: int) -> None:
        session.do("Raise", lambda now: script.set_values(now, name, session.frame, {channel: 0.01 * n}))
        QApplication.processEvents()

    scrubs = [_taken(lambda n=n: step(110.0 + n)) for n in range(SCRUBS)]
    edits = []
    for n in range(EDITS):
        step(112.0 + n)
        _let_go_by(0.4)
        edits.append(_taken(lambda n=n: edit(n)))
    session.document.undo_stack.setClean()  # nobody is here to be asked
    window.close()
    del keep
    return {"scrub": float(np.median(scrubs)), "edit": float(np.median(edits))}


def _let_go_by(seconds: float) -> None:
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        QApplication.processEvents()
        time.sleep(0.01)


def measured(shot: Shot, folder: Path) -> dict[str, float]:
    """Seconds of each thing that is done with a shot."""
    path = folder / "long.bovrin.json"
    found = {"save": _taken(lambda: save(shot, path))}
    kept: list[bytes] = []
    found["keep"] = _taken(lambda: kept.append(unsaved_bytes(shot, {"pid": 1, "began": "0"}, {})))
    if shot.cast[0].source.startswith("cast:"):
        found["take up"] = _taken(lambda: unsaved_shot(kept[0], head_of(kept[0]), path, folder))
    kept.clear()
    found |= _desk(shot)
    found["hand on"] = _taken(lambda: shot_glb(shot))
    for file in folder.iterdir():
        os.utime(file, (1e9, 1e9))  # so that what saving read again is read again
    found["open"] = _taken(lambda: load(path))
    return found


def rows() -> list[Row]:
    """Each shot in a process of its own, so that its memory is its own."""
    found = []
    for key, (words, _) in SHOTS.items():
        run = subprocess.run(
            [sys.executable, "-m", "benchmarks.long_work", key], capture_output=True, text=True, check=True
        )
        for line in run.stdout.splitlines():
            what, _, number = line.rpartition(" ")
            seconds, aim = float(number), AIMS[what]
            found.append(
                Row(f"{words}: {what}, over {aim:g}", round(seconds / aim, 3), 1.0, seconds * 1000, aim * 1000)
            )
    return found


def main() -> None:
    """One of the shots, its numbers line by line."""
    _, make = SHOTS[sys.argv[1]]
    with tempfile.TemporaryDirectory() as folder:
        told = measured(make(), Path(folder))
    told["peak GB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    for what, number in told.items():
        print(what, round(number, 4), flush=True)


if __name__ == "__main__":
    main()
