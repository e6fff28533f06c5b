"""Shipped figures, demo shots and fonts: files, and where they lie."""

from pathlib import Path

FOLDER = Path(__file__).parent
FONTS = FOLDER / "fonts"
DEMO = FOLDER / "ferry-landing.bovrin.json"
GOAT = FOLDER / "goat-turns.bovrin.json"
ACROSS = FOLDER / "across-the-landing.bovrin.json"
CARRY = FOLDER / "carry-the-crate.bovrin.json"
HERON = FOLDER / "heron-takes-the-fish.bovrin.json"
DEMOS = {"heave": DEMO, "goat": GOAT, "across": ACROSS, "carry": CARRY, "heron": HERON}
"""The demo shots by a short name."""


def figure_path(name: str) -> Path:
    """Where the shipped figure of that name lies."""
    return FOLDER / f"{name}.glb"
