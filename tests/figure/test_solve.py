import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from tests.strategies import chain_figure

from bovrin.figure.solve.joints import skin_matrices, solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.staging import sample
from bovrin.motion.rotations import quaternion_matrix
from bovrin.shot import Rig, Shot


def values_of(rig: Rig, **named: float) -> np.ndarray:
    """Channel values (1, C) with some channels set: "left_hand__up" is "left hand/up"."""
    values = np.array([rig.defaults], float)
    for name, value in named.items():
        values[0, rig.channel(name.replace("__", "/").replace("_", " "))] = value
    return values


def test_rest_is_rest(demo: Shot) -> None:
    for figure in demo.cast:
        world = solve(figure.rig, np.array([figure.rig.defaults]))[0]
        assert np.allclose(world, plan_of(figure.rig).rest_world, atol=1e-7)
        assert np.allclose(skin_matrices(figure.rig, world), np.eye(4), atol=1e-7)


@given(st.lists(st.floats(-3, 3), min_size=12, max_size=12))
def test_a_chain_is_a_product_of_turns(v: list[float]) -> None:
    rig = chain_figure().rig
    world = solve(rig, np.array([v]))[0]

    def turn(at: int) -> np.ndarray:
        y, x, z = v[at : at + 3]
        return Rotation.from_euler("YXZ", [y, x, z]).as_matrix()

    base, first = turn(3), turn(3) @ turn(6)
    up = np.array([0, 0.5, 0])
    assert np.allclose(world[1, :3, 3], np.array(v[:3]) + base @ up)
    assert np.allclose(world[2, :3, 3], np.array(v[:3]) + base @ up + first @ up)
    assert np.allclose(world[2, :3, :3], first @ turn(9))


def test_many_frames_at_once_are_each_frame_alone(demo: Shot) -> None:
    frames = np.linspace(101, 160, 37)
    together = sample(demo, "porter", frames)
    for i in (0, 11, 36):
        alone = sample(demo, "porter", [frames[i]])
        assert np.allclose(alone.position[0], together.position[i], atol=1e-12)
    assert np.allclose(np.linalg.norm(together.rotation, axis=-1), 1)


def test_moving_the_whole_figure_moves_everything(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    here = solve(rig, values_of(rig, left_hand__up=0.2, hips__tilt=0.4))[0]
    there = solve(
        rig, values_of(rig, left_hand__up=0.2, hips__tilt=0.4, whole_figure__across=1.5, whole_figure__turn=1.0)
    )[0]
    turn = Rotation.from_euler("Y", 1.0).as_matrix()
    assert np.allclose(there[:, :3, 3], here[:, :3, 3] @ turn.T + [1.5, 0, 0], atol=1e-9)


def test_helpers_take_half_the_turn(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    bent = values_of(rig, left_hand__reach=0, left_forearm__tilt=-2.0)
    world = solve(rig, bent)[0]
    parent, helper, joint = (rig.joint(f"left {n}") for n in ("upper arm", "forearm half", "forearm"))

    def turned(a: int, b: int) -> float:
        rest = plan_of(rig).rest_world
        away = (rest[a, :3, :3].T @ rest[b, :3, :3]).T @ (world[a, :3, :3].T @ world[b, :3, :3])
        return float(np.linalg.norm(Rotation.from_matrix(away).as_rotvec()))

    assert turned(parent, helper) == pytest.approx(1.0, abs=1e-6)
    assert turned(parent, joint) == pytest.approx(2.0, abs=1e-6)


def test_the_porter_is_as_ordered(demo: Shot) -> None:
    porter = demo.figure("porter")
    assert 45 <= len(porter.rig.joints) <= 60
    assert porter.model.triangle_count <= 9000
    assert {"left arm", "right arm", "left leg", "right leg"} == {limb.name for limb in porter.rig.limbs}
    assert {"body", "head", "left arm", "right arm", "left leg", "right leg", "left hand", "right hand"} == {
        part.name for part in porter.rig.parts
    }


def skinned(figure, world: np.ndarray) -> np.ndarray:  # type: ignore[no-untyped-def]
    matrices = skin_matrices(figure.rig, world)
    moved = []
    for piece in figure.model.pieces:
        points = np.concatenate([piece.positions, np.ones((len(piece.positions), 1))], 1)
        each = np.einsum("vkij,vj->vki", matrices[piece.joints], points)[..., :3]
        moved.append((each * piece.weights[..., None]).sum(1))
    return np.concatenate(moved)


@pytest.mark.parametrize(("limb", "channel"), [("forearm", "left_forearm__tilt"), ("shin", "left_shin__tilt")])
def test_joints_bent_to_120_degrees_keep_their_volume(demo: Shot, limb: str, channel: str) -> None:
    """The skin beside the hinge stays at least half as far from it as at rest: no collapse to a line."""
    porter = demo.figure("porter")
    rig = porter.rig
    off = {"left_hand__reach": 0.0, "left_foot__reach": 0.0}
    rest = solve(rig, values_of(rig, **off))[0]
    bent = solve(rig, values_of(rig, **off, **{channel: np.radians(120 if limb == "shin" else -120)}))[0]
    joint = rig.joint(f"left {limb}")
    hinge = rest[joint, :3, 0]
    before, after = skinned(porter, rest) - rest[joint, :3, 3], skinned(porter, bent) - bent[joint, :3, 3]
    near = (np.abs(before @ rest[joint, :3, 1]) < 0.02) & (np.linalg.norm(before, axis=1) < 0.13)
    assert near.sum() > 10
    width_before, width_after = (
        np.ptp(points[near] @ axis) for points, axis in ((before, hinge), (after, bent[joint, :3, 0]))
    )
    assert width_after > 0.9 * width_before
    thick = np.linalg.norm(after[near] - np.outer(after[near] @ bent[joint, :3, 0], bent[joint, :3, 0]), axis=1)
    was = np.linalg.norm(before[near] - np.outer(before[near] @ hinge, hinge), axis=1)
    assert np.percentile(thick / np.maximum(was, 1e-3), 20) > 0.5


def test_weights_sum_to_one_and_meshes_are_closed(demo: Shot) -> None:
    for piece in demo.figure("porter").model.pieces:
        assert np.allclose(piece.weights.sum(1), 1, atol=1e-5)
        if piece.name in ("mouth", "teeth", "lip"):
            continue  # sheets that lie on the beard
        edges = np.sort(piece.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2).astype(np.int64), axis=1)
        _, counts = np.unique(edges, axis=0, return_counts=True)
        assert (counts == 2).mean() > 0.99, piece.name


def test_the_rotation_that_is_sampled_is_the_matrix(demo: Shot) -> None:
    motion = sample(demo, "porter", [119])
    turned = quaternion_matrix(motion.rotation[0])
    rig = demo.figure("porter").rig
    spine = rig.joint("spine")
    tip = turned[spine] @ np.array(rig.joints[rig.joint("chest")].translation)
    assert np.allclose(motion.position[0, spine] + tip, motion.position[0, rig.joint("chest")], atol=1e-9)


def test_a_result_is_not_touched_by_the_next_solve(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    first = solve(rig, values_of(rig, hips__up=-0.2))
    kept = first.copy()
    solve(rig, values_of(rig, hips__up=0.1, left_hand__up=0.3))
    assert np.array_equal(first, kept)
