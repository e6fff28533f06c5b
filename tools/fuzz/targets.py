"""What is fed with damaged files: every reader, and what is done with a shot that was read."""

from __future__ import annotations

import base64
import io
import json
import os
import shutil
import struct
import zipfile
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

import numpy as np

from bovrin import cast, script
from bovrin.craft.takes import copied_take
from bovrin.errors import BovrinError
from bovrin.figure.brought.guess import guess_build
from bovrin.figure.making.setup import setup_of
from bovrin.figure.staging import staged
from bovrin.formats.bringing import bring_file
from bovrin.formats.bvh.out import bvh_text
from bovrin.formats.figures.file import figure_from_bytes
from bovrin.formats.figures.kept_setups import keep_guess
from bovrin.formats.gltf.container import GlbReader, packed
from bovrin.formats.gltf.figure import brought
from bovrin.formats.gltf.out import shot_glb
from bovrin.formats.project.store import load, save
from bovrin.formats.project.text import shot_to_text
from bovrin.formats.project.unsaved import head_of, unsaved_bytes, unsaved_shot
from bovrin.formats.side.markers import read_markers
from bovrin.formats.side.pose_book import book_from_bytes, book_text
from bovrin.shot import Joint, LeftNote, Marker, Pose, Shot, Spot, Trace
from tools.fuzz import mutators
from tools.fuzz.mutators import Random

HEAD = {"pid": 1, "began": "0", "path": None}
SRT = "1\n00:00:01,000 --> 00:00:02,500\n<i>Lines</i>\n\n2\n00:01:00,000 --> 00:01:01,000\nMore {\\an8}lines\n"
VTT = "WEBVTT\n\n00:01.000 --> 00:02.500\nLines\n\n00:00:03.000 --> 00:00:04.000\nMore\n"
CSV = 'start,end,words,kind,colour\n101,110,"hears, turns",section,teal\n111.5,120,goes,note,plum\n'


@dataclass(frozen=True)
class Target:
    """A reader: sound files, how they are damaged, and what is done with one."""

    name: str
    seeds: tuple[bytes, ...]
    mutate: Callable[[bytes, Random], bytes]
    use: Callable[[bytes, Path], object]


def small_shot() -> Shot:
    """A few frames of the porter."""
    demo = script.demo()
    return Shot("walk", first=101, last=104).with_figure(demo.figure("porter"), demo.curves("porter"))


def moveset() -> Shot:
    """The porter with a cycle, in another take clips of it that fade, weighed and added, a ruler, and steps to stand on."""
    shot = (
        Shot("clips", last=124).with_figure(script.demo().figure("porter")).with_figure(script.demo().figure("steps"))
    )
    shot = script.new_cycle(shot, "porter", "walk", 8, 0.3)
    shot = script.ruler_of_stride(
        script.stand_on_set(script.keep_clip(shot, "porter", "walk", 101, 109, loop=True)), "porter"
    )
    shot = script.keep_clip(shot, "porter", "nod", 101, 105, parts=["head"])
    laid = script.lay_clip(copied_take(shot, "laid"), "porter", "walk", 101, repeats=2.0)
    laid = script.crossfade(script.lay_clip(laid, "porter", "walk", 112, repeats=1.5), "porter", 0, 112, 4)
    return script.lay_clip(laid, "porter", "nod", 104, lane=1, how="added", weight=0.5, mute=("neck",))


def drawn_on() -> Shot:
    """The moveset with strokes, a pinned one too, contacts, notes left of it, a kept arc, limits, a trace and markers."""
    shot = moveset()
    for frame, pinned in ((103, None), (110, "ground"), (118, ("porter", "head"))):
        shot = script.draw(shot, frame, [(0.1, 0.2, 0.0), (0.4, 0.5, 0.0), (0.6, 0.4, 0.0)], pinned=pinned)
    note = LeftNote("kink", "porter", "head", 103.0, 104.0)
    take = replace(shot.take.acted("porter", contacts={"left leg": ((102.0, 105.0),)}), left=(note,))
    trace = Trace("before", "porter", shot.curves("porter"))
    marks = (Marker(104.0, 108.0, "hears", "section", "teal"),)
    spots, limits = (Spot("porter", "head"),), (("kink", 0.5),)
    return replace(shot, take=replace(take, traces=(trace,)), markers=marks, spots=spots, limits=limits)


