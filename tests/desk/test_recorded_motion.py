"""Recorded motion in hands: its key poses found by a slider, looked at, kept as a take, worked on."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog
from tests.craft.recorded.test_key_pose_search import recorded
from tests.desk.conftest import Hand
from tests.walks import walk

from bovrin import script
from bovrin.craft.keying.lag import card_poses_of
from bovrin.desk.commands.files import bring_as_project
from bovrin.desk.panels.map_shapes import shapes_of
from bovrin.desk.sheets.hand_on import HandOn
from bovrin.desk.sheets.key_poses_sheet import KeyPosesSheet
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.state.looking.card_pictures import WIDTH
from bovrin.desk.strip.dense import NEAR
from bovrin.desk.strip.film import film_places
from bovrin.desk.window import Window


@pytest.fixture
def moves(window: Window, tmp_path: Path) -> tuple[Window, list[float]]:
    """A window with a recording that was brought, and the poses that are in it."""
    shot, known = recorded(2)
    script.export(shot, tmp_path / "moves.bvh")
    assert bring(window.files, tmp_path / "moves.bvh", tmp_path / "moves.bovrin.json")
    QApplication.processEvents()
    return window, known


def opened(window: Window) -> KeyPosesSheet:
    window.run("motion.find_poses")
    sheet = window.opening.key_poses
    assert sheet is not None and sheet.isVisible()
    return sheet


def strip_frames(window: Window) -> list[float]:
    return [f for f, _ in window.strip.places.card_rects()]


def test_from_few_to_many_live_and_kept_as_a_take(moves: tuple[Window, list[float]]) -> None:
    window, known = moves
    session, recording = window.session, window.session.shot
    sheet = opened(window)
    assert "cm off" in sheet.off.text()
    for _ in range(200):
        if sheet.slider.value() == len(known):
            break
        QTest.keyClick(sheet.slider, Qt.Key.Key_Left if sheet.slider.value() > len(known) else Qt.Key.Key_Right)
    assert np.abs(np.array(sheet.poses()) - known).max() <= 1
    assert strip_frames(window) == sheet.poses(), "the strip shows them at once"
    assert session.shot is recording, "nothing is changed yet"
    poses = sheet.poses()
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    assert not sheet.isVisible() and session.shot.take.name == "A in poses"
    assert card_poses_of(session.shot.curves("moves")).frames.tolist() == poses
    assert session.shot.with_take("A").curves("moves") is recording.curves("moves")
    session.go_to(poses[2])
    window.run("pose.longer")
    assert card_poses_of(session.shot.curves("moves")).frames[3] == poses[3] + 1, "one blocks on them"
    window.run("edit.undo")
    window.run("edit.undo")
    assert session.shot is recording


def test_escape_leaves_the_recording_as_it_was(moves: tuple[Window, list[float]]) -> None:
    window, _ = moves
    shot = window.session.shot
    sheet = opened(window)
    sheet.slider.setValue(sheet.slider.value() + 3)
    assert window.session.shown is not shot
    QTest.keyClick(sheet, Qt.Key.Key_Escape)
    assert not sheet.isVisible() and window.session.shown is shot and len(window.session.shot.all_takes) == 1
    sheet = opened(window)
    window.session.do("Other", lambda s: script.set_values(s, "moves", 120, {"hips/up": 0.1}))
    assert not sheet.isVisible(), "what was found is of another motion"


def test_what_does_not_move_is_told(window: Window) -> None:
    window.session.choose("steps")
    window.run("motion.find_poses")
    sheet = window.opening.key_poses
    assert sheet is not None and not sheet.isVisible() and "does not move" in window.notice.label.text()


def test_another_rate_is_asked_about(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "fast.bvh"
    script.export(recorded(1, count=3)[0], path)
    lines = path.read_text().splitlines()
    path.write_text(
        "\n".join(f"Frame Time: {1 / 120:.6f}" if line.startswith("Frame Time") else line for line in lines)
    )
    asked: list[tuple[str, ...]] = []

    def which(_title: str, words: str, answers: tuple[str, ...]) -> int | None:
        asked.append((words, *answers))
        return (None, 0, 1)[len(asked) - 1]

    monkeypatch.setattr(window.ask, "which", which)
    monkeypatch.setattr(window.ask, "file_to_write", lambda *_args: tmp_path / "fast.bovrin.json")
    before = window.session.shot
    assert not bring_as_project(window, path) and window.session.shot is before
    assert bring_as_project(window, path) and window.session.shot.frame_rate == 24
    assert bring_as_project(window, path) and window.session.shot.frame_rate == 120
    assert "120 frames a second" in asked[0][0]


@pytest.fixture
def walking(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Window:
    """A window with a walk that was brought: it goes off a metre and a half."""
    walk(tmp_path)
    monkeypatch.setattr(window.ask, "file_to_write", lambda *_args: tmp_path / "walk.bovrin.json")
    assert bring_as_project(window, tmp_path / "walk.bvh")
    QApplication.processEvents()
    return window


def seen_at(window: Window, frame: float) -> QPointF:
    """Where the figure's hips are on the stage, as shares of its size."""
    session, stage = window.session, window.stage.main
    session.go_to(frame)
    motion = script.sample(session.shot, session.figure_name, [frame])
    at = stage.scene.on_screen(motion.position[0, motion.joints.index("Kern")])
    return QPointF(at.x() / stage.width(), at.y() / stage.height())


