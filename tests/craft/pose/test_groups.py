from pathlib import Path

import pytest
from tests.rigs import goat

from bovrin import script
from bovrin.craft.pose.groups import group_controls, group_named, keep_group, remove_group
from bovrin.errors import BadMotion, UnknownName
from bovrin.shot import Shot


def test_groups_are_kept_replaced_and_saved(demo: Shot, tmp_path: Path) -> None:
    rig = demo.figure("porter").rig
    chosen = [rig.control(n) for n in ("chest", "head", "left hand")]
    shot = keep_group(demo, " upper body ", "porter", chosen)
    shot = keep_group(keep_group(shot, "feet", "porter", [rig.control("left foot")]), "feet", "porter", chosen[:1])
    assert [g.name for g in shot.groups] == ["upper body", "feet"]
    script.save(shot, tmp_path / "own.bovrin.json")
    again = script.load(tmp_path / "own.bovrin.json")
    assert again.groups == shot.groups
    assert group_controls(rig, group_named(again, "upper body")) == (chosen, [])
    assert [g.name for g in remove_group(again, "feet").groups] == ["upper body"]


def test_on_another_figure_what_is_missing_is_named(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    shot = keep_group(demo, "top", "porter", [rig.control("chest"), rig.control("left hand")])
    other = goat().rig
    found, missing = group_controls(other, group_named(shot, "top"))
    assert [other.controls[c].name for c in found] == ["chest"] and missing == ["left hand"]


def test_bad_groups_say_so(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="needs a name"):
        keep_group(demo, "  ", "porter", [0])
    with pytest.raises(BadMotion, match="nothing chosen"):
        keep_group(demo, "none", "porter", [])
    with pytest.raises(UnknownName, match="no group 'x'"):
        remove_group(demo, "x")
