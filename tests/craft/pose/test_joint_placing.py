import numpy as np
import pytest
from tests.rigs import goat, one_bone, random_values, stiff
from tests.strategies import thinned

from bovrin import script
from bovrin.craft.pose.joint_placing import Placing, place_values
from bovrin.craft.pose.modes import set_mode
from bovrin.errors import BadMotion
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import staged
from bovrin.motion.rotations import rotation_vector
from bovrin.shot import Limb, Rig, Shot


def moved(rig: Rig, values: np.ndarray, changes: dict[int, float]) -> Stance:
    new = values.copy()
    for column, value in changes.items():
        new[column] = value
    return Stance(rig, new)


def poses() -> list[tuple[Rig, np.ndarray]]:
    """Porter and goats, each in both modes."""
    demo = script.demo()
    found = []
    for mode in ("reach", "joints"):
        shot = demo
        for limb in range(4):
            shot = set_mode(shot, "porter", limb, 119, mode)
        found.append((shot.figure("porter").rig, staged(shot, "porter", 119).values[0].copy()))
        for seed in (None, 4):
            figure = goat(seed)
            own = Shot("goat").with_figure(figure)
            for limb in range(4):
                own = set_mode(own, "goat", limb, 101, mode)
            values = staged(own, "goat", 101).values[0].copy()
            wobble = random_values(figure.rig, 1, turn=0.15, move=0.02)[0] - np.array(figure.rig.defaults)
            found.append((figure.rig, values + wobble))
    return found


CASES = {
    "end": (("upper",), "end"),
    "end alone": (("upper", "middle"), "end"),
    "middle": (("upper", "end"), "middle"),
    "together": (("upper",), "middle"),
}


@pytest.mark.parametrize("case", CASES)
@pytest.mark.parametrize("stretch", [False, True])
@pytest.mark.parametrize("which", thinned(range(6), [0, 3, 4]))
def test_the_others_stay_and_bones_keep_their_length_or_meet_the_place(case: str, stretch: bool, which: int) -> None:
    rig, values = poses()[which]
    still, joint = CASES[case]
    for index, limb in enumerate(rig.limbs):
        before = Stance(rig, values)
        target = getattr(limb, joint)
        to = before.place(target) + np.random.default_rng(index).normal(0, 0.03, 3)
        keep = [limb.middle] if case == "end alone" else []
        placing = Placing(Stance(rig, values), target, keep, carry=[limb.end] if case == "together" else [])
        after = moved(rig, values, placing.to(to, stretch=stretch))
        for name in still:
            held = getattr(limb, name)
            assert np.abs(after.place(held) - before.place(held)).max() < 1e-3, (name, case)
        lengths = [
            [np.linalg.norm(p.place(a) - p.place(b)) for a, b in ((limb.upper, limb.middle), (limb.middle, limb.end))]
            for p in (before, after)
        ]
        if stretch:
            assert np.linalg.norm(after.place(target) - to) < 1e-3
        else:
            assert np.allclose(*lengths, atol=1e-3)
        if case == "together":
            assert np.allclose(
                after.place(limb.end) - after.place(limb.middle),
                before.place(limb.end) - before.place(limb.middle),
                atol=1e-3,
            )
        others = [j for other in rig.limbs if other is not limb for j in (other.middle, other.end)]
        assert all(np.abs(after.place(j) - before.place(j)).max() < 1e-3 for j in others)


@pytest.mark.parametrize("which", thinned(range(6), [0, 3, 4]))
def test_the_root_of_a_limb_moves_without_its_middle_and_end(which: int) -> None:
    rig, values = poses()[which]
    limb = rig.limbs[0]
    before = Stance(rig, values)
    to = before.place(limb.upper) + [0.01, 0.02, -0.02]
    after = moved(rig, values, Placing(Stance(rig, values), limb.upper).to(to))
    for held in (limb.middle, limb.end):
        assert np.linalg.norm(after.place(held) - before.place(held)) < 1e-3
    length = [np.linalg.norm(p.place(limb.upper) - p.place(limb.middle)) for p in (before, after)]
    assert length[0] == pytest.approx(length[1], abs=1e-3)
    assert np.linalg.norm(after.place(limb.upper) - before.place(limb.upper)) > 1e-4


