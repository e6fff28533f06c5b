"""The graphics driver, loaded beside everything else: calls through ctypes leave the interpreter to other threads."""

from __future__ import annotations

import ctypes
import threading
from contextlib import suppress
from typing import Any

DEVICE_PLATFORM = 0x313F
MOST = 16
_Pointer = ctypes.c_void_p


def load_driver() -> threading.Thread:
    """Begin to load what the first picture will need; without a driver nothing happens, and the picture says so."""
    thread = threading.Thread(target=_load, name="graphics driver", daemon=True)
    thread.start()
    return thread


def _load() -> None:
    with suppress(OSError, AttributeError, TypeError):
        egl = ctypes.CDLL("libEGL.so.1")
        devices = (_Pointer * MOST)()
        count = ctypes.c_int(0)
        if not _function(egl, b"eglQueryDevicesEXT", ctypes.c_uint, ctypes.c_int, _Pointer, _Pointer)(
            MOST, devices, ctypes.addressof(count)
        ):
            return
        display = _function(egl, b"eglGetPlatformDisplayEXT", _Pointer, ctypes.c_uint, _Pointer, _Pointer)(
            DEVICE_PLATFORM, devices[0], None
        )
        begin = egl.eglInitialize
        begin.argtypes = [_Pointer, _Pointer, _Pointer]
        begin(display, None, None)


def _function(egl: ctypes.CDLL, name: bytes, result: Any, *arguments: Any) -> Any:
    find = egl.eglGetProcAddress
    find.restype, find.argtypes = _Pointer, [ctypes.c_char_p]
    place = find(name)
    if not place:
        raise AttributeError(name)
    return ctypes.CFUNCTYPE(result, *arguments)(place)
