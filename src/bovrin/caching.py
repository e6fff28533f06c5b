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

    def __init__(self, size: int) -> None:
        self._size = size
        self._entries: OrderedDict[tuple[Hashable, ...], tuple[tuple[Any, ...], Any]] = OrderedDict()
        self._lock = RLock()

    def get(self, keys: tuple[Any, ...], make: Callable[[], Result]) -> Result:
        """The kept result for these objects, made on first asking."""
        ident = tuple(id(key) if not isinstance(key, (str, int, float, tuple)) else key for key in keys)
        with self._lock:
            found = self._entries.get(ident)
            if found is not None:
                self._entries.move_to_end(ident)
                kept: Result = found[1]
                return kept
        made = make()
        with self._lock:
            self._entries[ident] = (keys, made)
            while len(self._entries) > self._size:
                self._entries.popitem(last=False)
        return made


def cached_by_identity(size: int) -> Callable[[Callable[..., Result]], Callable[..., Result]]:
    """Decorate a pure function of immutable positional values with an IdentityCache."""

    def decorate(function: Callable[..., Result]) -> Callable[..., Result]:
        cache = IdentityCache(size)

        @wraps(function)
        def wrapper(*args: Any) -> Result:
            return cache.get(args, lambda: function(*args))

        return wrapper

    return decorate
