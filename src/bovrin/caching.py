"""Results kept by the identity of the immutable values they came from."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import wraps
from threading import RLock
from typing import Any, TypeVar

Result = TypeVar("Result")


class IdentityCache:
    """A small least-recently-used cache keyed by objects themselves, not by their content.

    Entries hold their key objects alive, so an id is never reused while its entry lives.
    """

    def __init__(self, size: int, weigh: Callable[[Any], int] | None = None, room: int = 0) -> None:
        """size: entries that are kept. weigh: bytes of a result, of which `room` are kept altogether; the last one stays."""
        self._size, self._weigh, self._room = size, weigh, room
        self._weights: dict[tuple[Hashable, ...], int] = {}
        self._entries: OrderedDict[tuple[Hashable, ...], tuple[tuple[Any, ...], Any]] = OrderedDict()
        self._lock = RLock()

    def holds(self, keys: tuple[Any, ...]) -> bool:
        """Whether the result for these objects is kept."""
        with self._lock:
            return _ident(keys) in self._entries

    def get(self, keys: tuple[Any, ...], make: Callable[[], Result]) -> Result:
        """The kept result for these objects, made on first asking."""
        ident = _ident(keys)
        with self._lock:
            found = self._entries.get(ident)
            if found is not None:
                self._entries.move_to_end(ident)
                kept: Result = found[1]
                return kept
        made = make()
        with self._lock:
            self._entries[ident] = (keys, made)
            if self._weigh is not None:
                self._weights[ident] = self._weigh(made)
            while len(self._entries) > self._size or (
                len(self._entries) > 1 and sum(self._weights.values()) > self._room
            ):
                gone, _ = self._entries.popitem(last=False)
                self._weights.pop(gone, None)
        return made


def _ident(keys: tuple[Any, ...]) -> tuple[Hashable, ...]:
    return tuple(id(key) if not isinstance(key, (str, int, float, tuple)) else key for key in keys)


def cached_by_identity(
    size: int, weigh: Callable[[Any], int] | None = None, room: int = 0
) -> Callable[[Callable[..., Result]], Callable[..., Result]]:
    """Decorate a pure function of immutable positional values with an IdentityCache."""

    def decorate(function: Callable[..., Result]) -> Callable[..., Result]:
        cache = IdentityCache(size, weigh, room)

        @wraps(function)
        def wrapper(*args: Any) -> Result:
            return cache.get(args, lambda: function(*args))

        return wrapper

    return decorate
