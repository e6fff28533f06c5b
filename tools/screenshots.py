"""Pictures of the window for the docs, made from the demo: `make screenshots`."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMessageBox

from bovrin import cast, script
from bovrin.craft.arcs.spots import forget_spots, keep_spot
from bovrin.craft.keying.key_sets import keys_on
from bovrin.craft.markers import with_markers
from bovrin.craft.pose.groups import keep_group
from bovrin.craft.ranges import set_second
from bovrin.craft.takes import chosen_take
from bovrin.desk.application import dressed_application, make_window
from bovrin.desk.sheets.driving import TestDrive
from bovrin.desk.sheets.setup_sheet import SetupSheet
from bovrin.desk.stage.words import grip_words
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.state.looking.arcs import spot_of
from bovrin.desk.state.looking.light_table import LightTable
from bovrin.desk.state.shelf import Place
from bovrin.desk.window import Window
from bovrin.formats.gltf.container import GlbReader, packed
from bovrin.picture.view import VIEWS
from bovrin.shot import Marker, Spot
from tools.cast.walks import trudge

FOLDER = Path("docs/screenshots")


def choose(window: Window, control: str) -> None:
    """Choose one of the porter's controls."""
    figure = window.session.figure
    assert figure is not None
    window.session.choose(figure.name, [figure.rig.control(control)])


def take(window: Window, name: str) -> None:
    """Wait until everything is drawn at rest, and write the picture."""
    QTest.qWait(3500)
    window.grab().save(str(FOLDER / f"{name}.png"))


def pose(window: Window) -> None:
    """A pose book, groups, the front glass, and a handle along the world's axes."""
    session = window.session
    for frame in (119, 133, 143):
        session.go_to(frame)
        window.run("pose.keep")
    window.right.open("poses")
    rig = session.shot.figure("porter").rig
    for name, controls in (("Upper body", ("chest", "head", "left hand")), ("Hands", ("left hand", "right hand"))):
        chosen = [rig.control(c) for c in controls]
        session.do(name, lambda shot, n=name, c=chosen: keep_group(shot, n, "porter", c))
    session.go_to(143)
    choose(window, "left hand")
    window.run("pose.anchor")
    choose(window, "hips")
    session.change_looking(axes="world")
    window.run("view.glass")
    window.notice.hide()
    session.voice.hint(grip_words(session, "square"))


def block(window: Window) -> None:
    """Sections and dialogue over the cards, keys of two poses chosen, a lane open."""
    session = window.session
    more = (
        Marker(101, 118, "hears the ferry", "section", "green"),
        Marker(119, 160, "heaves the crate", "section", "plum"),
        Marker(111, 117, "right then", "dialogue", "ochre"),
    )
    session.do("Markers", lambda shot: with_markers(shot, more))
    session.go_to(151)
    window.run("pose.key")
    session.go_to(127)
    choose(window, "left hand")
    window.strip.places.open_lane("part left arm")
    session.keys.choose(session.keys.on_frames(session.poses.cards.frames[3:5]))
    session.voice.hint(grip_words(session, "square"))


def spline(window: Window) -> None:
    """Two controls' curves, a trace of what they were, handles of two keys, the speed in space."""
    session = window.session
    window.run("pass.spline")
    window.run("motion.spline_all")
    session.go_to(130)
    rig = session.shot.figure("porter").rig
    session.choose("porter", [rig.control("chest"), rig.control("left hand")])
    window.run("trace.keep")
    channels = [rig.channel(c) for c in ("chest/tilt", "left hand/up", "left hand/forward")]
    session.keys.choose({channels[1]: np.array([119.0, 133.0])})
    window.run("keys.raise_ten")
    window.run("keys.longer")
    window.curves.desk.plot.list.picked = set(channels)
    session.keys.choose({channels[1]: np.array([133.0])})
    window.run("curves.speed")
    window.curves.speed.in_space = True
    window.curves.desk.plot.fit()
    window.curves.desk.plot.fit()
    window.notice.hide()


def polish(window: Window) -> None:
    """Arcs of both hands and of a spot on the head, and shapers on the keys of one."""
    session = window.session
    window.run("pass.polish")
    rig = session.shot.figure("porter").rig
    window.run("arcs.show")
    session.do("Bow", lambda shot: script.on_an_arc(shot, "porter", "hips", 119, 133))
    spot = Spot("porter", "head", (0.0, 0.12, 0.12))
    for kept in (spot, spot_of(session.shot.figure("porter"), rig.control("right hand"))):
        session.do("Keep an arc", lambda shot, s=kept: keep_spot(shot, s))
    session.go_to(131)
    session.choose("porter", [rig.control("left hand")])
    window.curves.desk.plot.list.picked = set()
    assert session.curves is not None
    session.keys.choose(keys_on(session.curves, list(rig.span(rig.control("left hand")))[:3], 114, 143))
    window.right.open("arcs")
    window.right.open("shapers")
    window.curves.desk.plot.fit()
    window.notice.hide()
    session.voice.hint("Dots are frames: close together is slow.")


