"""Every field of the document, walked by its declaration: whoever goes through what a shot holds must notice a change of each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from bovrin import script
from bovrin.craft.takes import copied_take
from bovrin.errors import BovrinError, CannotWrite
from bovrin.formats import project
from bovrin.formats.project import load, save
from bovrin.shot import (
    Card,
    Cycle,
    Drawing,
    Group,
    LeftNote,
    Marker,
    Ruler,
    Shot,
    Span,
    Spot,
    Stroke,
    Take,
    Trace,
    Unkeyed,
)
from bovrin.shot.comparing import alike, differing


@pytest.fixture(scope="module")
def full() -> Shot:
    """A shot that has something in each field: the demo out of clips, and more."""
    return script.demo("across")


def other_curves(shot: Shot) -> Any:
    return script.set_values(shot, "porter", 111.0, {"hips/up": 0.123}).curves("porter")


def other_take(shot: Shot) -> dict[str, Callable[[Take], dict[str, Any]]]:
    """For each field of a take another value of it."""
    name = "porter"
    return {
        "name": lambda t: {"name": t.name + " again"},
        "curves": lambda t: {"curves": {**t.curves, name: other_curves(shot)}},
        "cards": lambda t: {"cards": {**t.cards, name: (Card(shot.first, "a new name"),)}},
        "traces": lambda t: {"traces": (*t.traces, Trace("before", name, shot.curves(name)))},
        "order": lambda t: {"order": t.order + 1},
        "span": lambda t: {"span": Span(shot.first, shot.last + 9, True)},
        "left": lambda t: {"left": (*t.left, LeftNote("kink", name, "head", 110.0, 112.0))},
        "cycles": lambda t: {"cycles": {**t.cycles, name: Cycle(shot.first, shot.first + 24, "", False)}},
        "contacts": lambda t: {"contacts": {**t.contacts, name: {"left leg": ((103.0, 109.0),)}}},
        "lanes": lambda t: {"lanes": {**t.lanes, name: ()}},
        "instead": lambda t: {"instead": {**t.instead, name: frozenset(["hips/up", "hips/across"])}},
    }


def other_shot(shot: Shot) -> dict[str, Callable[[], Shot]]:
    """For each field of a shot a shot in which it is another."""
    stroke = Stroke(np.array([[0.1, 0.2, 0.0], [0.3, 0.4, 0.0]]), np.array([1.0, 2.0]), "slate")
    return {
        "title": lambda: replace(shot, title="Another"),
        "cast": lambda: script.add_figure(shot, "cast:buoy"),
        "take": lambda: replace(shot, take=replace(shot.take, left=(LeftNote("kink", "porter", "head", 1.0, 2.0),))),
        "markers": lambda: replace(shot, markers=(*shot.markers, Marker(110.0, 112.0, "hey"))),
        "first": lambda: replace(shot, first=shot.first - 3),
        "last": lambda: replace(shot, last=shot.last + 3),
        "frame_rate": lambda: replace(shot, frame_rate=25.0),
        "groups": lambda: replace(shot, groups=(*shot.groups, Group("hands", ("left hand", "right hand")))),
        "second": lambda: replace(shot, second=(105.0, 120.0)),
        "retimes_all": lambda: replace(shot, retimes_all=not shot.retimes_all),
        "on_set": lambda: replace(shot, on_set=not shot.on_set),
        "loops": lambda: replace(shot, loops=not shot.loops),
        "unkeyed": lambda: replace(shot, unkeyed=(Unkeyed("porter", 110.0, shot.curves("porter")),)),
        "takes": lambda: copied_take(shot, "another one"),
        "spots": lambda: replace(shot, spots=(*shot.spots, Spot("porter", "head"))),
        "limits": lambda: replace(shot, limits=(("kink", 0.5),)),
        "drawings": lambda: replace(shot, drawings=(*shot.drawings, Drawing(shot.last, (stroke,)))),
        "clips": lambda: replace(shot, clips=(replace(shot.clips[0], name="kept again"), *shot.clips)),
        "ruler": lambda: replace(shot, ruler=Ruler((0.0, 0.0), (1.0, 0.0))),
    }


SHOT_FIELDS = [field.name for field in fields(Shot)]
TAKE_FIELDS = [field.name for field in fields(Take)]


def test_every_field_is_tried(full: Shot) -> None:
    assert sorted(other_shot(full)) == sorted(SHOT_FIELDS) and sorted(other_take(full)) == sorted(TAKE_FIELDS)


@pytest.mark.parametrize("name", SHOT_FIELDS)
def test_a_change_of_any_field_is_noticed(name: str, full: Shot) -> None:
    made = other_shot(full)[name]()
    assert name in differing(full, made) and not alike(full, made) and alike(made, made)


@pytest.mark.parametrize("name", TAKE_FIELDS)
def test_a_change_of_any_field_of_a_take_is_noticed(name: str, full: Shot) -> None:
    made = replace(full.take, **other_take(full)[name](full.take))
    assert differing(full.take, made) == [name]


@pytest.mark.parametrize("name", [n for n in SHOT_FIELDS if n not in ("unkeyed", "cast")])
def test_a_writer_that_forgets_a_field_is_caught(
    name: str, full: Shot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is written instead is the shot without the change: the save is refused, and the old file stays."""
    made = other_shot(full)[name]()
    path = tmp_path / "shot.bovrin.json"
    save(full, path)
    before = path.read_bytes()
    real = project.shot_to_bytes
    monkeypatch.setattr(project, "shot_to_bytes", lambda shot: real(replace(shot, **{name: getattr(full, name)})))
    with pytest.raises(CannotWrite, match="could not be read again"):
        save(made, path)
    assert path.read_bytes() == before
    monkeypatch.setattr(project, "shot_to_bytes", real)
    save(made, path)
    assert name in differing(load(path), full) and name not in differing(load(path), made, project.AS_WRITTEN)


@pytest.mark.parametrize("name", [n for n in TAKE_FIELDS if n not in ("name", "span", "order")])
def test_time_takes_everything_of_a_take_along_and_a_figure_leaves_with_all_of_its(name: str, full: Shot) -> None:
    """Whatever lies on frames is 10 frames later after time was shifted by 10 and as it was after it was shifted back; and
    nothing of a figure stays when it leaves."""
    take = replace(full.take, **other_take(full)[name](full.take))
    there = take.mapped(lambda curves: curves, lambda frame: frame + 10.0)
    back = there.mapped(lambda curves: curves, lambda frame: frame - 10.0)
    assert alike(back, take)
    if name in ("cards", "left", "cycles", "contacts"):
        assert name in differing(there, take), f"'{name}' lies on frames and stays behind"
    assert "porter" not in repr(_names(getattr(take.without("porter"), name)))


def _names(value: Any) -> list[str]:
    if hasattr(value, "keys"):
        return list(value)
    return [getattr(one, "figure", "") for one in value]


def test_a_stroke_out_of_all_measure_is_refused_where_it_comes_in(full: Shot) -> None:
    with pytest.raises(BovrinError, match="farther off"):
        script.draw(full, 110, [(1e305, 0.0, 0.0), (0.0, 0.0, 0.0)], pinned=None)
