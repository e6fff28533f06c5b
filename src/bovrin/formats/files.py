"""Writing files so that a failure never harms what was there."""

from __future__ import annotations

import errno
import os
import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from pathlib import Path
from stat import S_ISCHR, S_ISFIFO, S_ISREG, S_ISSOCK

from bovrin.errors import CannotWrite, FileProblem
from bovrin.progress import go_on

MOST = 2_000_000_000
"""Bytes of the largest file that is read."""
LONGEST = 120
"""Bytes of a file's name that is made of what something is called."""


STANDARD_OUTPUT = Path("-")
"""Where something is written to go on to another program."""
_INPUTS: ContextVar[set[tuple[int, int]] | None] = ContextVar("inputs", default=None)


@contextmanager
def inputs_stay() -> Iterator[None]:
    """Whatever is read within is an input, and nothing within is written over one, whatever it is called."""
    before = _INPUTS.set(set())
    try:
        yield
    finally:
        _INPUTS.reset(before)


def is_stream(path: Path) -> bool:
    """Whether a path is no file to lie beside, but standard output, a device or a pipe."""
    return path == STANDARD_OUTPUT or _is_stream(path)


def write_atomically(path: Path, data: bytes | Iterable[bytes], check: Callable[[Path], None] | None = None) -> None:
    """The one door through which files are written: beside the file, then swapped; the old one stays whole until the new one
    is complete on disk.

    data: all of it, or one piece after another, which are made while they are written.
    check: looks at what was written, before it takes the old one's place; an error of it leaves that as it was. A link stays a
    link; a file that is protected against writing, or that is an input, is left alone. Devices and pipes are written to.
    """
    kept: str | None = None
    pieces = (data,) if isinstance(data, bytes) else data
    try:
        target = real_path(path) if path.is_symlink() else path
        if target.is_symlink():
            raise OSError(errno.ELOOP, "links lead in a circle")
        if path == STANDARD_OUTPUT or _is_stream(target):
            _pour(target, pieces)
            return
        refuse_inputs(target)
        _refuse_protected(target)
        import tempfile  # noqa: PLC0415 - kept out of the window's start

        handle, kept = tempfile.mkstemp(prefix=".bovrin-", dir=target.parent)
        with os.fdopen(handle, "wb") as out:
            out.writelines(pieces)
            out.flush()
            os.fsync(out.fileno())
        if check is not None:
            check(Path(kept))
        go_on()  # from here on the old file is gone
        os.chmod(kept, _mode(target))
        os.replace(kept, target)
        kept = None
    except BrokenPipeError:
        raise
    except (OSError, RuntimeError, ValueError) as error:
        raise CannotWrite(
            f"the file could not be written ({getattr(error, 'strerror', None) or error}).",
            where=shown(path),
            advice="Nothing on disk was changed. Choose another folder or make room, then save again.",
        ) from error
    finally:
        if kept is not None:
            with suppress(OSError):
                os.unlink(kept)


def _is_stream(path: Path) -> bool:
    """Whether something is there that is written to rather than replaced."""
    try:
        mode = path.stat().st_mode
    except OSError:
        return False
    return S_ISCHR(mode) or S_ISFIFO(mode) or S_ISSOCK(mode)


def _pour(path: Path, pieces: Iterable[bytes]) -> None:
    if path == STANDARD_OUTPUT:
        sys.stdout.flush()
        sys.stdout.buffer.writelines(pieces)
        sys.stdout.buffer.flush()
        return
    with open(path, "wb") as out:
        out.writelines(pieces)


def note_input(path: Path) -> None:
    """A file is an input of what runs now, if anything looks after those."""
    inputs = _INPUTS.get()
    if inputs is not None:
        with suppress(OSError):
            stat = path.stat()
            inputs.add((stat.st_dev, stat.st_ino))


def is_input(path: Path) -> bool:
    """Whether a file is one that was read in this run."""
    inputs = _INPUTS.get()
    try:
        stat = path.stat()
    except OSError:
        return False
    return bool(inputs) and (stat.st_dev, stat.st_ino) in (inputs or ())


def refuse_inputs(path: Path) -> None:
    """CannotWrite if a file is one that was read in this run."""
    if is_input(path):
        raise CannotWrite(
            "it is read in the same run and would be lost.",
            where=shown(path),
            advice="Nothing was changed. Write under another name.",
        )


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
        note_input(path)
        return path.read_bytes()
    except (OSError, ValueError, RuntimeError) as error:
        raise FileProblem(
            f"the {kind} cannot be read ({getattr(error, 'strerror', None) or error}).",
            where=shown(path),
            advice="Check the name and try again.",
        ) from error


def real_path(path: Path) -> Path:
    """Where a path leads, through links, whether anything lies there or not; links in a circle lead nowhere further."""
    return Path(os.path.realpath(path))


def shown(path: Path) -> str:
    """A path as it can be told, whatever bytes it is made of."""
    return whole_letters(str(path)).replace("\0", "\N{SYMBOL FOR NULL}")


def whole_letters(text: str) -> str:
    """A text with a question mark for each half of a letter, which no file can hold."""
    return text.encode("utf-8", "replace").decode()


def stem_of(path: Path) -> str:
    """What something out of a file is called after it."""
    return whole_letters(path.stem)


PROJECT = ".bovrin.json"
"""The ending of projects."""


def with_ending(path: Path) -> Path:
    """A project's path with its ending, which a name such as "shot" or "shot.v2" does not have yet: *Open* offers by it.

    What was read in this run, and what is no file, stays what was asked for: the door says so.
    """
    if path.name.lower().endswith(".json") or is_input(path) or (path.exists() and not path.is_file()):
        return path
    return path.with_name(path.name + PROJECT)


def file_stem(name: str) -> str:
    """A name that a file can have, of what somebody called something: no folders, no signs that steer, not too long."""
    plain = "".join("_" if c in '/\\:*?"<>|' or not c.isprintable() else c for c in name).strip(" .")
    return plain.encode("utf-8", "replace")[:LONGEST].decode("utf-8", "ignore") or "figure"
