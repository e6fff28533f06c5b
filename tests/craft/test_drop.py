"""Things that fall: on true parabolas, lower by as much as they are told, never under the ground, and at rest in the end."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bovrin import script as bv
from bovrin.errors import BadMotion
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Shot

RATE, GRAVITY = 24.0, 9.81


def standing() -> Shot:
    """The demo with its crate and buoy at rest, the buoy aside."""
    shot = bv.demo()
    for name in ("crate", "buoy"):
        shot = shot.with_curves(name, shot.figure(name).no_motion())
    return bv.set_values(shot, "buoy", 101, {"whole buoy/across": -2.0, "whole buoy/turn": 20.0})


def lowest(shot: Shot, figure: str, frames: np.ndarray) -> np.ndarray:
    """How high the lowest point of a figure's skin is (F,), metres."""
    found, who = staged(shot, figure, frames), shot.figure(figure)
    return np.array([skinned(who, w, a)[:, 1].min() for w, a in zip(found.world, found.amounts, strict=True)])


def place(shot: Shot, figure: str, frames: np.ndarray) -> np.ndarray:
    return staged(shot, figure, frames).world[:, 0, :3, 3].copy()


@settings(max_examples=5, deadline=None)
@given(st.floats(0.2, 2.0), st.floats(0.1, 0.85), st.sampled_from(["buoy", "crate"]))
def test_it_bounces_on_parabolas(height: float, bounciness: float, figure: str) -> None:
    shot = standing()
    made = bv.drop(shot, figure, 130, height, bounciness)
    start = 130 - round(float(np.sqrt(2 * height / GRAVITY)) * RATE)
    assert lowest(made, figure, np.array([start, 130.0])) == pytest.approx([height, 0.0], abs=1e-4)
    fine = np.arange(130.0, 300.0, 0.5)
    low = lowest(made, figure, fine)
    assert low.min() > -1e-4 and low[-1] == pytest.approx(0.0, abs=1e-4)
    speeds = np.diff(low) / 0.5
    bends = np.diff(speeds) / 0.5
    flying = (low[1:-1] > 1e-4) & (low[:-2] > 1e-4) & (low[2:] > 1e-4)
    assert np.abs(bends[flying] + GRAVITY / RATE**2).max(initial=0.0) < 4e-4
    first = low[: (60 * 4)].max()
    assert first == pytest.approx(height * bounciness**2, rel=0.5, abs=0.03)  # contacts lie on whole frames
    assert np.abs(np.diff(place(made, figure, fine)[:, [0, 2]], axis=0)).max() < 1e-9


def test_what_lies_outside_and_the_others_stay() -> None:
    shot = standing()
    made = bv.drop(shot, "crate", 130, 0.5, 0.3, speed=0.5, heading=90, friction=0.5)
    others = [f.name for f in shot.cast if f.name != "crate"]
    assert all(made.take.of(name) is shot.take.of(name) for name in others)
    way = place(made, "crate", np.arange(122.0, 200.0, 0.5))
    assert (np.diff(way[:, 0]) > -1e-6).all() and np.abs(np.diff(way[:, 2])).max() < 1e-6
    assert np.abs(np.diff(way[-10:], axis=0)).max() < 1e-6, "it comes to rest"


@pytest.mark.parametrize("figure", ["buoy", "crate"])
def test_it_turns_over_and_rests_on_a_side(figure: str) -> None:
    made = bv.drop(standing(), figure, 130, 1.0, 0.5, speed=1.0, heading=30, turn=1.0)
    fine = np.arange(120.0, 180.0, 0.25)
    assert lowest(made, figure, fine).min() > -1e-3
    found = staged(made, figure, np.array([130.0, 240.0])).world[:, 0, :3, :3]
    found = found / np.linalg.norm(found, axis=1, keepdims=True)
    axis = np.array([np.cos(np.radians(30)), 0.0, -np.sin(np.radians(30))])
    turned = found[1] @ found[0].T
    assert np.abs(turned @ axis - axis).max() < 1e-3
    angle = np.arccos(np.clip((np.trace(turned) - 1) / 2, -1, 1))
    assert min(abs(angle - quarter) for quarter in (0, np.pi / 2, np.pi)) < 1e-2


def test_squashed_it_stays_on_the_ground() -> None:
    made = bv.drop(standing(), "crate", 130, 1.0, 0.6, squash=0.4)
    contacts = [f for f in np.arange(130.0, 170.0) if abs(float(lowest(made, "crate", np.array([f]))[0])) < 1e-6]
    assert 130.0 in contacts and len(contacts) > 3
    tall = [np.ptp(skinned(made.figure("crate"), *_posed(made, f))[:, 1]) for f in (118.0, 130.0)]
    assert tall[1] == pytest.approx(0.6 * tall[0], rel=0.01)


def _posed(shot: Shot, frame: float) -> tuple[np.ndarray, np.ndarray]:
    found = staged(shot, "crate", frame)
    return found.world[0], found.amounts[0]


@pytest.mark.parametrize(
    ("told", "words"),
    [
        ({"height": 0.0}, "cannot fall"),
        ({"bounciness": 1.0}, "never rests"),
        ({"friction": 2.0}, "cannot be that much"),
        ({"turn": 1.0, "squash": 0.2}, "squash turns with it"),
        ({"height": 900.0}, "before the shot does"),
    ],
)
def test_what_cannot_be_is_said(told: dict[str, float], words: str) -> None:
    with pytest.raises(BadMotion, match=words):
        bv.drop(bv.demo(), "crate", 130, **told)
    hung = bv.attach(bv.demo(), "crate", "whole crate", bv.GROUND, 110)
    with pytest.raises(BadMotion, match="hangs on something"):
        bv.drop(hung, "crate", 130)
