"""Balance against sums of its own: a sampled volume, hulls by another library, distances by brute force."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import ConvexHull

from bovrin import script as bv
from bovrin.figure.ground.skin import skin_at_rest, skinned
from bovrin.figure.staging import staged
from bovrin.measure.balance import outline, outside
from bovrin.shot import Shot


def sampled_centre(shot: Shot, figure: str, frame: float, count: int) -> tuple[np.ndarray, float]:
    """The middle of what a figure's pieces enclose, by points spread evenly: inside where faces wind about them. And how tall
    the figure is at rest, metres."""
    who, now = shot.figure(figure), staged(shot, figure, frame)
    skin = skinned(who, now.world[0], now.amounts[0])
    low, high = skin.min(0), skin.max(0)
    steps = np.array(
        [0.8191725, 0.6710436, 0.5497005]
    )  # spread evenly: M. Roberts' additive recurrence in three dimensions
    points = low + (high - low) * ((0.5 + np.arange(count)[:, None] * steps) % 1.0)
    inside, start = np.zeros(count, bool), 0
    for piece in who.model.pieces:
        own = skin[start : start + len(piece.positions)]
        start += len(piece.positions)
        near = np.flatnonzero(((points >= own.min(0)) & (points <= own.max(0))).all(1) & ~inside)
        for rows in np.array_split(near, len(near) // 300 + 1):
            inside[rows] |= np.abs(winding(own[piece.triangles.astype(int)], points[rows])) > 0.5
    return points[inside].mean(0), float(np.ptp(skin_at_rest(who)[:, 1]))


def winding(triangles: np.ndarray, points: np.ndarray) -> np.ndarray:
    """How often faces (T, 3, 3) wind about points (P, 3): A. van Oosterom, J. Strackee, "The solid angle of a plane triangle",
    1983."""
    a, b, c = (triangles[None, :, n] - points[:, None] for n in range(3))
    x, y, z = (np.linalg.norm(v, axis=-1) for v in (a, b, c))
    over = (a * np.cross(b, c)).sum(-1)
    under = x * y * z + (a * b).sum(-1) * z + (b * c).sum(-1) * x + (c * a).sum(-1) * y
    return np.arctan2(over, under).sum(1) / (2 * np.pi)


@pytest.mark.parametrize(
    ("demo", "figure", "frame"), [("heave", "porter", 119), ("goat", "goat", 133), ("heave", "buoy", 101)]
)
def test_the_centre_of_mass_is_that_of_the_volume(demo: str, figure: str, frame: float) -> None:
    shot = bv.demo(demo)
    wanted, tall = sampled_centre(shot, figure, frame, 3_000)
    found = bv.balance(shot, figure, [frame]).centre[0]
    assert np.linalg.norm(found - wanted) < 0.01 * tall


@given(
    st.lists(st.tuples(st.floats(-2, 2), st.floats(-2, 2)), min_size=4, max_size=30),
    st.tuples(st.floats(-3, 3), st.floats(-3, 3)),
)
def test_outlines_and_distances(rows: list[tuple[float, float]], spot: tuple[float, float]) -> None:
    flat = np.round(np.array(rows), 3)
    if np.linalg.matrix_rank(flat - flat[0], tol=1e-2) < 2:
        return
    points = np.insert(flat, 1, 0.0, axis=1)
    found = outline(points)[:, [0, 2]]
    hull = ConvexHull(flat)
    assert {tuple(p) for p in found} >= {tuple(p) for p in flat[hull.vertices]} or len(found) >= 3
    planes = hull.equations @ np.append(spot, 1.0)
    far = outside(found, np.array(spot))
    assert (far <= 1e-9) == bool((planes <= 1e-9).all())
    corners = np.concatenate([found, found[:1]])
    steps = np.linspace(0, 1, 200)[:, None]
    edge = np.concatenate([a + steps * (b - a) for a, b in pairwise(corners)])
    assert abs(abs(far) - np.linalg.norm(edge - spot, axis=1).min()) < 0.03


def test_it_stands_over_its_feet_and_leans_out() -> None:
    shot = bv.demo()
    found = bv.balance(shot, "porter", [101, 119])
    assert found.inside.all() and (found.out == 0).all() and all(len(own) > 3 for own in found.support)
    assert np.abs(found.ground[:, [0, 2]] - found.centre[:, [0, 2]]).max() == 0.0
    leaning = bv.set_values(shot, "porter", 101, {"hips/forward": 0.3, "hips/up": -0.15})
    out = bv.balance(leaning, "porter", [101])
    assert not out.inside[0] and 0.02 < out.out[0] < 0.4


def test_what_is_in_the_air_is_borne_by_nothing() -> None:
    shot = bv.demo()
    who = shot.figure("crate").rig.channel_names
    up = next(name for name in who if name.endswith("/up"))
    lifted = bv.set_values(shot, "crate", 101, {up: 2.0})
    found = bv.balance(lifted, "crate", [101])
    assert len(found.support[0]) == 0 and not found.inside[0] and np.isinf(found.out[0])


def test_what_hangs_on_it_weighs_with_it() -> None:
    shot = bv.demo()
    whole = shot.figure("crate").rig.controls[0].name
    hung = bv.attach(shot, "crate", whole, ("porter", "chest"), 133)
    alone, both = bv.balance(shot, "porter", [143]), bv.balance(hung, "porter", [143])
    crate = bv.balance(hung, "crate", [143]).centre[0]
    way = crate - alone.centre[0]
    share = (both.centre[0] - alone.centre[0]) @ way / (way @ way)
    assert 0.1 < share < 0.6 and np.linalg.norm(both.centre[0] - alone.centre[0] - share * way) < 1e-9
    assert np.abs(bv.balance(hung, "porter", [120]).centre - bv.balance(shot, "porter", [120]).centre).max() < 1e-9
