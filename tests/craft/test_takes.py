import numpy as np
import pytest

from bovrin import script
from bovrin.craft.curves.rotation import set_rotation_order
from bovrin.craft.ranges import add_in_front
from bovrin.craft.takes import chosen_take, copied_take, next_name, renamed_take, without_take
from bovrin.errors import BadMotion, UnknownName
from bovrin.shot import Shot


def test_a_copied_take_goes_its_own_way(demo: Shot) -> None:
    first = demo.take.name
    two = script.splined(copied_take(demo, "eased"), "porter")
    assert [t.name for t in two.all_takes] == [*(t.name for t in demo.all_takes), "eased"], "as they were made"
    back = chosen_take(two, first)
    assert back.take.curves["porter"] is demo.take.curves["porter"]
    again = chosen_take(back, "eased")
    assert again.take.curves["porter"] is two.take.curves["porter"]


def test_names_are_kept_apart(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="already"):
        copied_take(demo, demo.take.name)
    with pytest.raises(BadMotion, match="name"):
        renamed_take(demo, "  ")
    with pytest.raises(UnknownName, match="'rehearsal'"):
        chosen_take(demo, "rehearsal")
    assert renamed_take(demo, "rehearsal").take.name == "rehearsal"
    assert next_name(demo) not in {take.name for take in demo.all_takes}


def test_the_last_take_stays(demo: Shot) -> None:
    shot = demo
    while shot.takes:
        shot = without_take(shot, shot.take.name)
    with pytest.raises(BadMotion, match="one take"):
        without_take(shot, shot.take.name)


def test_what_changes_the_cast_or_time_changes_every_take(demo: Shot) -> None:
    """A rotation order and frames in front leave the motion of the take that is not worked on as it was."""
    frames = np.array([101.0, 114, 119, 123, 133, 160])
    two = script.splined(copied_take(demo, "spare"), "porter")
    before = script.sample(two.with_take(demo.take.name), "porter", frames)
    turned = set_rotation_order(two, "porter", "chest", "ZXY").with_take(demo.take.name)
    assert np.abs(script.sample(turned, "porter", frames).position - before.position).max() < 1e-4
    moved = add_in_front(two, 130).with_take(demo.take.name)
    by = 130 - two.first
    assert np.allclose(script.sample(moved, "porter", frames + by).position, before.position, atol=1e-9)


def test_takes_are_in_the_file(demo: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    two = script.splined(copied_take(demo, "eased"), "porter")
    script.save(two, tmp_path / "two.bovrin.json")
    read = script.load(tmp_path / "two.bovrin.json")
    assert [t.name for t in read.all_takes] == [t.name for t in two.all_takes] and read.take.name == "eased"
    for take in two.all_takes:
        a = script.sample(two.with_take(take.name), "porter", [117.5]).position
        assert np.allclose(script.sample(read.with_take(take.name), "porter", [117.5]).position, a, atol=1e-9)
