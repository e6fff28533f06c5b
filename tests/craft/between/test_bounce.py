import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import chain_figure

from bovrin.craft.between.bounce import GRAVITY, bounce, bounce_curve, keyed_tops
from bovrin.craft.between.snap import snap
from bovrin.craft.curves.bending import keys_dragged, sharp_contact
from bovrin.craft.curves.splining import splined
from bovrin.craft.traces import keep_trace, remove_trace, rename_trace, swap_trace, traces_of
from bovrin.errors import BadMotion, UnknownName
from bovrin.formats.project.store import load, save
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, EndKind, HandleKind, Key, KeyRole, Shot
from bovrin.shot.curve import NO_KEYS


@given(
    st.lists(st.integers(2, 24), min_size=1, max_size=5),
    st.lists(st.floats(0.05, 3), min_size=5, max_size=5),
    st.floats(-1, 2),
)
def test_between_contacts_it_is_a_throw(spans: list[int], heights: list[float], ground: float) -> None:
    contacts = np.concatenate([[101.0], 101.0 + np.cumsum(spans)])
    curve = bounce_curve(NO_KEYS, contacts, ground, heights[: len(spans)], 24.0)
    at = [curve.index_at(float(f)) for f in contacts]
    assert np.allclose(curve.values[at], ground, atol=0) and not curve.joined[at].any()
    for n, span in enumerate(spans):
        t = np.linspace(0, span, 97)
        g = 8 * heights[n] / span**2
        expected = ground + g * span / 2 * t - g * t * t / 2
        inside = curve_values(curve, contacts[n] + t)
        assert np.abs(inside - expected).max() < 1e-9 * max(1, heights[n])
        assert inside.max() == pytest.approx(ground + heights[n], abs=1e-3 * heights[n])


def test_down_steps_by_gravity() -> None:
    contacts, ground = [101.0, 111.0, 119.0, 125.0], [0.6, 0.4, 0.2, 0.0]
    curve = bounce_curve(NO_KEYS, contacts, ground, None, 24.0)
    frames = np.linspace(101, 111, 41)
    t = (frames - 101) / 24
    v = (0.4 - 0.6) / (10 / 24) + GRAVITY * (10 / 24) / 2
    assert np.abs(curve_values(curve, frames) - (0.6 + v * t - GRAVITY * t * t / 2)).max() < 0.0005
    assert curve.role.tolist().count(KeyRole.BREAKDOWN) == 3


def test_what_lies_outside_the_contacts_stays() -> None:
    old = Curve.from_keys([*bounce_curve(NO_KEYS, [90, 96], 0.0, [0.1], 24.0).keys()]).ending(after=EndKind.REPEAT)
    new = bounce_curve(old, [96, 104, 110], 0.0, [0.3, 0.1], 24.0)
    frames = np.linspace(90, 96, 30)
    assert np.allclose(curve_values(new, frames), curve_values(old, frames)) and new.after is EndKind.REPEAT


def test_bounces_that_cannot_be_say_so() -> None:
    shot = Shot("Bare").with_figure(chain_figure())
    up = shot.figure("rod").rig.channel("whole/up")
    for contacts, heights, ground, words in (
        ([101.0], [], 0.0, "two contacts"),
        ([101.0, 101.2], [0.1], 0.0, "two contacts"),
        ([101.0, 109.0], [0.1, 0.2], 0.0, "1 tops"),
        ([101.0, 109.0], [0.1], [0.0, 0.5], "no higher"),
        ([101.0, 109.0], [-1.0], 0.0, "no higher"),
    ):
        with pytest.raises(BadMotion, match=words):
            bounce(shot, "rod", up, contacts, heights, ground)


@given(st.sampled_from([(119, 127), (127, 133), (121, 131)]), st.floats(0, 0.3))
def test_a_snap_leaves_and_arrives_at_once(demo: Shot, span: tuple[int, int], drift: float) -> None:
    shot = splined(demo, "porter")
    rig = shot.figure("porter").rig
    start, end = span
    sharp = snap(shot, "porter", ["left arm", "right arm"], start, end, 4, drift)
    up = rig.channel("left hand/up")
    before, after = (channel_values(s.curves("porter"), rig, np.arange(start, end + 5.0)) for s in (shot, sharp))
    way = after[end - start, up] - after[0, up]
    steps = np.diff(after[: end - start + 1, up]) / way
    if end - start == 8:
        assert steps[0] > 0.1 and steps[-1] > 0.1 and abs(np.diff(before[:2, up])[0] / way) < 0.06
    assert np.allclose(after[[0, end - start]], before[[0, end - start]], atol=1e-9)
    hips = list(rig.part_channels(rig.part("body")))
    assert np.array_equal(after[:, hips], before[:, hips])
    earlier = np.arange(101.0, start + 1)
    a, b = (channel_values(s.curves("porter"), rig, earlier) for s in (shot, sharp))
    assert np.allclose(a, b, atol=1e-9), "what came before stays"


def test_a_snap_of_nothing_says_so(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="nothing of what is chosen moves"):
        snap(demo, "porter", ["left arm"], 145, 150)
    with pytest.raises(BadMotion, match="a later one to end"):
        snap(demo, "porter", None, 150, 145)


