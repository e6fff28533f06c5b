"""Any work on any shot: random calls of the scripting names, with sensible arguments and with wrong ones."""

from __future__ import annotations

import inspect
import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.measure.proof import KINDS, Note
from bovrin.shot import HandleKind, Shot
from bovrin.shot.follower import KINDS as RULES

ELSEWHERE = {
    "add_figure", "bring", "bring_clips", "clips_of_file", "demo", "export", "import_markers", "load", "load_poses", "picture",
    "save", "save_poses", "bring_pose", "reload", "frame_svg",
}  # fmt: skip
"""Names that read or write files or draw: damaged files and pictures have tests of their own."""
NAMES = [n for n in bv.__all__ if inspect.isfunction(getattr(bv, n)) and n not in ELSEWHERE]
WRONG = (float("nan"), float("inf"), -1e9, 1e9, 0.0, -1.0, 0.5)


@dataclass
class Hand:
    """Makes arguments up, by the names of parameters."""

    rng: random.Random
    shot: Shot
    figure: str
    wrong: float = 0.06

    def number(self, low: float, high: float) -> float:
        """A number in a range, mostly a whole one; now and then one that cannot be."""
        if self.rng.random() < self.wrong:
            return self.rng.choice(WRONG)
        value = self.rng.uniform(low, high)
        return float(round(value)) if self.rng.random() < 0.7 else round(value, 2)

    def frame(self) -> float:
        return self.number(self.shot.first - 4, min(self.shot.last, self.shot.first + 300) + 5)

    def one(self, of: Any) -> Any:
        """One of some names, now and then one that there is not."""
        there = list(of)
        return "nobody" if not there or self.rng.random() < self.wrong / 2 else self.rng.choice(there)

    def some(self, of: Any, most: int = 3) -> list[Any]:
        return [self.one(of) for _ in range(self.rng.randint(0, most))]

    def maybe(self, made: Callable[[], Any]) -> Any:
        return made() if self.rng.random() < 0.5 else None

    def place(self) -> Any:
        """A place in the world, near enough to be reached or not; or a joint of somebody."""
        return [self.number(-1.5, 1.5), self.number(0, 2), self.number(-1.5, 1.5)]

    def arguments(self, name: str) -> dict[str, Any]:
        """Arguments for a scripting name; those that may be left out are left out half the time."""
        found: dict[str, Any] = {}
        for parameter in inspect.signature(getattr(bv, name)).parameters.values():
            if parameter.kind is inspect.Parameter.VAR_KEYWORD:
                found |= SETTINGS[name](self) if self.rng.random() < 0.5 else {}
            elif parameter.default is inspect.Parameter.empty or self.rng.random() < 0.5:
                made = SPECIAL.get((name, parameter.name)) or COMMON[parameter.name]
                found[parameter.name] = made(self)
        return found

    @property
    def rig(self) -> Any:
        return self.shot.figure(self.figure).rig

    @property
    def controls(self) -> list[str]:
        return [control.name for control in self.rig.controls]

    @property
    def parts(self) -> list[str]:
        return [part.name for part in self.rig.parts]

    @property
    def joints(self) -> list[str]:
        return [joint.name for joint in self.rig.joints]


Made = Callable[[Hand], Any]
BOOL: Made = lambda h: h.rng.random() < 0.5
FRAME: Made = lambda h: h.frame()
FRAMES: Made = lambda h: sorted(h.frame() for _ in range(h.rng.randint(0, 5)))
PARTS: Made = lambda h: h.maybe(lambda: h.some(h.parts))
WAYS = ("forward", "across", "up", "turn")


def _share(low: float = -0.3, high: float = 1.3) -> Made:
    return lambda h: h.number(low * 100, high * 100) / 100


def _pose(h: Hand) -> Any:
    return bv.copy_pose(h.shot, h.figure, h.rng.uniform(h.shot.first, min(h.shot.last, h.shot.first + 100)))


def _note(h: Hand) -> Any:
    notes = bv.proof(h.shot, h.figure)
    return (
        h.rng.choice(notes)
        if notes
        else Note("slide", h.figure, "left leg", 101.0, 110.0, 1.0, "mm", "It slides.", None)
    )


