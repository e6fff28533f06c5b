"""Contacts of recordings whose floor is not at zero, with noise and frames that dip, against the footfalls that are known."""

from pathlib import Path

import numpy as np
import pytest
from tests.cycles import cycle_of, lively
from tests.recordings import Rows, recording
from tests.strategies import thinned

from bovrin import script as bv
from bovrin.measure.gait.contacts import cycle_contacts

FEET = ("left leg", "right leg")


def known(foot: str, frames: np.ndarray) -> np.ndarray:
    """The frames on which a foot is down in the walk that is recorded: an oracle from the cycle itself."""
    walk = lively(cycle_of("porter", "walk", 32, 0.75), "porter")
    cycle = walk.cycle("porter")
    assert cycle is not None
    spans = cycle_contacts(walk, "porter", cycle)[foot]
    return np.any([(frames - a) % cycle.length <= b - a + 1e-6 for a, b in spans], axis=0)


@pytest.mark.parametrize("up", thinned([-0.3, -0.06, -0.03, 0.0, 0.06, 0.11], [-0.06, 0.0, 0.11]))
@pytest.mark.parametrize(("noise", "lasting", "dips"), [(0.0, 0.0, True), (0.15, 0.5, False), (0.15, 0.5, True)])
def test_feet_are_down_when_they_are_on_whatever_floor(
    tmp_path: Path, up: float, noise: float, lasting: float, dips: bool
) -> None:
    def floor(rows: Rows, columns: dict[str, int]) -> None:
        rows[:, columns["hips/Yposition"]] += up
        if dips:
            rows[60:62, columns["hips/Yposition"]] -= 0.09

    shot = recording(tmp_path, 8, noise, lasting, (floor,))
    frames = np.arange(shot.first, shot.last + 1)
    found = bv.contacts(shot, shot.cast[0].name)
    for foot in FEET:
        down = np.any([(frames >= a) & (frames <= b) for a, b in found[foot]], axis=0)
        assert (down == known(foot, frames)).mean() > 0.95
