"""Walks and clips: lanes evaluated, feet planted, contacts found, the wheel and the shelf painted."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from tests import cycles

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.cast import ACROSS, FOLDER
from bovrin.craft.clips.drive import Drive, driven
from bovrin.craft.clips.keeping import clip_of, with_clip
from bovrin.craft.cycle.plant import plant
from bovrin.desk.application import dressed_application
from bovrin.desk.panels.cycles.cycle_panel import CyclePanel
from bovrin.desk.state.document.session import Session
from bovrin.desk.window import Window
from bovrin.figure.ground.feet import footing_of
from bovrin.figure.solve.joints import solve
from bovrin.figure.staging import staged
from bovrin.formats.figures.files import load_figure
from bovrin.measure.gait.contacts import found_contacts
from bovrin.motion.evaluate import channel_values
from bovrin.picture.item import item_posed
from bovrin.picture.renderer import shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Cycle, Shot

FRAMES = 240
MANY = 10_000
PICTURES = 20.0
"""Pictures a second that the wheel, turned, and the shelf shall show at least."""


def _alone() -> Shot:
    return Shot("bench", last=100.0 + FRAMES).with_figure(load_figure("cast:porter", "porter", FOLDER))


def _walk(spoilt: bool = False) -> Shot:
    shot = script.new_cycle(_alone(), "porter", "walk", 32, 0.8)
    shot = script.set_body_way(shot, "porter", "weight", 3.0)
    if spoilt:
        shot = shot.with_cycle("porter", Cycle(101.0, 133.0))
        rng = np.random.default_rng(1)
        for frame in (106, 111, 119, 124):
            now = script.values(shot, "porter", frame)
            wanted = {c: now[c] + rng.normal(0, 0.01) for c in now if c.endswith("foot/forward")}
            shot = script.set_values(shot, "porter", frame, wanted)
    return replace(shot, last=100.0 + FRAMES)


def lanes() -> Row:
    """Three lanes of clips with a crossfade over 240 frames, against the same channels as plain keys."""
    shot = script.load(ACROSS)
    shot = replace(shot, last=100.0 + FRAMES)
    for lane in (1, 2):
        shot = script.lay_clip(shot, "porter", "stand", 120, lane=lane, how="added", weight=0.3, repeats=2.0)
    keyed = script.clips_to_keys(shot, "porter")
    frames = np.arange(101.0, 101.0 + FRAMES)
    rig, curves = keyed.figure("porter").rig, keyed.curves("porter")
    return compare(
        "three lanes of clips with a fade over 240 frames, solved, over plain keys",
        1.5,
        lambda: staged(shot, "porter", frames).world,
        lambda: solve(rig, channel_values(curves, rig, frames)),
        10,
    )


def planted() -> Row:
    """Both feet of a cycle that goes on over 240 frames planted, against one solve of them."""
    shot = _walk(spoilt=True)
    frames = np.arange(101.0, 101.0 + FRAMES)
    rig, curves = shot.figure("porter").rig, shot.curves("porter")
    return compare(
        "both feet planted over 240 frames, over one solve",
        5.0,
        lambda: plant(shot, "porter"),
        lambda: solve(rig, channel_values(curves, rig, frames)),
        5,
    )


def contacts() -> Row:
    """Contacts found in 10,000 frames, against their solve."""
    shot = _walk()
    frames = np.arange(101.0, 101.0 + MANY)
    rig = shot.figure("porter").rig
    values = staged(shot, "porter", frames).values
    world = solve(rig, values)
    return compare(
        "contacts of 10,000 frames, over their solve",
        0.05,
        lambda: found_contacts(footing_of(rig, frames, world), 24.0),
        lambda: solve(rig, values),
        3,
    )


def wheel() -> Row:
    """The wheel turned frame by frame with stage and shelf repainted, against 20 pictures a second."""
    keep = dressed_application()
    window = Window(Session(_walk()))
    window.resize(1280, 800)
    window.show()
    window.session.choose("porter")
    window.run("pass.cycle")
    panel = window.right.open("cycle")
    assert isinstance(panel, CyclePanel)
    QTest.qWait(1500)
    number = iter(range(1_000_000))

    def turn() -> None:
        window.session.go_to(101.0 + next(number) % 32)
        for widget in (panel.wheel, window.bottom.shelf.lanes, window.bottom.shelf.feet):
            widget.repaint()
        QApplication.processEvents()

    row = compare(
        "the wheel turned and the shelf repainted, over 1/20 s", 0.6, turn, lambda: time.sleep(1.0 / PICTURES), 20
    )
    window.close()
    del keep
    return row


def _moveset(figure: str, rng: np.random.Generator) -> Shot:
    """A walk and something faster, of any length and stride."""
    shot = cycles.alone(figure)
    goat = figure == "goat"
    for slot, gait, slow in (("walk", "walk", True), ("run", "trot" if goat else "run", False)):
        frames = int(rng.integers(24, 37) if slow else rng.integers(14, 22))
        stride = float(rng.uniform(0.6, 1.0) if slow else rng.uniform(1.0, 1.5)) * (0.6 if goat else 1.0)
        source = cycles.cycle_of(figure, gait, frames, stride)
        shot = with_clip(shot, clip_of(source, figure, slot, 101, 101 + frames, loop=True))
    return shot


def driven_anyhow() -> Row:
    """Ten random gaits steered at random for 20 s each, slides and jumps printed; a step against a stage picture."""
    rng = np.random.default_rng(3)
    for number in range(10):
        figure = "porter" if number < 5 else "goat"
        steps = driven(_moveset(figure, rng), figure, cycles.steered(number))
        slid, places = np.array([step.slid for step in steps]), np.array([step.places for step in steps])
        jump = np.linalg.norm(np.diff(places, axis=0), axis=2).max()
        print(
            f"  test drive of the {figure}, 20 s: planted feet slid {slid.max() * 1000:.1f} mm at most in a frame,"
            f" {slid.mean() * 1000:.2f} mm on average; largest joint jump {jump * 100:.1f} cm"
        )
    drive, steering = Drive(_moveset("porter", rng), "porter"), iter(cycles.steered(1) * 10)
    figure_, view = drive.shot.figure("porter"), VIEWS["three-quarter"]
    posed = item_posed(figure_, drive.step(next(steering)).values)
    return compare(
        "a step of the test drive, over one picture of the stage",
        0.15,
        lambda: drive.step(next(steering)),
        lambda: shared_renderer().draw([posed], view, (860, 520)),
        50,
    )


def rows() -> list[Row]:
    """All of them."""
    return [lanes(), planted(), contacts(), wheel(), driven_anyhow()]
