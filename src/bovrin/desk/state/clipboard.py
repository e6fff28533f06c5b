"""What was copied. It outlives the document, so that it can be pasted into another."""

from __future__ import annotations

from dataclasses import dataclass

from bovrin.craft.keying.key_clips import KeyClip
from bovrin.shot import Pose


@dataclass(frozen=True, eq=False, repr=False)
class Clipboard:
    """A pose, keys, and the shares of a timing chart."""

    pose: Pose | None = None
    keys: KeyClip | None = None
    chart: tuple[float, ...] | None = None
