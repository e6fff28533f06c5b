"""Whether two values of the document hold the same: by what they declare, so that a field more is compared from its first day."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import fields, is_dataclass
from typing import Any, NamedTuple

import numpy as np


class Measure(NamedTuple):
    """What counts as the same. within: how far numbers may be apart, as a share of them where they are large; kinds: values
    that are compared in their own way."""

    within: float = 0.0
    kinds: Mapping[type, Callable[[Any, Any], bool]] = {}


EXACTLY = Measure()


def alike(one: Any, other: Any, measure: Measure = EXACTLY) -> bool:
    """Whether two values hold the same, looked into field by field."""
    if one is other:
        return True
    if isinstance(one, Mapping) and isinstance(other, Mapping):
        return one.keys() == other.keys() and all(alike(one[key], other[key], measure) for key in one)
    if type(one) is not type(other):
        return bool(_numbers(one, other) and _near(one, other, measure.within))
    if type(one) in measure.kinds:
        return measure.kinds[type(one)](one, other)
    if is_dataclass(one):
        return not differing(one, other, measure)
    if isinstance(one, (tuple, list)):
        return len(one) == len(other) and all(alike(a, b, measure) for a, b in zip(one, other, strict=True))
    if isinstance(one, np.ndarray):
        return one.shape == other.shape and _near(one, other, measure.within)
    return bool(_near(one, other, measure.within) if _numbers(one, other) else one == other)


def _numbers(one: Any, other: Any) -> bool:
    return all(isinstance(n, (int, float)) and not isinstance(n, bool) for n in (one, other))


def _near(one: Any, other: Any, within: float) -> bool:
    if not within or getattr(one, "dtype", np.dtype(float)).kind != "f":
        return bool(np.array_equal(one, other))
    return bool(np.allclose(one, other, rtol=within, atol=within))


def differing(one: Any, other: Any, measure: Measure = EXACTLY, besides: Collection[str] = ()) -> list[str]:
    """The names of the fields in which two values of one declared kind differ; `besides` those named."""
    names = [field.name for field in fields(one) if field.name not in besides]
    return [name for name in names if not alike(getattr(one, name), getattr(other, name), measure)]
