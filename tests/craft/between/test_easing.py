import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin.craft.between.easing import ease_span
from bovrin.craft.curves.splining import splined, stepped
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot

strengths = st.one_of(st.none(), st.floats(0, 1))


def sampled(shot: Shot, frames):  # type: ignore[no-untyped-def]
    return channel_values(shot.curves("porter"), shot.figure("porter").rig, frames)


@given(strengths, strengths)
def test_an_eased_span_keeps_its_poses_and_leaves_the_others_alone(
    demo: Shot, out: float | None, into: float | None
) -> None:
    eased = splined(demo, "porter")
    new = ease_span(eased, "porter", 119, 127, out, into)
    outside = np.concatenate([np.arange(101, 119.1), np.arange(127, 160)])
    assert np.allclose(sampled(new, outside), sampled(eased, outside), atol=1e-9)
    inside = sampled(new, np.linspace(119, 127, 33))
    low, high = np.minimum(inside[0], inside[-1]), np.maximum(inside[0], inside[-1])
    if out is not None and into is not None:
        assert (inside >= low - 1e-9).all() and (inside <= high + 1e-9).all()


def test_strength_is_felt_and_none_is_even(demo: Shot) -> None:
    up = demo.figure("porter").rig.channel("hips/up")
    frames = np.linspace(119, 127, 9)

    def shares(out: float, into: float):  # type: ignore[no-untyped-def]
        values = sampled(ease_span(demo, "porter", 119, 127, out, into), frames)[:, up]
        return (values - values[0]) / (values[-1] - values[0])

    assert np.allclose(shares(0, 0), np.linspace(0, 1, 9), atol=1e-9)
    firsts = [shares(s, 0)[2] for s in (0, 0.3, 0.6, 1.0)]
    assert (np.diff(firsts) < -0.02).all()
    assert np.allclose(shares(0.7, 0.7) + shares(0.7, 0.7)[::-1], 1, atol=1e-9)


def test_an_eased_span_can_be_held_again(demo: Shot) -> None:
    held = stepped(ease_span(demo, "porter", 119, 127, 1, 1), "porter", 119, 127)
    assert np.allclose(sampled(held, np.arange(101, 160)), sampled(demo, np.arange(101, 160)))
    with pytest.raises(BadMotion, match="0 to 100 %"):
        ease_span(demo, "porter", 119, 127, 1.5)
    with pytest.raises(BadMotion, match="between two poses"):
        ease_span(demo, "porter", 127, 119)
