"""What comes in under a scripting name: what it should be, numbers that are numbers, and frames that a shot can have."""

from __future__ import annotations

import functools
import inspect
import math
from collections.abc import Callable
from typing import Any

import numpy as np

from bovrin.errors import BadMotion
from bovrin.script.kinds import check_kind, hints_of
from bovrin.shot.checks import FARTHEST

FRAMES = {"frame", "frames", "start", "end", "old", "new", "spans", "contacts", "every", "count", "hold", "delay"}
"""Parameters that are frames, or numbers of them."""
MOMENTS = {"to", "at"}
"""Where a number, and no place, is a frame."""


def checked(function: Callable[..., Any]) -> Callable[..., Any]:
    """A function that refuses numbers which are none, and frames out of all measure, in words. Whole numbers come in as floats
    where it wants floats."""
    signature = inspect.signature(function)
    kinds: dict[str, Any] = {}
    floats = {name for name, one in signature.parameters.items() if str(one.annotation).startswith("float")}

    @functools.wraps(function)
    def call(*given: Any, **named: Any) -> Any:
        bound = signature.bind(*given, **named)
        if not kinds:  # once it is called: what annotations name is loaded by then
            kinds.update(hints_of(function))
        for name, value in bound.arguments.items():
            _check_kind(signature.parameters[name], value, kinds.get(name, Any))
            _check(name, value, frame=name in FRAMES or (name in MOMENTS and isinstance(value, (int, float))))
            if name in floats and type(value) is int:
                bound.arguments[name] = float(value)
        return function(*bound.args, **bound.kwargs)

    return call


def _check_kind(parameter: inspect.Parameter, value: Any, hint: Any) -> None:
    if parameter.kind is inspect.Parameter.VAR_KEYWORD:
        for name, one in value.items():
            check_kind(name, one, hint)
    elif value is not parameter.default:
        check_kind(parameter.name, value, hint)


def _check(name: str, value: Any, *, frame: bool) -> None:
    if isinstance(value, np.ndarray) and value.dtype.kind == "f":
        _check(name, float(np.abs(value).max(initial=0.0)), frame=frame)
    elif type(value) in (list, tuple):
        for one in value:
            _check(name, one, frame=frame)
    elif type(value) is dict:
        for word, one in value.items():
            _check(str(word), one, frame=frame)
    elif isinstance(value, int | float | np.floating):
        _check_number(name, float(value), frame=frame)


def _check_number(name: str, value: float, *, frame: bool) -> None:
    if not math.isfinite(value):
        raise BadMotion(f"'{name}' is not a finite number.")
    if frame and abs(value) > FARTHEST:
        raise BadMotion(f"'{name}' is frame {value:g}.", advice=f"Frames go up to {FARTHEST:,}.")
