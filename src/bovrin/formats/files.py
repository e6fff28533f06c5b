"""Writing files so that a failure never harms what was there."""

from __future__ import annotations

import errno
import os
import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from stat import S_ISREG

from bovrin.errors import CannotWrite, FileProblem

MOST = 2_000_000_000
"""Bytes of the largest file that is read."""
LONGEST = 120
"""Bytes of a file's name that is made of what something is called."""


def write_atomically(path: Path, data: bytes, check: Callable[[Path], None] | None = None) -> None:
    """Write beside the file and swap; the old file stays whole until the new one is complete on disk.

    check: looks at what was written, before it takes the old one's place; an error of it leaves that as it was. A link stays a
    link; a file that is protected against writing is left alone.
    """
    kept: str | None = None
    try:
        target = path.resolve() if path.is_symlink() else path
        _refuse_protected(target)
        handle, kept = tempfile.mkstemp(prefix=".bovrin-", dir=target.parent)
        with os.fdopen(handle, "wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
        if check is not None:
            check(Path(kept))
        os.chmod(kept, _mode(target))
        os.replace(kept, target)
        kept = None
    except (OSError, RuntimeError, ValueError) as error:
        raise CannotWrite(
            f"the file could not be written ({getattr(error, 'strerror', None) or error}).",
            where=str(path),
            advice="Nothing on disk was changed. Choose another folder or make room, then save again.",
        ) from error
    finally:
        if kept is not None:
            with suppress(OSError):
                os.unlink(kept)


def _refuse_protected(path: Path) -> None:
    """A file that nobody may write is not swapped for another either."""
    if path.is_file() and not path.stat().st_mode & 0o222:
        raise PermissionError(errno.EACCES, "it is protected against writing")


def _mode(path: Path) -> int:
    try:
        return path.stat().st_mode & 0o777
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask


def read_bytes(path: Path, kind: str) -> bytes:
    """The bytes of a file; FileProblem says which kind of file cannot be read, and why."""
    try:
        stat = path.stat()
        if not S_ISREG(stat.st_mode):
            raise OSError("it is not a file")
        if stat.st_size > MOST:
            raise OSError(f"it has {stat.st_size / 1e9:.1f} GB, and up to {MOST / 1e9:g} can be read")
        return path.read_bytes()
    except (OSError, ValueError, RuntimeError) as error:
        raise FileProblem(
            f"the {kind} cannot be read ({getattr(error, 'strerror', None) or error}).",
            where=shown(path),
            advice="Check the name and try again.",
        ) from error


def shown(path: Path) -> str:
    """A path as it can be told, whatever bytes it is made of."""
    return whole_letters(str(path)).replace("\0", "\N{SYMBOL FOR NULL}")


def whole_letters(text: str) -> str:
    """A text with a question mark for each half of a letter, which no file can hold."""
    return text.encode("utf-8", "replace").decode()


def stem_of(path: Path) -> str:
    """What something out of a file is called after it."""
    return whole_letters(path.stem)


def file_stem(name: str) -> str:
    """A name that a file can have, of what somebody called something: no folders, no signs that steer, not too long."""
    plain = "".join("_" if c in '/\\:*?"<>|' or not c.isprintable() else c for c in name).strip(" .")
    return plain.encode("utf-8", "replace")[:LONGEST].decode("utf-8", "ignore") or "figure"
