"""While nothing happens the frames of playing are drawn, so that the first run has them; a change throws them away."""

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from bovrin.desk.kit.images import Picture
from bovrin.desk.stage import picture as picture_module
from bovrin.desk.stage.picture import StagePicture
from bovrin.desk.state.document.editing import edit
from bovrin.desk.window import Window
from bovrin.shot import Shot


def pixels(image: Picture) -> np.ndarray:
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    return np.array(np.frombuffer(bits, np.uint8))


def test_every_frame_of_playing_is_drawn_while_idle(window: Window, qtbot: QtBot) -> None:
    session, picture = window.session, window.stage.main.picture
    picture.frames_ahead = window.player.frames
    window.stage.main.repaint()
    picture._draw_ahead()
    qtbot.waitUntil(lambda: len(picture.kept) == len(session.shot.whole_frames), timeout=20000)
    assert session.frame == 101, "nothing else has moved"
    ahead = pixels(picture.kept[119.0])
    picture.frames_ahead = None
    picture.kept.clear()
    session.go_to(119)
    picture.kept_frame(119.0)
    assert np.array_equal(pixels(picture.kept[119.0]), ahead)


def test_a_change_throws_away_what_was_drawn(window: Window) -> None:
    session, picture = window.session, window.stage.main.picture
    picture.kept_frame(110.0)
    assert picture.kept
    session.choose("porter", [1])
    assert edit(session, "Pose", {1: 0.1})
    assert not picture.kept


def test_scrubbing_draws_each_frame_once_and_none_that_is_known(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A step to another frame stops drawing ahead; a frame that was drawn is shown as it was."""
    session, stage = window.session, window.stage.main
    picture, drawn = stage.picture, list[float]()
    picture.frames_ahead = window.player.frames
    stage.repaint()
    picture._draw_ahead()
    qtbot.waitUntil(lambda: len(picture.kept) > 3, timeout=20000)
    own, ahead = picture._drawn, picture.kept_frame
    monkeypatch.setattr(picture, "_drawn", lambda **how: (drawn.append(session.frame), own(**how))[1])
    monkeypatch.setattr(picture, "kept_frame", lambda frame: (drawn.append(frame), ahead(frame))[1])
    last = len(session.shot.whole_frames)
    assert len(picture.kept) < last
    for frame in (140.0, 141.0, 142.0):
        session.go_to(frame)
        stage.repaint()
        qtbot.wait(1)
    assert drawn == [140.0, 141.0, 142.0]
    known = min(picture.kept, key=lambda frame: abs(frame - 103))
    session.go_to(known)
    stage.repaint()
    assert len(drawn) == 3 and picture.image() is picture.kept[known]
    qtbot.waitUntil(lambda: picture._fine, timeout=20000)
    stage.repaint()
    assert picture.image() is not picture.kept[known], "at rest it is drawn fine"
    picture.frames_ahead = None


def test_nothing_is_drawn_during_a_drag_or_while_playing(window: Window, demo: Shot) -> None:
    session, picture = window.session, window.stage.main.picture
    picture.frames_ahead = window.player.frames
    picture.kept.clear()
    session.document.preview(demo.with_curves("porter", demo.curves("porter").replaced({})))
    picture._draw_ahead()
    assert not picture.kept
    session.document.preview(None)
    picture.frames_ahead = None


def test_a_picture_that_takes_long_is_drawn_plain_and_nothing_ahead(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A step to another frame is answered by one drawing; nothing follows that would keep the next step waiting."""
    picture, drawn = window.stage.main.picture, list[bool]()
    own = StagePicture._drawn
    monkeypatch.setattr(StagePicture, "_drawn", lambda self, *, fine: (drawn.append(fine), own(self, fine=fine))[1])
    for slow, wanted in ((1e9, [False, True]), (0.0, [False])):
        monkeypatch.setattr(picture_module, "SLOW", slow)
        window.stage.main.repaint()
        qtbot.waitUntil(lambda: not (picture._rest.isActive() or picture._idle.isActive()), timeout=20000)
        drawn.clear()
        window.session.go_to(window.session.frame + 3)
        qtbot.waitUntil(lambda w=wanted: drawn == w, timeout=20000)  # type: ignore[misc]
        qtbot.wait(300)
        assert drawn == wanted
        assert slow or not picture._idle.isActive()


def test_one_slow_picture_becomes_fine_all_the_same(window: Window, qtbot: QtBot) -> None:
    """A machine is slow when all its last pictures were; one that met a busy moment says nothing."""
    picture = window.stage.main.picture
    picture._taken.clear()
    picture._taken.append(9.0)
    window.session.go_to(window.session.frame + 3)
    qtbot.waitUntil(lambda: picture._fine and picture.at_rest, timeout=20000)
