import csv
import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tests.formats import gltf_maker as make

from bovrin import cast, script
from bovrin.cli import run_command
from bovrin.log import begin_log, log, log_file
from bovrin.shot import Shot

DEMO = str(cast.DEMO)


def test_the_demo_s_place(capsys: pytest.CaptureFixture[str]) -> None:
    assert run_command(["demo", "--path"]) == 0
    assert Path(capsys.readouterr().out.strip()) == cast.DEMO


def test_describe(capsys: pytest.CaptureFixture[str]) -> None:
    assert run_command(["describe", DEMO]) == 0
    words = capsys.readouterr().out
    assert "Heave the crate" in words and "horn sounds" in words and "101, 109, 114" in words
    assert run_command(["describe", DEMO, "--json"]) == 0
    facts = json.loads(capsys.readouterr().out)
    assert facts["figures"][0]["name"] == "porter" and facts["last"] == 160


def test_sample_writes_what_the_scripts_say(demo: Shot, tmp_path: Path) -> None:
    out = tmp_path / "out.csv"
    assert run_command(["sample", DEMO, "--figure", "porter", "-o", str(out)]) == 0
    rows = list(csv.DictReader(out.read_text().splitlines()))
    assert list(rows[0]) == ["figure", "joint", "frame", "x", "y", "z", "qx", "qy", "qz", "qw"]
    assert len(rows) == len(demo.figure("porter").rig.joints) * 60 and {r["figure"] for r in rows} == {"porter"}
    motion = script.sample(demo, "porter", [127])
    for row in (r for r in rows if r["frame"] == "127"):
        j = motion.joints.index(row["joint"])
        assert np.allclose([float(row[k]) for k in "xyz"], motion.position[0, j], atol=1e-8)
    assert run_command(["sample", DEMO, "-o", str(out)]) == 0
    assert {r["figure"] for r in csv.DictReader(out.read_text().splitlines())} == {
        "porter",
        "crate",
        "buoy",
        "steps",
        "landing",
    }


def test_picture_and_export(demo: Shot, tmp_path: Path) -> None:
    png = tmp_path / "a.png"
    assert run_command(["picture", DEMO, "--frame", "119", "--view", "side", "--size", "200x120", "-o", str(png)]) == 0
    assert np.array_equal(np.array(Image.open(png)), script.picture(demo, 119, "side", (200, 120)))
    assert run_command(["export", DEMO, "-o", str(tmp_path / "a.glb")]) == 0
    assert (tmp_path / "a.glb").read_bytes()[:4] == b"glTF"


def test_check(capsys: pytest.CaptureFixture[str], demo: Shot, tmp_path: Path) -> None:
    assert run_command(["check", DEMO]) == 0
    assert "sound" in capsys.readouterr().out
    late = tmp_path / "late.bovrin.json"
    script.save(script.set_values(demo, "crate", 400, {"whole crate/up": 1}), late)
    assert run_command(["check", str(late)]) == 1
    assert "outside the range" in capsys.readouterr().out


