"""Shared ways of making curves, poses and shots up."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st

from bovrin.shot import (
    Channel,
    Control,
    ControlKind,
    Curve,
    Figure,
    HandleKind,
    Joint,
    Key,
    KeyRole,
    Model,
    Part,
    Rig,
    Unit,
)

few = settings(max_examples=max(settings.default.max_examples // 3, 1))  # type: ignore[union-attr]
"""For tests whose every example takes long: a third of the usual number."""
numbers = st.floats(-100, 100, allow_nan=False).map(lambda x: round(x, 4))
kinds = st.sampled_from(list(HandleKind))
entering = st.sampled_from([k for k in HandleKind if k is not HandleKind.STEPPED])
roles = st.sampled_from(list(KeyRole))


@st.composite
def key_frames(draw: st.DrawFn, least: int = 1, most: int = 7) -> list[float]:
    """Frames in order, whole or not, at least a tenth apart."""
    steps = draw(st.lists(st.floats(0.1, 20).map(lambda x: round(x, 2)), min_size=least, max_size=most))
    return [float(f) for f in 101 + np.cumsum(steps)]


@st.composite
def curves(draw: st.DrawFn, least: int = 1, most: int = 7, stepped: bool = True) -> Curve:
    """A curve with any handles."""
    keys = []
    for frame in draw(key_frames(least, most)):
        keys.append(
            Key(
                frame,
                draw(numbers),
                in_kind=draw(entering),
                out_kind=draw(kinds if stepped else entering),
                in_slope=draw(st.floats(-50, 50)),
                out_slope=draw(st.floats(-50, 50)),
                in_length=draw(st.floats(0, 40)),
                out_length=draw(st.floats(0, 40)),
                joined=draw(st.booleans()),
                free=draw(st.booleans()),
                role=draw(roles),
            )
        )
    return Curve.from_keys(keys)


def chain_figure(name: str = "rod", joints: int = 3) -> Figure:
    """A chain of joints straight up, half a metre apart: the first is moved and turned, all others turn."""
    move = tuple(Channel(n, f"translate {a}", Unit.LENGTH) for n, a in (("across", "x"), ("up", "y"), ("forward", "z")))
    turn = tuple(Channel(n, f"rotate {a}", Unit.ANGLE) for n, a in (("turn", "y"), ("tilt", "x"), ("roll", "z")))
    made = [Joint("base", -1, (0.0, 0.0, 0.0))]
    made += [Joint(f"link {i}", i - 1, (0.0, 0.5, 0.0)) for i in range(1, joints)]
    controls = [Control("whole", ControlKind.WHOLE, 0, move + turn)]
    controls += [Control(f"link {i}", ControlKind.JOINT, i, turn) for i in range(1, joints)]
    parts = (Part("base", (0,)), Part("links", tuple(range(1, joints))))
    return Figure(name, Rig(tuple(made), tuple(controls), parts), Model(()), f"{name}.glb", (0.5, 0.5, 0.5))


def thinned(values: Iterable[Any], keep: Iterable[Any]) -> list[Any]:
    """Values for a test of which some are enough each time; all of them are gone through in the sweeps."""
    kept = list(keep)
    return [value if value in kept else pytest.param(value, marks=pytest.mark.sweep) for value in values]
