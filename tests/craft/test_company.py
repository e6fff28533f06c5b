"""Figures join and leave a shot in every take, and nothing else changes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import chain_figure

from bovrin import script
from bovrin.craft.company import free_name, joined, left
from bovrin.craft.takes import copied_take
from bovrin.errors import UnknownName
from bovrin.figure.reading.rates import at_rate
from bovrin.shot import Shot

NAMES = st.lists(st.sampled_from(["rod", "rope", "rod 2", "crate"]), min_size=1, max_size=6)


@given(NAMES)
def test_whoever_joins_has_a_name_of_its_own(names: list[str]) -> None:
    shot = Shot("")
    for name in names:
        shot = joined(shot, chain_figure(name))
    found = script.figures(shot)
    assert len(set(found)) == len(names)
    assert free_name(shot, "rod") not in found


@given(NAMES, st.data())
def test_joining_and_leaving_gives_the_shot_back(names: list[str], data: st.DataObject) -> None:
    """In any order; the takes that are not worked on too."""
    shot = joined(Shot(""), chain_figure("first"))
    shot = script.set_values(shot, "first", 101, {"link 1/roll": 20})
    shot = script.set_values(copied_take(shot, "B"), "first", 105, {"link 1/roll": -20})
    grown = shot
    for name in names:
        grown = joined(grown, chain_figure(name))
    while len(grown.cast) > 1:
        others = [f.name for f in grown.cast if f.name != "first"]
        grown = left(grown, data.draw(st.sampled_from(others)))
    assert script.figures(grown) == ["first"]
    for take in ("A", "B"):
        assert grown.with_take(take).curves("first") is shot.with_take(take).curves("first")
        assert set(grown.with_take(take).take.curves) == {"first"}


def test_a_motion_makes_the_range_longer_never_shorter(demo: Shot) -> None:
    rod = chain_figure("rod")
    assert joined(demo, rod, last=200).last == 200
    assert joined(demo, rod, last=120).last == demo.last
    with pytest.raises(UnknownName, match="nobody"):
        left(demo, "nobody")


def test_cards_and_traces_go_with_their_figure(demo: Shot) -> None:
    gone = left(demo, "porter")
    assert all("porter" not in t.acting for t in gone.all_takes)
    assert gone.curves("crate") is demo.curves("crate")


@given(st.sampled_from([12.0, 24.0, 30.0, 60.0]), st.sampled_from([1.0, 101.0, 250.0]))
def test_a_brought_motion_is_as_fast_at_another_rate(rate: float, first: float) -> None:
    """At the same second the curves say the same on every frame."""
    shot = Shot("", first=101, last=125, frame_rate=30.0).with_figure(chain_figure("rod"))
    for frame, roll in ((101, 0.0), (108, 40.0), (125, -20.0)):
        shot = script.set_values(shot, "rod", frame, {"link 1/roll": roll})
    shot = script.splined(shot, "rod")
    there = at_rate(shot, rate, first)
    curve = there.curves("rod")[there.figure("rod").rig.channel("link 1/roll")]
    assert (curve.frames == np.round(curve.frames)).all(), "one can step to every key"
    for frame in np.arange(first, first + 0.8 * rate):
        a = script.values(shot, "rod", 101 + 30 * (frame - first) / rate)["link 1/roll"]
        assert script.values(there, "rod", frame)["link 1/roll"] == pytest.approx(a, abs=1e-5)
    assert there.last >= first + 24 / 30 * rate - 1e-6