@pytest.mark.parametrize(
    "arguments",
    [
        ["describe", "/none.json"],
        ["sample", DEMO, "--figure", "goat", "-o", "/tmp/none.csv"],
        ["picture", DEMO, "--size", "big", "-o", "/tmp/none.png"],
        ["picture", DEMO, "--view", "behind", "-o", "/tmp/none.png"],
        ["picture", DEMO, "--frame", "nan", "-o", "/tmp/none.png"],
        ["export", DEMO, "-o", "/tmp/none.doc"],
        ["export", DEMO, "-o", "/proc/none/a.glb"],
        ["sample", DEMO, "-o", "/proc/none/a.csv"],
        ["bring", DEMO, "--scale", "0", "-o", "/tmp/none.json"],
        ["bring", DEMO, "--scale", "-3", "-o", "/tmp/none.json"],
        ["bring", DEMO, "--scale", "nan", "-o", "/tmp/none.json"],
        ["bring", DEMO, "--scale", "1e9", "-o", "/tmp/none.json"],
        ["frobnicate"],
        ["picture", DEMO],
        ["check"],
    ],
)
def test_faults_are_one_plain_sentence_and_exit_1(arguments: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert run_command(arguments) == 2
    said = capsys.readouterr()
    assert said.err.strip().count("\n") == 0 and len(said.err) > 15 and "Traceback" not in said.err


def test_proof_lists_faults_and_says_so_by_its_exit(
    demo: Shot, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    from bovrin.cli import run_command

    path = tmp_path / "slides.bovrin.json"
    shot = script.splined(demo, "porter")
    script.save(shot, path)
    assert run_command(["proof", str(path), "--figure", "porter", "--json"]) == 1
    rows = json.loads(capsys.readouterr().out)
    assert [row["words"] for row in rows] == [note.words for note in script.proof(shot, "porter")] != []
    assert run_command(["proof", str(path)]) == 1
    assert f"{rows[0]['words']} -> {rows[0]['remedy']}" in capsys.readouterr().out
    for note in script.proof(shot):
        shot = script.leave(shot, note)
    script.save(shot, path)
    assert run_command(["proof", str(path)]) == 0 and capsys.readouterr().out == "Nothing to note.\n"
    assert run_command(["proof", str(path), "--take", "none"]) == 2 and "there is no take" in capsys.readouterr().err


def test_bring_and_hand_on(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """A figure of another maker by its ending: what it was taken for, what was left out, and out again at another rate."""
    source = tmp_path / "billy.glb"
    maker = make.figure(make.FOUR_LEGS)
    maker.doc["meshes"][0]["primitives"].append({"attributes": {}})
    source.write_bytes(maker.glb())
    project = tmp_path / "billy.bovrin.json"
    assert run_command(["bring", str(source), "-o", str(project)]) == 0
    said = capsys.readouterr().out
    assert "four-legged" in said and "no vertices" in said
    assert run_command(["describe", str(project)]) == 0
    assert "left hind leg" in json.dumps(script.limbs(script.load(project), "billy"))
    assert run_command(["export", str(project), "-o", str(tmp_path / "out.glb"), "--rate", "12"]) == 0
    assert (tmp_path / "out.glb").read_bytes()[:4] == b"glTF"
    assert run_command(["bring", str(tmp_path / "billy.txt"), "-o", str(project)]) == 2
    assert ".glb, .gltf, .bvh" in capsys.readouterr().err


@pytest.mark.parametrize("arguments", [[], ["demo"], ["open", DEMO], [DEMO]])
@pytest.mark.parametrize("display", ["", ":987654", "nonsense"])
def test_without_a_screen_it_says_so(
    arguments: list[str], display: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    for name in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    monkeypatch.setenv("DISPLAY", display)
    assert run_command(arguments) == 2
    said = capsys.readouterr().err
    assert said.strip().count("\n") == 0 and "screen" in said and "Xvfb" in said


def test_what_happens_is_noted_down(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run_command(["--verbose", "describe", str(tmp_path / "none.json")]) == 2
    noted = log_file().read_text()
    assert "none.json" in noted and "none.json" in capsys.readouterr().err
    assert run_command(["describe", DEMO]) == 0


def test_python_m_bovrin_is_the_same() -> None:
    found = subprocess.run(
        [sys.executable, "-m", "bovrin", "demo", "--path"], capture_output=True, text=True, check=True
    )
    assert found.stdout.strip() == DEMO


def test_a_large_log_begins_anew_and_the_oldest_goes(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    monkeypatch.setattr("bovrin.log.LARGEST", 100)
    begin_log(verbose=False)
    for number in range(40):
        log.info("note %d of something that goes on for a while", number)
    files = sorted(log_file().parent.iterdir())
    assert [file.name for file in files] == ["bovrin.log", "bovrin.log.1", "bovrin.log.2"]
    assert "note 39 " in files[0].read_text()
    assert all(file.stat().st_size < 250 for file in files)
