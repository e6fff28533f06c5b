"""What the program notes down for a report: in a file under the state folder, and on the terminal when it is asked to."""

from __future__ import annotations

import logging
import os
from pathlib import Path

LARGEST, KEPT = 500_000, 2
"""Bytes of a log file, and how many older ones are kept."""

log = logging.getLogger("bovrin")


def log_file() -> Path:
    """Where notes go."""
    state = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(state) / "bovrin" / "bovrin.log"


class _Turning(logging.FileHandler):
    """Begins a new file where the last one is large; the oldest goes. What the library has would load sockets at a start."""

    def emit(self, record: logging.LogRecord) -> None:
        if self.stream is not None and self.stream.tell() >= LARGEST:
            self.close()  # the next note opens it anew
            for number in range(KEPT, 0, -1):
                _put_aside(self.baseFilename, number)
        super().emit(record)


def _put_aside(file: str, number: int) -> None:
    younger = f"{file}.{number - 1}" if number > 1 else file
    if os.path.exists(younger):
        os.replace(younger, f"{file}.{number}")


def begin_log(*, verbose: bool) -> None:
    """Note down from now on; verbose: more of it, on the terminal too. Where no file can be written there is none."""
    log.setLevel(logging.DEBUG if verbose else logging.INFO)
    log.propagate = False
    for old in list(log.handlers):
        log.removeHandler(old)
        old.close()
    handlers: list[logging.Handler] = [logging.StreamHandler()] if verbose else []
    try:
        log_file().parent.mkdir(parents=True, exist_ok=True)
        handlers.append(_Turning(log_file(), encoding="utf-8"))
    except OSError:
        pass
    for handler in handlers or [logging.NullHandler()]:
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        log.addHandler(handler)
