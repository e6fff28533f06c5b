import numpy as np
import pytest
from tests.rigs import goat, random_values

from bovrin import script
from bovrin.figure.solve.joints import solve
from bovrin.figure.staging import staged
from bovrin.shot import Shot


def with_value(shot: Shot, name: str, value: float) -> Shot:
    return script.set_values(shot, "porter", 101, {name: value})


def test_longer_bones_move_the_hand_in_both_modes(demo: Shot) -> None:
    for mode in ("reach", "joints"):
        shot = script.set_mode(demo, "porter", "left arm", 101, mode)
        long = script.set_values(shot, "porter", 101, {"left elbow/upper length": 1.25, "left elbow/lower length": 1.5})
        world = solve(long.figure("porter").rig, staged(long, "porter", 101).values[0].copy()[None])[0]
        limb = long.figure("porter").rig.limbs[0]
        plain = solve(shot.figure("porter").rig, staged(shot, "porter", 101).values[0].copy()[None])[0]
        for a, b, factor in ((limb.upper, limb.middle, 1.25), (limb.middle, limb.end, 1.5)):
            was = np.linalg.norm(plain[a, :3, 3] - plain[b, :3, 3])
            assert np.linalg.norm(world[a, :3, 3] - world[b, :3, 3]) == pytest.approx(factor * was, rel=1e-9)
            assert np.linalg.det(world[a, :3, :3]) == pytest.approx(1, abs=1e-9)
        assert np.allclose(np.linalg.det(world[limb.end, :3, :3]), 1) and np.allclose(
            np.linalg.norm(world[limb.end, :3, :3], axis=0), 1
        )


@pytest.mark.parametrize("stretch", [0.6, 1.5])
def test_stretch_keeps_the_volume_and_the_joint(demo: Shot, stretch: float) -> None:
    rig = demo.figure("porter").rig
    values = staged(demo, "porter", 119).values[0].copy()
    new = values.copy()
    new[rig.channel("whole figure/stretch")] = stretch
    before, after = solve(rig, values[None])[0], solve(rig, new[None])[0]
    assert np.allclose(np.linalg.det(after[:, :3, :3]), 1, atol=1e-9)
    assert np.allclose(after[0, :3, 3], before[0, :3, 3])
    heights = after[:, 1, 3] - after[0, 1, 3]
    assert np.allclose(heights, stretch * (before[:, 1, 3] - before[0, 1, 3]), atol=1e-9)


def test_size_is_even_and_turns_stay(demo: Shot) -> None:
    shot = with_value(demo, "whole figure/size", 2.0)
    before, after = script.sample(demo, "porter", [101]), script.sample(shot, "porter", [101])
    root = before.position[0, 0]
    assert np.allclose(after.position[0] - root, 2 * (before.position[0] - root), atol=1e-9)
    assert np.allclose(np.abs((after.rotation * before.rotation).sum(-1)), 1, atol=1e-9)


def test_a_stretched_head_takes_only_the_head(demo: Shot) -> None:
    shot = with_value(demo, "head/stretch", 1.4)
    before, after = script.sample(demo, "porter", [101]), script.sample(shot, "porter", [101])
    moved = np.abs(after.position - before.position).max((0, 2)) > 1e-9
    names = {n for n, m in zip(before.joints, moved, strict=True) if m}
    assert "bobble" in names and "left hand" not in names and "neck" not in names


def test_a_root_that_lies_oddly_at_rest_changes_nothing() -> None:
    plain, odd = goat().rig, goat(3).rig
    rest = [np.array([r.defaults]) for r in (plain, odd)]
    places = [solve(r, v)[0, :, :3, 3] for r, v in zip((plain, odd), rest, strict=True)]
    assert np.allclose(*places, atol=1e-9)
    moved = []
    for rig, values in zip((plain, odd), rest, strict=True):
        values[0, rig.channel("left fore foot/up")] = 0.1
        values[0, rig.channel("left fore foot/turn")] = 0.5
        moved.append(solve(rig, values)[0, :, :3, 3])
    assert np.allclose(*moved, atol=1e-9)
    assert np.isfinite(solve(odd, random_values(odd, 1, count=4))).all()
