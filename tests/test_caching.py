import threading

from hypothesis import given
from hypothesis import strategies as st

from bovrin.caching import IdentityCache, cached_by_identity


class Thing:
    """A value told apart by identity."""


def test_a_result_is_made_once_for_the_same_objects() -> None:
    made: list[tuple[object, int]] = []

    @cached_by_identity(4)
    def work(thing: Thing, number: int) -> object:
        made.append((thing, number))
        return object()

    a, b = Thing(), Thing()
    assert work(a, 1) is work(a, 1)
    assert work(a, 1) is not work(b, 1) and work(a, 1) is not work(a, 2)
    assert made == [(a, 1), (b, 1), (a, 2)]


@given(st.lists(st.integers(0, 9), max_size=60), st.integers(1, 5))
def test_the_least_recently_used_goes_first(asked: list[int], size: int) -> None:
    cache, things = IdentityCache(size), [Thing() for _ in range(10)]
    kept: list[int] = []
    for which in asked:
        fresh: list[bool] = []
        cache.get((things[which],), lambda made=fresh: made.append(True))
        assert bool(fresh) is (which not in kept)
        kept = ([k for k in kept if k != which] + [which])[-size:]


def test_an_entry_keeps_its_object_alive_so_that_no_id_returns() -> None:
    cache = IdentityCache(100)
    results = [cache.get((Thing(),), object) for _ in range(80)]
    assert len({id(r) for r in results}) == 80


def test_threads_may_ask_at_once() -> None:
    cache, thing, found = IdentityCache(4), Thing(), []
    threads = [threading.Thread(target=lambda: found.append(cache.get((thing,), lambda: 7))) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert found == [7] * 8
