"""The animator's ladder between two poses: how far each frame has got, and what becomes of the others when a rung moves."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.between.chart import preset_shares, resampled_shares
from bovrin.frozen import frozen

Floats = NDArray[np.float64]


@frozen
class Ladder:
    """One span: its ends, the share of each whole frame (F,), whether it is stepped, and the frames of its drawings."""

    start: float
    end: float
    shares: Floats
    stepped: bool
    drawn: tuple[float, ...]

    def rungs(self) -> list[tuple[float, float]]:
        """Frame and share of what stands between the ends: in a stepped span its drawings, in an eased one every frame."""
        if self.stepped:
            return [(f, float(self.shares[round(f - self.start)])) for f in self.drawn]
        inner = range(1, len(self.shares) - 1)
        return [(self.start + n, float(self.shares[n])) for n in inner]

    def with_rung(self, frame: float, share: float) -> list[float]:
        """The chart with one rung moved; the others give way, so that time never runs back."""
        shares = self.shares.copy()
        at = round(frame - self.start)
        if self.stepped:
            after = next((f for f in (*self.drawn, self.end) if f > frame), self.end)
            shares[at : round(after - self.start)] = share
            return [float(s) for s in shares]
        shares[1:at] = np.minimum(shares[1:at], share)
        shares[at] = share
        shares[at + 1 : -1] = np.maximum(shares[at + 1 : -1], share)
        return [float(s) for s in shares]

    def preset(self, name: str, strength: float = 0.5) -> list[float]:
        """The shares of a preset."""
        return self._held(preset_shares(len(self.shares), name, strength))

    def like(self, shares: list[float]) -> list[float]:
        """The shares of another span's chart, as long as this span is."""
        return self._held(resampled_shares(shares, len(self.shares)))

    def _held(self, shares: list[float]) -> list[float]:
        """In a stepped span each drawing keeps its share until the next one; on twos if there is none."""
        if not self.stepped:
            return shares
        drawn = self.drawn or tuple(np.arange(self.start + 2, self.end, 2))
        held, now = [], 0.0
        for n, share in enumerate(shares):
            now = share if self.start + n in drawn or n == len(shares) - 1 else now
            held.append(now)
        return held
