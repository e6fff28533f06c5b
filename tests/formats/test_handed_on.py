"""Handing on a part of a shot: figures, a range, a take, a file for each; by script and on the command line."""

from pathlib import Path

import numpy as np
import pytest

from bovrin import script as bv
from bovrin.cli import run_command
from bovrin.craft.takes import copied_take
from bovrin.errors import BovrinError
from bovrin.figure.staging import staged
from bovrin.shot import Shot


def place(shot: Shot, name: str, joint: str, frames: list[float]) -> np.ndarray:
    found = staged(shot, name, frames)
    names = [one.name for one in found.rig.joints]
    return found.places[:, next(n for n, own in enumerate(names) if own.endswith(joint))]


@pytest.fixture
def shot() -> Shot:
    """Two takes, and a crate that hangs on the porter."""
    made = bv.attach(bv.splined(bv.demo(), "porter"), "crate", "whole crate", ("porter", "chest"), 115)
    other = copied_take(made, "lower")
    return bv.set_values(other, "porter", 130, {"hips/up": -0.2})


def test_figures_and_a_range(shot: Shot, tmp_path: Path) -> None:
    bv.export(shot, tmp_path / "some.glb", figures=["crate"], start=120, end=140, take="lower")
    read = bv.bring(tmp_path / "some.glb", 1.0)
    assert len(read.cast) == 1 and bv.takes(read) == ["lower"]
    assert read.last - read.first == 20
    frames = [120.0, 127.0, 140.0]
    there = place(read, read.cast[0].name, "crate", [read.first + f - 120 for f in frames])
    assert np.abs(there - place(shot, "crate", "crate", frames)).max() < 2e-3, (
        "as it hung, though its carrier is not there"
    )


def test_a_file_for_each_take(shot: Shot, tmp_path: Path) -> None:
    bv.export(shot, tmp_path / "walk.glb", each_take=True)
    files = sorted(path.name for path in tmp_path.iterdir())
    assert files == sorted(f"walk {name}.glb" for name in bv.takes(shot))
    for name in bv.takes(shot):
        read = bv.bring(tmp_path / f"walk {name}.glb", 1.0)
        assert bv.takes(read) == [name]


@pytest.mark.parametrize("ending", [".bvh", ".usda"])
def test_other_formats_take_the_range(shot: Shot, tmp_path: Path, ending: str) -> None:
    bv.export(shot, tmp_path / f"some{ending}", figures=["porter"], start=120, end=140)
    text = (tmp_path / f"some{ending}").read_text()
    assert "Frames: 21" in text if ending == ".bvh" else "endTimeCode = 140" in text


def test_what_is_not_there_is_said(shot: Shot, tmp_path: Path) -> None:
    for wrong in ({"figures": ["nobody"]}, {"figures": []}, {"take": "none"}, {"start": 140, "end": 120}):
        with pytest.raises(BovrinError):
            bv.export(shot, tmp_path / "no.glb", **wrong)
    assert not list(tmp_path.iterdir())


def test_on_the_command_line(shot: Shot, tmp_path: Path) -> None:
    project = tmp_path / "two.bovrin.json"
    bv.save(shot, project)
    out = tmp_path / "out"
    out.mkdir()
    some = ["--figure", "porter", "--range", "110", "150", "--each-take"]
    assert run_command(["export", str(project), *some, "-o", str(out / "w.glb")]) == 0
    assert len(list(out.iterdir())) == len(bv.takes(shot))
    assert run_command(["export", str(project), "--take", "none", "-o", str(out / "x.glb")]) != 0
    assert len(list(out.iterdir())) == len(bv.takes(shot))