COMMON: dict[str, Made] = {
    "shot": lambda h: h.shot,
    "figure": lambda h: h.figure if h.rng.random() < 0.98 else "nobody",
    "from_figure": lambda h: h.one(f.name for f in h.shot.cast),
    "to_figure": lambda h: h.one(f.name for f in h.shot.cast),
    "frame": FRAME, "start": FRAME, "end": FRAME,
    "to": lambda h: h.place(), "at": lambda h: h.place(), "frames": FRAMES, "every": lambda h: h.number(1, 9),
    "part": lambda h: h.one(h.parts), "parts": PARTS, "controls": lambda h: h.some(h.controls),
    "control": lambda h: h.one(h.controls),
    "feet": PARTS, "foot": lambda h: h.one(limb.name for limb in h.rig.limbs),
    "limb": lambda h: h.one(limb.name for limb in h.rig.limbs),
    "joint": lambda h: h.one(h.joints), "anchors": lambda h: h.some(h.joints, 2), "keep": lambda h: h.some(h.joints, 2),
    "point": lambda h: h.one(h.joints), "relative_to": lambda h: h.one(h.joints),
    "channel": lambda h: h.one(h.rig.channel_names), "channels": lambda h: h.some(h.rig.channel_names, 6),
    "values": lambda h: {h.one(h.rig.channel_names): h.number(-2, 2)},
    "favour": _share(), "amount": _share(-1, 1.5), "drag": _share(), "overshoot": _share(), "settle": _share(),
    "head": _share(),
    "look": _share(), "hold": lambda h: h.number(0, 6), "drift": _share(), "delay": lambda h: h.number(-3, 4),
    "shares": lambda h: [0.0, *sorted(h.rng.random() for _ in range(h.rng.randint(0, 12))), 1.0],
    "count": lambda h: int(h.rng.randint(-2, 12)), "error": _share(0, 0.2), "ground": _share(),
    "heights": lambda h: h.maybe(lambda: [h.number(0, 1) for _ in range(h.rng.randint(0, 4))]), "contacts": FRAMES,
    "for_all": BOOL, "every_frame": BOOL, "loop": BOOL, "in_step": BOOL, "instead": BOOL, "spot": BOOL, "steady": BOOL,
    "on": BOOL,
    "mirrored": BOOL, "keep_place": BOOL, "keep_turn": BOOL, "stretch": BOOL,
    "name": lambda h: h.one("abc"), "take": lambda h: h.one([*bv.takes(h.shot), "b"]),
    "clip": lambda h: h.one(bv.clips(h.shot)),
    "lane": lambda h: h.rng.choice((0, 0, 0, 1, 2, -1, 9)), "blend": lambda h: h.number(0, 12),
    "repeats": lambda h: h.number(0, 4),
    "stride": lambda h: h.number(0, 2), "angle": lambda h: h.number(-90, 90),
    "gait": lambda h: h.one(bv.gaits(h.shot, h.figure)),
    "way": lambda h: h.one(("left", "right", "backward", "turn left", "turn right")),
    "ways": lambda h: h.some(WAYS), "directions": lambda h: h.some(WAYS),
    "how": lambda h: h.one(("swap", "left to right", "right to left", "pose", "curves")),
    "plane": lambda h: h.one(("figure", "world")),
    "mode": lambda h: h.one(("reach", "joints")), "order": lambda h: h.one(("XYZ", "ZXY", "YXZ", "YZX")),
    "before": lambda h: h.one(("hold", "run on", "round")), "after": lambda h: h.one(("hold", "run on", "round")),
    "kind": lambda h: h.one([*KINDS, *(kind.name.lower().replace("_", " ") for kind in HandleKind)]),
    "limit": lambda h: h.maybe(lambda: h.number(0, 50)), "toward": lambda h: h.rng.choice(("on", "back", [0.1, 0.0, 0.1])),
    "shaper": lambda h: h.one(("before", "after", "soften", "exaggerate", "ease", "thin out", "fill in", "tremble", "shift")),
    "pencil": lambda h: h.one(("slate", "clay")), "width": lambda h: h.number(1, 9),
    "points": lambda h: [[h.rng.random() for _ in range(h.rng.choice((2, 3)))] for _ in range(h.rng.randint(0, 5))],
    "pinned": lambda h: h.rng.choice((None, "ground", (h.figure, h.one(h.joints)))),
    "bow": lambda h: h.maybe(lambda: h.place()), "pose": _pose,
    "poses": lambda h: [_pose(h) for _ in range(h.rng.randint(0, 5))],
    "note": _note, "spans": lambda h: h.maybe(lambda: [(h.frame(), h.frame()) for _ in range(h.rng.randint(0, 3))]),
    "old": lambda h: h.rng.choice(sum(bv.contacts(h.shot, h.figure).values(), [(1.0, 2.0)])),
    "new": lambda h: (h.frame(), h.frame()),
    "gravity": lambda h: h.number(-1, 20), "height": lambda h: h.maybe(lambda: h.number(-1, 3)),
}  # fmt: skip
SPECIAL: dict[tuple[str, str], Made] = {
    ("breakdown", "parts"): lambda h: {h.one(h.parts): h.number(0, 1)},
    ("crossfade", "at"): FRAME, ("lay_clip", "at"): FRAME, ("sidestep", "at"): FRAME, ("move_pose", "to"): FRAME,
    ("crossfade", "frames"): lambda h: h.number(0, 20), ("lengthen", "frames"): lambda h: h.number(-6, 8),
    ("slide", "frames"): lambda h: h.number(-5, 5), ("dart", "frames"): lambda h: h.number(0, 5),
    ("new_cycle", "frames"): lambda h: h.number(2, 40), ("slide", "parts"): lambda h: h.some(h.parts),
    ("find_key_poses", "frames"): lambda h: (h.frame(), h.frame()),
    ("lay_ruler", "start"): lambda h: h.place()[:2], ("lay_ruler", "end"): lambda h: h.place()[:2],
    ("lay_clip", "keys"): lambda h: h.one(("let go", "on top", "instead")),
    ("moving_hold", "amount"): _share(0, 1), ("set_mode", "every"): BOOL,
    ("set_body_way", "name"): lambda h: h.one(("twist", "weight", "bounce", "sway", "lean", "arm swing")),
    ("set_body_way", "amount"): lambda h: h.number(-20, 30),
    ("look_at", "at"): lambda h: h.rng.choice((h.place(), (h.figure, h.one(h.joints)))),
}  # fmt: skip
CARRIERS: Callable[[Hand], list[tuple[str, str]]] = lambda h: [(f.name, f.rig.joints[-1].name) for f in h.shot.cast]
CARRIER: Made = lambda h: h.rng.choice((bv.GROUND, (h.figure, h.one(h.joints)), *CARRIERS(h)))
WHAT: Made = lambda h: h.one(("both", "place", "turn"))
SPECIAL |= {
    ("attach", "to"): CARRIER, ("attach", "keep"): BOOL, ("attach", "what"): WHAT, ("set_influence", "to"): CARRIER,
    ("snap_to", "to"): CARRIER, ("snap_to", "what"): WHAT, ("set_influence", "amount"): _share(0, 1),
}  # fmt: skip
STACKED = ("front", "back", "before head", "behind body", "above")
SPECIAL |= {
    ("swap", "drawing"): lambda h: _drawing(h), ("swap", "until"): lambda h: h.maybe(h.frame),
    ("swap_run", "drawings"): lambda h: [_drawing(h) for _ in range(h.rng.randint(0, 4))],
    ("stack", "how"): lambda h: h.one(STACKED), ("stack", "branch"): BOOL, ("stack", "part"): lambda h: h.one(h.controls),
    **{(name, "part"): lambda h: h.one(h.controls) for name in ("drawing", "drawings", "swap", "swap_run", "flip", "bend_along")},
    ("bend_chain", "degrees"): lambda h: h.number(-400, 400), ("bend_chain", "soft"): _share(),
    ("bend_along", "points"): lambda h: int(h.rng.randint(2, 9)),
}  # fmt: skip
KINDS_OF_RULES = tuple(RULES)
SPECIAL |= {
    **{("drop", name): _share(0, 1) for name in ("bounciness", "speed", "friction", "turn", "squash")},
    ("drop", "contact"): FRAME, ("drop", "heading"): lambda h: h.number(-400, 400), ("drop", "height"): lambda h: h.number(-1, 3),
    ("follow", "kind"): lambda h: h.one(KINDS_OF_RULES), ("follow", "name"): lambda h: h.maybe(lambda: h.one("abc")),
    ("follow", "start"): lambda h: h.maybe(h.frame), ("follow", "end"): lambda h: h.maybe(h.frame),
    ("follow", "ease"): lambda h: (h.number(0, 20), h.number(0, 20)),
    ("follow", "clear_of"): lambda h: [h.one((*h.joints, "ground")) for _ in range(h.rng.choice((0, 0, 0, 1, 2)))],
    ("follow", "controls"): lambda h: h.some(h.rng.choice((h.controls, [c for c in h.controls if "tail" in c] or h.controls))),
    ("set_follower", "name"): lambda h: _rule(h), ("let_go", "name"): lambda h: _rule(h),
    ("set_follower", "frame"): lambda h: h.maybe(h.frame),
}  # fmt: skip


