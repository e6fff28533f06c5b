"""Every field of the document, walked by its declaration: whoever goes through what a shot holds must notice a change of each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from bovrin import script
from bovrin.craft.hanging.channels import with_hooks
from bovrin.craft.takes import copied_take
from bovrin.errors import BovrinError, CannotWrite
from bovrin.formats.project import store as project
from bovrin.formats.project.store import load, save
from bovrin.shot import (
    Acting,
    Attachment,
    Blend,
    Card,
    Cycle,
    Drawing,
    Follower,
    Group,
    Laid,
    Lane,
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
    return full_shot()


def full_shot() -> Shot:
    """A shot that has something in each field: the demo out of clips, a hand on the ground, a head that springs, and more."""
    hung = script.attach(script.demo("across"), "porter", "left hand", script.GROUND, 120)
    return script.follow(hung, "porter", ["head"], "spring", clear_of=["ground"])


def other_curves(shot: Shot) -> Any:
    return script.set_values(shot, "porter", 111.0, {"hips/up": 0.123}).curves("porter")


def other_take(shot: Shot) -> dict[str, Callable[[Take], dict[str, Any]]]:
    """For each field of a take another value of it."""
    name = "porter"
    return {
        "name": lambda t: {"name": t.name + " again"},
        "acting": lambda t: {"acting": t.acted(name, **other_acting(shot)["curves"]).acting},
        "traces": lambda t: {"traces": (*t.traces, Trace("before", name, shot.curves(name)))},
        "order": lambda t: {"order": t.order + 1},
        "span": lambda t: {"span": Span(shot.first, shot.last + 9, True)},
        "left": lambda t: {"left": (*t.left, LeftNote("kink", name, "head", 110.0, 112.0))},
    }


def other_acting(shot: Shot) -> dict[str, dict[str, Any]]:
    """For each field of an acting another value of it."""
    return {
        "curves": {"curves": other_curves(shot)},
        "cards": {"cards": (Card(shot.first, "a new name", Blend(shot.first, shot.first + 9, 0.5)),)},
        "cycle": {"cycle": Cycle(shot.first, shot.first + 24, "", False)},
        "contacts": {"contacts": {"left leg": ((103.0, 109.0),)}},
        "lanes": {"lanes": (Lane((Laid(shot.clips[0].name, shot.first + 3, 0.0, 9.0),)),)},
        "instead": {"instead": frozenset(["hips/up", "hips/across"])},
        "attachments": {"attachments": ()},
        "followers": {"followers": ()},
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
ACTING_FIELDS = [field.name for field in fields(Acting)]


def test_every_field_is_tried(full: Shot) -> None:
    assert sorted(other_shot(full)) == sorted(SHOT_FIELDS) and sorted(other_take(full)) == sorted(TAKE_FIELDS)
    assert sorted(other_acting(full)) == sorted(ACTING_FIELDS)


@pytest.mark.parametrize("name", SHOT_FIELDS)
def test_a_change_of_any_field_is_noticed(name: str, full: Shot) -> None:
    made = other_shot(full)[name]()
    assert name in differing(full, made) and not alike(full, made) and alike(made, made)


@pytest.mark.parametrize("name", TAKE_FIELDS)
def test_a_change_of_any_field_of_a_take_is_noticed(name: str, full: Shot) -> None:
    made = replace(full.take, **other_take(full)[name](full.take))
    assert differing(full.take, made) == [name]


@pytest.mark.parametrize("name", ACTING_FIELDS)
def test_a_change_of_any_field_of_an_acting_is_noticed_and_written(name: str, full: Shot, tmp_path: Path) -> None:
    own = full.take.of("porter")
    made = replace(full, take=full.take.acted("porter", **other_acting(full)[name]))
    assert differing(own, made.take.of("porter")) == [name] and differing(full, made) == ["take"]
    save(made, tmp_path / "shot.bovrin.json")
    read = load(tmp_path / "shot.bovrin.json").take.of("porter")
    assert not differing(read, made.take.of("porter"), project.AS_WRITTEN)
    assert differing(read, own, project.AS_WRITTEN) == [name]


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


def test_a_figure_leaves_with_all_of_its(full: Shot) -> None:
    take = replace(full.take, **{k: v for name in TAKE_FIELDS for k, v in other_take(full)[name](full.take).items()})
    gone = take.without("porter")
    assert "porter" in repr([take.acting.keys(), take.traces, take.left]) and "porter" not in gone.acting
    assert not [one for one in (*gone.traces, *gone.left) if one.figure == "porter"]


def test_a_stroke_out_of_all_measure_is_refused_where_it_comes_in(full: Shot) -> None:
    with pytest.raises(BovrinError, match="farther off"):
        script.draw(full, 110, [(1e305, 0.0, 0.0), (0.0, 0.0, 0.0)], pinned=None)


RETIMERS: dict[str, Callable[[Shot], Shot]] = {
    "a pose held longer": lambda shot: script.lengthen(shot, "porter", HELD, 4),
    "a pose held longer for all": lambda shot: script.lengthen(shot, "porter", HELD, 4, for_all=True),
    "another's pose held longer for all": lambda shot: script.lengthen(shot, "crate", HELD, 4, for_all=True),
    "frames put in": lambda shot: script.insert_frames(shot, HELD, 4),
}
HELD = 119.0


def on_frames(later: float) -> dict[str, Any]:
    """Something of every kind that lies on frames after the pose that is held, and something before it that stays."""
    start = 140.0 + later
    return {
        "cards": (Card(101.0, "first"), Card(start, "late", Blend(101.0, start + 9, 0.5))),
        "cycle": Cycle(101.0, start, ""),
        "contacts": {"left leg": ((102.0, 104.0), (110.0, start)), "right leg": ((start, start + 5.0),)},
        "lanes": (Lane((Laid("step", 103.0, 0.0, 5.0), Laid("step", start, 0.0, 5.0))),),
        "instead": frozenset(["hips/up"]),
        "attachments": (Attachment("left hand", "hangs", place=(140.0, 141.0, 142.0)),),  # metres, no frames: they stay
        "followers": (Follower("nod", "swing", ("head",)),),  # what it is told are keys
    }


@pytest.mark.parametrize("how", RETIMERS)
def test_what_lies_on_frames_goes_along_with_time(how: str, demo: Shot) -> None:
    """All that a figure does besides its keys, and notes left of it, are later by as much as its later keys."""
    clip = replace(script.demo("across").clips[0], name="step")
    notes = [LeftNote("kink", "porter", "head", 102.0, 104.0), LeftNote("kink", "porter", "head", 141.0, 142.0)]
    demo = script.follow(with_hooks(demo, "porter", {"left hand": 1}), "porter", ["head"], "swing", "nod")
    shot = replace(demo, clips=(clip,), take=replace(demo.take.acted("porter", **on_frames(0.0)), left=tuple(notes)))
    made = RETIMERS[how](shot)
    last = [max(float(curve.frames[-1]) for curve in one.curves("porter").curves if len(curve)) for one in (shot, made)]
    assert last[1] == last[0] + 4.0
    wanted = Acting(made.curves("porter"), **on_frames(4.0))
    assert differing(made.take.of("porter"), wanted) == []
    assert made.take.left == (notes[0], notes[1]._replace(start=145.0, end=146.0))


def test_everything_of_an_acting_that_lies_on_frames_is_tried() -> None:
    assert sorted(on_frames(0.0)) == sorted(set(ACTING_FIELDS) - {"curves"})
