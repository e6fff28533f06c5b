"""A screen of its own with a window manager, and a hand on it: events come as a person's do, through the X server."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

HERE = Path(__file__).parent
WAIT = 20.0
"""Seconds that something may take at the most; tests go on as soon as it is there."""


class Desk:
    """The program on a screen. Lengths are pixels."""

    def __init__(self, screen: dict[str, str], arguments: list[str]) -> None:
        self._screen = screen
        self._program = subprocess.Popen(
            [sys.executable, "-m", "tests.real.inside", *arguments],
            env=screen,
            cwd=HERE.parents[1],
            text=True,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
        )
        self.until("window.isActiveWindow() and bool(window.stage.main.scene.drawable)")

    def ask(self, words: str) -> Any:
        """What an expression says inside the program."""
        assert self._program.stdin is not None and self._program.stdout is not None
        self._program.stdin.write(words + "\n")
        self._program.stdin.flush()
        while not (line := self._program.stdout.readline()).startswith("answer "):
            assert line, f"the program ended before it said '{words}'"
        return json.loads(line.removeprefix("answer "))

    def until(self, words: str) -> None:
        """Wait until an expression is true."""
        end = time.monotonic() + WAIT
        while not self.ask(words):
            assert time.monotonic() < end, f"never came true: {words}"
            time.sleep(0.02)

    def hand(self, *words: object) -> None:
        """One or more commands of the hand."""
        subprocess.run(["xdotool", *map(str, words)], env=self._screen, check=True, timeout=WAIT)

    def keys(self, *names: str) -> None:
        """Keys pressed one after another; "ctrl+s" is one."""
        for name in names:
            self.hand("key", "--delay", 30, name)

    def at(self, widget: str, x: float | str = "it.width() / 2", y: float | str = "it.height() / 2") -> tuple[int, int]:
        """A place of a widget on the screen."""
        words = f"(lambda it: (lambda p: [p.x(), p.y()])(it.mapToGlobal(it.rect().topLeft())) + [{x}, {y}])({widget})"
        left, top, right, down = self.ask(words)
        return round(left + right), round(top + down)

    def click(self, place: tuple[int, int], button: int = 1) -> None:
        """Go there and click."""
        self.hand("mousemove", *place, "sleep", 0.05, "click", button)

    def drag(self, start: tuple[int, int], end: tuple[int, int], steps: int = 8, hold: str = "") -> None:
        """Press, go there in steps, let go; `hold`: a key that is down meanwhile."""
        ways = [
            (start[0] + (end[0] - start[0]) * n / steps, start[1] + (end[1] - start[1]) * n / steps)
            for n in range(1, steps + 1)
        ]
        moves: list[object] = [word for x, y in ways for word in ("mousemove", round(x), round(y), "sleep", 0.02)]
        held, let_go = (("keydown", hold), ("keyup", hold)) if hold else ((), ())
        self.hand(
            "mousemove", *start, "sleep", 0.05, *held, "mousedown", 1, "sleep", 0.05, *moves, "mouseup", 1, *let_go
        )

    def ended(self) -> None:
        """Wait until the program has ended by itself, without a fault."""
        assert self._program.stdin is not None
        self._program.stdin.close()
        assert self._program.wait(WAIT) == 0

    def end(self) -> None:
        """End the program without asking it."""
        self._program.kill()
        self._program.wait()
        for line in (self._program.stdin, self._program.stdout):
            assert line is not None
            line.close()


@pytest.fixture(scope="session")
def screen() -> Iterator[dict[str, str]]:
    """The environment of a screen with a window manager on it."""
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    with os.fdopen(read) as line:
        number = line.readline().strip()
    found = {**os.environ, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb"}
    found.pop("WAYLAND_DISPLAY", None)
    manager = subprocess.Popen(["jwm", "-f", str(HERE / "manager.xml")], env=found, stderr=subprocess.DEVNULL)
    yield found
    for process in (manager, server):
        process.terminate()
        process.wait()


@pytest.fixture
def start(screen: dict[str, str], private_places: None) -> Iterator[Callable[..., Desk]]:
    """Starts the program with some arguments."""
    begun: list[Desk] = []
    own = {name: place for name, place in os.environ.items() if name.startswith("XDG_")}

    def begin(*arguments: object) -> Desk:
        begun.append(Desk({**screen, **own}, [str(one) for one in arguments]))
        return begun[-1]

    yield begin
    for desk in begun:
        desk.end()
