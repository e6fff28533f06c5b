"""Work beside the window: the one place where threads are made. What comes of it is told on the window's own thread."""

from __future__ import annotations

import gc
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, ThreadPoolExecutor, wait
from contextlib import suppress
from typing import Any, TypeVar

from PyQt6.QtCore import QObject, Qt, pyqtSignal

from bovrin.log import log

Result = TypeVar("Result")


class _Sweeping:
    """Python sweeps up what lies in circles on whatever thread happens to allocate. Widgets and what is drawn with must only ever
    die on the window's: while anything goes on beside a window, nothing is swept up."""

    def __init__(self) -> None:
        self._users: set[int] = set()

    def hold(self, user: object) -> None:
        """Somebody has work beside a window."""
        self._users.add(id(user))
        gc.disable()

    def let_go(self, user: object) -> None:
        """Somebody's work is over."""
        self._users.discard(id(user))
        if not self._users:
            gc.enable()


_sweeping = _Sweeping()
AT_ONCE = 3
"""Works that go on at the same time; more wait their turn."""


class Background(QObject):
    """Runs works for one window. Every work is held until what came of it was told; after `end` nothing is told any more."""

    _came = pyqtSignal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(AT_ONCE, "beside the window")
        self._futures: set[Future[Any]] = set()
        self._latest: dict[str, tuple[Callable[[], Any], Callable[[Any], object]] | None] = {}
        self._ended = False
        self._came.connect(self._tell, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]

    def start(self, work: Callable[[], Result], told: Callable[[Future[Result]], object]) -> None:
        """Begin a work; `told` gets its future, which is done, on the window's thread."""
        if self._ended:
            return
        _sweeping.hold(self)
        future = self._pool.submit(work)
        self._futures.add(future)
        future.add_done_callback(lambda done: self._on_done(done, told))

    def latest(self, name: str, work: Callable[[], Result], told: Callable[[Result], object]) -> None:
        """Begin a work of some name, after the one of that name that goes on; of those that wait only the latest is done.

        What came of a work that a later one waits for is not told. A fault is noted down.
        """
        if name in self._latest:
            self._latest[name] = (work, told)
            return
        self._latest[name] = None
        self.start(work, lambda future: self._after(name, future, told))

    def busy(self, name: str) -> bool:
        """Whether a work of some name goes on."""
        return name in self._latest

    def wait(self) -> None:
        """Until nothing goes on; what came of it is told later, by the window's own loop."""
        wait(tuple(self._futures))

    def end(self) -> None:
        """The window closes: what waits is dropped, what goes on is waited for, nothing is told."""
        self._ended = True
        self._latest.clear()
        self._pool.shutdown(wait=True, cancel_futures=True)
        _sweeping.let_go(self)

    def _on_done(self, future: Future[Any], told: Callable[[Future[Any]], object]) -> None:
        with suppress(RuntimeError):  # the window is gone
            self._came.emit((future, told))

    def _tell(self, came: tuple[Future[Any], Callable[[Future[Any]], object]]) -> None:
        future, told = came
        self._futures.discard(future)
        if not self._futures:
            _sweeping.let_go(self)
        if not self._ended:
            told(future)

    def _after(self, name: str, future: Future[Any], told: Callable[[Any], object]) -> None:
        following = self._latest.pop(name, None)
        if following is not None:
            self.latest(name, *following)
            return
        try:
            result = future.result()
        except CancelledError:
            return
        except Exception:  # noqa: BLE001 - whatever it was, the window goes on
            log.exception("a work beside the window failed: %s", name)
            return
        told(result)
