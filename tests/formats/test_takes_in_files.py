"""Takes keep their order, their length and whether they go round: in files, in projects, in the shot."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tests.formats import gltf_maker as make
from tests.formats.gltf_player import Player

from bovrin import script
from bovrin.craft.company import all_joined
from bovrin.craft.ranges import add_in_front, set_range
from bovrin.craft.takes import chosen_take, copied_take
from bovrin.figure.ground.skin import skin_at_rest
from bovrin.figure.reading.rates import at_rate
from bovrin.formats.figures.files import load_figure
from bovrin.formats.gltf.container import GlbReader
from bovrin.formats.gltf.out import shot_glb
from bovrin.shot import Shot, Span, acting_by

CLIPS = {"walk": 3.42, "hit": 0.71, "breathe": 1.16}


def three_clips(rate: float = 30.0) -> make.Maker:
    """Three animations of other lengths, recorded at a rate; the last ends as it began."""
    maker, rng = make.figure(make.TWO_LEGS), np.random.default_rng(3)
    for name, seconds in CLIPS.items():
        times = np.append(np.arange(0, seconds, 1 / rate), seconds)
        speed = 2 * np.pi / seconds if name == "breathe" else 1.7
        swing = np.sin(times[:, None] * speed) * rng.normal(0, 0.5, 3)
        rows = [
            (joint, "rotation", "LINEAR", times, Rotation.from_rotvec(swing).as_quat()) for joint in ("Kern", "Ast.L")
        ]
        maker.animate(name, *rows)
    return maker


@pytest.fixture
def clips(tmp_path: Path) -> Shot:
    path = tmp_path / "clips.glb"
    path.write_bytes(three_clips().glb())
    return script.bring(path, 1.0)


def seconds(shot: Shot) -> dict[str, float]:
    return {t.name: (shot.span_of(t).last - shot.span_of(t).first) / shot.frame_rate for t in shot.all_takes}


def test_they_come_in_the_order_of_the_file_and_as_long(clips: Shot) -> None:
    assert clips.frame_rate == 24
    found = seconds(clips)
    assert list(found) == list(CLIPS)
    for name, length in CLIPS.items():
        assert 0 <= found[name] - length < 1 / 24 + 1e-9, "to the next whole frame"
    assert [clips.span_of(take).loops for take in clips.all_takes] == [False, False, True]
    for take in clips.all_takes:
        for curve in take.curves["clips"].curves:
            assert np.array_equal(curve.frames, np.round(curve.frames))


def test_there_and_back_they_are_the_same(clips: Shot, tmp_path: Path) -> None:
    path = tmp_path / "again.glb"
    script.export(chosen_take(clips, "hit"), path)
    again = script.bring(path)
    assert list(seconds(again)) == list(CLIPS)
    assert [again.span_of(t) for t in again.all_takes] == [clips.span_of(t) for t in clips.all_takes]
    for take in clips.all_takes:
        one, other = clips.with_take(take.name), again.with_take(take.name)
        frames = np.arange(one.first, one.last + 1)
        a, b = script.sample(one, "clips", frames), script.sample(other, "again", frames)
        assert np.abs(a.position - b.position).max() < 1e-5 and np.abs(a.rotation - b.rotation).max() < 1e-5
    player = Player(path.read_bytes())
    assert [a["name"] for a in player.doc["animations"]] == list(CLIPS)
    assert [a["extras"]["loops"] for a in player.doc["animations"]] == [False, False, True]


@pytest.mark.parametrize("rate", [30.0, 60.0])
def test_the_rate_is_asked_for_or_kept(rate: float, tmp_path: Path) -> None:
    path = tmp_path / "clips.glb"
    path.write_bytes(three_clips(rate).glb())
    kept, made = script.bring(path, 1.0, keep_rate=True), script.bring(path, 1.0, rate=48)
    assert (kept.frame_rate, made.frame_rate) == (rate, 48)
    a, b = (script.sample(s, "clips", 101 + np.arange(0, 3, 0.5) * s.frame_rate).position for s in (kept, made))
    assert np.abs(a - b).max() < 1e-4


def test_the_shot_has_the_range_of_the_take_that_is_worked_on(clips: Shot) -> None:
    walk = (clips.first, clips.last)
    hit = chosen_take(clips, "hit")
    assert hit.last < clips.last
    shorter = set_range(hit, hit.first, hit.last - 5)
    back = chosen_take(shorter, "walk")
    assert (back.first, back.last) == walk
    assert chosen_take(back, "hit").last == hit.last - 5
    assert chosen_take(copied_take(hit, "hit 2"), "walk").last == clips.last
    front = add_in_front(hit, 200)
    assert front.span_of(next(t for t in front.takes if t.name == "walk")).last == walk[1] + 200 - hit.first


def test_a_project_keeps_ranges_order_and_loops(clips: Shot, tmp_path: Path) -> None:
    shot = replace(chosen_take(clips, "hit"), loops=True)
    script.save(shot, tmp_path / "clips.bovrin.json")
    again = script.load(tmp_path / "clips.bovrin.json")
    assert again.loops and seconds(again) == seconds(shot) and list(seconds(again)) == list(CLIPS)
    assert [t.span for t in again.all_takes] == [t.span for t in shot.all_takes]


def test_a_figure_without_motion_is_handed_on_without_an_animation(tmp_path: Path) -> None:
    path = tmp_path / "still.glb"
    path.write_bytes(make.figure(make.TWO_LEGS).glb())
    shot = script.bring(path, 1.0)
    still = GlbReader(
        shot_glb(replace(shot, take=replace(shot.take, acting=acting_by({"still": shot.cast[0].no_motion()})))), "x"
    )
    assert not still.document.get("animations")


def test_all_takes_join_an_open_shot(clips: Shot, demo: Shot) -> None:
    new = all_joined(demo, at_rate(clips, demo.frame_rate, demo.first))
    assert [t.name for t in new.all_takes] == [*(t.name for t in demo.all_takes), "hit", "breathe"]
    assert new.curves("clips").curves and new.curves("porter") is demo.curves("porter")
    hit = chosen_take(new, "hit")
    assert hit.curves("porter") is demo.curves("porter") and (hit.first, hit.last) != (new.first, new.last)
    frames = np.arange(101, 118)
    wanted = script.sample(clips.with_take("hit"), "clips", frames).position
    assert np.abs(script.sample(hit, "clips", frames).position - wanted).max() < 1e-9
    assert isinstance(new.span_of(hit.take), Span)


def test_a_whole_shot_comes_back_as_the_same_cast(demo: Shot, tmp_path: Path) -> None:
    path = tmp_path / "landing.glb"
    script.export(demo, path)
    again = script.bring(path)
    assert [f.name for f in again.cast] == [f.name for f in demo.cast]
    assert [t.name for t in again.all_takes] == [t.name for t in demo.all_takes]
    assert (again.first, again.last, again.frame_rate) == (demo.first, demo.last, demo.frame_rate)
    frames = np.arange(101.0, 161.0, 3)
    for old, new in zip(demo.cast, again.cast, strict=True):
        assert {c.name for c in new.rig.controls} >= {c.name for c in old.rig.controls}, "rigs are kept"
        a, b = script.sample(demo, old.name, frames), script.sample(again, new.name, frames)
        at = [b.joints.index(name) for name in a.joints]
        assert np.abs(a.position - b.position[:, at]).max() < 1e-5, old.name
    script.save(again, tmp_path / "again.bovrin.json")
    kept = script.load(tmp_path / "again.bovrin.json")
    assert [f.name for f in kept.cast] == [f.name for f in demo.cast]
    both = all_joined(demo, again)
    assert [f.name for f in both.cast[len(demo.cast) :]] == [f"{f.name} 2" for f in demo.cast]


@pytest.mark.parametrize("name", ["buoy", "crate", "landing"])
def test_a_figure_of_one_joint_comes_back(name: str, tmp_path: Path) -> None:
    shot = Shot(name).with_figure(load_figure(f"cast:{name}", name, tmp_path))
    script.export(shot, tmp_path / "one.glb")
    again = script.bring(tmp_path / "one.glb")
    sizes = [np.ptp(skin_at_rest(s.cast[0]), axis=0) for s in (shot, again)]
    assert np.allclose(sizes[0], sizes[1], rtol=1e-5) and len(again.cast[0].rig.joints) == 1
