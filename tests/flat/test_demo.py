"""The heron takes the fish: the shipped demo of flat figures is sound, and its acting does what its poses say."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from bovrin import script as bv
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Shot


@cache
def demo(take: str) -> Shot:
    return bv.use_take(bv.demo("heron"), take)


def skin(shot: Shot, name: str, frame: float) -> np.ndarray:
    return skinned(shot.figure(name), staged(shot, name, np.array([frame])).world[0])


@pytest.mark.parametrize("name", ["heron", "fish"])
def test_the_polished_take_has_nothing_to_mend(name: str) -> None:
    assert bv.proof(demo("polished"), name) == []


@pytest.mark.parametrize("take", ["blocked", "polished"])
def test_the_beak_reaches_the_fish_and_carries_it(take: str) -> None:
    shot = demo(take)
    piece = [p for p in shot.figure("heron").model.pieces if p.cut is not None and p.cut.control == "beak"]
    start = sum(
        len(p.positions) for p in shot.figure("heron").model.pieces[: shot.figure("heron").model.pieces.index(piece[0])]
    )
    beak = skin(shot, "heron", 158)[start : start + len(piece[0].positions)]
    fish = skin(shot, "fish", 158)
    assert np.linalg.norm(beak[:, None] - fish[None], axis=-1).min() < 0.05
    lying, lifted = (skin(shot, "fish", f)[:, 1].mean() for f in (150, 175))
    assert lying < 0.06 and lifted > 0.7
    before, after = (skin(shot, "fish", f) for f in (157.999, 158.001))
    assert np.abs(before - after).max() < 2e-3, "no pop where it is taken"


def test_feet_stand_while_they_are_down() -> None:
    shot = demo("polished")
    frames = np.arange(143, 190, 0.5)
    for foot in ("near foot", "far foot"):
        places = staged(shot, "heron", frames).world[:, shot.figure("heron").rig.joint(foot), :3, 3]
        assert np.ptp(places, axis=0).max() < 2e-3


def test_drawings_change_where_they_should() -> None:
    shot = demo("blocked")
    assert [bv.drawing(shot, "heron", "beak", f) for f in (150, 155, 157, 160, 185)] == [
        "shut",
        "half",
        "wide",
        "half",
        "half",
    ]
    assert [bv.drawing(shot, "heron", "near wing", f) for f in (150, 158, 166, 175)] == [
        "folded",
        "spread",
        "half",
        "folded",
    ]
    assert "shut" in {bv.drawing(shot, "heron", "eye", f) for f in range(110, 120)}


@pytest.mark.parametrize("gait", ["walk", "stroll", "run", "jump"])
def test_a_flat_bird_walks_on_the_wheel_with_its_feet_planted(gait: str) -> None:
    shot = bv.new_cycle(bv.add_figure(Shot("Walk"), "cast:heron"), "heron", gait, 28, 0.4)
    assert bv.proof(shot, "heron") == []
    world = staged(shot, "heron", np.arange(101, 129, 0.5)).world
    assert np.abs(world[..., 2, 3]).max() < 1e-9, "it stays in its plane"
