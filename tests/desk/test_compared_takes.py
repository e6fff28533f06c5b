"""Another take over this one or beside it: in step, each in its own range, and nothing of the shot changed."""

from dataclasses import replace

import numpy as np
import pytest
from tests.cycles import alone

from bovrin import script as bv
from bovrin.craft.takes import copied_take, frame_in_step
from bovrin.desk.window import Window
from bovrin.shot import Shot, Span


@pytest.fixture
def takes(window: Window) -> Window:
    """Take A turns the head from 101 on; take B, worked on, moves it up, and begins at 111."""
    shot = bv.set_values(alone("porter"), "porter", 101, {"head/turn": 0.0})
    shot = bv.set_values(shot, "porter", 125, {"head/turn": 40.0})
    shot = copied_take(replace(shot, last=125.0), "B")
    shot = bv.set_values(shot, "porter", 125, {"head/tilt": 30.0})
    window.session.replace(replace(shot, first=111.0, last=151.0), None)
    window.session.choose("porter")
    return window


def a_alone(shot: Shot) -> Shot:
    return shot.showing(next(take for take in shot.takes if take.name == "A"))


def test_over_it_lies_in_step(takes: Window) -> None:
    session, scene = takes.session, takes.stage.main.scene
    before = session.shot
    session.go_to(121)
    plain = takes.stage.main.picture.image().copy()
    takes.run("take.over")
    (ghost,) = scene.other_take.over()
    assert not scene.other_take.beside(scene.view)
    wanted = bv.sample(a_alone(before), "porter", [111.0]).position[0]
    assert np.allclose(ghost.item.world[:, :3, 3], wanted, atol=1e-9), "ten frames after each beginning"
    assert takes.stage.main.picture.image() != plain
    session.go_to(150)
    (ghost,) = scene.other_take.over()
    wanted = bv.sample(a_alone(before), "porter", [125.0]).position[0]
    assert np.allclose(ghost.item.world[:, :3, 3], wanted, atol=1e-9), "the shorter take holds its end"
    takes.run("take.over")
    assert not scene.other_take.over() and session.shot is before


def test_beside_it_stands_to_the_right_from_every_side(takes: Window) -> None:
    session, scene = takes.session, takes.stage.main.scene
    session.go_to(121)
    takes.run("take.beside")
    for side in ("front", "side", "three-quarter"):
        takes.run(f"view.{side}")
        (there,), here = scene.other_take.beside(scene.view), scene.items()[0]
        apart = scene.on_screen(there.world[1, :3, 3]) - scene.on_screen(here.world[1, :3, 3])
        assert apart.x() > 20 > abs(apart.y()) * 4
        picked = scene.picked()
        assert picked is None or scene.skin_at(scene.on_screen(there.world[1, :3, 3])) is None, "it is only looked at"


def test_who_does_not_move_is_seen_once(takes: Window) -> None:
    session, scene = takes.session, takes.stage.main.scene
    session.replace(session.shot.with_figure(replace(session.shot.figure("porter"), name="idler")), None)
    takes.run("take.beside")
    assert [item.figure.name for item in scene.other_take.beside(scene.view)] == ["porter"]


def test_taking_the_other_changes_places(takes: Window) -> None:
    session, scene = takes.session, takes.stage.main.scene
    takes.run("take.over")
    takes.run("take.next")
    assert session.shot.take.name == "A"
    assert session.looking.compared is not None and session.looking.compared.take == "B"
    assert len(scene.other_take.over()) == 1
    takes.run("edit.undo")
    assert session.shot.take.name == "B" and not scene.other_take.over(), "nothing to compare a take with but itself"
    menu = takes.topbar.take.build_menu()
    assert any(action.text() == "Compare with" for action in menu.actions())


def test_a_loop_goes_round() -> None:
    shot = replace(alone("porter"), first=101.0, last=300.0)
    loop = replace(shot.take, name="B", span=Span(11.0, 35.0, True))
    assert [frame_in_step(shot, loop, f) for f in (101, 124, 125, 150)] == [11, 34, 11, 12]
    once = replace(loop, span=Span(11.0, 35.0))
    assert [frame_in_step(shot, once, f) for f in (101, 125, 290)] == [11, 35, 35]
