"""Disks that are full: what was there stays, whatever did not fit is said, and nothing half written is left."""

import os
import subprocess
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from bovrin import script
from bovrin.errors import CannotWrite
from bovrin.figure.brought.guess import guess_build
from bovrin.formats.figures.kept_setups import keep_guess
from bovrin.formats.gltf.out import export
from bovrin.formats.project.store import load, save
from bovrin.formats.project.text import shot_to_text
from bovrin.formats.side.pose_book import save_book
from bovrin.shot import CHANGED, Shot

ROOM = 900_000


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path]:
    """A disk of less than a megabyte."""
    disk = tmp_path / "disk"
    disk.mkdir()
    made = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={ROOM}", "tmpfs", str(disk)], capture_output=True, check=False
    )
    if made.returncode:
        pytest.skip(f"this machine lets nobody make a small disk ({made.stderr.decode().strip()})")
    yield disk
    subprocess.run(["umount", str(disk)], check=True)


def fill(disk: Path, leave: int) -> None:
    """Leave so many bytes."""
    stat = os.statvfs(disk)
    (disk / "filler").write_bytes(b"\0" * max(stat.f_bavail * stat.f_frsize - leave, 0))


def there(disk: Path) -> dict[str, bytes]:
    return {p.name: p.read_bytes() for p in disk.iterdir() if p.name != "filler"}


@pytest.mark.parametrize("leave", [0, 4096, 20_000, 60_000])
def test_a_save_that_does_not_fit_leaves_the_old_one(demo: Shot, small_disk: Path, leave: int) -> None:
    path = small_disk / "shot.bovrin.json"
    save(demo, path, versions=3)
    before = there(small_disk)
    fill(small_disk, leave)
    curves = demo.curves("porter")
    dense = script.set_values(demo, "porter", 119, {"hips/up": 0.2})
    for frame in np.arange(101.0, 150.0):
        dense = script.set_values(dense, "porter", float(frame), {"hips/up": 0.001 * frame, "head/turn": frame})
    assert len(dense.curves("porter")) == len(curves)
    with pytest.raises(CannotWrite, match="could not be written"):
        save(dense, path, versions=3)
    assert there(small_disk) == before
    assert shot_to_text(load(path)) == shot_to_text(demo)
    (small_disk / "filler").unlink()
    save(dense, path, versions=3)
    assert shot_to_text(load(path)) == shot_to_text(dense), "with room again, the same save is made"


def test_a_figure_that_does_not_fit_leaves_no_half_project(demo: Shot, small_disk: Path) -> None:
    changed = replace(demo, cast=tuple(replace(f, source=f.source + CHANGED) for f in demo.cast))
    fill(small_disk, 100_000)
    with pytest.raises(CannotWrite):
        save(changed, small_disk / "shot.bovrin.json")
    assert not (small_disk / "shot.bovrin.json").exists()
    assert not [name for name in there(small_disk) if name.startswith(".bovrin-")]


def test_what_is_handed_on_and_kept_beside_says_so(
    demo: Shot, small_disk: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(small_disk / "data"))
    (small_disk / "data").mkdir()
    out = small_disk / "out.glb"
    out.write_bytes(b"an older one")
    fill(small_disk, 0)
    for write in (
        lambda: export(demo, out),
        lambda: save_book((), small_disk / "book.json"),
        lambda: keep_guess(demo.figure("porter").rig.joints, guess_build(demo.figure("porter").rig.joints)),
    ):
        with pytest.raises(CannotWrite):
            write()
    assert out.read_bytes() == b"an older one"
