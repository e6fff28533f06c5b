"""Files of strangers: nothing is written or taken outside a folder, no name steers anything, no small file takes all memory."""

import json
import os
import resource
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make
from tests.formats.gltf_player import Player
from tools.fuzz.run import run

from bovrin import cast, script
from bovrin.cli import run_command
from bovrin.errors import BadFigure, BadMotion, BovrinError, BrokenFile, CannotWrite, FileProblem
from bovrin.figure.brought.guess import guess_build
from bovrin.formats.bvh.out import bvh_text
from bovrin.formats.figures.kept_setups import keep_guess
from bovrin.formats.files import file_stem, read_bytes
from bovrin.formats.gltf.container import GlbReader, packed
from bovrin.formats.gltf.figure import brought
from bovrin.formats.gltf.out import shot_glb
from bovrin.formats.project.store import load, save
from bovrin.formats.project.text import shot_to_text
from bovrin.formats.project.unsaved import head_of, unsaved_bytes, unsaved_shot
from bovrin.formats.side.markers import read_markers, write_markers
from bovrin.shot import Curve, Joint, Marker, Shot
from bovrin.shot.curve import COLUMN_TYPES


def test_a_short_run_of_damaged_files_is_clean(capsys: pytest.CaptureFixture[str]) -> None:
    failures = run(60, first=0, most=6)
    assert not any(failures.values()), failures


@pytest.mark.parametrize("name", ["../../evil", "/tmp/evil", "a/b\\c", "x" * 400, "\x1b[31mred", "..", "", "é" * 300])
def test_a_figure_s_name_names_no_other_place(tmp_path: Path, name: str) -> None:
    folder = tmp_path / "deep" / "deeper"
    folder.mkdir(parents=True)
    (tmp_path / "two.glb").write_bytes(make.figure(make.TWO_LEGS).glb())
    shot = script.bring(tmp_path / "two.glb", 1.0)
    renamed = replace(shot.cast[0], name=name or "it")
    curves = shot.take.curves["two"]
    named = Shot("s").with_figure(renamed, curves)
    script.save(named, folder / "s.bovrin.json")
    found = {p.name for p in tmp_path.iterdir()}, {p.name for p in (tmp_path / "deep").iterdir()}
    assert found == ({"deep", "two.glb"}, {"deeper"})
    assert len(list(folder.glob("*.glb"))) == 1 and script.load(folder / "s.bovrin.json").cast[0].name == (name or "it")
    assert "/" not in file_stem(name) and len(file_stem(name).encode()) <= 120 and file_stem(name)


def test_what_lies_beside_a_gltf_and_is_no_picture_stays_there(tmp_path: Path) -> None:
    (tmp_path / "notes.txt").write_text("private")
    maker = make.figure(make.TWO_LEGS)
    image = maker.add("images", uri="notes.txt")
    maker.add("textures", source=image)
    maker.add("materials", name="hide", pbrMetallicRoughness={"baseColorTexture": {"index": 0}})
    maker.doc["meshes"][0]["primitives"][0]["material"] = 0
    player = Player(maker.glb())
    (tmp_path / "arrays.bin").write_bytes(player.blob)
    player.doc["buffers"] = [{"uri": "arrays.bin", "byteLength": len(player.blob)}]
    (tmp_path / "it.gltf").write_text(json.dumps(player.doc))
    shot = script.bring(tmp_path / "it.gltf", 1.0)
    assert b"private" not in shot_glb(shot) and b"private" not in shot.cast[0].model.brought


