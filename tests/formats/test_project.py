import json
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import chain_figure, curves

from bovrin import script
from bovrin.errors import BovrinError, BrokenFile, CannotWrite, NewerFile
from bovrin.formats import files
from bovrin.formats.figures.file import figure_bytes
from bovrin.formats.project import store as project
from bovrin.formats.project import text as project_text
from bovrin.formats.project.data import CurveData, ProjectData, curve_from_data, curve_to_data
from bovrin.formats.side.table import table_text
from bovrin.shot import Curve, Marker, Shot


@given(curves(0, 7))
def test_every_curve_survives_the_file(curve: Curve) -> None:
    back = curve_from_data(msgspec.json.decode(json.dumps(curve_to_data(curve)), type=CurveData), "x")
    for name in Curve.__dataclass_fields__:
        assert np.array_equal(getattr(back, name), getattr(curve, name)), name


def test_save_and_open_gives_the_same_shot(demo: Shot, tmp_path: Path) -> None:
    shot = script.splined(script.breakdown(demo, "porter", 123, 0.7), "porter")
    path = tmp_path / "mine.bovrin.json"
    script.save(shot, path)
    again = script.load(path)
    assert project_text.shot_to_text(again) == project_text.shot_to_text(shot)
    assert table_text(again, ["porter", "crate"]) == table_text(shot, ["porter", "crate"])
    assert again.markers == shot.markers


def test_a_project_with_its_own_figure(tmp_path: Path) -> None:
    figure = chain_figure()
    (tmp_path / "rod.glb").write_bytes(figure_bytes(_with_mesh(figure)))
    shot = script.set_values(
        Shot("Rod", markers=(Marker(101, 105, "sway «left»"),)).with_figure(figure), "rod", 101, {"link 1/roll": 30}
    )
    script.save(shot, tmp_path / "rod.bovrin.json")
    again = script.load(tmp_path / "rod.bovrin.json")
    assert script.values(again, "rod", 101)["link 1/roll"] == pytest.approx(30)
    assert again.markers[0].words == "sway «left»"


def _with_mesh(figure):  # type: ignore[no-untyped-def]
    from dataclasses import replace

    from bovrin.shot import Model, Piece

    points = np.array([[0, 0, 0], [0.1, 0, 0], [0, 1, 0]], np.float32)
    weights = np.tile(np.array([1, 0, 0, 0], np.float32), (3, 1))
    piece = Piece(
        "skin",
        (0.5, 0.2, 0.1),
        points,
        np.ones_like(points),
        np.zeros((3, 4), np.uint16),
        weights,
        np.array([[0, 1, 2]], np.uint32),
    )
    return replace(figure, model=Model((piece,)))


def _edited(demo: Shot, change) -> bytes:  # type: ignore[no-untyped-def]
    raw = json.loads(project_text.shot_to_text(demo))
    change(raw)
    return json.dumps(raw).encode()


def _first_curve(raw: dict) -> dict:  # type: ignore[type-arg]
    return raw["take"]["curves"]["porter"]["left hand/up"]


