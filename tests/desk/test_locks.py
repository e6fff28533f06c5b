"""Nothing that is locked changes, whoever asks; one sentence says so."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bovrin import script
from bovrin.craft.keying.keys import set_channels
from bovrin.desk.state.choosing.keying import Keying
from bovrin.desk.state.document.locks import guarded
from bovrin.desk.window import Window
from bovrin.figure.staging import staged
from bovrin.shot import Shot

LOCKED = Keying(locked=frozenset({("porter", "left arm")}))


def arm(shot: Shot) -> np.ndarray:
    """What the locked channels do on every half frame."""
    figure = shot.figure("porter")
    frames = np.arange(shot.first, shot.last + 0.5, 0.5)
    return staged(shot, "porter", frames).values[:, sorted(LOCKED.channels_locked(figure))]


@pytest.mark.parametrize(
    "command",
    ["pose.breakdown", "pose.remove", "pose.mirror_keys", "motion.spline_all", "motion.insert_part", "pose.mirror", "pose.paste",
     "pose.default_figure", "pose.push", "pose.longer", "keys.later", "motion.twos", "pose.mode_span"],
)  # fmt: skip
def test_a_command_leaves_what_is_locked_as_it_was_and_says_so(window: Window, command: str) -> None:
    session = window.session
    session.go_to(101)
    session.choose("porter", [session.figure.rig.control("left hand")])
    window.run("pose.copy")
    session.change_keying(locked=LOCKED.locked)
    session.go_to(119 if command in ("pose.remove", "pose.push") else 117)
    if command.startswith("keys."):
        window.run("keys.all")
    before, curves = arm(session.shot), session.shot.curves("porter")
    window.run(command)
    locked = sorted(LOCKED.channels_locked(session.figure))
    assert np.array_equal(arm(session.shot), before)
    assert all(session.shot.curves("porter")[i] is curves[i] for i in locked)
    assert "locked" in window.notice.label.text() and window.notice.isVisible()


@settings(max_examples=25)
@given(st.data())
def test_any_change_lands_but_for_what_is_locked(data: st.DataObject) -> None:
    old = script.demo()
    figure = old.figure("porter")
    columns = data.draw(st.lists(st.integers(0, len(figure.rig.channels) - 1), min_size=1, max_size=6, unique=True))
    new = set_channels(old, "porter", 117, {c: figure.rig.defaults[c] + 0.37 for c in columns})
    found, words = guarded(old, new, LOCKED)
    locked = LOCKED.channels_locked(figure)
    for column in range(len(figure.rig.channels)):
        whose = old if column in locked else new
        assert found.curves("porter")[column] is whose.curves("porter")[column]
    assert bool(words) == bool(locked & set(columns))


def test_locks_of_one_shot_do_not_reach_the_next(window: Window, demo: Shot) -> None:
    window.session.change_keying(locked=LOCKED.locked)
    window.session.change_looking(hidden=frozenset({"porter"}), borrowed=(0.0, 1.0, 0.0))
    window.session.replace(demo, None)
    assert not window.session.keying.locked and not window.session.looking.hidden
    assert window.session.looking.borrowed is None
