"""With something locked, whatever else is changed stays: every field of a shot and of a take, walked by declaration."""

from dataclasses import replace

import pytest
from tests.shot.test_every_field import (
    ACTING_FIELDS,
    SHOT_FIELDS,
    TAKE_FIELDS,
    full_shot,
    other_acting,
    other_shot,
    other_take,
)

from bovrin import script
from bovrin.craft.company import left
from bovrin.desk.state.choosing.keying import Keying
from bovrin.desk.state.document.locks import guarded
from bovrin.shot import Shot
from bovrin.shot.comparing import alike


@pytest.fixture(scope="module")
def full() -> Shot:
    return full_shot()


@pytest.mark.parametrize("name", [n for n in SHOT_FIELDS if n != "unkeyed"])
def test_with_the_head_locked_every_other_change_stays(name: str, full: Shot) -> None:
    """Work that vanished without a word: strokes, rulers, clips, limits and what else a hand-made list forgot."""
    keying = replace(Keying(), locked=frozenset({("porter", "head")}))
    assert keying.channels_locked(full.figure("porter")), "nothing is locked"
    made = other_shot(full)[name]()
    held, words = guarded(full, made, keying)
    assert alike(held, made) and words == ""


@pytest.mark.parametrize("name", [n for n in TAKE_FIELDS if n not in ("name", "curves")])
def test_with_the_head_locked_every_other_change_of_the_take_stays(name: str, full: Shot) -> None:
    keying = replace(Keying(), locked=frozenset({("porter", "head")}))
    made = replace(full, take=replace(full.take, **other_take(full)[name](full.take)))
    assert alike(guarded(full, made, keying)[0], made)


@pytest.mark.parametrize("name", [n for n in ACTING_FIELDS if n != "curves"])
def test_with_the_head_locked_every_other_change_of_the_acting_stays(name: str, full: Shot) -> None:
    keying = replace(Keying(), locked=frozenset({("porter", "head")}))
    made = replace(full, take=full.take.acted("porter", **other_acting(full)[name]))
    held, words = guarded(full, made, keying)
    assert alike(held, made) and not alike(held, full) and words == ""


def test_a_figure_that_leaves_or_is_another_is_not_held_back_by_its_locks(full: Shot) -> None:
    """There is nothing to keep as it was: its channels are gone, or others."""
    keying = replace(Keying(), locked=frozenset({("porter", "head")}))
    gone = left(full, "porter")
    assert guarded(full, gone, keying) == (gone, "")
    goat = full.figure("goat")
    other = gone.with_figure(replace(goat, name="porter"), gone.curves("goat"))
    assert guarded(full, other, keying) == (other, "")


def test_what_is_locked_stays_while_channels_come_and_go_beside_it(full: Shot) -> None:
    """A follower made, or something hung, in the same step that moves what is locked: it stays, and the rest is made."""
    keying = replace(Keying(), locked=frozenset({("porter", "head")}))
    moved = script.set_values(full, "porter", 110, {"head/turn": 40.0})
    for made in (
        script.follow(moved, "porter", ["chest"], "swing"),
        script.attach(moved, "porter", "right hand", script.GROUND, 120),
    ):
        held, words = guarded(full, made, keying)
        assert "head" in words and held.figure("porter").rig is made.figure("porter").rig
        was, now = (shot.curves("porter")[shot.figure("porter").rig.channel("head/turn")] for shot in (full, held))
        assert now is was and held.followers("porter") == made.followers("porter")
