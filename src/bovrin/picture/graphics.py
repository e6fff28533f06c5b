"""The graphics context of a thread: one, so that whatever is drawn, or freed when Python lets go of it, meets its own."""

from __future__ import annotations

import threading
from typing import Any

import moderngl

from bovrin.errors import NoPicture

LIBRARIES = {"libgl": "libGL.so.1", "libegl": "libEGL.so.1"}
"""Where the calls are; looked for by other programs otherwise, which takes longer than making the context."""

_HERE = threading.local()


def graphics_context() -> Any:
    """This thread's context, made on first use; NoPicture where the machine has none."""
    if not hasattr(_HERE, "context"):
        try:
            made = moderngl.create_context(standalone=True, backend="egl", **LIBRARIES)  # type: ignore[arg-type]
        except Exception as error:
            raise NoPicture(
                "no pictures can be drawn on this machine.",
                advice="Install the EGL library (libegl1 and libgl1-mesa-dri).",
            ) from error
        made.gc_mode = "context_gc"  # what Python lets go of, wherever it does, is freed here when `gc` is called
        _HERE.context = made
    return _HERE.context
