"""With something locked, whatever else is changed stays: every field of a shot and of a take, walked by declaration."""

from dataclasses import replace

import pytest
from tests.shot.test_every_field import SHOT_FIELDS, TAKE_FIELDS, other_shot, other_take

from bovrin import script
from bovrin.desk.state.keying import Keying
from bovrin.desk.state.locks import guarded
from bovrin.shot import Shot
from bovrin.shot.comparing import alike


@pytest.fixture(scope="module")
def full() -> Shot:
    return script.demo("across")


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