def test_an_end_follows_its_bone_or_keeps_its_angle(demo: Shot) -> None:
    rig, values = demo.figure("porter").rig, staged(demo, "porter", 101).values[0].copy()
    hand = rig.joint("left hand")
    before = Stance(rig, values)
    to = before.place(hand) + [0.0, 0.25, 0.2]
    turned = []
    for keep in (False, True):
        after = moved(rig, values, Placing(Stance(rig, values), hand, keep_turn=keep).to(to))
        turned.append(np.linalg.norm(rotation_vector(before.rigid[hand, :3, :3].T @ after.rigid[hand, :3, :3])))
    assert turned[0] > 0.2 and turned[1] < 1e-6


def test_a_stretched_limb_keeps_its_bend(demo: Shot) -> None:
    new = script.place(demo, "porter", 119, "left hand", (0.5, 0.6, 0.7), stretch=True)
    values = script.values(new, "porter", 119)
    assert values["left elbow/upper length"] == pytest.approx(values["left elbow/lower length"])
    assert values["left elbow/upper length"] > 1.05
    joint = demo.figure("porter").rig.joint("left hand")
    assert np.allclose(script.sample(new, "porter", [119]).position[0, joint], (0.5, 0.6, 0.7), atol=1e-3)


def test_what_cannot_hold_or_be_placed_says_so(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="cannot stay"):
        script.place(demo, "porter", 119, "left hand", (0.2, 1.2, 0.5), keep=["left forearm", "left index"])
    with pytest.raises(BadMotion, match="finite number"):
        script.place(demo, "porter", 119, "left hand", (0.2, float("nan"), 0.5))
    crate = demo.figure("crate").rig
    Placing(Stance(crate, np.array(crate.defaults)), 0).to(np.array([0.1, 0.2, 0.3]))
    post = one_bone().rig
    values = np.array(post.defaults)
    after = moved(post, values, place_values(Stance(post, values), 2, np.array([0.0, 1.4, 0.0])))
    assert np.allclose(after.place(2), (0.0, 1.4, 0.0), atol=1e-9)
    with pytest.raises(BadMotion, match="hangs on nothing that turns"):
        Placing(Stance(stiff(), np.zeros(6)), 1).to(np.zeros(3))


def _toward(limb: Limb, joint: str, now: Stance) -> np.ndarray:
    """From a joint through what it turns about and out at the other side, unit (3,)."""
    start, middle, end = (now.place(j) for j in (limb.upper, limb.middle, limb.end))
    along = (end - start) / np.linalg.norm(end - start)
    pivot = start if joint == "end" else start + along * ((middle - start) @ along)
    way = pivot - now.place(getattr(limb, joint))
    size = np.linalg.norm(way)
    return np.asarray(way / size if size > 1e-3 else np.cross(along, [0.3, 0.5, 0.8]))


@pytest.mark.parametrize("step", [0.006, pytest.param(0.002, marks=pytest.mark.sweep)])
@pytest.mark.parametrize("joint", ["end", "middle"])
@pytest.mark.parametrize("which", [0, 4])
def test_nothing_pops_at_full_length_or_where_the_pointer_passes_the_pivot(which: int, joint: str, step: float) -> None:
    rig, values = poses()[which]
    limb = rig.limbs[0]
    target = getattr(limb, joint)
    before = Stance(rig, values)
    for sign in (1.0, -1.0):
        way = sign * _toward(limb, joint, before)
        placing = Placing(before, target, [limb.end] if joint == "middle" else [])
        last = before
        for far in np.arange(step, 0.6, step):
            now = before.with_values(placing.to(before.place(target) + far * way))
            assert np.linalg.norm(now.rigid[:, :3, 3] - last.rigid[:, :3, 3], axis=-1).max() < 20 * step, (sign, far)
            last = now
        for share in (0.5, 0.1, 0.0, 0.0):
            last = before.with_values(placing.to(before.place(target) + 0.6 * share * way))
        assert np.abs(last.rigid[:, :3, 3] - before.rigid[:, :3, 3]).max() < 1e-3
