"""Cycles, contacts, clips and lanes in the project: written, read, the same; damaged, told in a sentence."""

import json
from pathlib import Path

import numpy as np
import pytest
from tests.craft.clips.test_clips import shelf
from tests.cycles import cycle_of, lively, places

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.shot import Shot

EVERY = np.arange(101.0, 240.0, 0.5)


def full() -> Shot:
    shot = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=3, strength=0.9, mute=("left hand",))
    shot = bv.crossfade(bv.lay_clip(shot, "porter", "run", 197, repeats=3), "porter", 0, 180, 12)
    return bv.lay_clip(shot, "porter", "nod", 120, lane=1, how="added", weight=0.6, hold=4.0, backwards=True)


def test_clips_and_lanes_are_read_as_they_were_written(tmp_path: Path) -> None:
    shot = full()
    bv.save(shot, tmp_path / "a.bovrin.json")
    again = bv.load(tmp_path / "a.bovrin.json")
    assert np.abs(places(again, "porter", EVERY) - places(shot, "porter", EVERY)).max() < 1e-12
    bv.save(again, tmp_path / "b.bovrin.json")
    assert (tmp_path / "a.bovrin.json").read_bytes() == (tmp_path / "b.bovrin.json").read_bytes()


def test_cycles_and_contacts_are_read_as_they_were_written(tmp_path: Path) -> None:
    shot = lively(cycle_of("goat", "trot", 24, 0.6), "goat")
    bv.save(shot, tmp_path / "a.bovrin.json")
    again = bv.load(tmp_path / "a.bovrin.json")
    assert again.cycle("goat") == shot.cycle("goat")
    assert dict(again.contacts("goat")) == dict(shot.contacts("goat"))
    assert np.abs(places(again, "goat", EVERY) - places(shot, "goat", EVERY)).max() < 1e-12


BREAKS = {
    "a clip that is gone": lambda p: p["clips"].pop(0),
    "two clips of a name": lambda p: p["clips"].append(p["clips"][0]),
    "no length": lambda p: p["clips"][0].update(length=0),
    "beyond its clip": lambda p: p["take"]["lanes"]["porter"][0]["clips"][0].update(last=9999),
    "no speed": lambda p: p["take"]["lanes"]["porter"][0]["clips"][0].update(speed=0),
    "lanes of nobody": lambda p: (
        p["take"]["lanes"].update(nobody=[]) or p["take"]["lanes"].update(x=p["take"]["lanes"]["porter"])
    ),
    "a cycle of nobody": lambda p: p["take"].update(cycles={"nobody": {"first": 1, "last": 2}}),
    "a cycle turned over": lambda p: p["take"].update(cycles={"porter": {"first": 9, "last": 2}}),
    "contacts of no limb": lambda p: p["take"].update(contacts={"porter": {"wing": [[1, 2]]}}),
    "a contact turned over": lambda p: p["take"].update(contacts={"porter": {"left leg": [[5, 2]]}}),
    "keys instead of nothing": lambda p: p["take"].update(instead={"porter": ["no/such"]}),
}


@pytest.mark.parametrize("what", BREAKS)
def test_damage_is_told_and_the_file_stays(tmp_path: Path, what: str) -> None:
    path = tmp_path / "a.bovrin.json"
    bv.save(full(), path)
    project = json.loads(path.read_text())
    BREAKS[what](project)
    path.write_text(json.dumps(project))
    before = path.read_bytes()
    with pytest.raises(BovrinError) as told:
        bv.load(path)
    assert len(str(told.value)) > 20 and path.read_bytes() == before