def hung() -> Shot:
    """A hand on the crate, that on the chest and then on the ground, the gaze on it, a head and a beard that follow."""
    shot = script.demo()
    demo = Shot("hung", first=101, last=112).with_figure(shot.figure("porter"), shot.curves("porter"))
    made = demo.with_figure(shot.figure("crate"), shot.curves("crate"))
    made = script.attach(made, "crate", "whole crate", ("porter", "chest"), 103)
    made = script.attach(made, "crate", "whole crate", script.GROUND, 109)
    for control in ("right hand", "gaze"):
        made = script.attach(made, "porter", control, ("crate", "crate"), 104)
    made = script.follow(made, "porter", ["beard"], "spring", "late", clear_of=["ground", "chest"], gravity=0.2)
    made = script.follow(made, "porter", ["head"], "noise", start=102, end=110)
    made = script.set_follower(made, "porter", "late", 106, sways=3)
    return script.set_influence(made, "porter", "gaze", 107, 0.5)


def _clips(data: bytes, folder: Path) -> None:
    path = folder / "m.bovrin.json"
    path.write_bytes(data)
    shot = load(path)
    for work in (script.slide_of, script.plant, script.clips_to_keys, script.stride, script.travelling):
        if shot.last - shot.first < 500:
            with suppress(BovrinError):
                work(shot, shot.cast[0].name)
    _worked_on(shot, folder)


def _gltf_of(glb: bytes) -> bytes:
    (size,) = struct.unpack_from("<I", glb, 12)
    document, blob = json.loads(glb[20 : 20 + size]), glb[28 + size :]
    uri = "data:application/octet-stream;base64," + base64.b64encode(blob).decode()
    return json.dumps({**document, "buffers": [{"uri": uri, "byteLength": len(blob)}]}).encode()


def targets() -> Iterator[Target]:
    """All of them."""
    shot = small_shot()
    goat = script.load(cast.GOAT)
    project = shot_to_text(script.demo()).encode()
    stroll = (cast.FOLDER / "stroll.glb").read_bytes()
    whole = shot_glb(Shot("b", last=104).with_figure(script.demo().figure("buoy")).with_figure(goat.cast[0]))
    yield Target("project", (project,), mutators.of_json_bytes, _project)
    yield Target("attachments", (shot_to_text(hung()).encode(),), mutators.of_json_bytes, _project)
    clips = shot_to_text(moveset()).encode()
    drawn = drawn_on()
    yield Target("clips and cycles", (clips, shot_to_text(drawn).encode()), mutators.of_json_bytes, _clips)
    figures = tuple((cast.FOLDER / f"{name}.glb").read_bytes() for name in ("crate", "porter"))
    yield Target("figure", figures, mutators.of_glb, lambda data, _p: figure_from_bytes(data, "it", "it"))
    yield Target("glb", (stroll, whole), mutators.of_glb, lambda data, folder: _brought(data, folder / "m.glb"))
    yield Target("gltf", (_gltf_of(stroll),), mutators.of_json_bytes, lambda d, folder: _brought(d, folder / "m.gltf"))
    yield Target("bvh", (bvh_text(shot).encode(),), mutators.of_text, lambda d, folder: _brought(d, folder / "m.bvh"))
    svg = (cast.FOLDER / "heron.svg").read_bytes()
    yield Target("svg", (svg,), mutators.of_text, lambda d, folder: _brought(d, folder / "m.svg"))
    yield Target("ora", (_ora(),), mutators.of_bytes, lambda d, folder: _brought(d, folder / "m.ora"))
    heron = (cast.FOLDER / "heron.glb").read_bytes()
    yield Target("flat figure", (heron,), mutators.of_glb, lambda data, _p: figure_from_bytes(data, "it", "it"))
    yield Target(
        "unsaved work", (unsaved_bytes(shot, HEAD, {}), unsaved_bytes(drawn, HEAD, {})), mutators.of_lined, _unsaved
    )
    yield Target("setup", (setup_of(guess_build(_stranger()[1])).encode(),), mutators.of_json_bytes, _setup)
    book = book_text(
        (Pose("stand", "porter", {"hips": (0, 0, 0, 1)}, {"hips": (0, 0, 0)}, {"hips": {"a": 1}}),)
    ).encode()
    yield Target("pose book", (book,), mutators.of_json_bytes, lambda data, _p: book_from_bytes(data, "it"))
    for ending, text in (("srt", SRT), ("vtt", VTT), ("csv", CSV)):
        yield Target(ending, (text.encode(),), mutators.of_text, _markers(ending))


