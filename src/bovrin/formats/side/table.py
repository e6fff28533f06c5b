"""Joints in world space as a table: one row for each joint and frame. However long a shot is, it is made in pieces."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.staging import sample
from bovrin.formats.files import write_atomically
from bovrin.progress import each
from bovrin.shot import Shot

HEADER = "figure,joint,frame,x,y,z,qx,qy,qz,qw"
AT_ONCE = 2_000
"""Frames whose joints are worked out, and rows that are written, at a time."""


def table_text(shot: Shot, figures: Sequence[str]) -> str:
    """The table over every whole frame of the range: metres and unit quaternions, nine digits after the point."""
    return b"".join(_pieces(shot, figures)).decode()


def _pieces(shot: Shot, figures: Sequence[str]) -> Iterator[bytes]:
    """The table piece by piece."""
    yield f"{HEADER}\n".encode()
    frames = np.array(shot.whole_frames, float)
    for name in each(figures):
        with tempfile.TemporaryFile() as room:
            found = _joints(shot, name, frames, room)
            for j, joint in enumerate(shot.figure(name).rig.joints):
                label = _quoted(name) + "," + _quoted(joint.name)
                for start in range(0, len(frames), AT_ONCE):
                    yield _rows(label, frames[start : start + AT_ONCE], found[j, start : start + AT_ONCE])


def _joints(shot: Shot, name: str, frames: NDArray[np.float64], room: object) -> NDArray[np.float64]:
    """Places and turns of all joints (J, F, 7), kept in a file: every frame of a joint stands together in the table, but all
    joints of a frame are worked out together."""
    shape = (len(shot.figure(name).rig.joints), len(frames), 7)
    found = np.memmap(room, np.float64, "w+", shape=shape)  # type: ignore[call-overload]
    for start in range(0, len(frames), AT_ONCE):
        motion = sample(shot, name, frames[start : start + AT_ONCE])
        rows = slice(start, start + AT_ONCE)
        found[:, rows, :3], found[:, rows, 3:] = motion.position.swapaxes(0, 1), motion.rotation.swapaxes(0, 1)
    return np.asarray(found)


def _rows(label: str, frames: NDArray[np.float64], values: NDArray[np.float64]) -> bytes:
    rows = zip(frames.tolist(), values.tolist(), strict=True)
    return "".join(f"{label},{frame:.10g}," + ",".join(f"{x:.9f}" for x in row) + "\n" for frame, row in rows).encode()


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(c in text for c in ',"\n') else text


def write_table(shot: Shot, path: Path, figures: Sequence[str]) -> None:
    """Write the table to a file."""
    write_atomically(path, _pieces(shot, figures))
