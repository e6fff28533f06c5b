"""Whatever a script gives under a scripting name, it hears of it in a sentence."""

import inspect
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest

from bovrin import script
from bovrin.errors import BovrinError, WrongKind
from bovrin.script.kinds import fits, hints_of
from bovrin.shot import Shot

STRANGE: tuple[Any, ...] = (
    None,
    5,
    1.5,
    "porter",
    b"x",
    True,
    [],
    ["head"],
    {},
    {"a": "b"},
    object(),
    np.zeros((2, 2)),
    {3},
    [None],
)


def good(demo: Shot, name: str, hint: Any) -> Any:
    """Something of the kind that a parameter is, as often sensible as not."""
    known = {
        "shot": demo,
        "figure": "porter",
        "part": "head",
        "parts": ["head"],
        "channel": "hips/up",
        "limb": "left arm",
    }
    if name in known and fits(known[name], hint):
        return known[name]
    return next(
        (
            v
            for v in (demo, "porter", 110.0, 2, ["head"], [101.0, 110.0], {"hips/up": 0.1}, (0.0, 1.0))
            if fits(v, hint)
        ),
        None,
    )


def calls(demo: Shot) -> Iterator[tuple[str, dict[str, Any], str]]:
    for name in script.__all__:
        function = getattr(script, name)
        if not inspect.isfunction(function):
            continue
        parameters = inspect.signature(function).parameters
        hints = hints_of(inspect.unwrap(function))
        needed = {
            p: good(demo, p, hints[p])
            for p, one in parameters.items()
            if one.default is one.empty and one.kind is not one.VAR_KEYWORD
        }
        for odd in needed:  # others come first, so that it is this one which is told of
            if all(fits(value, hints[p]) for p, value in needed.items() if p != odd):
                yield name, needed, odd


def test_wrong_kinds_are_told(demo: Shot, tmp_path: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """Every parameter that must be given, with everything that it is not: a sentence, and nothing else."""
    monkeypatch.chdir(tmp_path)
    told = 0
    for name, given, odd in calls(demo):
        hint = hints_of(inspect.unwrap(getattr(script, name)))[odd]
        for strange in STRANGE:
            if not fits(strange, hint):
                with pytest.raises(WrongKind, match=f"'{odd}' is "):
                    getattr(script, name)(**{**given, odd: strange})
                told += 1
    assert told > 800


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda d: script.load(5), "'path' is int 5, and a text or a PathLike is wanted."),
        (lambda d: script.keys(d, 5, "hips/up"), "'figure' is int 5, and a text is wanted."),
        (lambda d: script.values(d, "porter", "101"), "'frame' is str '101', and a number is wanted."),
        (
            lambda d: script.key_pose(d, "porter", 101, "head"),
            "'parts' is str 'head', and a list of texts or None is wanted.",
        ),
        (
            lambda d: script.set_values(d, "porter", 101, ["hips/up"]),
            "'values' is list ['hips/up'], and a dictionary is wanted.",
        ),
    ],
)
def test_the_sentence(call: Any, words: str, demo: Shot) -> None:
    with pytest.raises(BovrinError) as told:
        call(demo)
    assert told.value.sentence == words


def test_numpy_s_numbers_are_numbers(demo: Shot) -> None:
    assert script.values(demo, "porter", np.float32(101)) == script.values(demo, "porter", np.int64(101))
    assert len(script.sample(demo, "porter", np.arange(101, 104)).frames) == 3
