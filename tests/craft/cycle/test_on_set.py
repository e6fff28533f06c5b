"""Feet on slopes and steps: what bears them is found on the meshes, and planted they stand on it, the body along."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.cycles import alone, cycle_of, places
from tools.cast.buoy import whole_rig

from bovrin import script as bv
from bovrin.cast import FOLDER
from bovrin.errors import BovrinError
from bovrin.figure.ground.under import Ground, under_of
from bovrin.formats.figures.files import load_figure
from bovrin.measure.gait.footing import footing
from bovrin.shot import Figure, Model, Piece, Shot

RISE, DEPTH = 0.18, 0.24


@cache
def walking() -> Shot:
    """A porter who walks ahead for six rounds, and steps that go up before him, which he does not heed."""
    shot = bv.keep_clip(cycle_of("porter", "walk", 24, 0.5), "porter", "walk", 101, 125, loop=True)
    shot = bv.clips_to_keys(replace(bv.lay_clip(shot, "porter", "walk", 101, repeats=6.0), last=245.0), "porter")
    shot = shot.with_figure(load_figure("cast:steps", "steps", FOLDER))
    return bv.set_values(shot, "steps", 101, {"whole steps/turn": 90.0, "whole steps/forward": 2.0})


@given(st.integers(0, 1000), st.floats(-0.5, 0.5), st.floats(-0.5, 0.5))
def test_heights_are_those_of_the_plane_that_is_there(seed: int, along: float, across: float) -> None:
    """Oracle: a slope cut into triangles anyhow is one plane."""
    rng = np.random.default_rng(seed)
    xs, zs = (np.sort(rng.uniform(-4, 4, 6)) for _ in range(2))
    corner = np.stack(np.meshgrid(xs, zs, indexing="ij"), -1)
    a, b, c, d = corner[:-1, :-1], corner[1:, :-1], corner[1:, 1:], corner[:-1, 1:]
    flat = np.concatenate([np.stack(t, -2).reshape(-1, 3, 2) for t in ((a, b, c), (a, c, d))])
    slope = along * flat[..., 0] + across * flat[..., 1]
    ground = Ground(np.stack([flat[..., 0], slope, flat[..., 1]], -1))
    inside = rng.uniform([xs[0], zs[0]], [xs[-1], zs[-1]], (200, 2))
    inside = inside[((inside > [xs[0] + 0.05, zs[0] + 0.05]) & (inside < [xs[-1] - 0.05, zs[-1] - 0.05])).all(1)]
    wanted = inside @ [along, across]
    found = ground.under(np.stack([inside[:, 0], wanted + 0.1, inside[:, 1]], -1))
    assert np.abs(found - wanted).max(initial=0.0) <= 0.03 * max(abs(along), abs(across)) + 1e-9, "but for the sole"
    assert ground.under(np.array([50.0, 1.0, 0.0])) == 0.0, "beside it all the ground is flat"


def test_what_lies_far_over_a_foot_does_not_bear_it() -> None:
    square = np.array([[[-1, 0, -1], [1, 0, -1], [1, 0, 1]], [[-1, 0, -1], [1, 0, 1], [-1, 0, 1]]], float)
    wall = np.array([[[0, 0, 0], [0, 2, 0], [0, 2, 1]]], float)
    ground = Ground(np.concatenate([square, square + [0, 2.0, 0], wall]))
    assert np.allclose(ground.under(np.array([[0.2, 0.1, 0.2], [0.2, 1.9, 0.2]])), [0.0, 2.0])


def test_steps_are_climbed() -> None:
    shot = bv.stand_on_set(walking())
    planted = bv.plant(shot, "porter")
    assert max(bv.slide_of(planted, "porter").values()) < 5e-4
    frames = np.arange(101.0, 216.0)
    feet = footing(planted, "porter", frames)
    under = under_of(shot, "porter")
    assert under is not None
    stood = set()
    for n, foot in enumerate(feet.feet):
        for start, end in bv.contacts(planted, "porter")[foot.name]:
            rows = (frames >= start) & (frames <= end)
            high = feet.points[n, rows][..., 1] - under(feet.points[n, rows])
            assert np.abs(high.min(1)).max(initial=0.0) < 2e-3, "heel or ball is on a step"
            stood |= set(np.round(feet.points[n, rows][..., 1].min(1) / RISE).astype(int).tolist())
    assert stood == {0, 1, 2, 3}, "he has been on every step"
    assert feet.heights.min() > -2e-3, "no foot goes through a step"
    every = np.arange(101.0, 210.0, 0.25)
    head = places(planted, "porter", every)[:, bv.sample(shot, "porter", [101]).joints.index("head")]
    assert head[-1, 1] - head[0, 1] == pytest.approx(3 * RISE, abs=0.05)
    assert np.abs(np.diff(head[:, 1], 2)).max() < 0.004, "the head rises smoothly"
    for channel in ("left hand/up", "chest/turn", "whole figure/forward", "left foot/turn"):
        index = shot.figure("porter").rig.channel(channel)
        assert planted.curves("porter")[index] is shot.curves("porter")[index], "nothing else is touched"


def ramp(slope: float) -> Figure:
    """A slope of one piece through the origin, rising ahead."""
    corners = np.array([[x, z * slope, z] for x in (-3.0, 3.0) for z in (-6.0, 6.0)], np.float32)
    joints, weights = np.zeros((4, 4), np.uint16), np.tile(np.array([1, 0, 0, 0], np.float32), (4, 1))
    normals = np.tile(np.array([0, 1, 0], np.float32), (4, 1))
    faces = np.array([[0, 1, 2], [1, 3, 2]], np.uint32)
    colour = (0.6, 0.6, 0.6)
    piece = Piece("board", colour, corners, normals, joints, weights, faces)
    return Figure("ramp", whole_rig("ramp", "whole ramp"), Model((piece,)), "ramp.glb", colour)


@settings(max_examples=6)
@given(st.floats(-0.18, 0.18))
def test_a_slope_bears_every_foot(slope: float) -> None:
    board = bv.set_values(walking(), "steps", 101, {"whole steps/forward": 90.0}).with_figure(ramp(slope))
    board = bv.stand_on_set(board)
    for foot, spans in bv.contacts(board, "porter").items():
        board = bv.set_contacts(board, "porter", foot, spans)
    planted = bv.plant(board, "porter")
    frames = np.arange(105.0, 240.0)
    feet, under = footing(planted, "porter", frames), under_of(board, "porter")
    assert under is not None
    assert max(bv.slide_of(planted, "porter").values()) < 1e-3
    assert feet.heights.min() > -3e-3
    for n, foot in enumerate(feet.feet):
        for start, end in bv.contacts(board, "porter")[foot.name][1:-1]:
            flat = np.flatnonzero(np.abs(frames - (start + end) / 2) < 1.0)
            high = feet.points[n, flat][..., 1] - under(feet.points[n, flat])
            assert np.abs(high).max() < 3e-3, "heel and ball lie along it"
    again = bv.plant(planted, "porter")
    assert np.abs(places(again, "porter", frames) - places(planted, "porter", frames)).max() < 1e-9, "twice is once"
    gone = feet.points[:, -1, :, 1].mean() - feet.points[:, 0, :, 1].mean()
    assert gone == pytest.approx(slope * 2.8, abs=0.08 + 0.1 * abs(slope))


def test_flat_ground_stays_flat_and_loops_say_what_they_cannot() -> None:
    shot = walking()
    assert under_of(shot, "porter") is None
    moving = bv.stand_on_set(shot)
    for frame, up in ((101, 0.0), (120, 0.4)):
        moving = bv.set_values(moving, "steps", frame, {"whole steps/up": up})
    assert under_of(moving, "porter") is None, "what moves is no ground"
    loop = cycle_of("porter", "walk", 24, 0.5).with_figure(load_figure("cast:steps", "steps", FOLDER))
    loop = bv.set_values(loop, "steps", 101, {"whole steps/turn": 90.0, "whole steps/forward": 0.3})
    with pytest.raises(BovrinError, match="end on other ground"):
        bv.plant(bv.stand_on_set(loop), "porter")
    assert bv.stand_on_set(alone("porter")).on_set