def _ora() -> bytes:
    """A layered picture of two parts."""
    from PIL import Image  # noqa: PLC0415

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        packed.writestr(
            "stack.xml",
            '<image><stack><layer name="head" src="a.png"/><layer name="body" src="b.png"/></stack></image>',
        )
        for name, colour in (("a.png", "red"), ("b.png", "blue")):
            png = io.BytesIO()
            Image.new("RGBA", (20, 30), colour).save(png, "PNG")
            packed.writestr(name, png.getvalue())
    return out.getvalue()


def _project(data: bytes, folder: Path) -> None:
    path = folder / "m.bovrin.json"
    path.write_bytes(data)
    _worked_on(load(path), folder)


def _brought(data: bytes, path: Path) -> None:
    path.write_bytes(data)
    _worked_on(bring_file(path)[0], path.parent)


def _unsaved(data: bytes, folder: Path) -> None:
    _worked_on(unsaved_shot(data, head_of(data), folder / "m.bovrin.json", folder), folder)


@cache
def _stranger() -> tuple[bytes, tuple[Joint, ...]]:
    """The goat as a file that says nothing of its rig, and its joints."""
    data = cast.figure_path("goat").read_bytes()
    (size,) = struct.unpack_from("<I", data, 12)
    document, blob = json.loads(data[20 : 20 + size]), data[28 + size :]
    document.pop("extras", None)
    for skin in document["skins"]:
        skin.pop("extras", None)
    bare = packed({k: v for k, v in document.items() if k != "asset"} | {"asset": {"version": "2.0"}}, blob)
    return bare, brought(GlbReader(bare, "it"), [], None).tree.joints


def _setup(data: bytes, folder: Path) -> None:
    """What was corrected of a skeleton and kept is found again when a file with its joints is brought."""
    bare, joints = _stranger()
    before = os.environ.get("XDG_DATA_HOME")
    os.environ["XDG_DATA_HOME"] = str(folder / "kept")
    try:
        keep_guess(joints, guess_build(joints)).write_bytes(data)
        (folder / "m.glb").write_bytes(bare)
        shot = bring_file(folder / "m.glb")[0]
    except BovrinError as error:
        raise AssertionError(f"a damaged setup keeps a sound file away: {error}") from error
    finally:
        shutil.rmtree(folder / "kept", ignore_errors=True)
        del os.environ["XDG_DATA_HOME"]
        os.environ.update({} if before is None else {"XDG_DATA_HOME": before})
    _worked_on(shot, folder)


def _markers(ending: str) -> Callable[[bytes, Path], object]:
    def use(data: bytes, folder: Path) -> None:
        path = folder / f"m.{ending}"
        path.write_bytes(data)
        read_markers(path, 24.0, 101.0)

    return use


def _worked_on(shot: Shot, folder: Path) -> None:
    """A shot that was read is looked at, saved, read again the same, and handed on; what is refused in words is well."""
    for figure in shot.cast:
        staged(shot, figure.name, np.array([shot.first, shot.last]))
    kept = folder / "kept.bovrin.json"
    try:
        save(shot, kept)
        again = load(kept)
        unsaved = unsaved_bytes(again, HEAD, {})
    except BovrinError as error:
        raise AssertionError(f"what was read cannot be kept: {error}") from error
    assert [f.name for f in again.cast] == [f.name for f in shot.cast]
    assert shot_to_text(again).split('"take"')[1] == shot_to_text(save(again, kept)).split('"take"')[1]
    taken_up = unsaved_shot(unsaved, head_of(unsaved), kept, folder)
    assert shot_to_text(taken_up).split('"take"')[1] == shot_to_text(again).split('"take"')[1]
    evil = [p for p in folder.parent.iterdir() if p != folder]
    assert not evil, f"written outside its folder: {evil}"
    if all(last - first < 500 for first, last, _ in map(shot.span_of, shot.all_takes)):  # every take is written
        for write in (shot_glb, bvh_text):
            with suppress(BovrinError):
                write(shot)
    for file in folder.iterdir():
        os.unlink(file)
