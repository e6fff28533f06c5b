"""Writing files so that a failure never harms what was there."""

from __future__ import annotations

import errno
import os
import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from bovrin.errors import CannotWrite, FileProblem


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
    except (OSError, RuntimeError) as error:
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
        return path.read_bytes()
    except OSError as error:
        raise FileProblem(
            f"the {kind} cannot be read ({error.strerror or error}).",
            where=str(path),
            advice="Check the name and try again.",
        ) from error
