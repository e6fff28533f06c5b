"""Values: frozen dataclasses that cost a start next to nothing.

A frozen dataclass writes three to six functions as text and compiles them while its module is imported, about a millisecond a
class. Here fixing, comparing, hashing and showing are functions that all values share, and `__init__` is compiled when the first
one of its kind is made. `dataclasses.fields`, `replace` and `asdict` see an ordinary dataclass.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import MISSING, Field, FrozenInstanceError, dataclass, field, fields
from operator import attrgetter
from typing import Any, NoReturn, TypeVar, dataclass_transform

Kind = TypeVar("Kind", bound=type)


@dataclass_transform(frozen_default=True, eq_default=False, field_specifiers=(field,))
def frozen(cls: Kind) -> Kind:
    """A value told from others by being itself, as arrays are."""
    return _fixed(cls, {})


@dataclass_transform(frozen_default=True, eq_default=True, field_specifiers=(field,))
def frozen_equal(cls: Kind) -> Kind:
    """A value that equals another one with the same fields, and is hashed by them."""
    return _fixed(cls, {"__eq__": _equal, "__hash__": _hashed, "__repr__": _shown})


def _fixed(cls: Kind, methods: dict[str, Callable[..., Any]]) -> Kind:
    own = set(vars(cls))
    made: Any = dataclass(init=False, repr=False, eq=False)(cls)
    made._fields_of = attrgetter(*(one.name for one in fields(made)))
    for name, method in {"__setattr__": _kept, "__delattr__": _kept, "__init__": _first_init(made), **methods}.items():
        if name not in own:
            setattr(made, name, method)
    return cls


def _first_init(cls: type[Any]) -> Callable[..., None]:
    def __init__(self: Any, *given: Any, **named: Any) -> None:
        cls.__init__ = _compiled_init(cls)
        cls.__init__(self, *given, **named)

    return __init__


def _compiled_init(cls: type[Any]) -> Callable[..., None]:
    """`__init__(self, a, b=…)` of a class's fields, which sets them and then calls `__post_init__` where there is one."""
    known: dict[str, Any] = {"put": object.__setattr__, "MISSING": MISSING}
    heads, lines = ["self"], []
    for one in fields(cls):
        heads.append(one.name + _default(one, known))
        made = (
            f"make_{one.name}() if {one.name} is MISSING else {one.name}" if f"make_{one.name}" in known else one.name
        )
        lines.append(f"    put(self, {one.name!r}, {made})\n")
    if hasattr(cls, "__post_init__"):
        lines.append("    self.__post_init__()\n")
    exec(f"def __init__({', '.join(heads)}):\n" + ("".join(lines) or "    pass\n"), known)
    return known["__init__"]  # type: ignore[no-any-return]


def _default(one: Field[Any], known: dict[str, Any]) -> str:
    if one.default_factory is not MISSING:
        known[f"make_{one.name}"] = one.default_factory
        return "=MISSING"
    if one.default is MISSING:
        return ""
    known[f"usual_{one.name}"] = one.default
    return f"=usual_{one.name}"


def _kept(self: Any, name: str, *_given: object) -> NoReturn:
    raise FrozenInstanceError(f"{type(self).__name__} is a value: {name!r} stays what it is")


def _equal(self: Any, other: Any) -> bool:
    return NotImplemented if type(other) is not type(self) else bool(self._fields_of(self) == other._fields_of(other))


def _hashed(self: Any) -> int:
    return hash(self._fields_of(self))


def _shown(self: Any) -> str:
    inside = ", ".join(f"{one.name}={getattr(self, one.name)!r}" for one in fields(self))
    return f"{type(self).__qualname__}({inside})"