BAD = {
    "wrong type": lambda r: r.update(frame_rate="fast"),
    "no cast": lambda r: r.pop("cast"),
    "unknown field": lambda r: r.update(colour="red"),
    "text among values": lambda r: _first_curve(r)["values"].__setitem__(0, "high"),
    "values missing": lambda r: _first_curve(r)["values"].pop(),
    "unknown handle": lambda r: _first_curve(r).update(leave="wobbly"),
    "too few handles": lambda r: _first_curve(r).update(leave=["flat"]),
    "keys out of order": lambda r: _first_curve(r)["frames"].reverse(),
    "negative range": lambda r: r.update(first=50, last=10),
    "no frame rate": lambda r: r.update(frame_rate=0),
    "unknown channel": lambda r: r["take"]["curves"]["porter"].update({"tail/wag": {"frames": [], "values": []}}),
    "unknown figure": lambda r: r["take"]["curves"].update(goat={}),
    "two of a name": lambda r: r["cast"].append(r["cast"][0]),
    "unknown shipped figure": lambda r: r["cast"][0].update(file="cast:goose"),
    "missing figure file": lambda r: r["cast"][0].update(file="gone.glb"),
    "figure outside": lambda r: r["cast"][0].update(file="../secret.glb"),
    "figure from the root": lambda r: r["cast"][0].update(file="/etc/hostname"),
    "shipped figure by path": lambda r: r["cast"][0].update(file="cast:../cast/porter"),
    "version as text": lambda r: r.update(version="one"),
    "no version": lambda r: r.pop("version"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_projects_are_explained_in_one_sentence(demo: Shot, tmp_path: Path, name: str) -> None:
    path = tmp_path / "bad.bovrin.json"
    data = _edited(demo, BAD[name])
    path.write_bytes(data)
    with pytest.raises(BovrinError) as caught:
        script.load(path)
    sentence = caught.value.sentence
    assert len(sentence) > 20 and "\n" not in sentence and "Traceback" not in sentence
    assert path.read_bytes() == data


@pytest.mark.parametrize(
    "data", [b"", b"  \n", b"{", b"[]", b"null", b'{"format": "other"}', b"\xff\xfe\x00", b"[" * 100_000]
)
def test_files_that_are_no_project(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "bad.bovrin.json"
    path.write_bytes(data)
    with pytest.raises(BrokenFile):
        script.load(path)


def test_not_a_number_is_refused(demo: Shot, tmp_path: Path) -> None:
    path = tmp_path / "nan.bovrin.json"
    text = (
        project_text.shot_to_text(demo)
        .replace('"values": [', '"values": [NaN, ', 1)
        .replace('"frames": [', '"frames": [99, ', 1)
    )
    path.write_text(text)
    with pytest.raises(BovrinError, match="damaged"):
        script.load(path)


def test_a_newer_version_says_so(demo: Shot, tmp_path: Path) -> None:
    path = tmp_path / "newer.bovrin.json"
    path.write_bytes(_edited(demo, lambda r: r.update(version=99, holograms=[])))
    with pytest.raises(NewerFile, match="newer Bovrin"):
        script.load(path)


@given(st.data())
def test_a_file_cut_off_anywhere_is_refused_or_whole(demo: Shot, data: st.DataObject) -> None:
    text = project_text.shot_to_text(demo).encode()
    cut = data.draw(st.integers(0, len(text) - 3))
    with pytest.raises(BovrinError):
        project.shot_from_bytes(text[:cut], Path("cut.bovrin.json"))


def test_a_failed_save_leaves_the_old_file(demo: Shot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "mine.bovrin.json"
    script.save(demo, path)
    before = path.read_bytes()

    def full(_fd: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(files.os, "fsync", full)
    with pytest.raises(CannotWrite, match="No space left"):
        script.save(script.lengthen(demo, "porter", 101, 3), path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir() if p.suffix != ""] == ["mine.bovrin.json"]


def test_a_full_disk_is_told(demo: Shot) -> None:
    with pytest.raises(CannotWrite):
        files.write_atomically(Path("/dev/full/x.json"), b"x")
    with pytest.raises(CannotWrite, match="could not be written"):
        script.save(demo, "/proc/nowhere/shot.bovrin.json")


def test_reading_what_is_not_there_is_explained(tmp_path: Path) -> None:
    with pytest.raises(BovrinError, match="cannot be read"):
        script.load(tmp_path / "none.json")
    with pytest.raises(BovrinError, match="cannot be read"):
        script.load(tmp_path)


def test_the_published_schema_is_the_one_in_force() -> None:
    published = json.loads((Path(__file__).parents[2] / "docs" / "project.schema.json").read_text())
    assert published == json.loads(json.dumps(msgspec.json.schema(ProjectData)))
