"""One key for whatever is kept of what a figure does: it notices all that moves the figure, and nothing else."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from bovrin import script
from bovrin.figure.staging import hangs_on, staged
from bovrin.measure.arcs import Walked
from bovrin.measure.proof.proof import Reader
from bovrin.shot import LeftNote, Shot

FRAMES = np.arange(101.0, 180.0, 2.0)
FIGURE = "porter"


@pytest.fixture(scope="module")
def walking() -> Shot:
    """A figure that walks by clips."""
    return script.demo("across")


def laid_later(shot: Shot) -> Shot:
    """The clips of the lowest lane are laid 7 frames later."""
    lanes = shot.lanes(FIGURE)
    laid = lanes[0].laid
    moved = replace(lanes[0], laid=tuple(replace(one, at=one.at + 7.0) for one in laid))
    return shot.with_lanes(FIGURE, (moved, *lanes[1:]))


MOVES: dict[str, Callable[[Shot], Shot]] = {
    "a key": lambda shot: script.set_values(shot, FIGURE, 120.0, {"hips/up": 0.2}),
    "a clip laid elsewhere": laid_later,
    "the clip itself": lambda shot: replace(
        shot, clips=tuple(replace(clip, curves=_lifted(clip.curves)) for clip in shot.clips)
    ),
    "keys instead": lambda shot: replace(
        shot, take=shot.take.acted(FIGURE, instead=frozenset(shot.figure(FIGURE).rig.channel_names))
    ),
}
STAYS: dict[str, Callable[[Shot], Shot]] = {
    "the title": lambda shot: replace(shot, title="Other"),
    "a left note": lambda shot: replace(shot, take=replace(shot.take, left=(LeftNote("kink", FIGURE, "", 1.0, 2.0),))),
    "another figure": lambda shot: script.set_values(shot, "goat", 120.0, {"hips/up": 0.2}),
    "a marker": lambda shot: replace(shot, markers=()),
}


def _lifted(curves):  # type: ignore[no-untyped-def]
    if hasattr(curves, "items"):
        return {name: curve.changed(values=curve.values * 0.5) for name, curve in curves.items()}
    return curves.mapped(lambda curve: curve.changed(values=curve.values * 0.5))


@pytest.mark.parametrize("name", MOVES)
def test_what_moves_the_figure_is_noticed(name: str, walking: Shot) -> None:
    """Arcs and proof that were read before the change say afterwards what they say when read afresh."""
    walked, reader = Walked(), Reader()
    before = walked.over(walking, FIGURE, FRAMES).world.copy()
    reader.notes(walking, FIGURE)
    made = MOVES[name](walking)
    fresh = staged(made, FIGURE, FRAMES).world
    assert np.abs(fresh - before).max() > 1e-3, "it does not move the figure"
    assert hangs_on(made, FIGURE) != hangs_on(walking, FIGURE)
    assert np.abs(walked.over(made, FIGURE, FRAMES).world - fresh).max() < 1e-12
    assert reader.notes(made, FIGURE) == Reader().notes(made, FIGURE)


@pytest.mark.parametrize("name", STAYS)
def test_what_does_not_move_it_is_not(name: str, walking: Shot) -> None:
    made = STAYS[name](walking)
    assert hangs_on(made, FIGURE) == hangs_on(walking, FIGURE)
