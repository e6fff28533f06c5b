"""Builds the shipped cast: `make cast` writes the same bytes every time."""

from __future__ import annotations

from bovrin import script
from bovrin.cast import ACROSS, CARRY, DEMO, FOLDER, GOAT, HERON
from bovrin.formats.figures.file import figure_bytes
from bovrin.shot import Figure
from tools.cast.across import across
from tools.cast.buoy import buoy, steps
from tools.cast.crate import crate
from tools.cast.demo import carried, demo_shot
from tools.cast.dress import porter
from tools.cast.fish import fish
from tools.cast.goat import goat
from tools.cast.goat_turns import goat_turns
from tools.cast.heron import drawing, heron
from tools.cast.heron_takes import heron_takes
from tools.cast.landing import landing


def write(figure: Figure) -> None:
    """Write one figure's GLB and say how large it came out."""
    path = FOLDER / f"{figure.name}.glb"
    path.write_bytes(figure_bytes(figure))
    print(
        f"{path.name}: {figure.model.triangle_count} triangles, {len(figure.rig.joints)} joints, {path.stat().st_size} bytes"
    )


if __name__ == "__main__":
    for made in (porter(), goat(), crate(), buoy(), steps(), landing(), heron(), fish()):
        write(made)
    (FOLDER / "heron.svg").write_text(drawing(), encoding="utf-8")
    for path, shot in (
        (DEMO, demo_shot()),
        (GOAT, goat_turns()),
        (ACROSS, across()),
        (CARRY, carried()),
        (HERON, heron_takes()),
    ):
        script.save(shot, path)
        print(f"{path.name}: {path.stat().st_size} bytes")
