"""Results kept by the identity of the immutable values they came from, in one room for all of them.

A result is there as long as everything lives that it was made from, and as long as there is room: those that were asked for
longest ago go first. So nothing that is closed, undone or dragged past stays alive because something was worked out from it.
"""

from __future__ import annotations

from collections import OrderedDict, deque
from collections.abc import Callable, Hashable, Mapping, Sequence, Set
from functools import partial, wraps
from threading import RLock
from typing import Any, NamedTuple, TypeVar
from weakref import ref

import numpy as np

Result = TypeVar("Result")
Ident = tuple[Hashable, ...]

ROOM = 192_000_000
"""Bytes of all results that are kept, about."""
BY_VALUE = (str, int, float, tuple, frozenset)
"""Keys that are told apart by what they are, not by which object they are."""
ENTRY = 500
"""Bytes that an entry takes up by itself."""
DEEP = 4
"""How far into a result its size is looked for; of what is alike in it a few are looked at."""


class _Entry(NamedTuple):
    """A result, its bytes, and what it hangs on: watched, or held where it cannot be watched."""

    made: Any
    size: int
    keys: tuple[Any, ...]


class IdentityCache:
    """Results by the objects that they came from; an entry goes when one of these does, so no id is ever met again."""

    def __init__(self, room: int) -> None:
        """room: bytes of results that are kept, about; the last one stays however large it is."""
        self._room, self._taken = room, 0
        self._entries: OrderedDict[Ident, _Entry] = OrderedDict()
        self._gone: deque[Ident] = deque()  # what Python lets go of at any moment is put here, and cleared at the next
        self._lock = RLock()

    @property
    def size(self) -> int:
        """Bytes of the results that are kept, about."""
        with self._lock:
            self._clear_gone()
            return self._taken

    def holds(self, keys: Sequence[Any]) -> bool:
        """Whether the result for these objects is kept."""
        with self._lock:
            self._clear_gone()
            return _ident(keys) in self._entries

    def get(self, keys: Sequence[Any], make: Callable[[], Result]) -> Result:
        """The kept result for these objects, made on first asking."""
        ident = _ident(keys)
        with self._lock:
            self._clear_gone()
            found = self._entries.get(ident)
            if found is not None:
                self._entries.move_to_end(ident)
                kept: Result = found.made
                return kept
        made = make()
        size = ENTRY + _size(made, {id(key) for key in keys}, DEEP)
        watch = partial(_let_go, self._gone, ident)
        entry = _Entry(made, size, tuple(_watched(key, watch) for key in keys if not isinstance(key, BY_VALUE)))
        with self._lock:
            self._drop(ident)  # another thread made it too
            self._entries[ident] = entry
            self._taken += size
            while self._taken > self._room and len(self._entries) > 1:
                self._drop(next(iter(self._entries)))
        return made

    def _clear_gone(self) -> None:
        while self._gone:
            self._drop(self._gone.popleft())

    def _drop(self, ident: Ident) -> None:
        entry = self._entries.pop(ident, None)
        self._taken -= 0 if entry is None else entry.size


def _let_go(gone: deque[Ident], ident: Ident, _dead: object) -> None:
    gone.append(ident)


def _ident(keys: Sequence[Any]) -> Ident:
    return tuple(key if isinstance(key, BY_VALUE) else id(key) for key in keys)


def _watched(key: Any, watch: Callable[[Any], None]) -> Any:
    try:
        return ref(key, watch)
    except TypeError:
        return key


def _size(value: Any, known: set[int], deep: int) -> int:
    """Bytes of a result, about. known: what is alive anyway."""
    if id(value) in known or value is None or isinstance(value, (int, float)):
        return 0
    if hasattr(value, "nbytes"):
        whole = value.base if isinstance(getattr(value, "base", None), np.ndarray) else value
        return int(whole.nbytes)
    if deep == 0:
        return 0
    if isinstance(value, (str, bytes)):
        return len(value)
    if isinstance(value, (Sequence, Set)):
        return _size_of_all(list(value), known, deep)
    inside = value if isinstance(value, Mapping) else getattr(value, "__dict__", {})
    return _size_of_all(list(inside.values()), known, deep)


def _size_of_all(values: list[Any], known: set[int], deep: int) -> int:
    """Bytes of some values; of many the size of a few, spread evenly, stands for all."""
    few = values if len(values) <= 16 else values[:: len(values) // 4]
    share = len(values) / len(few) if few else 1.0
    return int(8 * len(values) + share * sum(_size(one, known, deep - 1) for one in few))


RESULTS = IdentityCache(ROOM)
"""The results of everything that is worked out from immutable values."""


def cached_by_identity(function: Callable[..., Result]) -> Callable[..., Result]:
    """Decorate a pure function of immutable positional values: its results are kept as long as these live."""

    @wraps(function)
    def wrapper(*args: Any) -> Result:
        return RESULTS.get((function, *args), lambda: function(*args))

    return wrapper
