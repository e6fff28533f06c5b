"""Each kind of note: a shot with just that fault is found with its frames and amount, and is clean after the remedy."""

from collections.abc import Callable
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from benchmarks.motions import smooth_motion
from tests.formats import gltf_maker as make
from tools.cast.demo import STAND, everything

from bovrin import cast, script
from bovrin.craft.keying.key_sets import remove_keys, set_role
from bovrin.craft.proofing import listed_again
from bovrin.errors import BovrinError
from bovrin.measure.proof import KINDS, LOOKS, Note, Reader
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Acting, KeyRole, Shot, Take

EASY = {**STAND, "hips/up": -0.06, "left hand/up": 0.05, "right hand/up": 0.02}


def posed(shot: Shot, frame: float, **_none: float) -> Shot:
    return script.key_pose(shot, "porter", frame)


def with_values(shot: Shot, frame: float, values: dict[str, float]) -> Shot:
    return script.set_values(shot, "porter", frame, values)


@cache
def clean(frames: tuple[int, ...] = (101, 111, 121), last: float = 126.0) -> Shot:
    """The porter looks round: hips, chest and head move, everything is keyed on three poses, and eased."""
    demo = script.demo()
    shot = replace(demo, first=101.0, last=last, markers=())
    shot = shot.with_curves("porter", shot.figure("porter").no_motion()).with_cards("porter", ())
    ways = ({}, {"head/turn": 40, "chest/turn": 8}, {"head/turn": -12, "chest/turn": -3}, {"head/turn": 3})
    for frame, change in zip(frames, ways, strict=False):
        shot = with_values(shot, frame, everything(shot, {**EASY, **change}))
        shot = script.key_pose(shot, "porter", frame)
    return script.splined(shot, "porter")


def slid() -> Shot:
    return with_values(clean(), 121, {"left foot/forward": 0.04})


def sunk() -> Shot:
    return with_values(clean(), 111, {"left foot/up": -0.03})


def leaning() -> Shot:
    shot = with_values(clean(), 111, {"hips/forward": 0.26, "hips/up": -0.2, "spine/tilt": 40})
    return with_values(shot, 121, {"hips/forward": 0.26, "hips/up": -0.2, "spine/tilt": 40})


def kinked() -> Shot:
    shot = with_values(clean(), 111, {"left hand/forward": 0.22, "left hand/up": 0.1, "left hand/across": -0.1})
    shot = with_values(shot, 121, {"left hand/forward": 0.1, "left hand/up": 0.1})
    for frame in (105, 107):
        shot = script.insert_key(shot, "porter", "left hand/across", frame)
    off = script.values(shot, "porter", 106)["left hand/across"] + 0.04
    at = shot.figure("porter").rig.channel("left hand/across")
    return set_role(
        with_values(shot, 106, {"left hand/across": off}), "porter", {at: np.array([106.0])}, KeyRole.IN_BETWEEN
    )


def popped() -> Shot:
    shot = with_values(clean(), 111, {"head/turn": 70})
    return script.set_handles(shot, "porter", "head/turn", [111], "linear")


def long_way() -> Shot:
    shot = clean()
    for frame in (111, 121):
        shot = with_values(shot, frame, {"head/turn": script.values(shot, "porter", frame)["head/turn"] + 360})
    return shot


def out_of_reach() -> Shot:
    shot = clean()
    for frame in (101, 111, 121):
        shot = with_values(shot, frame, {"left hand/forward": 0.5, "left hand/up": 0.4})
    return shot


def snapped() -> Shot:
    shot = script.set_mode(clean(), "porter", "left arm", 101, "joints")
    names = [f"left forearm/{way}" for way in ("turn", "tilt", "roll")]
    bent = with_values(with_values(shot, 107, dict(zip(names, (0, -60, 0), strict=True))), 109, dict.fromkeys(names, 0))
    return with_values(with_values(bent, 111, dict.fromkeys(names, 0)), 121, dict.fromkeys(names, 0))


def leaking() -> Shot:
    shot = clean((101, 107, 113, 121))
    rig = shot.figure("porter").rig
    head = {i: np.array([107.0, 113.0]) for i in rig.part_channels(rig.part("head")) if len(shot.curves("porter")[i])}
    return script.splined(with_values(remove_keys(shot, "porter", head), 121, {"head/turn": 30}), "porter")


