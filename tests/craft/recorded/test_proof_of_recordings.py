"""The proof of recordings: what a person would agree with, few notes a minute, and remedies that mend and harm nothing."""

from pathlib import Path

import numpy as np
import pytest
from tests.recordings import recording, turned

from bovrin import script as bv
from bovrin.measure.proof import Note
from bovrin.measure.proof.notes import FAR
from bovrin.shot import Shot

MOST = 6
"""Notes that a minute of a recording has at most."""


def places(shot: Shot) -> np.ndarray:
    return bv.sample(shot, shot.cast[0].name, shot.whole_frames).position


def of(kind: str, notes: list[Note]) -> list[Note]:
    return [note for note in notes if note.kind == kind]


def test_a_clean_recording_reads_empty(tmp_path: Path) -> None:
    assert bv.proof(recording(tmp_path)) == []


@pytest.mark.parametrize(("noise", "lasting"), [(0.05, 0.0), (0.15, 0.5), (0.4, 0.8)])
def test_noise_is_few_notes_by_what_is_seen(tmp_path: Path, noise: float, lasting: float) -> None:
    """One note that all trembles, and one for each foot that is no steadier anywhere; hands that shake by under a pixel: none."""
    notes = bv.proof(recording(tmp_path, noise=noise, lasting=lasting))
    assert len(notes) <= MOST / 2
    assert {note.kind for note in notes} <= {"tremble", "slide"}
    assert len(of("tremble", notes)) == (noise > 0.1)


@pytest.mark.sweep
@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize(("noise", "lasting"), [(0.05, 0.0), (0.15, 0.5), (0.4, 0.8), (0.6, 0.9)])
def test_no_minute_has_more_than_six(tmp_path: Path, noise: float, lasting: float, seed: int) -> None:
    assert len(bv.proof(recording(tmp_path, 60, noise, lasting, seed=seed))) <= MOST


def test_faults_stand_out_of_noise_and_their_remedies_mend_them_alone(tmp_path: Path) -> None:
    """A hand that flips for a frame, another for six, a planted foot that jumps: each is found where it was put, and
    its remedy moves nothing on other frames."""
    faults = (turned("left hand", 60, 130), turned("right hand", 200, 110, frames=6), turned("left thigh", 301, 8))
    shot = recording(tmp_path, noise=0.15, lasting=0.5, faults=faults)
    notes, frames, before = bv.proof(shot), np.array(shot.whole_frames, float), places(shot)
    flips, jumps = of("pop", notes), of("kink", notes)
    assert [(note.at[0].split("/")[0], note.start, note.end) for note in flips] == [
        ("left_hand", 161, 161),
        ("right_hand", 301, 306),
    ]
    assert [(note.part, note.start, note.end) for note in jumps] == [("left leg", 402, 402)]
    assert len(notes) <= MOST
    for note in (*flips, *jumps):
        mended = bv.remedy(shot, note)
        gone = 1000 * np.linalg.norm(places(mended) - before, axis=2).max(1)
        assert gone[(frames < note.start - 0.5) | (frames > note.end + 0.5)].max() < 0.5
        after = bv.proof(mended)
        assert len(after) == len(notes) - 1 and not [one for one in of(note.kind, after) if one.start == note.start]


def test_what_trembles_is_calmed_and_stays_a_recording(tmp_path: Path) -> None:
    """Its noise goes, on every frame a key stays, nothing goes farther than its noise, and no other note comes of it."""
    clean = recording(tmp_path)
    shot = recording(tmp_path, noise=0.15, lasting=0.3)
    notes = bv.proof(shot)
    (note,) = of("tremble", notes)
    assert note.remedy == "calm"
    calmed = bv.remedy(shot, note)
    name, wanted = shot.cast[0].name, places(clean)
    assert [len(c) for c in calmed.curves(name).curves] == [len(c) for c in shot.curves(name).curves]
    rough = [np.abs(np.diff(places(s) - wanted, 4, axis=0)).mean() for s in (shot, calmed)]
    assert rough[1] < 0.5 * rough[0]
    off = [np.linalg.norm(places(s) - wanted, axis=2).mean() for s in (shot, calmed)]
    assert off[1] < off[0], "nearer to what was there before the noise"
    assert len(bv.proof(calmed)) < len(notes)


def test_feet_of_a_recording_are_planted_at_once_within_reach(tmp_path: Path) -> None:
    shot = recording(tmp_path, 8, noise=0.15, lasting=0.5)
    notes = bv.proof(shot)
    for note in of("slide", notes)[:1]:
        assert "×" in note.words
        planted = bv.proof(bv.remedy(shot, note))
        assert len(planted) < len(notes) and not of("locked", planted)


@pytest.mark.parametrize(("row", "frames"), [(60, 200), (60, 20), (0, 1)])
def test_a_flip_that_cannot_be_led_over_has_no_remedy(tmp_path: Path, row: int, frames: int) -> None:
    """One that stays, one with acting in it, one without frames before it: shown, and mended by hand."""
    shot = recording(tmp_path, 5, faults=(turned("left hand", row, 130, frames),))
    flips = of("pop", bv.proof(shot))
    assert flips and all(note.remedy is None for note in flips)


def test_kinds_that_are_turned_off_are_off_in_recordings_too(tmp_path: Path) -> None:
    shot = recording(tmp_path, 5, faults=(turned("left hand", 60, 130), turned("left thigh", 80, 8)))
    kinds = {note.kind for note in bv.proof(shot)}
    assert {"pop", "kink"} <= kinds
    for kind in sorted(kinds):
        shot = bv.set_limit(shot, kind, FAR)
    assert bv.proof(shot) == []
