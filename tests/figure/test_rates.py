"""Recorded motion at other rates: as fast, on whole frames, and between frames never farther than the frames around."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation, Slerp

from bovrin import script
from bovrin.errors import BadMotion
from bovrin.figure.reading.rates import at_rate
from bovrin.formats.bvh.figure import shot_of
from bovrin.formats.bvh.source import bvh_from_bytes
from bovrin.motion.rotations import euler_matrix, followed
from bovrin.shot import Shot

ORDERS = ("XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX")
RATES = (24.0, 25.0, 30.0, 50.0, 60.0, 100.0, 120.0)
BONES = 3


def recording(seed: int, order: str, rate: float, frames: int) -> tuple[bytes, list[Rotation]]:
    """A chain that swings and spins far over half a turn, written as recorders do: angles from -180 to 180 degrees."""
    rng = np.random.default_rng(seed)
    seconds = np.arange(frames) / rate
    turns = []
    for _ in range(BONES):
        swing = rng.normal(0, 0.9, 3) * np.sin(seconds[:, None] * rng.uniform(1, 3) + rng.uniform(0, 6, 3))
        spin = Rotation.from_rotvec(np.outer(seconds * rng.uniform(-2.5, 2.5), _unit(rng.normal(size=3))))
        turns.append(Rotation.from_rotvec(swing) * spin)
    rows = np.concatenate([t.as_euler(order, degrees=True) for t in turns], 1)
    axes = " ".join(f"{axis}rotation" for axis in order)
    opened = "".join(
        f"{'ROOT' if n == 0 else 'JOINT'} bone {n}\n{{\nOFFSET 0 {0.4 if n else 0} 0\nCHANNELS 3 {axes}\n"
        for n in range(BONES)
    )
    tree = opened + "End Site\n{\nOFFSET 0.1 0.4 0\n}\n" + "}\n" * BONES
    head = f"HIERARCHY\n{tree}MOTION\nFrames: {frames}\nFrame Time: {1 / rate:.9f}\n"
    return (head + "\n".join(" ".join(f"{x:.7f}" for x in row) for row in rows)).encode(), turns


def _unit(v: np.ndarray) -> np.ndarray:
    return v / np.linalg.norm(v)


def read(data: bytes) -> Shot:
    return shot_of(bvh_from_bytes(data, "chain.bvh"), "chain", "chain.bvh", 1.0).shot


def positions(shot: Shot, frames: np.ndarray) -> np.ndarray:
    return script.sample(shot, "chain", frames).position


def true_places(turns: list[Rotation], rate: float, seconds: np.ndarray) -> np.ndarray:
    """Where the chain's joints are (F, 3, 3) when every bone turns the shortest way between recorded frames."""
    place, turn, found = np.zeros((len(seconds), 3)), None, []
    for n, own in enumerate(turns):
        now = Slerp(np.arange(len(own)) / rate, own)(np.clip(seconds, 0, (len(own) - 1) / rate))
        turn = now if turn is None else turn * now
        place = place + turn.apply([0.0, 0.4, 0.0] if n < len(turns) - 1 else [0.1, 0.4, 0.0])
        found.append(place)
    return np.stack(found, 1)


@settings(max_examples=25)
@given(st.integers(0, 10_000), st.sampled_from(ORDERS), st.sampled_from(RATES), st.sampled_from(RATES))
def test_a_recording_at_another_rate_is_the_motion_that_was_recorded(
    seed: int, order: str, rate: float, wanted: float
) -> None:
    data, turns = recording(seed, order, rate, 90)
    shot = at_rate(read(data), wanted, 101.0)
    assert shot.frame_rate == wanted
    for curve in shot.curves("chain").curves:
        assert np.array_equal(curve.frames, np.round(curve.frames)), "one can step to every key"
    frames = np.arange(101.0, 101.0 + np.floor(89 / rate * wanted))
    truth = true_places(turns, rate, (frames - 101.0) / wanted)
    assert np.abs(positions(shot, frames)[:, 2:] - truth).max() < 1e-4


@settings(max_examples=40)
@given(st.integers(0, 10_000), st.sampled_from(ORDERS), st.sampled_from(RATES), st.sampled_from([None, *RATES]))
def test_between_frames_no_joint_goes_farther_than_from_frame_to_frame(
    seed: int, order: str, rate: float, wanted: float | None
) -> None:
    shot = read(recording(seed, order, rate, 60)[0])
    shot = shot if wanted is None else at_rate(shot, wanted, 101.0)
    frames = np.arange(101.0, shot.last - 1)
    here, half, on = (positions(shot, frames + by) for by in (0.0, 0.5, 1.0))
    whole = np.linalg.norm(on - here, axis=-1)
    for part in (half - here, on - half):
        assert (np.linalg.norm(part, axis=-1) <= whole * 1.05 + 3e-3).all()


@given(st.integers(0, 10_000), st.sampled_from(ORDERS))
def test_followed_angles_are_the_same_turns_without_a_jump(seed: int, order: str) -> None:
    turns = recording(seed, order, 60.0, 50)[1]
    stacked = np.stack([t.as_euler(order) for t in turns], 1)
    xyz = np.empty_like(stacked)
    for n, axis in enumerate(order):
        xyz[..., "XYZ".index(axis)] = stacked[..., n]
    new = followed(xyz, order)
    assert np.abs(euler_matrix(new, order) - euler_matrix(xyz, order)).max() < 1e-9
    assert np.abs(np.diff(new, axis=0)).sum(-1).max() <= np.abs(np.diff(xyz, axis=0)).sum(-1).max() + 1e-9


@pytest.mark.parametrize("rate", [0.0, 500.0, float("nan")])
def test_an_impossible_rate_is_refused(rate: float, tmp_path) -> None:  # type: ignore[no-untyped-def]
    (tmp_path / "chain.bvh").write_bytes(recording(1, "ZXY", 30, 5)[0])
    with pytest.raises(BadMotion, match=r"not possible|finite number"):
        script.bring(tmp_path / "chain.bvh", rate=rate)