def test_traces_swap_back_and_forth(demo: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    kept = keep_trace(demo, "porter", "blocked")
    bold = splined(kept, "porter")
    swapped = swap_trace(bold, "porter", "blocked")
    assert swapped.curves("porter") is demo.curves("porter")
    again = swap_trace(swapped, "porter", "blocked")
    assert again.curves("porter") is bold.curves("porter")
    assert traces_of(again, "porter")[0].curves is demo.curves("porter")
    two = rename_trace(keep_trace(again, "porter"), "porter", "trace 1", "eased")
    assert [t.name for t in traces_of(two, "porter")] == ["blocked", "eased"]
    save(two, tmp_path / "a.bovrin.json")
    back = load(tmp_path / "a.bovrin.json")
    rig = demo.figure("porter").rig
    frames = np.arange(101, 161)
    for one, other in zip(traces_of(back, "porter"), traces_of(two, "porter"), strict=True):
        assert one.name == other.name
        assert np.array_equal(channel_values(one.curves, rig, frames), channel_values(other.curves, rig, frames))
    assert [t.name for t in traces_of(remove_trace(two, "porter", "blocked"), "porter")] == ["eased"]
    with pytest.raises(UnknownName, match="no trace"):
        swap_trace(two, "porter", "bold")
    with pytest.raises(BadMotion, match="already"):
        keep_trace(two, "porter", "eased")


def test_ends_and_mutes_are_in_the_file(demo: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    curves = demo.curves("porter")
    changed = curves.replaced(
        {3: curves[3].ending(EndKind.STRAIGHT, EndKind.BACK_AND_FORTH), 5: curves[5].silenced(True)}
    )
    save(demo.with_curves("porter", changed), tmp_path / "a.bovrin.json")
    back = load(tmp_path / "a.bovrin.json").curves("porter")
    assert (back[3].before, back[3].after, back[5].muted) == (EndKind.STRAIGHT, EndKind.BACK_AND_FORTH, True)
    assert back[4].after is EndKind.HOLD and not back[4].muted and back[3].out_kind[0] == HandleKind.STEPPED


def test_the_tops_that_were_keyed_are_kept() -> None:
    contacts, ground = np.array([101.0, 113.0, 125.0]), np.array([0.0, 0.0, 0.0])
    drawn = Curve.from_keys([Key(101, 0.0), Key(106, 0.9), Key(113, 0.0), Key(125, 0.0)])
    tops = keyed_tops(drawn, contacts, ground, 24.0)
    assert tops is not None and tops[0] == 0.9
    gravity = 9.81 / 24**2
    assert tops[1] == pytest.approx(gravity * 12**2 / 8)
    made = bounce_curve(drawn, contacts.tolist(), ground.tolist(), tops, 24.0)
    heights = curve_values(made, np.linspace(101, 113, 121))
    assert heights.max() == pytest.approx(0.9) and heights.min() >= -1e-12
    assert keyed_tops(Curve.from_keys([Key(101, 0.0), Key(113, 0.0)]), contacts[:2], ground[:2], 24.0) is None


def test_raising_a_top_keeps_the_contact_sharp() -> None:
    made = bounce_curve(Curve(), [101.0, 113.0], 0.0, [0.5], 24.0)
    top = int(made.values.argmax())
    higher = keys_dragged(made, np.array([top]), 0.0, 0.5)
    looks = np.linspace(101, 113, 97)
    assert np.abs(curve_values(higher, looks) - 2 * curve_values(made, looks)).max() < 1e-9
    back = keys_dragged(higher, np.array([top]), 0.0, -0.5)
    assert np.abs(curve_values(back, looks) - curve_values(made, looks)).max() < 1e-9


def test_a_sharp_contact_aims_at_its_neighbours_wherever_they_go() -> None:
    curve = Curve.from_keys([Key(101, 1.0), Key(107, 0.0), Key(115, 2.0)])
    sharp = sharp_contact(curve, np.array([1]))
    moved = keys_dragged(sharp, np.array([2]), 0.0, 3.0)
    for made, after in ((sharp, 2.0), (moved, 5.0)):
        now = gather([made])
        assert now.in_slope[1] == pytest.approx(-1 / 6) and now.out_slope[1] == pytest.approx(after / 8)
        assert not made.joined[1]


@pytest.mark.parametrize("hold", [4.0, 8.0, 9.0])
def test_a_snap_s_drift_starts_at_once_and_settles(demo: Shot, hold: float) -> None:
    """Each frame goes less far than the one before, on the way that was taken, and none goes back."""
    shot = splined(demo, "porter")
    made = snap(shot, "porter", ["left arm"], 119, 127, hold, 0.1)
    rig = shot.figure("porter").rig
    until = 127 + min(hold, 5)
    frames = np.arange(127.0, until + 1)
    values = channel_values(made.curves("porter"), rig, frames)
    gone = values[-1] - values[0]
    snapped = [a is not b for a, b in zip(shot.curves("porter").curves, made.curves("porter").curves, strict=True)]
    moved = np.flatnonzero((np.abs(gone) > 1e-4) & snapped)
    assert len(moved)
    steps = np.diff(values[:, moved], axis=0) * np.sign(gone[moved])
    assert (steps > -1e-9).all() and (np.diff(steps, axis=0) < 1e-9).all()
    assert (steps[0] > 1.5 * np.abs(gone[moved]) / (len(frames) - 1)).all()
