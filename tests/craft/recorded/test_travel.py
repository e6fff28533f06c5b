"""Travel that lies in the hips is taken over by the whole figure, and nothing moves for it."""

import numpy as np
import pytest
from tests.figure import builds
from tests.figure.test_builds import walking

from bovrin import script
from bovrin.craft.pose.mirror_travel import travelling_hips
from bovrin.craft.recorded.travel import WAYS, travel_to_whole
from bovrin.errors import BadMotion
from bovrin.figure.reading.reaching import reaching
from bovrin.figure.staging import staged
from bovrin.shot import HandleKind, Shot

FRAMES = np.arange(101.0, 141.0)
NAMES = builds.TWO_LEGS["in one word"]


def walked(*, reach: bool = True) -> Shot:
    shot = walking(NAMES[2], NAMES[0]["hips"])
    return reaching(shot) if reach else shot


def keyed(shot: Shot, step: int, kind: HandleKind) -> Shot:
    """The same with a pose on every so many frames."""
    found = {}
    for i, curve in enumerate(shot.curves("it").curves):
        if len(curve) > 1:
            thin = curve.taken(np.arange(len(curve)) % step == 0)
            kinds = np.full(len(thin), kind, np.uint8)
            found[i] = thin.changed(in_kind=kinds if kind is not HandleKind.STEPPED else thin.in_kind, out_kind=kinds)
    return shot.with_curves("it", shot.curves("it").replaced(found))


def worlds(shot: Shot, frames: np.ndarray = FRAMES) -> np.ndarray:
    return staged(shot, "it", frames).world[:, 1:]


def channel(shot: Shot, name: str) -> np.ndarray:
    rig = shot.figure("it").rig
    return staged(shot, "it", FRAMES).values[:, rig.channel_names.index(name)]


@pytest.mark.parametrize("reach", [True, False])
@pytest.mark.parametrize("ways", [WAYS, ("forward",), ("across", "forward"), ("turn",), ("up", "turn")])
def test_no_joint_moves_and_the_whole_figure_goes_the_ways_asked_for(ways: tuple[str, ...], reach: bool) -> None:
    shot = walked(reach=reach)
    told = travel_to_whole(shot, "it", ways)
    assert np.abs(worlds(told) - worlds(shot)).max() < 1e-6
    hips = script.sample(shot, "it", FRAMES)
    at = hips.joints.index(NAMES[0]["hips"])
    rest = np.array([0.0, 0.95, 0.0])
    for axis, way in enumerate(("across", "up", "forward")):
        gone = script.sample(told, "it", FRAMES).position[:, 0] if "turn" not in ways else None
        if gone is not None:
            wanted = hips.position[:, at, axis] - rest[axis] if way in ways else 0 * FRAMES
            assert np.abs(gone[:, axis] - wanted).max() < 1e-6, way
    if set(ways) == set(WAYS):
        assert travelling_hips(told, "it") is None, "there is no travel left in the hips"
        left = [np.ptp(channel(told, f"{NAMES[0]['hips']}/{way}")) for way in ("across", "up", "forward")]
        assert max(left) < 1e-6


def test_other_takes_and_figures_are_as_they_were() -> None:
    shot = script.demo().with_figure(walked().figure("it"), walked().curves("it"))
    told = travel_to_whole(shot, "it")
    assert all(told.curves(f.name) is shot.curves(f.name) for f in shot.cast if f.name != "it")
    assert told.takes == shot.takes


def test_stepped_poses_stay_where_they_are_and_stepped() -> None:
    shot = keyed(walked(), 8, HandleKind.STEPPED)
    told = travel_to_whole(shot, "it")
    assert np.abs(worlds(told, np.arange(101, 139.5, 0.5)) - worlds(shot, np.arange(101, 139.5, 0.5))).max() < 1e-6
    assert max(len(c) for c in told.curves("it").curves) == 5


def test_splined_motion_stays_between_its_keys_too_with_few_keys_more() -> None:
    shot = keyed(walked(reach=False), 8, HandleKind.SMOOTH)
    told = travel_to_whole(shot, "it")
    fine = np.arange(101.0, 133.01, 0.25)
    assert np.abs(worlds(told, fine)[..., :3, 3] - worlds(shot, fine)[..., :3, 3]).max() < 1e-3
    assert max(len(c) for c in told.curves("it").curves) < 25


def test_what_cannot_be_is_said() -> None:
    with pytest.raises(BadMotion, match="do not travel"):
        travel_to_whole(script.demo(), "porter")
    with pytest.raises(BadMotion, match="travel goes"):
        travel_to_whole(walked(), "it", ("sideways",))
    done = travel_to_whole(walked(), "it")
    with pytest.raises(BadMotion, match="do not travel"):
        travel_to_whole(done, "it")
