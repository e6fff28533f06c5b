from collections.abc import Iterator

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot
from tests.desk.conftest import Hand, let_go

from bovrin.desk.state.document.session import Session
from bovrin.desk.state.player import Player
from bovrin.desk.window import Window
from bovrin.shot import Shot


class Clock:
    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def player(demo: Shot, qapp) -> Iterator[Player]:  # type: ignore[no-untyped-def]
    session = Session(demo)
    yield Player(session, Clock())
    let_go(session)


def after(player: Player, seconds: float) -> float:
    player._clock.now += seconds  # type: ignore[attr-defined]
    player.tick()
    return player.session.frame


def test_the_frame_follows_the_clock(player: Player) -> None:
    player.play()
    assert after(player, 0.02) == 101
    assert after(player, 0.03) == 102
    assert after(player, 0.95) == 125
    assert player.dropped == 22
    player.stop()
    assert player.session.frame == 125 and not player.session.playing


def test_slow_pictures_drop_frames_and_never_slow_the_shot(player: Player) -> None:
    player.play()
    for _ in range(10):
        after(player, 0.1001)
    assert player.session.frame == 125
    assert player.shown == 11 and player.dropped == 24 - 10


def test_it_loops_over_the_range(player: Player) -> None:
    player.session.go_to(150)
    player.play()
    assert after(player, 10 / 24 + 1e-6) == 160
    assert after(player, 1 / 24) == 101
    assert after(player, 60 / 24) == 101


def test_from_the_last_frame_it_begins_again(player: Player) -> None:
    player.session.go_to(160)
    player.play()
    assert player.session.frame == 101


def test_space_plays_in_the_window_and_pictures_are_kept(window: Window, hand: Hand, qtbot: QtBot) -> None:
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(window.stage.main.picture.kept) >= 8, timeout=20000)
    frames = set(window.stage.main.picture.kept)
    assert all(101 <= f <= 160 for f in frames)
    hand.key(Qt.Key.Key_Space)
    assert not window.session.playing and "dropped" in window.status.time.text()
    window.session.go_to(105)  # there is no pose yet
    window.run("pose.key")
    assert window.stage.main.picture.kept == {}
