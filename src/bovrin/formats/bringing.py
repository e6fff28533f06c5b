"""Bringing a figure or a motion from a file of another maker, by the file's ending."""

from __future__ import annotations

from pathlib import Path

from bovrin.errors import FileProblem
from bovrin.shot import Shot

ENDINGS = (".glb", ".gltf", ".bvh")


def bring_file(path: Path, scale: float | None = None) -> tuple[Shot, list[str]]:
    """A shot that holds what a file does, and what was left out. scale: metres in a unit of the file."""
    ending = path.suffix.lower()
    if ending == ".bvh":
        from bovrin.formats.bvh_figure import shot_from_bvh  # noqa: PLC0415 - each reader is loaded when it is needed

        return shot_from_bvh(path, scale)
    if ending in (".glb", ".gltf"):
        from bovrin.formats.gltf_figure import shot_from_gltf  # noqa: PLC0415

        return shot_from_gltf(path, scale)
    raise FileProblem(
        f"'{path.suffix or path.name}' is not an ending that can be brought.",
        where=str(path),
        advice="Use .glb, .gltf or .bvh.",
    )