def test_what_travels_is_kept_in_view(walking: Window) -> None:
    session = walking.session
    frames = np.linspace(session.shot.first, session.shot.last, 9)
    assert session.looking.follow, "a motion that goes off is followed from the start"
    here = [seen_at(walking, f) for f in frames]
    assert all(0.2 < at.x() < 0.8 and 0.2 < at.y() < 0.8 for at in here)
    steps = np.diff([[seen_at(walking, f).x(), seen_at(walking, f).y()] for f in np.arange(110, 170)], axis=0)
    assert np.abs(steps).max() < 0.01, "smoothly"
    session.go_to(140)
    view = walking.stage.main.scene.view
    walking.run("view.follow")
    assert not session.looking.follow and walking.stage.main.scene.view == view, "nothing jumps when it is let go of"
    off = [seen_at(walking, f).x() for f in (frames[0], frames[-1])]
    assert abs(off[1] - off[0]) > 0.1 > 5 * abs(here[-1].x() - here[0].x())
    session.go_to(150)
    view = walking.stage.main.scene.view
    walking.run("view.follow")
    assert walking.stage.main.scene.view == view
    session.do("Pose", lambda s: script.set_values(s, session.figure_name, 150, {"Kern/up": 0.1}))
    assert np.allclose(walking.stage.main.scene.view.target, view.target), "an edit moves no view"


def test_each_frame_is_drawn_ahead_from_where_it_is_seen(walking: Window) -> None:
    scene = walking.stage.main.scene
    walking.session.go_to(120)
    there = scene.view_on(160)
    assert there.target != scene.view.target
    walking.session.go_to(160)
    assert scene.view == there


def test_a_recorded_stretch_is_a_film(walking: Window) -> None:
    strip = walking.strip
    card = strip.places.cards_in_sight()[0]
    places = film_places(card, walking.bottom.scale.per_frame)
    lefts, frames = np.array(places).T
    assert len(places) >= 8 and np.ptp(np.diff(lefts)) < 1e-9, "at even distances"
    assert (np.diff(frames) > 0).all() and frames[-1] <= card.frame + card.held
    there = [walking.bottom.scale.x(f) - card.rect.left() for f in frames]
    assert np.abs(np.array(there) - lefts - WIDTH / 2).max() < walking.bottom.scale.per_frame, "each where its frame is"
    image = strip.painter.still().toImage()
    walking.pictures.begin()
    for _ in range(400):
        if all(p is not None for p in walking.pictures.pictures(frames)):
            break
        QTest.qWait(20)
    assert strip.painter.still().toImage() != image, "they come one by one"


def test_poses_that_are_held_have_one_picture(window: Window) -> None:
    window.session.choose("porter")
    cards = window.strip.places.cards_in_sight()
    assert not any(film_places(card, window.bottom.scale.per_frame) for card in cards)


def far(window: Window) -> float:
    """Frames made so narrow that a recording is told as a whole; pixels of one."""
    scale = window.bottom.scale
    while scale.per_frame >= NEAR:
        scale.zoom(0.7, 400)
    return scale.per_frame


def test_a_film_is_gone_along_and_has_no_edges(walking: Window, hand: Hand) -> None:
    strip, session = walking.strip, walking.session
    before = session.shot
    card = strip.places.cards_in_sight()[0]
    middle = card.rect.center().y()
    for frame in (110.0, 133.0):
        hand.click(strip, QPointF(walking.bottom.scale.x(frame) + 1, middle))
        assert session.frame == frame, "a click goes to the frame under the pointer"
    edge = QPointF(card.rect.right() - 2, middle)
    assert strip.places.card_at(edge) == (card.frame, False)
    hand.drag(strip, edge, edge + QPointF(-200, 0))
    assert (
        session.shot is before
        and abs(session.frame - (card.frame + card.held - 1 - 200 / walking.bottom.scale.per_frame)) < 2
    )


