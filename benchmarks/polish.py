"""Polish in hands: arcs over a drag, shapers over many keys, a point taken onto an arc."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.craft.arcs.cleaner_arcs import on_an_arc
from bovrin.craft.arcs.spots import keep_spot
from bovrin.craft.curves.shapers import shaped
from bovrin.desk.application import dressed_application
from bovrin.desk.stage.drags.posing import body_drag, take_hold
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.arcs import Arcs
from bovrin.desk.window import Window
from bovrin.figure.solve.joints import solve
from bovrin.figure.staging import staged
from bovrin.measure.proof import Reader
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Curve, Shot, Spot
from bovrin.shot.curve import recorded_columns

FRAMES, KEYS, PIXELS = 240, 5000, 1100
JOINTS = ("left hand", "right hand", "head", "hips", "left foot", "right foot", "chest", "neck", "left forearm",
          "right forearm", "left toes", "right toes")  # fmt: skip
NO_KEYS = Qt.KeyboardModifier.NoModifier


def _shot() -> Shot:
    shot = replace(script.splined(script.demo(), "porter"), last=100.0 + FRAMES)
    for joint in JOINTS:
        shot = keep_spot(shot, Spot("porter", joint))
    return shot


def drag() -> Row:
    """A step of a pulled hand in the window, with twelve arcs over the shot and without."""
    keep = dressed_application()
    window = Window(Session(_shot()))
    window.resize(1280, 800)
    window.show()
    session, stage = window.session, window.stage.main
    session.choose("porter", [session.shot.figure("porter").rig.control("left hand")])
    session.go_to(127)
    for _ in range(30):
        QApplication.processEvents()
    grip = take_hold(session, QPointF(0, 0))
    joint = grip.rig.joint("left hand")
    pull = body_drag(grip, stage.scene, joint)
    number = iter(range(1_000_000))

    def step(arcs: bool) -> None:
        session.looking = replace(session.looking, arcs=Arcs(on=arcs, span="shot"))
        shot, _words = pull.step(QPointF(-4.0 - next(number) % 9, -3.0), NO_KEYS)
        session.preview(shot)
        QApplication.processEvents()

    row = compare(
        "a drag with 12 arcs over 240 frames, over one without", 1.4, lambda: step(True), lambda: step(False), 20
    )
    session.preview(None)
    window.close()
    del keep
    return row


def shaper() -> Row:
    """A step of a slider over many keys, over evaluating their curves at the pixels that are shown."""
    demo = script.demo()
    rig = demo.figure("porter").rig
    channels = [i for i, channel in enumerate(rig.channels) if channel.technical.startswith("rotate")][:25]
    frames = 101.0 + np.arange(KEYS // len(channels))
    rng = np.random.default_rng(5)
    made = {
        i: Curve.from_columns({**recorded_columns(frames), "values": np.cumsum(rng.normal(0, 0.02, len(frames)))})
        for i in channels
    }
    shot = demo.with_curves("porter", demo.curves("porter").replaced(made))
    chosen = dict.fromkeys(channels, frames)
    seen = np.linspace(frames[0], frames[-1], PIXELS)
    number = iter(range(1_000_000))

    def ours() -> None:
        shaped(shot, "porter", chosen, "soften", -0.1 - (next(number) % 50) / 100)

    def base() -> None:
        other = made[channels[0]].changed(values=made[channels[0]].values + next(number) * 1e-9)
        channel_values(shot.curves("porter").replaced({channels[0]: other}), rig, seen)

    return compare(f"a shaper over {KEYS} keys, over their curves at {PIXELS} pixels", 1.6, ours, base, 15)


def arc() -> Row:
    """Twenty-four frames taken onto an arc, over solving as many at once."""
    shot = script.lengthen(script.splined(script.demo(), "porter"), "porter", 119, 16)
    rig, frames = shot.figure("porter").rig, np.arange(119.0, 143.0)
    values = staged(shot, "porter", frames).values
    spot, bow = Spot("porter", "hips"), [0.0, 0.0, 0.02]
    return compare(
        "24 frames onto an arc, over one solve of 24",
        30.0,
        lambda: on_an_arc(shot, spot, 119.0, 143.0, bow),
        lambda: solve(rig, values),
        8,
    )


def proofs() -> list[Row]:
    """The porter's proof over 240 frames, of curves never seen before and after one edit, over one solve of as many."""
    shot = _shot()
    rig, frames = shot.figure("porter").rig, np.arange(101.0, 101.0 + FRAMES)
    values = staged(shot, "porter", frames).values
    edits = [script.set_values(shot, "porter", 119, {"head/turn": float(n)}) for n in range(40)]
    number, reader = iter(range(1_000_000)), Reader()
    reader.notes(shot, "porter")

    def first() -> None:
        fresh = shot.with_curves("porter", shot.curves("porter").mapped(lambda c: c.changed(values=c.values.copy())))
        Reader().notes(fresh, "porter")

    def again() -> None:
        reader.notes(edits[next(number) % len(edits)], "porter")

    def base() -> None:
        solve(rig, values)

    return [
        compare(f"proof of {FRAMES} frames, over one solve of them", 19.0, first, base, 5),
        compare(f"proof of {FRAMES} frames after an edit, over one solve of them", 4.0, again, base, 10),
    ]


def rows() -> list[Row]:
    """All of them."""
    return [drag(), shaper(), arc(), *proofs()]
