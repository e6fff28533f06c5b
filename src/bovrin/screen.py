"""Whether there is a screen to open a window on, asked before Qt is: it would end the program."""

from __future__ import annotations

import os
import re
import socket
from pathlib import Path

from bovrin.errors import BovrinError

ADVICE = "Start it from a desktop session, or under Xvfb; every command but 'open' and 'demo' works without a screen."
SECONDS = 1.0


def check_screen() -> None:
    """BovrinError says so when there is none."""
    if os.environ.get("QT_QPA_PLATFORM") or _wayland():
        return
    display = os.environ.get("DISPLAY", "")
    if not display:
        raise BovrinError("there is no screen to open a window on.", advice=ADVICE)
    if not _answers(display):
        raise BovrinError(f"the screen '{display}' does not answer.", advice=ADVICE)


def _wayland() -> bool:
    name, folder = os.environ.get("WAYLAND_DISPLAY"), os.environ.get("XDG_RUNTIME_DIR", "")
    return bool(name) and (Path(folder) / str(name)).exists()


def _answers(display: str) -> bool:
    """Whether an X server listens: "host:number.screen", on this machine by its socket."""
    match = re.fullmatch(r"(.*):(\d+)(?:\.\d+)?", display)
    if match is None:
        return False
    host, number = match[1], int(match[2])
    if host in ("", "unix"):
        path = f"/tmp/.X11-unix/X{number}"
        return any(_connects(socket.AF_UNIX, place) for place in (path, f"\0{path}"))
    return _connects(socket.AF_INET, (host, 6000 + number))


def _connects(family: int, place: str | tuple[str, int]) -> bool:
    with socket.socket(family, socket.SOCK_STREAM) as line:
        line.settimeout(SECONDS)
        try:
            line.connect(place)
        except OSError:
            return False
    return True
