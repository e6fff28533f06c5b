"""What lies under each pixel of a picture."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.picture.item import Item
from bovrin.shot import Figure

Pixels = NDArray[np.uint8]


class Seen(NamedTuple):
    """A figure and the joint that carries its skin."""

    figure: Figure
    joint: int


class Picked(NamedTuple):
    """For each pixel (H, W, 4): strongest joint low byte, high byte, number of the item from 1 (0: nothing), unused;
    and the items that the numbers count."""

    pixels: Pixels
    items: tuple[Item, ...]

    def at(self, x: int, y: int) -> Seen | None:
        """What is under a pixel; None outside the picture too."""
        height, width = self.pixels.shape[:2]
        if not (0 <= x < width and 0 <= y < height):
            return None
        low, high, number, _ = (int(n) for n in self.pixels[y, x])
        return Seen(self.items[number - 1].figure, low + 256 * high) if number else None

    def near(self, x: int, y: int, reach: int, which: Callable[[Figure], bool]) -> Seen | None:
        """What is nearest to a pixel, within so many, of some figures."""
        left, top = max(x - reach, 0), max(y - reach, 0)
        cut = self.pixels[top : y + reach + 1, left : x + reach + 1]
        wanted = np.array([False, *(which(item.figure) for item in self.items)])
        rows, columns = np.nonzero(wanted[cut[..., 2]])
        away = np.hypot(columns + left - x, rows + top - y)
        if not len(away) or away.min() > reach:
            return None
        nearest = int(away.argmin())
        return self.at(left + int(columns[nearest]), top + int(rows[nearest]))

    def within(self, left: int, top: int, right: int, bottom: int, prefer: str) -> tuple[Figure, list[int]] | None:
        """The joints of one figure that are seen in a rectangle (ends included): of the preferred figure, by name, if it is
        there, else of the one seen most."""
        cut = self.pixels[max(top, 0) : bottom + 1, max(left, 0) : right + 1].reshape(-1, 4)
        cut = cut[cut[:, 2] > 0].astype(int)
        if not len(cut):
            return None
        numbers, counts = np.unique(cut[:, 2], return_counts=True)
        own = [n for n in numbers if self.items[n - 1].figure.name == prefer]
        number = own[0] if own else numbers[counts.argmax()]
        rows = cut[cut[:, 2] == number]
        return self.items[number - 1].figure, np.unique(rows[:, 0] + 256 * rows[:, 1]).tolist()
