"""What a reader of a file of another maker gives."""

from __future__ import annotations

from typing import NamedTuple

from bovrin.shot import Shot


class Found(NamedTuple):
    """A shot that holds what a file does, at the file's own rate, what was left out, and whether Bovrin wrote that rate."""

    shot: Shot
    left_out: list[str]
    own_rate: bool = False
