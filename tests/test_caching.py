import gc
import threading
import weakref

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from bovrin.caching import ENTRY, IdentityCache, cached_by_identity


class Thing:
    """A value told apart by identity."""


def test_a_result_is_made_once_for_the_same_objects() -> None:
    made: list[tuple[object, int]] = []

    @cached_by_identity
    def work(thing: Thing, number: int) -> object:
        made.append((thing, number))
        return object()

    a, b = Thing(), Thing()
    assert work(a, 1) is work(a, 1)
    assert work(a, 1) is not work(b, 1) and work(a, 1) is not work(a, 2)
    assert made == [(a, 1), (b, 1), (a, 2)]


@given(st.lists(st.integers(0, 9), max_size=60), st.integers(1, 5))
def test_the_least_recently_used_goes_first_where_there_is_no_room(asked: list[int], many: int) -> None:
    size = 10_000
    cache, things = IdentityCache(many * (size + ENTRY)), [Thing() for _ in range(10)]
    kept: list[int] = []
    for which in asked:
        fresh: list[bool] = []
        cache.get((things[which],), lambda made=fresh: made.append(True) or np.zeros(size, np.uint8))
        assert bool(fresh) is (which not in kept)
        kept = ([k for k in kept if k != which] + [which])[-many:]
        assert cache.size == len(kept) * (size + ENTRY)


def test_a_result_goes_with_what_it_was_made_from_and_no_id_is_met_again() -> None:
    cache, other = IdentityCache(10**9), Thing()
    results = [cache.get((Thing(), other), lambda: np.zeros(1000)) for _ in range(80)]
    assert len({id(r) for r in results}) == 80
    watched = [weakref.ref(result) for result in results]
    del results
    gc.collect()
    assert cache.size == 0, "the things are gone, each at once"
    assert not [one for one in watched if one() is not None]


def test_what_stands_for_itself_needs_nobody_to_hold_it() -> None:
    cache = IdentityCache(10**9)
    keys = ("words", 3, 0.5, (1, 2), frozenset([4]))
    found = cache.get(keys, Thing)
    assert cache.get((" words".strip(), 3, 0.5, tuple(range(1, 3)), frozenset([4])), Thing) is found


def test_threads_may_ask_at_once() -> None:
    cache, thing, found = IdentityCache(1000), Thing(), []
    threads = [threading.Thread(target=lambda: found.append(cache.get((thing,), lambda: 7))) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert found == [7] * 8
    assert cache.size == ENTRY
