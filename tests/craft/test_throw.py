"""Throws against the analytic parabola."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from bovrin import script as bv
from bovrin.errors import BadMotion
from bovrin.figure.staging import staged
from bovrin.measure.balance import centre_of
from bovrin.shot import Shot


def leaping() -> Shot:
    return bv.splined(bv.splined(bv.splined(bv.demo(), "porter"), "crate"), "buoy")


@settings(max_examples=12, deadline=None)
@given(st.floats(102, 130), st.floats(3, 25), st.floats(1.0, 20.0), st.sampled_from(["porter", "crate", "buoy"]))
@example(102.99999999999997, 3.0, 1.0, "porter")
def test_the_weight_flies_on_a_parabola(start: float, for_: float, gravity: float, who: str) -> None:
    shot = leaping()
    end = start + for_
    made = bv.throw(shot, who, start, end, gravity)
    frames = np.linspace(start, end, 60)
    was, now = (centre_of(one, who, frames) for one in (shot, made))
    time, whole = (frames - start) / shot.frame_rate, for_ / shot.frame_rate
    wanted = was[0] + (was[-1] - was[0]) * (time / whole)[:, None]
    wanted[:, 1] += gravity / 2 * time * (whole - time)
    assert np.abs(now - wanted).max() < 2e-3, "between keys"
    at = np.arange(np.ceil(start), np.floor(end) + 1)
    exact = centre_of(made, who, at)
    seconds = (at - start) / shot.frame_rate
    wanted = was[0] + (was[-1] - was[0]) * (seconds / whole)[:, None]
    wanted[:, 1] += gravity / 2 * seconds * (whole - seconds)
    assert np.abs(exact - wanted).max() < 1e-4
    outside = np.concatenate([np.arange(101, start, 0.5), np.arange(end + 1e-6, 160, 0.5)])
    assert np.abs(staged(made, who, outside).places - staged(shot, who, outside).places).max() < 1e-6
    inside = [staged(one, who, frames).places for one in (shot, made)]
    about = [places - places[:, :1] for places in inside]
    assert np.abs(about[0] - about[1]).max() < 1e-9, "the pose's own motion stays"


def test_as_high_as_asked() -> None:
    shot = leaping()
    for height in (0.05, 0.5, 2.0):
        made = bv.throw(shot, "crate", 110, 130, height=height)
        flight = centre_of(made, "crate", np.linspace(110, 130, 400))[:, 1]
        assert flight.max() == pytest.approx(max(flight[0], flight[-1]) + height, abs=1e-3)


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ((110, 111), "too short"),
        ((120, 110), "ends"),
        ((110, 130, 0.0), "comes down"),
        ((110, 130, 9.81, -1.0), "high"),
    ],
)
def test_what_cannot_fly_says_so(wrong: tuple[float, ...], words: str) -> None:
    with pytest.raises(BadMotion, match=words):
        bv.throw(leaping(), "crate", *wrong)
    hung = bv.attach(leaping(), "crate", "whole crate", ("porter", "chest"), 110)
    with pytest.raises(BadMotion, match="hangs"):
        bv.throw(hung, "crate", 115, 130)
