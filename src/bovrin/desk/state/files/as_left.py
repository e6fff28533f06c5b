"""How a project was left: from where it was seen, in which pass, on which frame. Kept by its path in the state folder, beside
recovery, never in the project."""

from __future__ import annotations

import hashlib
import math
from contextlib import suppress
from pathlib import Path

import msgspec
from PyQt6.QtCore import QStandardPaths

from bovrin.errors import BovrinError
from bovrin.formats.files import real_path, write_atomically
from bovrin.log import log
from bovrin.picture.view import View

MOST = 300
"""Projects of which it is known; of more, those that were left longest ago are forgotten."""
FARTHEST = 1e6
"""Metres and frames beyond which nothing is believed."""


class AsLeft(msgspec.Struct, kw_only=True, omit_defaults=True):
    """Each field as it was; None and "" where there is nothing to say. frames: the fitted range; else first frame and pixels of
    one. values: the plot units that the curve desk showed."""

    project: str = ""
    view: View | None = None
    glass: View | None = None
    glass_open: bool = False
    glass_large: bool = False
    follow: bool = False
    pass_name: str = ""
    frame: float | None = None
    frames: tuple[float, float] | None = None
    scale: tuple[float, float] | None = None
    values: tuple[float, float] | None = None
    figure: str = ""
    controls: tuple[str, ...] = ()
    lanes: tuple[str, ...] = ()
    second: bool = False

    def sound(self) -> bool:
        """Whether every number can be looked at."""
        views = [view for view in (self.view, self.glass) if view is not None]
        numbers = [n for pair in (self.frames, self.scale, self.values) if pair is not None for n in pair]
        numbers += [n for view in views for n in (*view.target, view.distance, view.yaw, view.pitch)]
        numbers += [] if self.frame is None else [self.frame]
        far = all(math.isfinite(n) and abs(n) < FARTHEST for n in numbers)
        rising = all(pair[1] > pair[0] for pair in (self.frames, self.values) if pair is not None)
        return far and rising and all(view.distance > 0 for view in views) and (self.scale is None or self.scale[1] > 0)


def folder() -> Path:
    """Where it is kept."""
    place = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericStateLocation)
    return Path(place) / "bovrin" / "as left"


def _file_of(project: Path) -> Path:
    return (
        folder() / f"{hashlib.sha256(str(real_path(project)).encode('utf-8', 'surrogateescape')).hexdigest()[:32]}.json"
    )


def keep_as_left(project: Path, left: AsLeft) -> None:
    """Keep how a project was left. That it cannot be kept is noted down; nothing else hangs on it."""
    left.project = str(project).encode("utf-8", "replace").decode()
    with suppress(OSError):
        folder().mkdir(parents=True, exist_ok=True)
    try:
        write_atomically(_file_of(project), msgspec.json.encode(left))
    except BovrinError as error:
        log.info("how the project was left is not kept: %s", error.sentence)
    _forget_old()


def as_left(project: Path) -> AsLeft | None:
    """How a project was left; None if that is not known, or makes no sense."""
    try:
        found = msgspec.json.decode(_file_of(project).read_bytes(), type=AsLeft)
    except (OSError, msgspec.MsgspecError, ValueError):
        return None
    return found if found.sound() else None


def _forget_old() -> None:
    with suppress(OSError):
        kept = sorted(folder().glob("*.json"), key=lambda path: path.stat().st_mtime)
        for path in kept[:-MOST]:
            path.unlink()