def test_far_away_lanes_are_bands_and_near_they_open_to_keys(walking: Window, hand: Hand) -> None:
    strip, session, scale = walking.strip, walking.session, walking.bottom.scale
    lane = next(n for n, x in enumerate(strip.places.lanes()) if x.words == "Left leg")
    at = lambda frame: QPointF(scale.x(frame), strip.places.lane_y(lane))
    assert scale.per_frame >= NEAR and strip.places.keys_at(at(140.0))
    near = strip.painter.still().toImage()
    assert far(walking) < NEAR
    assert not strip.places.keys_at(at(140.0)), "nothing of a band is caught by accident"
    assert strip.painter.still().toImage() != near
    before = session.shot
    hand.drag(strip, at(140.0), at(150.0))
    assert session.shot is before and session.keys.by_channel, "a box chooses in it as ever"
    assert strip.places.keys_at(at(101.0)), "poses stay poses"
    while scale.per_frame < NEAR:
        scale.zoom(1.5, 400)
    assert strip.places.keys_at(at(140.0))


def test_the_map_stands_on_the_ground_wherever_the_file_has_the_figure_at_rest(walking: Window) -> None:
    """A motion file has it at rest with its hips in the origin; nothing on the map lies across it."""
    own = walking.cast_panel.map
    bar = own._whole_rect()
    assert bar.top() > max(own.point_of(name).y() for name in ("Schuh.L", "Schuh.R", "Stock_2"))
    drawn = {s.joint for s in shapes_of(walking.session.figure)}
    assert 0 not in drawn, "what carries the figure is no bone"


def test_from_a_recording_to_a_file_of_its_poses(
    window: Window, hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """By mouse and keys: bring it, go along its film, find its poses, keep them, hold one longer, spline, hand on."""
    shot, known = recorded(4)
    script.export(shot, tmp_path / "moves.bvh")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a: (str(tmp_path / "moves.bvh"), ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "moves.bovrin.json"), ""))
    window.run("shot.bring")
    session, strip, scale = window.session, window.strip, window.bottom.scale
    QApplication.processEvents()
    card = strip.places.cards_in_sight()[0]
    assert card.film
    hand.drag(strip, card.rect.center(), card.rect.center() + QPointF(60, 0))
    sheet = opened(window)
    hand.click(sheet.count, QPointF(10, 10))
    sheet.count.setText(str(len(known)))
    sheet.count.setModified(True)  # as typing does
    QTest.keyClick(sheet.count, Qt.Key.Key_Return)
    assert np.abs(np.array(sheet.poses()) - known).max() <= 1
    QTest.mouseClick(sheet.keep_button, Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    cards = strip.places.cards_in_sight()
    assert [c.frame for c in cards] == sheet_poses(session) and not any(c.film for c in cards)
    edge = QPointF(cards[1].rect.right() - 2, cards[1].rect.center().y())
    hand.drag(strip, edge, edge + QPointF(2 * scale.per_frame, 0))
    assert sheet_poses(session)[2] == cards[2].frame + 2, "held two frames longer"
    window.run("pass.spline")
    out = tmp_path / "out.glb"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(out), ""))
    window.run("shot.export")
    (page,) = [w for w in window.findChildren(HandOn) if w.isVisible()]
    QTest.mouseClick(page.write, Qt.MouseButton.LeftButton)
    again = script.bring(out)
    assert [t.name for t in again.all_takes] == ["A", "A in poses"]
    for take in ("A", "A in poses"):
        one, two = (s.with_take(take) for s in (session.shot, again))
        frames = np.array(one.whole_frames, float)
        was, now = (script.sample(s, s.cast[0].name, frames) for s in (one, two))
        at = [now.joints.index(j) for j in was.joints[1:]]
        assert np.abs(now.position[:, at] - was.position[:, 1:]).max() < 1e-5, take


def sheet_poses(session: Session) -> list[float]:
    return card_poses_of(session.shot.curves(session.figure_name)).frames.tolist()


def test_bones_without_skin_are_grabbed_within_twelve_pixels(walking: Window) -> None:
    """Beside any bone or joint of a stick figure, in every direction, that figure is under the pointer; farther off nobody is."""
    scene, session = walking.stage.main.scene, walking.session
    stance, rig = session.stance(), session.figure.rig
    ends = [limb.end for limb in rig.limbs]
    for joint in ends:
        place = scene.on_screen(stance.seen(joint))
        for angle in np.arange(0, 2 * np.pi, np.pi / 4):
            at = place + 11 * QPointF(float(np.cos(angle)), float(np.sin(angle)))
            hit = scene.skin_at(at)
            assert hit is not None and hit.figure.name == session.figure_name
    box = np.array([[p.x(), p.y()] for p in (scene.on_screen(stance.seen(j)) for j in range(1, len(rig.joints)))])
    assert scene.skin_at(QPointF(float(box[:, 0].max()) + 40, float(box[:, 1].mean()))) is None
