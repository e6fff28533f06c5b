"""Writes what the validator is to look at: the demos, the cast, and brought figures kept and handed on."""

from __future__ import annotations

import sys
from pathlib import Path

from tests.formats import gltf_maker as make
from tests.formats.test_gltf_in import moving

from bovrin import cast, script


def write(folder: Path) -> list[Path]:
    """The files, each written by the product."""
    folder.mkdir(parents=True, exist_ok=True)
    found = sorted(cast.FOLDER.glob("*.glb"))
    for project in sorted(cast.FOLDER.glob("*.bovrin.json")):
        shot = script.load(project)
        out = folder / f"{project.name.removesuffix('.bovrin.json')}.glb"
        script.export(shot, out)
        found.append(out)
    for name, maker in (("moving", moving()), ("four legs", make.figure(make.FOUR_LEGS))):
        path = folder / f"{name}.glb"
        path.write_bytes(maker.glb())
        shot = script.bring(path)
        script.save(shot, folder / f"{name}.bovrin.json")
        kept = folder / script.load(folder / f"{name}.bovrin.json").cast[0].source
        out = folder / f"{name} handed on.glb"
        script.export(shot, out)
        found += [kept, out]
    return found


if __name__ == "__main__":
    print("\n".join(str(path) for path in write(Path(sys.argv[1]))))
