"""What is freshly laid out, and what is shipped, has nothing that the proof would tell."""

import pytest
from tests.cycles import cycle_of, lively

from bovrin import cast
from bovrin import script as bv
from bovrin.craft.cycle.gaits import FOUR_LEGS, TWO_LEGS

GAITS = [("porter", gait) for gait in TWO_LEGS] + [("goat", gait) for gait in FOUR_LEGS]
STRIDES = {"porter": (0.5, 0.8, 1.1), "goat": (0.4, 0.6, 0.9)}


def notes(name: str, gait: str, frames: int, stride: float, *, spot: bool) -> list[str]:
    return [note.words for note in bv.proof(cycle_of(name, gait, frames, stride, spot=spot), name)]


@pytest.mark.parametrize("spot", [False, True])
@pytest.mark.parametrize(("name", "gait"), GAITS)
def test_a_fresh_gait_reads_empty(name: str, gait: str, spot: bool) -> None:
    assert notes(name, gait, 16 if gait in ("run", "gallop", "canter") else 24, STRIDES[name][1], spot=spot) == []


@pytest.mark.sweep
@pytest.mark.parametrize("frames", [12, 16, 20, 24, 32, 40])
@pytest.mark.parametrize(("name", "gait"), GAITS)
def test_at_any_pace(name: str, gait: str, frames: int) -> None:
    found = {
        (stride, spot): notes(name, gait, frames, stride, spot=spot)
        for stride in STRIDES[name]
        for spot in (False, True)
    }
    assert {key: words for key, words in found.items() if words} == {}


@pytest.mark.parametrize("path", [cast.DEMO, cast.GOAT, cast.ACROSS])
def test_what_is_shipped_reads_empty(path: object) -> None:
    shot = bv.load(path)  # type: ignore[arg-type]
    for take in bv.takes(shot):
        assert [note.words for note in bv.proof(bv.use_take(shot, take))] == [], take


@pytest.mark.parametrize("name", ["porter", "goat"])
def test_a_pop_at_the_seam_of_what_travels_is_still_found(name: str) -> None:
    shot = lively(cycle_of(name, "walk", 24, STRIDES[name][1]), name)
    assert [n for n in bv.proof(shot, name) if n.kind == "seam"] == []
    channel = next(c for c in bv.channels(shot, name, "head") if c.endswith("/tilt"))
    broken = bv.set_ends(shot, name, channel, "hold", "hold")
    broken = bv.set_values(broken, name, 124.0, {channel: 60.0})
    assert [n.part for n in bv.proof(broken, name) if n.kind == "seam"] == ["head"]


def test_feet_of_what_goes_on_the_spot_do_not_slide_and_those_that_do_are_told() -> None:
    shot = cycle_of("porter", "walk", 24, 0.8)
    assert bv.proof(shot, "porter") == []
    foot = next(c for c in bv.channels(shot, "porter") if c.startswith("left foot") and c.endswith("/forward"))
    at = bv.values(shot, "porter", 104.0)[foot]
    slid = bv.set_values(shot, "porter", 104.0, {foot: at + 0.06})
    assert any(n.kind == "slide" and n.part == "left leg" for n in bv.proof(slid, "porter"))