def swelling() -> Shot:
    shot = clean((101, 107, 115, 121))
    shot = with_values(with_values(shot, 107, {"head/turn": 40}), 115, {"head/turn": 40})
    return script.set_handles(shot, "porter", "head/turn", [107, 115], "smooth")


def all_at_once() -> Shot:
    arms = {"left hand/forward": 0.12, "right hand/forward": -0.05, "left hand/up": 0.08, "left index/curl": 60}
    return with_values(clean(), 121, arms)


def mirrored() -> Shot:
    shot = clean()
    for frame, by in ((101, 0.0), (111, 0.0), (121, 0.12)):
        sides = {"left hand/across": by, "right hand/across": -by, "left hand/up": by, "right hand/up": by}
        still = {"chest/turn": 0, "left hand/forward": 0.05, "right hand/forward": 0.05}
        shot = with_values(shot, frame, {**sides, **still})
    return shot


def dead() -> Shot:
    return replace(clean(), last=140.0)


def unclosed() -> Shot:
    return replace(clean(), last=121.0, loops=True)


def trembling() -> Shot:
    shot = script.shape(clean(), "porter", ["head/turn"], 101, 121, "fill in", 1)
    at = shot.figure("porter").rig.channel("head/turn")
    curve = shot.curves("porter")[at]
    noise = np.radians(0.1) * np.where(np.arange(len(curve)) % 2, 1.0, -1.0)
    noise[[0, -1]] = 0.0
    return shot.with_curves("porter", shot.curves("porter").replaced({at: curve.changed(values=curve.values + noise)}))


def idle() -> Shot:
    return script.insert_key(clean(), "porter", "chest/turn", 106)


# kind: the shot, its part, about which frames, about how much, and the parts that its remedy may move
FAULTS: dict[str, tuple[Callable[[], Shot], str, tuple[float, float], float, set[str]]] = {
    "slide": (slid, "left leg", (111, 121), 4.0, {"left leg"}),
    "ground": (sunk, "left leg", (103, 119), 3.0, {"left leg"}),
    "balance": (leaning, "porter", (108, 126), 9.0, set()),
    "kink": (kinked, "left arm", (106, 106), 90.0, {"left arm"}),
    "pop": (popped, "head", (111, 111), 12.0, {"head"}),
    "flip": (long_way, "head", (101, 111), 320.0, {"head"}),
    "locked": (out_of_reach, "left arm", (101, 126), 5.0, {"body"}),
    "snap": (snapped, "left arm", (110, 110), 35.0, {"left arm"}),
    "early": (leaking, "head", (101, 113), 20.0, {"head"}),
    "overshoot": (swelling, "head", (107, 115), 10.0, {"head"}),
    "together": (
        all_at_once,
        "body",
        (121, 121),
        5.0,
        {"body", "head", "left arm", "right arm", "left hand", "right hand"},
    ),
    "twins": (mirrored, "right arm", (111, 121), 16.0, {"right arm"}),
    "dead hold": (
        dead,
        "porter",
        (121, 140),
        20.0,
        {"body", "head", "left arm", "right arm", "left hand", "right hand"},
    ),
    "seam": (unclosed, "", (101, 121), 2.0, {"body", "head", "left arm", "right arm", "left hand", "right hand"}),
    "tremble": (trembling, "head", (101, 121), 0.1, {"head"}),
    "idle key": (idle, "body", (106, 106), 1.0, set()),
}


def found(shot: Shot) -> list[Note]:
    return script.proof(shot, "porter")


def test_what_is_sound_has_no_note() -> None:
    assert found(clean()) == []
    assert set(FAULTS) == set(KINDS) == set(LOOKS)


@pytest.mark.parametrize("kind", list(FAULTS))
def test_each_fault_is_found_and_is_gone_after_its_remedy(kind: str) -> None:
    make, part, (start, end), amount, may_move = FAULTS[kind]
    shot = make()
    notes = found(shot)
    assert {note.kind for note in notes} == {kind}, notes
    note = max(notes, key=lambda n: n.amount)
    assert note.figure == "porter" and part in ("", note.part)
    assert abs(note.start - start) <= 3 and abs(note.end - end) <= 3, note
    assert 0.5 * amount <= note.amount <= 2 * amount, note
    assert note.words and (note.remedy == KINDS[kind].remedy)
    if note.remedy is None:
        with pytest.raises(BovrinError):
            script.remedy(shot, note)
        return
    mended = script.remedy(shot, note)
    left = [n for n in found(mended) if n.start <= note.end and note.start <= n.end]
    assert not left, left
    assert parts_that_changed(shot, mended) <= may_move


