"""The damped oscillator against the equation itself, solved by others."""

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from bovrin.motion.damped import Passage, Spring, pushed, spring, steps

STEP, COUNT = 1 / 60, 600
TIMES = np.arange(COUNT + 1) * STEP
SETTINGS = [(0.1, 0.75, 2.0), (0.1, 0.5, 0.0), (0.3, 1.0, 1.0), (0.0, 0.5, 3.0), (0.02, 2.0, 8.0), (0.2, 0.4, 0.3)]


def springs(lag: float, settle: float, sways: float, count: int = COUNT) -> Spring:
    return spring(np.full(count, lag), np.full(count, settle), np.full(count, sways))


def away(own: Spring, turned: np.ndarray, left: np.ndarray, *, loops: bool = False) -> np.ndarray:
    """How far the first axis is away after each step, driven on that axis alone."""
    drive = [np.stack([one, 0 * one, 0 * one], -1) for one in (turned, left)]
    free, push = steps(own, np.full(len(turned), STEP))
    return Passage(free).states(push @ pushed(own, *drive), loops=loops)[:, 0, 0]


@pytest.mark.parametrize("told", SETTINGS)
def test_it_follows_what_turns_and_what_is_carried_as_the_equation_says(told: tuple[float, float, float]) -> None:
    """Swinging, damped and over-damped, within a hundredth of how far it goes."""
    own = springs(*told)
    decay, stiff, along = own.decay[0], own.stiffness[0], own.along[0]
    often = 2 * np.pi * 1.1

    def turn(t):  # type: ignore[no-untyped-def]
        return 0.5 * np.sin(often * t)

    def carried(t):  # type: ignore[no-untyped-def]
        return 0.3 * (1 - np.cos(0.7 * often * t))

    def equation(t, state):  # type: ignore[no-untyped-def]
        turning, faster = 0.5 * often * np.cos(often * t), 0.3 * (0.7 * often) ** 2 * np.cos(0.7 * often * t)
        y, speed = state  # where it is, and how fast, in the world
        return [speed, stiff * (turn(t) - y) - 2 * decay * (speed - along * turning) - faster]

    exact = solve_ivp(equation, (0, TIMES[-1]), [0.0, 0.0], t_eval=TIMES, rtol=1e-10, atol=1e-12).y[0]
    found = turn(TIMES) + away(own, np.diff(turn(TIMES)) / STEP, np.diff(carried(TIMES)) / STEP)
    assert np.abs(found - exact).max() < 0.01 * np.abs(exact).max()


@pytest.mark.parametrize(("lag", "settle", "sways"), SETTINGS)
def test_lag_settling_and_sways_are_as_told(lag: float, settle: float, sways: float) -> None:
    own = springs(lag, settle, sways)
    evenly = away(own, np.ones(COUNT), np.zeros(COUNT))
    assert evenly[-1] == pytest.approx(-lag, abs=2e-3)
    jump = np.zeros(COUNT)
    jump[0] = 1 / STEP
    after = away(own, jump, np.zeros(COUNT))[1:]
    least = (own.decay[0] * settle) / own.decay[0]
    assert after[0] == pytest.approx(-1.0, abs=0.25)  # it stays where it was, and goes from there
    rests = max(least, np.pi * sways / max(own.sway[0], 1e-9)) if sways else settle
    assert np.abs(after[int(np.ceil(rests / STEP)) + 1 :]).max(initial=0.0) < 0.03
    within = after[: int(rests / STEP)]
    passed = int((np.diff(np.sign(within)) != 0).sum())
    assert abs(passed - np.floor(sways)) <= 1


def test_any_setting_is_steady() -> None:
    """Whatever is told, and however long the steps, it never runs away."""
    lags, settles, sways = (
        grid.ravel() for grid in np.meshgrid([0.0, 1e-3, 1.0, 1e6], [0.0, 1e-6, 1.0, 1e8], [0, 0.5, 60])
    )
    for seconds in (1e-9, STEP, 10.0, 1e6):
        free, push = steps(spring(lags, settles, sways), np.full(len(lags), seconds))
        assert np.isfinite(free).all() and np.isfinite(push).all()
        assert (np.abs(np.linalg.eigvals(free)) <= 1.0 + 1e-9).all()


def test_blocks_are_the_plain_recurrence() -> None:
    random = np.random.default_rng(4)
    for count in (1, 2, 3, 7, 50, 101):
        free, drive = random.normal(size=(count, 2, 2)) * 0.6, random.normal(size=(count, 2, 3))
        state, wanted = np.zeros((2, 3)), [np.zeros((2, 3))]
        for matrix, force in zip(free, drive, strict=True):
            state = matrix @ state + force
            wanted.append(state)
        assert np.allclose(Passage(free).states(drive, loops=False), wanted, atol=1e-12)


def test_a_loop_is_the_steady_round() -> None:
    """Its end is its beginning, and it is what many rounds come to."""
    own = springs(0.1, 0.75, 2.0, 60)
    turned, left = np.sin(np.arange(60) / 60 * 2 * np.pi) * 3, np.cos(np.arange(60) / 60 * 4 * np.pi) * 2
    round_ = away(own, turned, left, loops=True)
    assert round_[0] == pytest.approx(round_[-1], abs=1e-12)
    many = away(springs(0.1, 0.75, 2.0, 60 * 12), np.tile(turned, 12), np.tile(left, 12))
    assert np.abs(many[-61:] - round_).max() < 1e-6
