import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.rigs import goat, random_values

from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import stance
from bovrin.shot import Shot


@given(st.integers(0, 30))
def test_rigid_joints_are_turns_that_hang_together(seed: int) -> None:
    rig = goat(seed).rig
    one = Stance(rig, random_values(rig, 1, turn=0.4, move=0.1)[0])
    linear = one.rigid[:, :3, :3]
    assert np.allclose(linear @ np.swapaxes(linear, -1, -2), np.eye(3), atol=1e-9)
    assert np.allclose(one.descended(one.local, {}), one.rigid, atol=1e-9)


def test_stretch_is_seen_but_joints_are_placed_without_it(demo: Shot) -> None:
    plain = stance(demo, "porter", 119)
    rig = plain.rig
    long = plain.with_values({rig.channel("whole figure/stretch"): 1.4})
    head = rig.joint("head")
    assert np.array_equal(long.rigid, plain.rigid)
    assert long.seen(head)[1] > plain.seen(head)[1] + 0.2
    assert np.allclose(long.from_stage(head, long.seen(head)), long.place(head), atol=1e-9)


def test_changes_are_what_puts_joints_there(demo: Shot) -> None:
    now = stance(demo, "porter", 101)
    rig = now.rig
    wanted = now.with_values({rig.channel("chest/turn"): 0.3, rig.channel("hips/up"): -0.05})
    found = now.changes(wanted.rigid)
    again = now.with_values(found)
    assert np.abs(again.rigid[:, :3, 3] - wanted.rigid[:, :3, 3]).max() < 1e-6
    assert now.changes(now.rigid) == {}
    assert now.values[rig.channel("chest/turn")] == pytest.approx(
        stance(demo, "porter", 101).values[rig.channel("chest/turn")]
    )
