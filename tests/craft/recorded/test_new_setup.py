"""Another setup for a brought figure: poses stay what they are, in every take and in the file."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make
from tests.formats.test_gltf_in import moving

from bovrin import script
from bovrin.craft.recorded.new_setup import with_setup
from bovrin.craft.takes import copied_take
from bovrin.figure.brought.guess import Guess
from bovrin.figure.making.roles import guess_from, roles_of, with_limb
from bovrin.figure.making.setup import taken_for
from bovrin.formats.figures.kept_setups import keep_guess, known_guess
from bovrin.shot import Shot


def brought(maker: make.Maker, folder: Path) -> Shot:
    path = folder / "stranger.glb"
    path.write_bytes(maker.glb())
    return script.bring(path, 1.0)


def without_arms(shot: Shot) -> Guess:
    rig = shot.cast[0].rig
    roles = roles_of(taken_for(rig))
    return guess_from(rig.joints, replace(roles, limbs=tuple(x for x in roles.limbs if x.kind != "arm")))


def positions(shot: Shot) -> np.ndarray:
    return script.sample(shot, "stranger", np.array(shot.whole_frames, float)).position


def test_an_animated_figure_moves_as_before(tmp_path: Path) -> None:
    shot = brought(moving(), tmp_path)
    changed = with_setup(shot, "stranger", without_arms(shot))
    assert [limb.name for limb in changed.cast[0].rig.limbs] == ["left leg", "right leg"]
    for take in shot.all_takes:
        assert np.abs(positions(changed.with_take(take.name)) - positions(shot.with_take(take.name))).max() < 1e-9


def test_limbs_that_reached_are_posed_by_their_joints(tmp_path: Path) -> None:
    shot = brought(make.figure(make.TWO_LEGS), tmp_path)
    shot = script.set_values(shot, "stranger", 101, {"left hand goal/up": 0.2, "left foot goal/up": 0.1})
    shot = script.set_values(shot, "stranger", 110, {"left hand goal/across": -0.3, "left foot goal/forward": 0.2})
    shot = script.splined(copied_take(shot, "B"), "stranger")
    changed = with_setup(shot, "stranger", without_arms(shot))
    for take in ("A", "B"):
        assert np.abs(positions(changed.with_take(take)) - positions(shot.with_take(take))).max() < 1e-6
    assert script.keys(changed, "stranger", "left foot goal/up") == [101]


def test_it_is_saved_with_the_figure(tmp_path: Path) -> None:
    shot = brought(make.figure(make.TENTACLE), tmp_path)
    rig = shot.cast[0].rig
    roles = replace(roles_of(taken_for(rig)), head=-1, chest=-1, tails=())
    guess = guess_from(rig.joints, with_limb(rig.joints, roles, 4, "arm"))
    changed = with_setup(shot, "stranger", guess)
    script.save(changed, tmp_path / "kept.bovrin.json")
    again = script.load(tmp_path / "kept.bovrin.json")
    assert again.cast[0].rig.channel_names == changed.cast[0].rig.channel_names
    assert taken_for(again.cast[0].rig) == guess
    assert script.rig_report(again, "stranger")["limbs"] == {"arm": ["ring 3", "ring 4", "ring 5"]}


def test_it_is_known_for_files_with_the_same_joints(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    shot = brought(make.figure(make.TWO_LEGS), tmp_path)
    joints = shot.cast[0].rig.joints
    assert known_guess(joints) is None and len(shot.cast[0].rig.limbs) == 4
    kept = keep_guess(joints, without_arms(shot))
    assert len(brought(make.figure(make.TWO_LEGS), tmp_path).cast[0].rig.limbs) == 2
    assert len(brought(make.figure(make.FOUR_LEGS), tmp_path).cast[0].rig.limbs) == 4
    kept.write_text("{")
    assert len(brought(make.figure(make.TWO_LEGS), tmp_path).cast[0].rig.limbs) == 4
