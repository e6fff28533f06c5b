"""Nothing that is asked for under a scripting name ends in a traceback, and nobody is nowhere after it."""

import inspect
import warnings
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from tests.any_work import COMMON, NAMES, SETTINGS, SPECIAL, assert_sound, worked
from tests.craft.test_proof import STRANGE

from bovrin import cast
from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.motion.rotations import shortest
from bovrin.shot import Shot

SHOTS = ["landing", "goat", "flat", "splined", "blocked", *(name for name in STRANGE if name != "nobody")]
STEPS = 8


@cache
def shot_of(name: str, folder: Path) -> tuple[Shot, list[str]]:
    made = {
        "landing": lambda: (bv.load(cast.ACROSS), ["porter", "goat", "crate"]),
        "goat": lambda: (bv.load(cast.GOAT), ["goat"]),
        "flat": lambda: (bv.add_figure(bv.demo("goat"), "cast:heron"), ["heron", "goat"]),
        "splined": lambda: (bv.splined(bv.demo(), "porter"), ["porter", "crate"]),
        "blocked": lambda: (bv.demo(), ["porter", "crate"]),
    }
    if name in made:
        return made[name]()
    shot = STRANGE[name](folder)
    return shot, [shot.cast[0].name]


def walked(name: str, seed: int, folder: Path) -> None:
    shot, figures = shot_of(name, folder)
    with warnings.catch_warnings():
        warnings.simplefilter("error", RuntimeWarning)
        for call in worked(shot, figures, seed, STEPS):
            if not call.sentence:
                assert_sound(call)


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("any work")


def test_every_scripting_name_is_among_the_work() -> None:
    for name in NAMES:
        for parameter in inspect.signature(getattr(bv, name)).parameters.values():
            known = (name, parameter.name) in SPECIAL or parameter.name in COMMON
            assert known or (parameter.kind is inspect.Parameter.VAR_KEYWORD and name in SETTINGS), (
                name,
                parameter.name,
            )


@pytest.mark.parametrize("name", SHOTS)
def test_any_work_ends_in_a_shot_or_a_sentence(name: str, folder: Path) -> None:
    for seed in range(2):
        walked(name, seed, folder)


@pytest.mark.sweep
@pytest.mark.parametrize("seed", range(100, 200))
def test_much_work_ends_in_shots_or_sentences(seed: int, folder: Path) -> None:
    for name in SHOTS:
        walked(name, seed, folder)


@pytest.mark.parametrize(
    ("name", "arguments"),
    [
        ("snap", {"start": 102.0, "end": 1e9}),
        ("keep_clip", {"name": "a", "start": 110.0, "end": 1e9}),
        ("new_cycle", {"gait": "walk", "frames": 24, "stride": 0.5, "start": float("inf")}),
        ("sample", {"frames": [101.0, float("nan")]}),
        ("arc", {"point": "head", "frames": np.array([101.0, float("inf")])}),
        ("mirror_half", {"start": 101.0, "end": float("nan")}),
        ("find_poses", {"count": 4, "start": float("nan")}),
        ("move_pose", {"frame": 119.0, "to": 1e12}),
    ],
)
def test_numbers_out_of_all_measure_are_refused_in_words(demo: Shot, name: str, arguments: dict[str, object]) -> None:
    with pytest.raises(BovrinError, match=r"finite number|go up to"):
        getattr(bv, name)(demo, "porter", **arguments)


def test_whole_numbers_are_as_good_as_others(demo: Shot) -> None:
    one, two = (bv.set_values(demo, "porter", frame, {"hips/up": 1}) for frame in (111, 111.0))
    for channel in ("hips/up", "head/turn"):
        assert bv.keys(one, "porter", channel) == bv.keys(two, "porter", channel)
    assert bv.values(one, "porter", 111) == bv.values(two, "porter", 111.0)


def test_who_has_no_feet_has_no_travel_to_tell(demo: Shot) -> None:
    with pytest.raises(BovrinError, match="no feet"):
        bv.travelling(demo, "crate")


def test_clips_become_keys_to_a_frame_that_is_on_no_grid(folder: Path) -> None:
    shot, _ = shot_of("landing", folder)
    made = bv.clips_to_keys(shot, "goat", 179, 192.2)
    frames = np.array([150.0, 179.0, 185.0, 192.2])
    off = bv.sample(made, "goat", frames).position - bv.sample(shot, "goat", frames).position
    assert np.abs(off).max() < 1e-3


def test_a_contact_is_never_longer_than_its_round() -> None:
    shot = bv.new_cycle(bv.load(cast.GOAT), "goat", "trot", 9, 0.9, spot=True)
    for foot, spans in shot.contacts("goat").items():
        made = bv.retime_contact(shot, "goat", foot, spans[0], (spans[0][0] - 3, spans[0][1] + 40))
        assert all(0 < end - start < 9 for start, end in made.contacts("goat")[foot])


def test_no_direction_is_turned_by_nothing() -> None:
    up = np.array([0.0, 1.0, 0.0])
    assert np.array_equal(shortest(np.zeros(3), up), np.eye(3)) and np.array_equal(shortest(up, np.zeros(3)), np.eye(3))
    assert np.allclose(shortest(up, -up) @ up, -up)
