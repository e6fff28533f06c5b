"""The door through which the command line writes: no input is lost, nothing is replaced that is no file, pipes are pipes."""

import os
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from bovrin import cast, script
from bovrin.cli import PIPE_CLOSED, run_command
from bovrin.formats.bvh.out import bvh_text
from bovrin.shot import Shot

DEMO = str(cast.DEMO)


@pytest.fixture
def files(tmp_path: Path, demo: Shot) -> Path:
    """A folder with a project, its figure, a .glb and a .bvh."""
    script.export(demo, tmp_path / "shot.glb")
    (tmp_path / "wave.bvh").write_text(bvh_text(script.demo("goat")))
    assert run_command(["bring", str(tmp_path / "shot.glb"), "-o", str(tmp_path / "shot.bovrin.json")]) == 0
    return tmp_path


VERBS = [
    ["sample", "shot.bovrin.json"],
    ["picture", "shot.bovrin.json", "--size", "20x20"],
    ["export", "shot.bovrin.json", "--as", "glb"],
    ["bring", "shot.glb"],
    ["bring", "wave.bvh"],
    ["sample", "shot.glb"],
    ["picture", "wave.bvh", "--size", "20x20"],
]


@pytest.mark.parametrize("verb", VERBS, ids=" ".join)
def test_nothing_is_written_over_what_is_read(
    verb: list[str], files: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(files)
    os.symlink(verb[1], "link.bovrin.json")
    os.link(verb[1], "twin.bovrin.json")
    before = {path.name: path.read_bytes() for path in files.iterdir() if path.is_file()}
    figures = [name for name in before if name.endswith(".glb") and verb[1].endswith(".json") and name != "shot.glb"]
    for target in (verb[1], "link.bovrin.json", "twin.bovrin.json", *figures):
        assert run_command([*verb, "-o", target]) == 2
        told = capsys.readouterr().err
        assert told.count("\n") == 1 and "read in the same run" in told
    assert {path.name: path.read_bytes() for path in files.iterdir() if path.is_file()} == before


def test_devices_stay_devices(files: Path) -> None:
    null = files / "null"
    try:
        os.mknod(null, 0o666 | 0o020000, os.makedev(1, 3))
    except PermissionError:
        null = Path(os.devnull)
    for verb in VERBS[:3]:
        assert run_command([verb[0], str(files / verb[1]), *verb[2:], "-o", str(null)]) == 0
        assert null.is_char_device()


def test_a_pipe_is_written_to(files: Path) -> None:
    pipe = files / "pipe"
    os.mkfifo(pipe)
    got: list[bytes] = []
    reader = threading.Thread(target=lambda: got.append(pipe.read_bytes()))
    reader.start()
    assert run_command(["sample", DEMO, "-o", str(pipe)]) == 0
    reader.join()
    assert got[0].startswith(b"figure,joint,frame") and pipe.is_fifo()


def test_standard_output(files: Path, capsysbinary: pytest.CaptureFixture[bytes]) -> None:
    assert run_command(["sample", DEMO, "-o", "-"]) == 0
    assert capsysbinary.readouterr().out.startswith(b"figure,joint,frame")
    assert run_command(["export", DEMO, "--as", "glb", "-o", "-"]) == 0
    assert capsysbinary.readouterr().out[:4] == b"glTF"
    assert run_command(["export", DEMO, "-o", "-"]) == 2 and b"--as" in capsysbinary.readouterr().err
    assert run_command(["bring", str(files / "wave.bvh"), "-o", "-"]) == 2
    assert not Path("-").exists()


def test_a_reader_that_leaves_is_no_fault() -> None:
    program = [sys.executable, "-c", "from bovrin.cli import main; main()"]
    for words in (["sample", DEMO, "-o", "-"], ["describe", DEMO, "--json"]):
        read, write = os.pipe()
        os.close(read)
        found = subprocess.run([*program, *words], stdout=write, stderr=subprocess.PIPE, text=True)
        os.close(write)
        assert found.returncode == PIPE_CLOSED and found.stderr == "", words


def test_a_file_called_like_an_option_is_opened(monkeypatch: pytest.MonkeyPatch) -> None:
    opened: list[Path] = []
    monkeypatch.setattr("bovrin.cli._window", lambda path, _picture: opened.append(path) or 0)
    assert run_command(["--", "-x"]) == 0 and opened == [Path("-x")]
    assert run_command(["open", "--", "-x"]) == 0 and opened[1] == Path("-x")


def test_what_can_be_brought_can_be_described(files: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for name, figure in (("shot.glb", "porter"), ("wave.bvh", "joints")):
        assert run_command(["describe", str(files / name)]) == 0
        assert figure in capsys.readouterr().out
        assert run_command(["check", str(files / name)]) in (0, 1)
        assert run_command(["proof", str(files / name)]) in (0, 1)
        capsys.readouterr()


def test_errors_end_in_another_way_than_notes(files: Path) -> None:
    assert run_command(["proof", str(files / "none.json")]) == run_command(["check", str(files / "none.json")]) == 2


def test_a_project_gets_its_ending(files: Path) -> None:
    """Without it *Open* would not offer the project; a file of another kind that lies there stays what it is."""
    other = (files / "shot.glb").read_bytes()
    for name in ("walk", "walk.v2", "shot.glb"):
        assert run_command(["bring", str(files / "wave.bvh"), "-o", str(files / name)]) == 0
        assert script.load(files / f"{name}.bovrin.json").cast
    assert (files / "shot.glb").read_bytes() == other and not (files / "walk.v2").exists()
