"""Colours as files of the trade count them: as light, and as screens show them."""

from __future__ import annotations


def to_linear(c: float) -> float:
    """An sRGB value as light, 0..1."""
    return c / 12.92 if c <= 0.04045 else float(((c + 0.055) / 1.055) ** 2.4)


def to_srgb(c: float) -> float:
    """Light, 0..1, as an sRGB value."""
    c = min(max(c, 0.0), 1.0)
    return c * 12.92 if c <= 0.0031308 else float(1.055 * c ** (1 / 2.4) - 0.055)
