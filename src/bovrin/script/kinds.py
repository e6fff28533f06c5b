"""What kind of thing a scripting name wants, by its annotations, and whether something is of that kind."""

from __future__ import annotations

import types
import typing
from collections.abc import Iterable, Mapping, Sequence
from numbers import Integral, Real
from typing import Any, Union, get_args, get_origin

import numpy as np

from bovrin.errors import WrongKind

PLAIN = {float: "a number", int: "a whole number", str: "a text", bool: "True or False", type(None): "None"}
MANY = (Sequence, Iterable, list)
EITHER = (Union, types.UnionType)


def check_kind(name: str, value: Any, hint: Any) -> None:
    """WrongKind says what a parameter is and what it should be, if it is not that."""
    if not fits(value, hint):
        raise WrongKind(f"'{name}' is {_told(value)}, and {words(hint)} is wanted.")


def fits(value: Any, hint: Any) -> bool:
    """Whether a value is of an annotated kind. What goes by only once, as a generator does, is not looked into."""
    origin, inner = get_origin(hint), get_args(hint)
    if hint in (Any, object):
        return True
    if origin in EITHER:
        return _is_array_like(hint, value) or any(fits(value, one) for one in inner)
    if origin is tuple:
        there = isinstance(value, (tuple, list, np.ndarray)) and len(value) == len(inner)
        return there and all(map(fits, value, inner))
    if origin in MANY:
        return _fits_many(value, inner[0])
    if origin is Mapping:
        return isinstance(value, Mapping) and all(fits(k, inner[0]) and fits(v, inner[1]) for k, v in value.items())
    return _fits_plain(value, origin or hint)


def _fits_plain(value: Any, kind: Any) -> bool:
    truth = isinstance(value, (bool, np.bool_))
    if kind is bool:
        return truth or (isinstance(value, Integral) and value in (0, 1))
    if kind in (float, int):
        return isinstance(value, Real if kind is float else Integral) and not truth
    return isinstance(value, kind) if isinstance(kind, type) and not _is_numpys(kind) else True


def _fits_many(value: Any, inner: Any) -> bool:
    if isinstance(value, (str, bytes)) or not isinstance(value, Iterable):
        return False
    if isinstance(value, np.ndarray) and inner in (float, int):
        return value.dtype.kind in "iuf"
    return all(fits(one, inner) for one in value) if isinstance(value, (Sequence, set, frozenset, dict)) else True


def _is_array_like(hint: Any, value: Any) -> bool:
    """Whether numbers in any arrangement are wanted, and these are some."""
    if not any(_is_numpys(get_origin(one) or one) for one in get_args(hint)) or isinstance(value, (str, bytes)):
        return False
    try:
        return np.asarray(value).dtype.kind in "iuf"
    except (ValueError, TypeError):
        return False


def _is_numpys(kind: Any) -> bool:
    return str(getattr(kind, "__module__", "")).startswith("numpy._typing")


def words(hint: Any) -> str:
    """What a kind is called in a sentence."""
    origin, inner = get_origin(hint), get_args(hint)
    if origin in EITHER:
        told = dict.fromkeys("numbers" if _is_numpys(get_origin(one) or one) else words(one) for one in inner)
        if "numbers" in told:
            told = dict.fromkeys(["numbers"])
        return " or ".join(told)
    if origin in MANY:
        return f"a list of {words(inner[0]).removeprefix('a ')}s"
    if origin is tuple:
        return f"({', '.join(words(one) for one in inner)})"
    if origin is Mapping:
        return "a dictionary"
    return PLAIN.get(hint) or f"a {getattr(hint, '__name__', hint)}"


def _told(value: Any) -> str:
    text = repr(value)
    return f"{type(value).__name__} {text if len(text) < 40 else text[:36] + '…'}"


def hints_of(function: Any) -> dict[str, Any]:
    """The kinds of a function's parameters, by name."""
    return {name: hint for name, hint in typing.get_type_hints(function).items() if name != "return"}
