"""Motions of files as clips: carried to a figure, going round where they do, and told where they cannot be."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.cycles import alone, cycle_of, lively, places
from tests.walks import walk as stroll

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.shot import Shot


def walk() -> Shot:
    return replace(bv.open_loop(lively(cycle_of("porter", "walk", 24, 0.8), "porter"), "porter"), last=125.0)


def test_a_clip_of_our_own_glb_is_the_motion_again(tmp_path: Path) -> None:
    path = tmp_path / "home walk.glb"
    bv.export(walk(), path)
    shot = bv.clips_of_file(alone("porter"), "porter", path)
    (clip,) = shot.clips
    assert clip.name == "home walk" and clip.loops and clip.figure == "porter" and clip.length == pytest.approx(24.0)
    laid = bv.lay_clip(shot, "porter", "home walk", 101, repeats=2.0)
    frames = np.arange(101.0, 126.0)
    hips = slice(1, None)  # the root itself is where hips have taken it
    away = np.linalg.norm((places(laid, "porter", frames) - places(walk(), "porter", frames))[:, hips], axis=2)
    assert np.median(away) < 0.01 and away.max() < 0.06, "turns are carried, feet stay"
    on = places(laid, "porter", np.array([125.0, 149.0]))[:, 0]
    assert (on[1] - on[0])[2] == pytest.approx(0.8, abs=0.02), "it goes on in the next round"


def test_a_stranger_s_stroll_is_worn_by_the_porter(tmp_path: Path) -> None:
    path = tmp_path / "stroll.bvh"
    bv.export(stroll(tmp_path), path)
    shot = bv.clips_of_file(alone("porter"), "porter", path)
    (clip,) = shot.clips
    assert clip.name == "stroll" and len(shot.cast) == 1, "the stranger does not come along"
    assert set(clip.curves) <= set(bv.channels(shot, "porter"))
    before = {foot: len(spans) for foot, spans in clip.contacts.items()}
    assert len(before) == 2 and min(before.values()) >= 1, "it knows when feet are down"


def test_what_cannot_be_worn_is_told(tmp_path: Path) -> None:
    still = tmp_path / "still.glb"
    bv.export(alone("porter"), still)
    with pytest.raises(BovrinError, match="nothing moves"):
        bv.clips_of_file(alone("porter"), "porter", still)
    moving = tmp_path / "moving.glb"
    bv.export(walk(), moving)
    crate = Shot("c").with_figure(bv.demo().figure("crate"))
    with pytest.raises(BovrinError, match="too few parts"):
        bv.clips_of_file(crate, "crate", moving)
    cut = tmp_path / "cut.glb"
    cut.write_bytes(moving.read_bytes()[:9000])
    shot = alone("porter")
    with pytest.raises(BovrinError):
        bv.clips_of_file(shot, "porter", cut)
    assert not shot.clips
