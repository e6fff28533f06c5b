"""The light table: poses or frames before and after the current one, as pencil outlines under the figure: what lies on it."""

from __future__ import annotations

import numpy as np

from bovrin.craft.keying.keys import Poses
from bovrin.frozen import frozen_equal
from bovrin.shot.curve import SAME_FRAME

STRONGEST, FAINTEST = 0.95, 0.22
MOST = 6


POSES, FRAMES, RANGE = "poses", "frames", "range"
KINDS = {
    POSES: "Drawings of the poses around",
    FRAMES: "Every frame around, for spacing",
    RANGE: "Every frame of the second range (else of the whole shot), for spacing over all of it",
}
FULLEST = 24
"""Drawings that a range shows at the most; of longer ones every second, third … frame."""


@frozen_equal
class LightTable:
    """What lies on the table. `lined_up`: every drawing is laid so that the chosen part covers itself."""

    on: bool = False
    kind: str = POSES
    before: int = 2
    after: int = 2
    lined_up: bool = False

    def frames_shown(
        self, frame: float, poses: Poses, first: float, last: float, span: tuple[float, float] | None = None
    ) -> list[tuple[float, bool, float]]:
        """Frame, whether it is before, and strength, of each drawing; the farthest first. `span`: the second range."""
        low, high = (first, last) if span is None else (max(span[0], first), min(span[1], last))
        if self.kind == RANGE:
            step = max(1, -(-round(high - low) // FULLEST))
            drawn = np.arange(low, high + 1e-6, step)
            before, after = drawn[drawn < frame - SAME_FRAME], drawn[drawn > frame + SAME_FRAME]
        elif self.kind == FRAMES:
            before = np.arange(max(frame - self.before, first), frame)
            after = np.arange(frame + 1, min(frame + self.after, last) + 1)
        else:
            before = poses.frames[poses.frames < frame - SAME_FRAME]
            before = before[max(len(before) - self.before, 0) :]
            after = poses.frames[poses.frames > frame + SAME_FRAME][: self.after]
        found = [(float(f), True, _strength(len(before) - n, len(before))) for n, f in enumerate(before)]
        found += [(float(f), False, _strength(n + 1, len(after))) for n, f in enumerate(after)]
        return sorted(found, key=lambda row: row[2])


def _strength(steps: int, count: int) -> float:
    """The opacity of a drawing so many steps away, of so many on that side: it falls evenly to the faintest."""
    fall = max((STRONGEST - FAINTEST) / max(count, 1), 0.02) if count > 5 else 0.16
    return max(STRONGEST - (steps - 1) * fall, FAINTEST)
