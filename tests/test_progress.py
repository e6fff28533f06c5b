"""How far a work is, in parts of parts; and that it ends when it shall."""

from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.formats import gltf_maker as make

from bovrin import script
from bovrin.craft.recorded.carry import carried
from bovrin.formats.bringing import bring_file
from bovrin.formats.bvh.out import bvh_text
from bovrin.formats.gltf.out import export
from bovrin.formats.project.store import load, save
from bovrin.progress import Stopped, each, go_on, heard_by, part, tell
from bovrin.shot import Shot


@given(st.lists(st.integers(0, 4), min_size=1, max_size=6))
def test_parts_of_parts_rise_evenly(sizes: list[int]) -> None:
    heard: list[float] = []
    with heard_by(lambda share: heard.append(share) is None), part(0.2, 0.7):
        for number, size in enumerate(each(sizes)):
            for n in each(range(size)):
                assert heard[-1] == pytest.approx(0.2 + 0.5 * (number + n / size) / len(sizes))
            tell(1.0)
    assert heard == sorted(heard) and heard[-1] == pytest.approx(0.7)
    tell(0.5)
    go_on()  # nobody hears


def test_who_leaves_early_leaves_nothing_behind() -> None:
    heard: list[float] = []
    with heard_by(lambda share: heard.append(share) is None):
        for _ in each(range(10)):
            break
        with pytest.raises(ZeroDivisionError), part(0.5, 0.6):
            _ = 1 / 0
        tell(1.0)
    assert heard[-1] == 1.0


def works(folder: Path, demo: Shot) -> dict[str, tuple[object, ...]]:
    (folder / "wave.bvh").write_text(bvh_text(script.demo("goat")))
    script.export(demo, folder / "shot.glb")
    save(demo, folder / "shot.bovrin.json")
    (folder / "two.glb").write_bytes(make.figure(make.TWO_LEGS).glb())
    pair = script.add_figure(script.splined(demo, "porter"), "cast:porter")
    return {
        "save": (lambda: save(demo, folder / "shot.bovrin.json"),),
        "open": (lambda: load(folder / "shot.bovrin.json"),),
        "bring a glb": (lambda: bring_file(folder / "shot.glb"),),
        "bring a bvh": (lambda: bring_file(folder / "wave.bvh"),),
        "hand on": (lambda: export(demo, folder / "shot.glb"),),
        "hand on bvh": (lambda: export(demo, folder / "wave.bvh"),),
        "carry": (lambda: carried(pair, "porter", "porter 2"),),
        "proof": (lambda: script.proof(demo, "porter"),),
    }


NAMES = ("save", "open", "bring a glb", "bring a bvh", "hand on", "hand on bvh", "carry", "proof")


@pytest.mark.parametrize("name", NAMES)
def test_long_works_end_wherever_they_are_stopped(name: str, demo: Shot, tmp_path: Path) -> None:
    """Stopped at the first, at some in between and at the last word, a work ends there, and every file is as it was."""
    (work,) = works(tmp_path, demo)[name]
    said: list[float] = []
    with heard_by(lambda share: said.append(share) is None):
        work()  # type: ignore[operator]
    assert len(said) >= 5, "it says too seldom whether it goes on"
    files = {path.name: path.read_bytes() for path in tmp_path.iterdir() if path.is_file()}
    for last in sorted({0, 1, len(said) // 3, len(said) // 2, len(said) - 2, len(said) - 1}):
        words = iter(range(10**9))
        with pytest.raises(Stopped), heard_by(lambda _share, w=words, n=last: next(w) < n):  # type: ignore[misc]
            work()  # type: ignore[operator]
        left = {path.name: path.read_bytes() for path in tmp_path.iterdir() if path.is_file()}
        assert left == files


@pytest.mark.parametrize("name", ["save", "open", "bring a glb", "hand on"])
def test_files_say_how_far_they_are(name: str, demo: Shot, tmp_path: Path) -> None:
    (work,) = works(tmp_path, demo)[name]
    said: list[float] = [0.0]
    with heard_by(lambda share: said.append(max(share, said[-1])) is None):
        work()  # type: ignore[operator]
    assert said[-1] > 0.6 and len(set(said)) > 4 and max(b - a for a, b in pairwise(said)) < 0.5