def _drawing(h: Hand) -> str:
    return h.one([d for c in h.rig.channels for d in c.choices] or ["1"]) if h.figure != "nobody" else "1"


def _rule(h: Hand) -> str:
    return h.one([one.name for one in bv.followers(h.shot, h.figure)] or ["a"]) if h.figure != "nobody" else "a"


def _told(h: Hand) -> dict[str, float]:
    """Settings of some kind of follower, from nothing to far too much."""
    rows = h.rng.sample(RULES[h.rng.choice(KINDS_OF_RULES)], 2)
    return {row.name.replace(" ", "_"): h.rng.choice((0.0, row.first, h.number(0, 3), 1e9, row.high)) for row in rows}


SETTINGS: dict[str, Made] = {
    "follow": _told, "set_follower": _told,
    "lay_clip": lambda h: dict(h.rng.sample(list({
        "repeats": h.number(0.3, 5), "speed": h.number(0.2, 3), "strength": h.number(-1, 2), "weight": h.number(0, 1),
        "mute": h.some(h.controls), "how": h.one(("over", "added")), "first": h.number(0, 20), "last": h.number(1, 40),
        "hold": h.number(0, 9), "backwards": True, "follows": True, "in_step": True,
    }.items()), 3)),
    "shape": lambda h: {"seed": 3, "beats": h.number(1, 9), "about": h.one(("line", "mean"))},
}  # fmt: skip


