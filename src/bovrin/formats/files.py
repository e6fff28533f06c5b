"""Writing files so that a failure never harms what was there."""

from __future__ import annotations

import os
import tempfile
from contextlib import suppress
from pathlib import Path

from bovrin.errors import CannotWrite, FileProblem


def write_atomically(path: Path, data: bytes) -> None:
    """Write beside the file and swap; the old file stays whole until the new one is complete on disk."""
    folder = path.parent
    kept: str | None = None
    try:
        handle, kept = tempfile.mkstemp(prefix=".bovrin-", dir=folder)
        with os.fdopen(handle, "wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
        os.chmod(kept, _mode(path))
        os.replace(kept, path)
    except OSError as error:
        if kept is not None:
            with suppress(OSError):
                os.unlink(kept)
        raise CannotWrite(
            f"the file could not be written ({error.strerror or error}).",
            where=str(path),
            advice="Nothing on disk was changed. Choose another folder or make room, then save again.",
        ) from error


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