def plan(window: Window) -> None:
    """A thumbnail of the heave in pencil over the next pose, and the way of the crate."""
    session = window.session
    window.run("pass.plan")
    session.go_to(119)
    line = np.linspace(0.0, 1.0, 40)
    way = np.stack([0.60 + 0.10 * np.sin(np.pi * line), 0.86 - 0.46 * line], 1)
    head = np.stack([0.585 + 0.042 * np.cos(2 * np.pi * line), 0.20 + 0.07 * np.sin(2 * np.pi * line)], 1)
    back = np.stack([0.565 - 0.06 * np.sin(np.pi * line), 0.28 + 0.34 * line], 1)
    arrow = np.array([[0.578, 0.44], [0.60, 0.395], [0.625, 0.435]])
    for points, pencil, width in ((way, "sanguine", 7), (arrow, "sanguine", 7), (head, "slate", 5), (back, "slate", 6)):
        session.do("Draw", lambda shot, p=points, c=pencil, w=width: script.draw(shot, 119, p, c, width=w))
    ground = np.stack([0.55 + 0.5 * line, 0 * line, 0.55 - 0.1 * np.sin(6 * line)], 1)
    session.do("Draw", lambda shot: script.draw(shot, 119, ground, "plum", "ground", 5))
    session.do("Draw", lambda shot: script.draw(shot, 133, back, "slate"))
    window.run("pencil.draw")
    window.notice.hide()
    session.voice.hint("Draw on the picture. Z puts the pencil away, Shift+Z changes pencil and rubber.")


def proof(window: Window) -> None:
    """The shot before it was polished, read; the remedy of a note on trial."""
    session = window.session
    session.commit("As it was", script.splined(script.demo(), "porter"))
    window.run("pass.polish")
    window.run("proof.next")
    QTest.qWait(2500)
    window.proofread.pick(window.proofread.notes[1])
    session.go_to(133)
    window.proofread.try_remedy(window.proofread.notes[1])
    window.notice.hide()
    session.voice.hint("Return keeps the remedy, Escape puts everything back.")


def bounce(window: Window) -> None:
    """The buoy, every frame of its way on the light table."""
    session = window.session
    session.do("Forget the arcs", lambda shot: forget_spots(shot, shot.spots))
    window.run("arcs.show")
    window.run("pass.spline")
    session.do("Second range", lambda shot: set_second(shot, (107.0, 150.0)))
    session.choose("buoy", [0])
    session.go_to(131)
    window.curves.desk.plot.list.picked = {session.shot.figure("buoy").rig.channel("whole buoy/up")}
    window.curves.speed.in_space = False
    window.curves.desk.plot.fit()
    session.change_looking(light_table=LightTable(on=True, kind="range"))
    session.voice.hint("Dots are frames: close together is slow.")


def cast_views(window: Window) -> None:
    """The goat, the porter close up, the setup sheet of a brought figure, and the start page."""
    window.ask.unsaved = lambda _title: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    window.session.change_looking(light_table=LightTable())
    window.session.voice.hint("")
    window.files.open(cast.GOAT)
    window.run("pass.block")
    window.session.go_to(135)
    window.session.choose("goat", [window.session.shot.figure("goat").rig.control("left hind foot goal")])
    window.stage.main.look_from(VIEWS["three-quarter"].fitted(np.array([[-0.8, 0.0, -0.8], [0.8, 1.1, 0.8]]), 1.7))
    window.notice.hide()
    take(window, "goat")
    window.files.open(cast.DEMO)
    window.session.go_to(109)
    choose(window, "mouth")
    window.stage.main.look_from(VIEWS["three-quarter"].fitted(np.array([[-0.3, 1.15, -0.3], [0.3, 1.85, 0.3]]), 1.7))
    take(window, "porter")
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "billy.glb"
        source.write_bytes(stranger())
        bring(window.files, source, Path(folder) / "billy.bovrin.json")
        window.notice.hide()
        window.run("cast.setup")
        sheet = next(child for child in window.findChildren(SetupSheet) if child.isVisible())
        sheet.picture.look_from("three-quarter")
        sheet.views.show_chosen("three-quarter")
        sheet.try_out("2 upper")
        QTest.qWait(1500)
        sheet.grab().save(str(FOLDER / "setup.png"))
        sheet.reject()
        for name in ("tide-goes-out", "second-crate"):
            script.save(script.demo(), Path(folder) / f"{name}.bovrin.json")
            window.files.open(Path(folder) / f"{name}.bovrin.json")
        window.notice.hide()
        window.open("start")
        take(window, "start")
        assert window.opening.start is not None
        window.opening.start.leave()


