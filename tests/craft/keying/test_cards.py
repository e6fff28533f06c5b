import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bovrin.craft.between.breakdown import breakdown, fill_breakdowns, measured_favours, parents, remembered
from bovrin.craft.between.chart import chart, preset_shares, resampled_shares, set_chart
from bovrin.craft.between.push import push_past, settle
from bovrin.craft.keying.cards import card_at, name_pose
from bovrin.craft.keying.keys import set_channels
from bovrin.craft.keying.timing import insert_frames, lengthen, slide
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot


def values(shot: Shot, *frames: float):  # type: ignore[no-untyped-def]
    return channel_values(shot.curves("porter"), shot.figure("porter").rig, frames)


def test_a_name_goes_with_its_pose(demo: Shot) -> None:
    named = name_pose(demo, "porter", 127, "heave")
    assert card_at(lengthen(named, "porter", 114, 3), "porter", 130).name == "heave"
    assert card_at(insert_frames(named, 110, 5), "porter", 132).name == "heave"
    assert card_at(name_pose(named, "porter", 127, "  "), "porter", 127).name == ""
    with pytest.raises(BadMotion, match="no pose"):
        name_pose(demo, "porter", 128, "nothing")


@settings(max_examples=20)
@given(st.floats(-0.3, 1.3), st.floats(-0.3, 1.3), st.floats(-0.3, 1.3))
def test_a_breakdown_is_favoured_anew_as_if_made_so(demo: Shot, first: float, head: float, second: float) -> None:
    once = breakdown(demo, "porter", 123, first, {"head": head})
    nearer = breakdown(once, "porter", 121, 0.5)
    again = breakdown(nearer, "porter", 123, second)
    assert parents(nearer, "porter", 123) == (119, 127)
    assert np.allclose(values(again, 123), values(breakdown(demo, "porter", 123, second), 123), atol=1e-9)
    assert remembered(again, "porter", 123) is not None


def test_memory_follows_retiming_and_ends_with_a_hand_edit(demo: Shot) -> None:
    made = breakdown(demo, "porter", 123, 0.7, {"head": 0.4})
    later = lengthen(made, "porter", 109, 6)
    blend = remembered(later, "porter", 129)
    assert blend is not None and (blend.before, blend.after, blend.favour) == (125, 133, 0.7)
    assert dict(blend.own) == {"head": 0.4}
    delayed = slide(made, "porter", 1, ["head"], 123, 160)
    assert remembered(delayed, "porter", 123) is not None
    rig = demo.figure("porter").rig
    edited = set_channels(made, "porter", 123, {rig.channel("chest/tilt"): 0.5})
    assert remembered(edited, "porter", 123) is None and parents(edited, "porter", 123) == (119, 127)


def test_fills_remember_each_drawing_and_a_chart_keeps_the_distance_of_a_part(demo: Shot) -> None:
    filled = fill_breakdowns(demo, "porter", 119, 127, 2, own={"head": 0.3})
    blend = remembered(filled, "porter", 123)
    assert blend is not None and blend.favour == pytest.approx(0.5) and dict(blend.own)["head"] == pytest.approx(0.3)
    whole, own = measured_favours(filled, "porter", 123)
    assert own["head"] == pytest.approx(0.3, abs=0.02) and own["left arm"] == pytest.approx(0.5, abs=1e-6)
    assert 0.3 < whole < 0.6
    spaced = set_chart(filled, "porter", 119, 127, [0, 0, 0.2, 0.2, 0.7, 0.7, 0.9, 0.9, 1])
    found = remembered(spaced, "porter", 123)
    assert found is not None and found.favour - dict(found.own)["head"] == pytest.approx(0.2)
    assert chart(spaced, "porter", 119, 127) == pytest.approx([0, 0, 0.2, 0.2, 0.7, 0.7, 0.9, 0.9, 1], abs=0.01)


def test_a_chart_goes_onto_a_span_of_another_length(demo: Shot) -> None:
    shares = preset_shares(9, "slow in", 0.8)
    longer = resampled_shares(shares, 11)
    assert longer[0] == 0 and longer[-1] == 1 and len(longer) == 11 and (np.diff(longer) > 0).all()
    assert np.allclose(resampled_shares(shares, 9), shares)
    assert chart(set_chart(demo, "porter", 133, 143, longer), "porter", 133, 143) == pytest.approx(longer, abs=0.01)


@settings(max_examples=20)
@given(st.floats(0.05, 0.5), st.floats(0, 1))
def test_push_past_and_settle_stay_on_the_way(demo: Shot, amount: float, favour: float) -> None:
    rig = demo.figure("porter").rig
    up = rig.channel("hips/up")
    start, meant = values(demo, 119, 127)[:, up]
    pushed = push_past(demo, "porter", 129, amount)
    strong = values(pushed, 127)[0, up]
    assert strong == pytest.approx(start + (meant - start) * (1 + amount))
    done = settle(pushed, "porter", 130, favour)
    assert values(done, 130)[0, up] == pytest.approx(strong + (meant - strong) * favour)
    again = push_past(pushed, "porter", 127, amount)
    assert values(again, 127)[0, up] == pytest.approx(strong)
    turned = [i for i, c in enumerate(rig.channels) if c.technical.startswith("rotate")]
    gone_on = settle(pushed, "porter", 130, 1.0)
    assert np.allclose(values(gone_on, 130)[0, turned], values(demo, 127)[0, turned], atol=1e-6)


def test_there_is_something_to_push_and_to_settle_from(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="comes from no other pose"):
        push_past(demo, "porter", 103)
    with pytest.raises(BadMotion, match="not pushed past"):
        settle(demo, "porter", 130)
