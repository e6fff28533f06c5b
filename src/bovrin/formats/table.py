"""Joints in world space as a table: one row for each joint and frame."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from bovrin.figure.staging import sample
from bovrin.formats.files import write_atomically
from bovrin.shot import Shot

HEADER = "figure,joint,frame,x,y,z,qx,qy,qz,qw"


def table_text(shot: Shot, figures: list[str]) -> str:
    """The table over every whole frame of the range: metres and unit quaternions, nine digits after the point."""
    lines = [HEADER]
    frames = np.array(shot.whole_frames, float)
    for name in figures:
        motion = sample(shot, name, frames)
        for j, joint in enumerate(motion.joints):
            rows = np.column_stack([motion.frames, motion.position[:, j], motion.rotation[:, j]])
            label = _quoted(name) + "," + _quoted(joint)
            lines += [f"{label},{row[0]:g}," + ",".join(f"{x:.9f}" for x in row[1:]) for row in rows.tolist()]
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(c in text for c in ',"\n') else text


def write_table(shot: Shot, path: Path, figures: list[str]) -> None:
    """Write the table to a file."""
    write_atomically(path, table_text(shot, figures).encode())
