"""Drawings: they hold until the next, go along in time, stay on what they are pinned to, and come back from files."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin import script
from bovrin.craft.company import left
from bovrin.craft.drawings import copied_drawing, drawing_at, moved_drawing, neighbours, new_drawing, without_drawing
from bovrin.errors import BovrinError
from bovrin.picture.strokes import on_picture, world_points
from bovrin.picture.view import named_view
from bovrin.shot import Drawing, Shot, Stroke

DEMO = script.demo()
LINE = [[0.2, 0.3], [0.5, 0.4], [0.8, 0.2]]
SIZE = (320, 200)


def frames(shot: Shot) -> list[float]:
    return [drawing.frame for drawing in shot.drawings]


def two() -> Shot:
    return script.draw(new_drawing(script.draw(DEMO, 105, LINE), 120), 122, LINE, "teal")


def test_a_drawing_holds_until_the_next() -> None:
    shot = two()
    assert frames(shot) == [105, 120], "on a frame that a drawing holds on, it goes on"
    seen = {frame: drawing_at(shot, frame) for frame in (104, 105, 119, 120, 150)}
    assert seen[104] is None and seen[105] is seen[119] and seen[120] is seen[150]
    assert [s.pencil for s in seen[150].strokes] == ["teal"]  # type: ignore[union-attr]
    assert neighbours(shot, 130) == (shot.drawings[0], None) and neighbours(shot, 102) == (None, shot.drawings[0])
    assert neighbours(shot, 110) == (None, shot.drawings[1])


def done(shot: Shot, what: str, frame: int, to: int) -> Shot:
    if what == "d":
        return script.draw(shot, frame, LINE)
    if what == "m":
        return moved_drawing(shot, shot.drawings[0].frame, to)
    if what == "c":
        return copied_drawing(shot, frame, to)
    return (new_drawing if what == "n" else without_drawing)(shot, frame)


@given(st.lists(st.tuples(st.sampled_from("ndmcw"), st.integers(101, 160), st.integers(90, 170)), max_size=12))
def test_drawings_stay_in_order_and_strokes_are_never_lost_but_on_purpose(steps: list[tuple[str, int, int]]) -> None:
    shot = two()
    for what, frame, to in steps:
        before = sum(len(d.strokes) for d in shot.drawings)
        try:
            made = done(shot, what, frame, to)
        except (BovrinError, IndexError):
            continue
        after = sum(len(d.strokes) for d in made.drawings)
        assert what == "w" or after >= before
        assert frames(made) == sorted(set(frames(made)))
        shot = made


def test_they_go_along_when_frames_are_put_in_and_taken_out() -> None:
    shot = two()
    longer = script.insert_frames(shot, 110, 5)
    assert frames(longer) == [105, 125]
    assert frames(script.remove_frames(longer, 110, 5)) == frames(shot)


def test_what_is_pinned_stays_on_the_ground_or_on_its_joint() -> None:
    hand = script.sample(DEMO, "porter", [119, 133])
    at = hand.joints.index("left hand")
    shot = script.draw(DEMO, 101, [[0.0, 0.0, 0.0], [0.0, 0.1, 0.0]], pinned=("porter", "left hand"))
    stroke = shot.drawings[0].strokes[0]
    for n, frame in enumerate((119, 133)):
        places = world_points(shot, stroke, frame)
        assert places is not None and np.allclose(places[0], hand.position[n, at], atol=1e-9)
    ground = script.draw(DEMO, 101, [[0.3, 0, 0.2], [0.5, 0, 0.2]], pinned="ground").drawings[0].strokes[0]
    view = named_view("side")
    seen = [on_picture(DEMO, ground, frame, view, SIZE) for frame in (101, 140)]
    assert np.allclose(seen[0], view.project(ground.points, SIZE)[:, :2]) and np.array_equal(seen[0], seen[1])  # type: ignore[arg-type]
    gone = left(shot, "porter")
    assert gone.drawings[0].strokes == () and frames(gone) == [101]


def test_of_another_width_of_the_picture_they_stay_where_they_were_over_the_figure() -> None:
    stroke = Stroke(np.array([[0.25, 0.5, 0.0], [0.75, 0.5, 0.0]]), np.ones(2), "slate", None, 1.6)
    narrow, wide = (on_picture(DEMO, stroke, 101, named_view("front"), (w, 500)) for w in (800, 1200))
    assert np.allclose(narrow[:, 0] - 400, wide[:, 0] - 600), "as far from the middle"  # type: ignore[index]


def test_a_picture_shows_them_when_asked(tmp_path: Path) -> None:
    shot = script.draw(DEMO, 110, LINE, "sanguine", width=12)
    plain, drawn = (script.picture(shot, 115, "front", SIZE, drawings=on) for on in (False, True))
    differ = np.abs(plain.astype(int) - drawn).max(-1) > 20
    assert np.array_equal(
        script.picture(shot, 105, "front", SIZE, drawings=True), script.picture(shot, 105, "front", SIZE)
    )
    _ys, xs = np.nonzero(differ)
    assert abs(xs.min() - 0.2 * SIZE[0]) < 3 and abs(xs.max() - 0.8 * SIZE[0]) < 3
    for x, y in LINE:
        assert differ[int(y * SIZE[1]), min(int(x * SIZE[0]), SIZE[0] - 1)]
    assert differ.mean() < 0.03


def test_they_come_back_from_the_file(tmp_path: Path) -> None:
    shot = script.draw(two(), 101, [[0.0, 0.1, 0.0]], "plum", ("porter", "head"), 7)
    script.save(shot, tmp_path / "d.bovrin.json")
    back = script.load(tmp_path / "d.bovrin.json")
    assert frames(back) == frames(shot)
    for one, other in zip(shot.drawings, back.drawings, strict=True):
        for a, b in zip(one.strokes, other.strokes, strict=True):
            assert np.allclose(a.points, b.points, atol=1e-5) and (a.pencil, a.pin, a.aspect) == (
                b.pencil,
                b.pin,
                b.aspect,
            )
            assert np.allclose(a.widths, b.widths)


def test_bad_lines_are_refused_in_words() -> None:
    for points, more in (
        ([[0.1]], {}),
        ([[np.nan, 0.1]], {}),
        (np.empty((0, 2)), {}),
        (LINE, {"pencil": "gold"}),
        (LINE, {"pinned": "ground"}),
        ([[0, 0, 0]], {"pinned": ("porter", "wing")}),
        ([[0, 0, 0]], {"pinned": ("nobody", "hand")}),
        (LINE, {"width": -1}),
        (LINE, {"width": 1e9}),
    ):
        with pytest.raises(BovrinError):
            script.draw(DEMO, 101, points, **more)  # type: ignore[arg-type]
    with pytest.raises(BovrinError):
        replace(DEMO, drawings=(Drawing(110), Drawing(105)))
    for act in (new_drawing, without_drawing):
        with pytest.raises(BovrinError):
            act(two() if act is new_drawing else DEMO, 105)
