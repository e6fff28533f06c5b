"""Links in a circle, names that hold line breaks, and very many nodes under one name."""

import json
import os
from pathlib import Path

import pytest

from bovrin import script
from bovrin.errors import BovrinError
from bovrin.formats.gltf.nodes import _names


@pytest.fixture
def circle(tmp_path: Path) -> Path:
    os.symlink("b.glb", tmp_path / "a.glb")
    os.symlink("a.glb", tmp_path / "b.glb")
    return tmp_path / "a.glb"


def test_links_in_a_circle_are_told_everywhere(circle: Path) -> None:
    shot, project = script.demo("goat"), circle.with_name("shot.bovrin.json")
    script.save(shot, project)
    said = json.loads(project.read_text())
    said["cast"][0]["file"] = circle.name
    project.write_text(json.dumps(said))
    for work in (
        lambda: script.load(project),
        lambda: script.load(circle),
        lambda: script.bring(circle),
        lambda: script.save(shot, circle),
        lambda: script.export(shot, circle),
    ):
        with pytest.raises(BovrinError, match=r"a\.glb"):
            work()
    assert circle.is_symlink() and circle.with_name("b.glb").is_symlink()


def test_a_sentence_is_one_line_whatever_things_are_called(demo: object) -> None:
    for name in ("no\nsuch\r\nfile.json", "no\x1b[31msuch", "no\u2028such"):
        for work in (lambda n=name: script.load(n), lambda n=name: script.values(script.demo(), n, 101)):
            with pytest.raises(BovrinError) as error:
                work()
            assert len(str(error.value).splitlines()) == 1 and "\x1b" not in str(error.value)


def test_nodes_of_one_name_get_each_their_own() -> None:
    """Fifteen thousand took 50 s when each looked for a free number from the beginning."""
    found = _names(
        [{"name": "bone"}, {"name": "bone 2"}, *({"name": "bone"} for _ in range(15_000)), {"name": "bone 2"}]
    )
    assert len(set(found)) == len(found) and found[:4] == ["bone", "bone 2", "bone 3", "bone 4"]