@dataclass
class Call:
    """What was called, and what came of it: the shot after it, or the sentence."""

    name: str
    arguments: dict[str, Any]
    figure: str
    shot: Shot
    sentence: str = ""

    def __str__(self) -> str:
        return (
            f"{self.name}({', '.join(f'{k}={v!r}' for k, v in self.arguments.items() if k != 'shot')}) {self.sentence}"
        )


def worked(shot: Shot, figures: list[str], seed: int, steps: int, names: list[str] | None = None) -> Iterator[Call]:
    """Calls one after another, each on the shot that the one before has made. What is raised and is no sentence goes through."""
    rng = random.Random(seed)
    for _ in range(steps):
        hand = Hand(rng, shot, rng.choice(figures))
        name = rng.choice(names or NAMES)
        call = Call(name, {}, hand.figure, shot)
        try:
            call.arguments = hand.arguments(name)
            made = getattr(bv, name)(**call.arguments)
            call.shot = shot = made if isinstance(made, Shot) else shot
        except BovrinError as error:
            assert error.sentence
            call.sentence = error.sentence
        except Exception as error:
            error.add_note(f"seed {seed}: {call}")
            raise
        yield call


def assert_sound(call: Call) -> None:
    """What holds of every shot: the figure is somewhere on all frames, and everybody else too."""
    shot = call.shot
    frames = np.arange(shot.first, min(shot.last, shot.first + 200) + 0.01, 1.5)
    assert np.isfinite(bv.sample(shot, call.figure, frames).position).all(), str(call)
