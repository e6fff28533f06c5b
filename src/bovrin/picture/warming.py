"""Loading what the machine draws with, a tenth of a second and more, beside everything else that a start loads.

Python's own lock is let go of within foreign calls, so that this costs the start nothing where there are two processors.
"""

from __future__ import annotations

import ctypes
from threading import Thread

DEVICE, MOST = 0x313F, 8
"""EGL_PLATFORM_DEVICE_EXT: displays that need no screen; how many are asked for."""
EGL = "libEGL.so.1"

_warming: list[Thread] = []


def warm_up() -> None:
    """Begin to load it, once, before a window is thought of. What fails is told later by whoever draws."""
    if not _warming:
        _warming.append(Thread(target=_load, name="what is drawn with"))
        _warming[0].start()


def warmed_up() -> None:
    """Wait until it is loaded, where that was begun."""
    for thread in _warming:
        thread.join()


def _load() -> None:
    """Initialise the display that contexts are made on later: what is initialised already answers at once."""
    try:
        library = ctypes.CDLL(EGL)
        library.eglInitialize.argtypes = [ctypes.c_void_p] * 3
        devices, count = (ctypes.c_void_p * MOST)(), ctypes.c_int(0)
        _call(library, "eglQueryDevicesEXT", ctypes.c_uint, MOST, devices, ctypes.byref(count))
        if count.value:
            shown = _call(library, "eglGetPlatformDisplayEXT", ctypes.c_void_p, DEVICE, devices[0], None)
            library.eglInitialize(shown, None, None)
    except (OSError, AttributeError, ValueError):
        return


def _call(library: ctypes.CDLL, name: str, gives: type, *given: object) -> object:
    """Call one of the library's extensions: a number, then two pointers."""
    library.eglGetProcAddress.restype = ctypes.c_void_p
    place = library.eglGetProcAddress(name.encode())
    if not place:
        raise ValueError(name)
    return ctypes.CFUNCTYPE(gives, ctypes.c_uint, ctypes.c_void_p, ctypes.c_void_p)(place)(*given)