def test_only_files_are_read(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.bvh")
    (tmp_path / "loop.bvh").symlink_to(tmp_path / "loop.bvh")
    for path in (
        tmp_path / "pipe.bvh",
        tmp_path / "loop.bvh",
        Path("/dev/zero"),
        tmp_path,
        Path("a\0b"),
        Path("a\udcff"),
    ):
        with pytest.raises(FileProblem) as caught:
            read_bytes(path, "file")
        caught.value.sentence.encode()


def test_markers_with_patterns_that_take_for_ever_are_read_at_once(tmp_path: Path) -> None:
    texts = {
        "a.srt": "1\n" + "9" * 400 + ":00:00,000 --> 00:00:02,000\nx\n",
        "b.srt": "1\n00:00:01,000 --> 00:00:02,000\n" + "<" * 200_000 + "\n",
        "c.vtt": "WEBVTT\n\n" + "00:01.000 --> " * 100_000,
        "d.srt": "00:00:01,000 --> 00:00:02,000\nx\n" * 20_000,
        "e.csv": 'start,end\n1,2,"' + "x" * 300_000,
        "f.srt": "1\n00:00:01,000 --> 00:00:02,000\n" + "{\\" * 100_000,
    }
    for name, text in texts.items():
        path = tmp_path / name
        path.write_text(text)
        began = time.process_time()
        with suppress(BovrinError):
            read_markers(path, 24.0, 101.0)
        assert time.process_time() - began < 5.0, name


def test_cells_are_no_formulas_and_frames_keep_their_digits(tmp_path: Path) -> None:
    markers = (Marker(1234567.25, 1234568.5, "=1+1"), Marker(101, 102, "-later"), Marker(103, 104, "'tis"))
    shot = Shot("s", markers=markers)
    write_markers(shot, tmp_path / "m.csv")
    text = (tmp_path / "m.csv").read_text()
    assert not any(cell.startswith(("=", "-")) for row in text.splitlines() for cell in row.split(","))
    back, _ = read_markers(tmp_path / "m.csv", 24.0, 101.0)
    assert sorted((m.start, m.end, m.words) for m in back) == sorted((m.start, m.end, m.words) for m in markers)


def test_names_do_nothing_to_a_terminal(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    project = tmp_path / "s.bovrin.json"
    script.save(replace(script.demo(), title="red\x1b[31m\nroot# "), project)
    assert run_command(["describe", str(project)]) == 0
    assert "\x1b" not in capsys.readouterr().out
    assert run_command(["describe", str(tmp_path / "no\x1b[2Jne")]) == 2
    told = capsys.readouterr().err
    assert "\x1b" not in told and told.count("\n") == 1


@pytest.mark.parametrize(("first", "last"), [(1, 1e9), (0, 1e300), (101.2, 101.8), (-2e8, -1e8), (1, float("nan"))])
def test_ranges_that_cannot_be_worked_with_are_refused_in_words(tmp_path: Path, first: float, last: float) -> None:
    with pytest.raises(BadMotion):
        Shot("s", first=first, last=last)
    project = tmp_path / "s.bovrin.json"
    script.save(script.demo(), project)
    data = json.loads(project.read_text())
    project.write_text(json.dumps({**data, "first": first, "last": last}))
    with pytest.raises(BovrinError):
        script.load(project)


def test_a_chain_of_many_joints_is_handed_on(tmp_path: Path) -> None:
    from bovrin.figure.brought.guess import guess_build
    from bovrin.figure.making.rig_making import make_rig
    from bovrin.figure.solve.stick import stick_model
    from bovrin.shot import Figure

    joints = tuple(Joint(f"ring {n}", n - 1, (0.0, 0.001, 0.0)) for n in range(1100))
    rig = make_rig(joints, guess_build(joints))
    shot = Shot("long", first=101, last=102).with_figure(
        Figure("chain", rig, stick_model(rig), "chain.glb", (0.5, 0.5, 0.5))
    )
    path = tmp_path / "long.bvh"
    path.write_text(bvh_text(shot))
    assert len(script.bring(path, 1.0).cast[0].rig.joints) >= 1100


@pytest.mark.parametrize("scale", [float("nan"), float("inf"), 0.0, -1.0, 1e30])
def test_units_that_cannot_be_are_refused(tmp_path: Path, scale: float) -> None:
    (tmp_path / "two.glb").write_bytes(make.figure(make.TWO_LEGS).glb())
    with pytest.raises(BadMotion):
        script.bring(tmp_path / "two.glb", scale)


def test_threads_are_the_backgrounds_alone() -> None:
    """No other place of the window makes any."""
    source = Path(__file__).parents[2] / "src" / "bovrin" / "desk"
    own = {p.name for p in source.rglob("*.py") if "QThread" in p.read_text() or "ThreadPoolExecutor" in p.read_text()}
    assert own == {"background.py"} and threading.main_thread().is_alive()


def hidden_by_size() -> make.Maker:
    maker = make.figure(make.TWO_LEGS)
    maker.animate(
        "hide",
        ("Hals", "scale", "LINEAR", [0, 0.5, 1], [[1, 1, 1], [0, 0, 0], [1, 1, 1]]),
        ("Kern", "scale", "STEP", [0, 0.5], [[1, 1, 1], [0, 0, 0]]),
    )
    return maker


def joints_called_whole() -> make.Maker:
    names = {"Kern": "whole", "Hals": "whole figure"}
    return make.figure({names.get(n, n): (names.get(p, p), x) for n, (p, x) in make.TWO_LEGS.items()})


def shapes_on_two_joints() -> make.Maker:
    maker = make.figure(make.TWO_LEGS)
    box = np.array([[x, y, z] for x in (0, 0.1) for y in (0, 0.1) for z in (0, 0.1)])
    faces = maker.array(np.array(make.BOX).ravel(), "u4")
    for host in ("Kugel", "Kern"):
        primitive = {
            "attributes": {"POSITION": maker.array(box)}, "indices": faces, "targets": [{"POSITION": maker.array(box * 0.5)}],
        }  # fmt: skip
        mesh = maker.add("meshes", primitives=[primitive], extras={"targetNames": ["puff"]})
        node = maker.add("nodes", name=f"cap of {host}", mesh=mesh)
        maker.doc["nodes"][maker.node(host)].setdefault("children", []).append(node)
    return maker


@pytest.mark.parametrize("odd", [hidden_by_size, joints_called_whole, shapes_on_two_joints])
def test_odd_but_sound_figures_come_in_and_go_out(tmp_path: Path, odd: Callable[[], make.Maker]) -> None:
    (tmp_path / "odd.glb").write_bytes(odd().glb())
    shot = script.bring(tmp_path / "odd.glb", 1.0)
    script.save(shot, tmp_path / "odd.bovrin.json")
    opened = script.load(tmp_path / "odd.bovrin.json")
    script.export(opened, tmp_path / "out.glb")
    script.export(opened, tmp_path / "out.bvh")
    again = script.bring(tmp_path / "out.glb")
    frames = np.array(shot.whole_frames, float)
    one, two = (script.sample(s, s.cast[0].name, frames).position for s in (shot, again))
    assert np.isfinite(one).all() and np.abs(one - two).max() < 1e-5


def no_data() -> make.Maker:
    maker = make.figure(make.TWO_LEGS)
    number = maker.add("accessors", componentType=5126, count=20_000_000, type="VEC3")
    maker.doc["meshes"][0]["primitives"][0]["attributes"]["POSITION"] = number
    return maker


def one_mesh_again_and_again() -> make.Maker:
    maker = make.figure(make.TWO_LEGS)
    mesh = maker.add("meshes", primitives=[{"attributes": {"POSITION": maker.array(np.ones((30_000, 3)))}}])
    for number in range(400):
        maker.add("nodes", mesh=mesh, name=f"again {number}")
    return maker


@pytest.mark.parametrize("small", [no_data, one_mesh_again_and_again])
def test_small_files_that_would_take_all_memory_are_refused(tmp_path: Path, small: Callable[[], make.Maker]) -> None:
    (tmp_path / "small.glb").write_bytes(small().glb())
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with pytest.raises(BadFigure, match="vertices"):
        script.bring(tmp_path / "small.glb", 1.0)
    assert (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024 < 1 << 30


def test_what_lies_deep_is_refused_at_the_door() -> None:
    deep: object = 1
    for _ in range(400):
        deep = [deep]
    document = {"asset": {"version": "2.0"}, "nodes": [{"name": "a", "extras": {"deep": deep}}]}
    with pytest.raises(BrokenFile, match="levels deep"):
        GlbReader(packed(document, b""), "deep.glb")


def test_kept_work_with_keys_of_no_kind_is_refused() -> None:
    """The bytes of handles and roles are looked at as the rest is."""
    shot = script.demo()
    curve = shot.curves("porter").curves[0]
    for column, wrong in (("in_kind", 6), ("out_kind", 200), ("role", 3)):
        columns = {name: getattr(curve, name) for name in COLUMN_TYPES}
        columns[column] = np.full(len(curve), wrong, np.uint8)
        with pytest.raises(BadMotion, match="kind that there is not"):
            Curve.from_columns(columns)
    data = bytearray(unsaved_bytes(shot, {"pid": 1, "began": "0"}, {}))
    data[-40:] = b"\xff" * 40
    with pytest.raises(BovrinError):
        shot_to_text(unsaved_shot(bytes(data), head_of(bytes(data)), Path("it"), Path("it")))


def test_names_with_halves_of_letters_are_written_with_question_marks(tmp_path: Path) -> None:
    """A file's name need not be text, and JSON can spell half a letter: what is brought is saved and read again."""
    stroll = (cast.FOLDER / "stroll.glb").read_bytes()
    odd = tmp_path / os.fsdecode(b"no\xff.glb")
    odd.write_bytes(stroll)
    reader = GlbReader(stroll, "it")
    nodes = [{**node, "name": "\ud800" + str(node["name"])} for node in reader.items("nodes")]
    half = tmp_path / "half.glb"
    half.write_bytes(packed({**reader.document, "nodes": nodes, "extras": {}}, reader.blob))
    for file in (odd, half):
        shot = save(script.bring(file), tmp_path / f"{len(file.name)}.bovrin.json")
        assert shot_to_text(load(tmp_path / f"{len(file.name)}.bovrin.json")) == shot_to_text(shot)
    with pytest.raises(CannotWrite, match=r"'a\?b' holds half a letter"):
        save(replace(shot, title="a\ud800b"), tmp_path / "title.bovrin.json")
    path = tmp_path / os.fsdecode(b"path\xff.bovrin.json")
    save(shot, path, versions=3)
    assert load(path).cast[0].name == shot.cast[0].name


def test_numbers_that_nothing_can_be_worked_out_from_are_refused_where_they_come_in() -> None:
    for value in (1e39, 1e308, float("inf"), float("nan")):
        with pytest.raises(BovrinError, match="finite"):
            script.set_values(script.demo(), "porter", 119, {"hips/up": value})


def test_spans_of_next_to_nothing_are_refused_and_extremes_can_be_kept(tmp_path: Path) -> None:
    """What can be made can be kept: a curve with the largest numbers there are is settled without one that is not finite."""
    shot = script.set_values(script.demo(), "crate", 2000, {"whole crate/up": 1e12})
    figure = shot.figure("crate").name
    plain = shot.curves(figure)[0]
    wild = {"out_slope": -1e12, "in_slope": 1e12, "out_length": 1e12, "out_span": 2.0**-24, "in_span": 1e9}
    with pytest.raises(BadMotion, match="stretch"):
        plain.changed(in_span=np.full(len(plain), 1e-300))
    curve = plain.changed(**{name: np.full(len(plain), value) for name, value in wild.items()})
    script.save(shot.with_curves(figure, shot.curves(figure).replaced({0: curve})), tmp_path / "far.bovrin.json")
    assert len(script.load(tmp_path / "far.bovrin.json").curves(figure)[0]) == len(plain)


@pytest.mark.parametrize("data", [b"", b"{", b"\xff\xfe{}", b"[" * 5000, b'{"build":"biped","root":0,"hips":10000}'])
def test_a_damaged_setup_keeps_no_sound_file_away(data: bytes, tmp_path: Path) -> None:
    """What was corrected of such joints and kept is left, and the guess is made anew."""
    path = tmp_path / "two.glb"
    path.write_bytes(make.figure(make.TWO_LEGS).glb())
    joints = brought(GlbReader(path.read_bytes(), "it"), [], None).tree.joints
    keep_guess(joints, guess_build(joints)).write_bytes(data)
    assert script.bring(path).cast[0].rig.limbs


def test_true_and_false_point_at_nothing(tmp_path: Path) -> None:
    """A file whose nodes have a truth among their children is the same figure when it comes back."""
    path = tmp_path / "two.glb"
    path.write_bytes(make.figure(make.TWO_LEGS).glb())
    reader = GlbReader(path.read_bytes(), "it")
    nodes = [dict(node) for node in reader.items("nodes")]
    nodes[3]["children"] = [*nodes[3].get("children", []), False, True]
    path.write_bytes(packed({**reader.document, "nodes": nodes}, reader.blob))
    shot = script.bring(path)
    kept = save(shot, tmp_path / "kept.bovrin.json")
    again = load(tmp_path / "kept.bovrin.json")
    assert len(again.cast[0].rig.joints) == len(kept.cast[0].rig.joints) and shot_glb(again)


def test_parts_that_are_no_list_and_names_with_nothing_in_them_are_told(tmp_path: Path) -> None:
    reader = GlbReader(make.figure(make.TWO_LEGS).glb(), "it")
    meshes = [{**mesh, "primitives": 7} for mesh in reader.items("meshes")]
    path = tmp_path / "two.glb"
    path.write_bytes(packed({**reader.document, "meshes": meshes}, reader.blob))
    assert script.bring(path).cast[0].rig.joints
    text = shot_to_text(script.demo()).replace("cast:porter", "por\\u0000ter.glb")
    (tmp_path / "null.bovrin.json").write_text(text)
    with pytest.raises(FileProblem, match="no file can have"):
        load(tmp_path / "null.bovrin.json")
