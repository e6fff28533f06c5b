"""Keys written as they lie in memory come back as they were, whatever the curves do."""

from dataclasses import replace

import numpy as np
import pytest

from bovrin import script
from bovrin.craft.takes import copied_take
from bovrin.errors import BrokenFile
from bovrin.formats.project.text import shot_to_text
from bovrin.formats.raw_motion import keys_of, with_keys, without_keys
from bovrin.shot import EndKind, Shot


def varied() -> Shot:
    """The demo with a trace, a take more, handles, ends, a muted channel, a clip and strokes."""
    shot = script.keep_trace(script.demo(), "porter", "before")
    shot = script.keep_clip(shot, "porter", "lift", 101, 119)
    for frame in (104, 110):
        for pinned in ("ground", ("porter", "head")):
            shot = script.draw(shot, frame, np.linspace(0.0, 0.3, 60).reshape(-1, 3), pinned=pinned)
    shot = script.splined(copied_take(shot, "more"), "porter")
    curves = shot.curves("porter")
    keyed = [i for i, c in enumerate(curves.curves) if len(c) > 2][:3]
    first, second, third = (curves[i] for i in keyed)
    changes = {
        keyed[0]: first.ending(EndKind.REPEAT, EndKind.STRAIGHT),
        keyed[1]: second.silenced(True),
        keyed[2]: third.changed(frames=third.frames + np.linspace(0, 0.5, len(third))),
    }
    return shot.with_curves("porter", curves.replaced(changes))


def data_of(shot: Shot) -> tuple[object, bytes]:
    manifest, arrays = keys_of(shot)
    return manifest, b"".join(np.ascontiguousarray(a).tobytes() for a in arrays)


def test_they_come_back_as_they_were() -> None:
    shot = varied()
    bare = without_keys(shot)
    assert len(shot_to_text(bare)) < 0.2 * len(shot_to_text(shot))
    manifest, data = data_of(shot)
    again = with_keys(bare, manifest, memoryview(data))  # type: ignore[arg-type]
    assert shot_to_text(again) == shot_to_text(shot)


def test_long_strokes_and_clips_are_not_told_in_words() -> None:
    """Whatever grows with an animator's work lies beside the text: twice as much of it does not lengthen that."""
    shot = varied()
    longer = replace(shot, clips=tuple(replace(c, curves=shot.clips[0].curves) for c in shot.clips))
    longer = script.draw(longer, 110, np.linspace(0.0, 0.3, 6000).reshape(-1, 3), pinned="ground")
    more = len(shot_to_text(without_keys(longer))) - len(shot_to_text(without_keys(shot)))
    assert more < 200 < 20_000 < len(shot_to_text(longer)) - len(shot_to_text(shot))


def test_columns_that_curves_share_are_written_once() -> None:
    shot = script.demo()
    curves = shot.curves("porter")
    long = max(curves.curves, key=len)
    shared = dict.fromkeys(range(20), long)
    one, many = (data_of(shot.with_curves("porter", curves.replaced(c)))[1] for c in ({0: long}, shared))
    assert len(many) <= len(one)


def test_what_is_cut_off_is_refused() -> None:
    shot = varied()
    manifest, data = data_of(shot)
    with pytest.raises(BrokenFile):
        with_keys(without_keys(shot), manifest, memoryview(data)[:-8])  # type: ignore[arg-type]
    with pytest.raises((BrokenFile, IndexError, KeyError)):
        with_keys(replace(without_keys(shot), takes=()), manifest, memoryview(data))  # type: ignore[arg-type]