def stranger() -> bytes:
    """The goat as a file of another maker: without its rig."""
    reader = GlbReader((cast.FOLDER / "goat.glb").read_bytes(), "goat")
    document = {key: value for key, value in reader.document.items() if key != "buffers"}
    for item in (*document["skins"], *document["nodes"]):
        item.pop("extras", None)
    return packed(document, reader.blob)


def cycle(window: Window) -> None:
    """The porter's trudge on the wheel, seen from the side."""
    window.session.replace(trudge(), None)
    window.session.choose("porter")
    window.run("pass.cycle")
    window.right.open("cycle")
    window.run("view.side")
    window.stage.fit()
    window.strip.see_range()
    window.session.go_to(105)


def shelf(window: Window) -> None:
    """The third demo: clips, fades and keys on top."""
    window.files.open(cast.ACROSS)
    window.session.choose("porter")
    window.session.shelf.choose(Place(0, 1))
    window.right.open("clips")
    window.stage.main.scene.look_from(VIEWS["three-quarter"])
    window.session.go_to(176)
    window.stage.fit()


def drive(window: Window) -> None:
    """The porter steered through the clips of the third demo, by hand but at a pace of its own."""
    window.run("cycle.drive")
    sheet = window.findChild(TestDrive)
    assert sheet is not None
    sheet.halt()
    for key, frames in ((Qt.Key.Key_W, 50), (Qt.Key.Key_D, 30), (Qt.Key.Key_S, 34)):
        QTest.keyPress(sheet, key)
        for _ in range(frames):
            sheet.advance()
        QTest.keyRelease(sheet, key)
    sheet.grab().save(str(FOLDER / "drive.png"))
    sheet.reject()


def weight(window: Window) -> None:
    """What follows by itself, with all that it is told; and the weight of the porter and of what hangs on him."""
    window.files.open(cast.GOAT)
    session = window.session
    session.do("The take that follows", lambda shot: chosen_take(shot, "followed"))
    window.run("pass.spline")
    window.right.open("followers").rows[0].name.click()
    session.go_to(137)
    window.stage.main.look_from(VIEWS["three-quarter"].fitted(np.array([[-0.8, 0.0, -0.8], [0.8, 1.1, 0.8]]), 1.7))
    window.notice.hide()
    take(window, "followers")
    window.files.open(cast.CARRY)
    window.run("pass.block")
    window.stage.main.look_from(VIEWS["three-quarter"].fitted(np.array([[-1.0, 0.0, -0.8], [1.2, 1.9, 0.8]]), 1.7))
    session.choose("porter")
    session.go_to(140)
    window.run("show.balance")
    window.right.open("attachments")
    window.notice.hide()
    take(window, "weight")


def heron(window: Window) -> None:
    """A flat figure strikes: its drawings, and runs in their lanes."""
    window.files.open(cast.HERON)
    window.run("pass.block")
    session = window.session
    session.choose("heron", [session.shot.figure("heron").rig.control("beak")])
    session.go_to(157)
    box = np.array([[-1.5, 0.0, -1.8], [0.5, 1.0, -1.5]])
    window.stage.main.look_from(VIEWS["three-quarter"].fitted(box, 1.7))
    window.right.open("drawings")
    window.notice.hide()
    take(window, "heron")


def main() -> None:
    """All of them."""
    for place in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
        os.environ[place] = tempfile.mkdtemp()
    FOLDER.mkdir(parents=True, exist_ok=True)
    app = dressed_application()
    window = make_window(None)
    window.resize(1280, 800)
    window.show()
    QTest.qWait(400)
    block(window)
    take(window, "block")
    window.strip.places.open_lane("part left arm")
    window.session.keys.clear()
    pose(window)
    take(window, "posing")
    window.run("view.glass")
    window.session.change_looking(axes="view")
    window.run("pass.break_down")
    window.session.go_to(123)
    choose(window, "chest")
    window.run("view.light_table")
    panel = window.right.open("breakdown")
    panel.all.moved.emit(0.7)
    panel.rows["head"].slider.moved.emit(0.4)
    panel.all.released.emit()
    take(window, "break-down")
    window.run("view.light_table")
    spline(window)
    take(window, "spline")
    polish(window)
    take(window, "polish")
    bounce(window)
    take(window, "bounce")
    window.ask.unsaved = lambda _title: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    window.session.change_looking(light_table=LightTable())
    window.files.open(cast.DEMO)
    plan(window)
    take(window, "plan")
    window.run("pencil.draw")
    proof(window)
    take(window, "proof")
    window.proofread.drop()
    cast_views(window)
    cycle(window)
    take(window, "cycle")
    window.ask.unsaved = lambda _title: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    shelf(window)
    take(window, "shelf")
    drive(window)
    weight(window)
    heron(window)
    window.ask.unsaved = lambda _title: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    window.close()
    app.quit()


if __name__ == "__main__":
    main()
