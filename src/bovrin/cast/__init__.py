"""Shipped figures, demo shots and fonts: files, and where they lie."""

from pathlib import Path

FOLDER = Path(__file__).parent
FONTS = FOLDER / "fonts"
DEMO = FOLDER / "ferry-landing.bovrin.json"


def figure_path(name: str) -> Path:
    """Where the shipped figure of that name lies."""
    return FOLDER / f"{name}.glb"