def parts_that_changed(before: Shot, after: Shot) -> set[str]:
    """The parts of which any value differs on any half frame."""
    rig = before.figure("porter").rig
    frames = np.arange(before.first, before.last + 0.5, 0.5)
    was, now = (channel_values(shot.curves("porter"), rig, frames) for shot in (before, after))
    differ = np.abs(was - now).max(0) > 1e-7
    for name in (figure.name for figure in before.cast if figure.name != "porter"):
        assert before.curves(name) is after.curves(name)
    return {part.name for n, part in enumerate(rig.parts) if differ[list(rig.part_channels(n))].any()}


def test_only_what_changed_is_read_again() -> None:
    reader, shot = Reader(), slid()
    first = reader.notes(shot)
    assert reader.notes(shot) == first
    once_more = with_values(shot, 111, {"left foot/forward": 0.02})
    assert reader.notes(once_more) == Reader().notes(once_more) != first
    assert reader.notes(shot) == first
    assert reader.notes(shot, going=lambda _share: False) == first, "what was read is not read again"
    assert reader.notes(replace(shot, limits=(("slide", 50.0),))) == []
    assert Reader().notes(shot, going=lambda _share: False) == []


def test_a_note_that_is_left_stays_silent_on_its_frames_in_its_take_and_in_the_file(tmp_path: Path) -> None:
    shot = slid()
    (note,) = found(shot)
    left = script.leave(script.set_limit(shot, "kink", 55.0), note)
    assert found(left) == [] and script.leave(left, note) is left
    assert found(with_values(left, 121, {"left foot/forward": 0.05})) == [], "a little more of the same"
    script.save(left, tmp_path / "s.bovrin.json")
    again = script.load(tmp_path / "s.bovrin.json")
    assert again.take.left == left.take.left and again.limits == (("kink", 55.0),) and found(again) == []
    assert [n.start for n in found(listed_again(left, note))] == [note.start]
    later = script.insert_frames(left, 105, 4)
    assert later.take.left[0].start == note.start + 4 and found(later) == []
    assert script.set_limit(left, "kink", None).limits == ()
    for kind, limit in (("kink", -1.0), ("kink", float("nan")), ("gossip", 1.0)):
        with pytest.raises(BovrinError):
            script.set_limit(shot, kind, limit)


STRANGE: dict[str, Callable[[Path], Shot]] = {
    "one frame": lambda _p: replace(script.demo(), first=110.0, last=110.0),
    "two frames": lambda _p: replace(script.demo(), first=110.0, last=111.0),
    "still": lambda _p: replace(
        script.demo(), take=Take("A", {f.name: Acting(f.no_motion()) for f in script.demo().cast})
    ),
    "between frames": lambda _p: replace(script.splined(script.demo(), "porter"), first=101.5, last=130.25),
    "ball": lambda _p: script.splined(script.demo(), "buoy"),
    "goat": lambda _p: script.splined(script.load(cast.GOAT), "goat"),
    "stranger": lambda p: brought(p / "s.glb", make.figure(make.TWO_LEGS).glb()),
    "no mesh, dense": lambda p: brought(p / "m.bvh", smooth_motion(60)[0]),
    "nobody": lambda _p: Shot("Nobody"),
}


def brought(path: Path, data: bytes) -> Shot:
    path.write_bytes(data)
    return script.bring(path)


@pytest.mark.parametrize("name", list(STRANGE))
def test_every_shot_can_be_read_and_every_remedy_taken_or_refused_in_words(name: str, tmp_path: Path) -> None:
    shot = STRANGE[name](tmp_path)
    for note in script.proof(shot)[:5]:
        assert note.start <= note.end and np.isfinite(note.amount) and note.words
        try:
            script.remedy(shot, note)
        except BovrinError as error:
            assert error.sentence


def test_a_figure_that_came_with_its_middle_at_the_ground_stands_where_its_feet_are() -> None:
    shot = script.bring(cast.FOLDER / "stroll.glb")
    name = shot.cast[0].name
    low = script.sample(shot, name, np.arange(shot.first, shot.last + 1)).position[..., 1].min()
    assert low < -0.5, "its hips lie at 0"
    assert not [note for note in script.proof(shot) if note.kind == "ground"]
