"""Feet: planted where they are down, timed anew, and what they say of travel."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.cycles import PORTER_LEGS, alone, cycle_of, lively, nudged, places, slid
from tests.strategies import few

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.shot import Cycle, Shot

SEEDS = st.integers(0, 500)


def hips(shot: Shot, name: str, frames: np.ndarray) -> np.ndarray:
    return places(shot, name, frames)[:, bv.sample(shot, name, [101]).joints.index("hips")]


@few
@given(SEEDS, st.sampled_from([("porter", "walk", 32, 0.8), ("porter", "run", 16, 1.1), ("goat", "trot", 24, 0.7)]))
def test_planted_feet_stay_and_hips_barely_give_way(seed: int, what: tuple[str, str, int, float]) -> None:
    name, gait, frames, stride = what
    shot = cycle_of(name, gait, frames, stride)
    shot = nudged(shot.with_cycle(name, Cycle(101, 101 + frames, gait)), name, seed)
    planted = bv.plant(shot, name)
    spans = [(foot, *span) for foot, own in shot.contacts(name).items() for span in own]
    assert max(slid(planted, name, *span) for span in spans) < 5e-4
    every = np.arange(101.0, 101 + 2 * frames)
    assert np.linalg.norm(hips(planted, name, every) - hips(shot, name, every), axis=1).max() < 0.02
    again = bv.plant(planted, name)
    assert np.abs(places(again, name, every) - places(planted, name, every)).max() < 1e-9, "twice is once"
    others = [c for c in bv.channels(shot, name) if "foot" not in c and not c.startswith("hips")]
    index = shot.figure(name).rig.channel
    assert all(shot.curves(name)[index(c)] is planted.curves(name)[index(c)] for c in others), "nothing else is touched"


def test_feet_that_slid_far_did_slide() -> None:
    shot = nudged(cycle_of("porter", "walk", 32, 0.8).with_cycle("porter", Cycle(101, 133)), "porter", 3)
    assert max(bv.slide_of(shot, "porter").values()) > 5e-3


def test_a_stretch_that_is_no_cycle_is_planted_too() -> None:
    shot = nudged(cycle_of("porter", "walk", 32, 0.8).with_cycle("porter", Cycle(101, 133)), "porter", 5)
    spans = {foot: tuple(own) for foot, own in bv.contacts(shot, "porter").items()}
    plain = bv.open_loop(shot, "porter").with_contacts("porter", spans)
    planted = bv.plant(plain, "porter")
    for foot, own in bv.contacts(planted, "porter").items():
        for start, end in own:
            assert slid(planted, "porter", foot, start, min(end, 132)) < 5e-4


def test_on_the_spot_planted_feet_go_with_the_ground() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8, spot=True).with_cycle("porter", Cycle(101, 133))
    planted = bv.plant(nudged(shot, "porter", 7, by=0.008), "porter")
    assert max(bv.slide_of(planted, "porter").values()) < 5e-4
    ground = -0.8 / 32
    for foot, own in planted.contacts("porter").items():
        assert slid(planted, "porter", foot, *own[0], ground) < 2e-2


def test_legs_posed_joint_by_joint_are_planted() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8)
    posed = shot
    for leg in PORTER_LEGS:
        posed = bv.set_mode(posed, "porter", leg, 101, "joints", 132)
    assert max(bv.slide_of(bv.plant(posed, "porter"), "porter").values()) < 1e-3


@few
@given(st.sampled_from([(101, 123), (99, 119), (101, 117), (104, 122)]), st.booleans())
def test_a_contact_is_timed_anew_on_both_sides(span: tuple[int, int], spot: bool) -> None:
    shot = lively(cycle_of("porter", "walk", 32, 0.8, spot=spot), "porter")
    old = shot.contacts("porter")["left leg"][0]
    made = bv.retime_contact(shot, "porter", "left leg", old, span)
    assert made.contacts("porter")["left leg"] == (span,)
    (other,) = made.contacts("porter")["right leg"]
    assert other[1] - other[0] == span[1] - span[0] and (other[0] - span[0]) % 32 == 16
    assert max(bv.slide_of(made, "porter").values()) < 5e-4
    assert bv.stride(made, "porter").length == pytest.approx(0.8, abs=2e-3)


def test_a_contact_cannot_run_into_the_next() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8)
    old = shot.contacts("porter")["left leg"][0]
    made = bv.retime_contact(shot, "porter", "left leg", old, (101, 300))
    start, end = made.contacts("porter")["left leg"][0]
    assert start == 101 and end <= 132
    assert bv.retime_contact(shot, "porter", "left leg", old, old) is shot


def test_contacts_are_set_and_found_again() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8)
    put = bv.set_contacts(shot, "porter", "left leg", [(103, 110)])
    assert put.contacts("porter")["left leg"] == ((103, 110),)
    assert (
        np.abs(places(put, "porter", np.arange(101.0, 140)) - places(shot, "porter", np.arange(101.0, 140))).max() == 0
    )
    never = bv.set_contacts(bv.set_contacts(shot, "porter", "left leg", []), "porter", "right leg", [])
    for call in (bv.plant, bv.stride, bv.travelling):
        with pytest.raises(BovrinError):
            call(never, "porter")
    for spans in ([(110, 103)], [(101, 110), (105, 120)], [(float("nan"), 110)]):
        with pytest.raises(BovrinError):
            bv.set_contacts(shot, "porter", "left leg", spans)


@few
@given(
    st.sampled_from([("porter", "walk", 32), ("porter", "run", 16), ("goat", "gallop", 24), ("goat", "walk", 30)]),
    st.floats(-180, 180),
    st.booleans(),
)
def test_travel_there_and_back_is_nothing(what: tuple[str, str, int], heading: float, forget: bool) -> None:
    from dataclasses import replace

    name, gait, frames = what
    stood = bv.set_values(alone(name), name, 101, {"whole figure/turn": heading, "whole figure/across": 1.0})
    shot = lively(bv.new_cycle(stood, name, gait, frames, 0.7), name)
    spot = bv.on_the_spot(shot, name)
    every = np.arange(90.0, 150.0, 0.5)
    assert np.ptp(places(spot, name, every)[:, 0], axis=0).max() < 1e-9, "it stays where it stood"
    if forget:  # from the feet alone
        spot = replace(spot, take=replace(spot.take, traces=()))
    back = bv.travelling(spot, name)
    assert np.abs(places(back, name, every) - places(shot, name, every)).max() < (2e-3 if forget else 1e-9)


def test_travel_of_the_hips_is_taken_out_as_well() -> None:
    shot = cycle_of("porter", "walk", 32, 0.9, spot=True)
    moved = ("hips/forward", "left foot/forward", "right foot/forward")
    for channel in moved:
        curve = bv.curve(shot, "porter", channel)
        i = shot.figure("porter").rig.channel(channel)
        steep = 0.9 / 32
        own = curve.changed(
            values=curve.values + steep * (curve.frames - 101),
            in_slope=curve.in_slope + steep,
            out_slope=curve.out_slope + steep,
        )
        if channel == "hips/forward":
            from bovrin.shot import HandleKind

            line = np.full(len(own), int(HandleKind.LINEAR))
            own = own.changed(in_kind=line, out_kind=line)
        shot = shot.with_curves("porter", shot.curves("porter").replaced({i: own}))
    spot = bv.on_the_spot(shot, "porter")
    every = np.arange(101.0, 133.0)
    assert np.ptp(places(spot, "porter", every)[:, 0], axis=0).max() < 1e-6
    assert np.ptp(hips(spot, "porter", every)[:, 2]) < 5e-3
    assert max(bv.slide_of(bv.travelling(spot, "porter"), "porter").values()) < 2e-3


def test_directions_are_taken_out_one_by_one() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8)
    shot = bv.set_values(shot, "porter", 117, {"whole figure/across": 0.3, "whole figure/up": 0.2})
    spot = bv.on_the_spot(shot, "porter", ("forward", "up"))
    root = places(spot, "porter", np.arange(101.0, 133.0))[:, 0]
    assert np.ptp(root[:, [1, 2]]) < 1e-9 and np.ptp(root[:, 0]) > 0.2
    with pytest.raises(BovrinError):
        bv.on_the_spot(shot, "porter", ())
    with pytest.raises(BovrinError):
        bv.on_the_spot(shot, "porter", ("sidewards",))


def test_a_stride_is_measured_as_an_onlooker_would() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8)
    found = bv.stride(shot, "porter")
    j = bv.sample(shot, "porter", [101]).joints.index("left foot")
    twice = places(shot, "porter", np.array([105.0, 137.0]))[:, j]
    assert found.length == pytest.approx(np.linalg.norm(np.diff(twice, axis=0))) and found.step == found.length / 2
    assert found.speed == pytest.approx(found.length * 24 / 32) and found.cadence == pytest.approx(2 * 24 / 32 * 60)
    assert found.support == pytest.approx(19 / 32) and found.width == pytest.approx(0.248, abs=0.02)


def test_a_hand_on_the_ground_is_found_and_planted_when_it_is_named() -> None:
    shot = alone("porter")
    rig = shot.figure("porter").rig
    for frame, off in ((101, 0.0), (111, 0.004), (121, 0.03), (131, 0.03)):
        low = {"hips/up": -0.3, "spine/tilt": 60.0, "chest/tilt": 40.0, "left hand/reach": 1.0, "right hand/reach": 0.0}
        shot = bv.set_values(shot, "porter", frame, low)
        shot = bv.place(shot, "porter", frame, "left hand", [0.2, 0.06 + 0.2 * (frame == 131), 0.3 + off])
    shot = bv.splined(shot, "porter")
    found = bv.contacts(shot, "porter")
    assert "right arm" not in found and found["left arm"][0][0] == 101.0 and found["left arm"][0][1] >= 118.0
    start, end = found["left arm"][0]
    hand = rig.joint("left hand")
    frames = np.arange(start, end + 1)
    assert np.ptp(places(shot, "porter", frames)[:, hand, 2]) > 0.01, "it slides"
    planted = bv.plant(shot, "porter", ["left arm"])
    stays = places(planted, "porter", frames)[:, hand]
    assert np.ptp(stays[:, [0, 2]], axis=0).max() < 5e-4
    assert np.abs(stays[:, 1] - places(shot, "porter", frames)[:, hand, 1]).max() < 2e-3, "as high as it was"
    feet = bv.plant(shot, "porter")
    own = [rig.channel(c) for c in rig.channel_names if c.startswith("left hand")]
    assert all(feet.curves("porter")[i] is shot.curves("porter")[i] for i in own), "unnamed, hands are left alone"
