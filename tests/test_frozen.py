"""Values are the frozen dataclasses that Python's own library makes, only cheaper to define."""

from dataclasses import FrozenInstanceError, asdict, dataclass, field, fields, replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin.frozen import frozen, frozen_equal

numbers = st.integers(-3, 3)


def made_by(decorator: Any) -> Any:
    """One and the same class, decorated."""

    @decorator
    class Same:
        """Fields of each sort."""

        a: int
        b: str = "b"
        many: list[int] = field(default_factory=list)
        several: tuple[int, ...] = ()

    return Same


Plain, Ours = made_by(dataclass(frozen=True)), made_by(frozen_equal)


@frozen
class Told:
    """Set right after it was made."""

    a: int
    twice: int = 0

    def __post_init__(self) -> None:
        object.__setattr__(self, "twice", 2 * self.a)


@frozen
class Further(Told):
    """More than what it comes from."""

    more: int = 7


given_fields = st.fixed_dictionaries(
    {"a": numbers}, optional={"b": st.text(max_size=2), "many": st.lists(numbers, max_size=2)}
)


@given(given_fields, given_fields)
def test_made_compared_shown_and_replaced_as_the_library_does(one: dict[str, Any], other: dict[str, Any]) -> None:
    plain, ours = Plain(**one), Ours(**one)
    assert asdict(plain) == asdict(ours)
    assert repr(ours) == repr(plain)
    assert (Plain(**other) == plain) == (Ours(**other) == ours)
    assert asdict(replace(plain, **other)) == asdict(replace(ours, **other))
    assert ours != plain
    assert [one.name for one in fields(Ours)] == [one.name for one in fields(Plain)]


def test_by_place_too_and_wrong_calls_say_what_is_missing() -> None:
    assert (Ours(1, "x").a, Ours(1, "x").b) == (1, "x")
    assert Ours(1).many is not Ours(1).many
    with pytest.raises(TypeError, match="missing 1 required positional argument: 'a'"):
        Ours()
    with pytest.raises(TypeError, match="unexpected keyword argument 'c'"):
        Ours(1, c=2)


def test_stays_what_it_is_and_is_hashed_by_what_it_holds() -> None:
    one = Told(3)
    with pytest.raises(FrozenInstanceError):
        one.a = 4  # type: ignore[misc]
    with pytest.raises(FrozenInstanceError):
        del one.a
    assert one != Told(3)
    assert len({one, Told(3)}) == 2

    @frozen_equal
    class Two:
        x: int
        y: int = 1

    assert len({Two(1), Two(1, 1), Two(2)}) == 2


def test_what_comes_from_a_value_has_its_fields_first() -> None:
    one = Further(2)
    assert (one.a, one.twice, one.more) == (2, 4, 7)
    assert (Further(1, more=3).more, Told(5).twice) == (3, 10)
    assert [one.name for one in fields(Further)] == ["a", "twice", "more"]
