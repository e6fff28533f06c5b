"""BVH in and out: channel orders, units, end sites, damage, and the way there and back."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from bovrin import script
from bovrin.cli import run_command
from bovrin.errors import BovrinError, BrokenFile, FileProblem
from bovrin.formats.bvh.figure import shot_of
from bovrin.formats.bvh.out import bvh_text
from bovrin.formats.bvh.source import bvh_from_bytes, size_of
from bovrin.formats.units import metres_in
from bovrin.shot import Shot

ORDERS = ("XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX")


def arm(order: str, rows: str, frames: int = 2) -> bytes:
    """A root, an arm a metre up, a hand half a metre along x."""
    turns = " ".join(f"{axis}rotation" for axis in order)
    return f"""HIERARCHY
ROOT root one
{{
\tOFFSET 0 0 0
\tCHANNELS 6 Xposition Yposition Zposition {turns}
\tJOINT arm
\t{{
\t\tOFFSET 0 1 0
\t\tCHANNELS 3 {turns}
\t\tEnd Site
\t\t{{
\t\t\tOFFSET 0.5 0 0
\t\t}}
\t}}
}}
MOTION
Frames: {frames}
Frame Time: 0.0416667
{rows}""".encode()


def read(data: bytes, scale: float | None = 1.0) -> tuple[Shot, list[str]]:
    return shot_of(bvh_from_bytes(data, "made.bvh"), "made", "made.bvh", scale)[:2]


@pytest.mark.parametrize("order", ORDERS)
def test_each_channel_order_gives_positions_worked_out_by_hand(order: str) -> None:
    shot, left_out = read(arm(order, "0 0 0 0 0 0 0 0 0\n0.1 0.2 0.3 10 20 30 40 50 -60\n"))
    assert left_out == [] and shot.frame_rate == 24 and shot.last == 102
    motion = script.sample(shot, "made", [101, 102])
    at = {name: i for i, name in enumerate(motion.joints)}
    root = Rotation.from_euler(order, [10, 20, 30], degrees=True)  # capital letters: about the axes as they turn
    bend = Rotation.from_euler(order, [40, 50, -60], degrees=True)
    place = np.array([0.1, 0.2, 0.3])
    elbow = place + root.apply([0, 1, 0])
    assert np.allclose(motion.position[0, at["arm end"]], [0.5, 1, 0], atol=1e-9)
    assert np.allclose(motion.position[1, at["root one"]], place, atol=1e-9)
    assert np.allclose(motion.position[1, at["arm"]], elbow, atol=1e-9)
    assert np.allclose(motion.position[1, at["arm end"]], elbow + (root * bend).apply([0.5, 0, 0]), atol=1e-9)


@pytest.mark.parametrize(("unit", "scale"), [(1.0, 1.0), (100.0, 0.01), (39.37, 0.0254), (1000.0, 0.001)])
def test_the_unit_is_guessed_from_the_size(unit: float, scale: float) -> None:
    text = arm("ZXY", "0 0 0 0 0 0 0 0 0\n" * 2).decode()
    text = text.replace("OFFSET 0 1 0", f"OFFSET 0 {1.7 * unit} 0")
    assert metres_in(size_of(bvh_from_bytes(text.encode(), "x").joints)) == scale


@given(st.integers(0, 10_000), st.integers(1, 6), st.sampled_from(ORDERS))
def test_in_out_in_is_the_same_motion(seed: int, frames: int, order: str) -> None:
    rng = np.random.default_rng(seed)
    rows = np.concatenate([rng.normal(0, 0.5, (frames, 3)), rng.uniform(-170, 170, (frames, 6))], axis=1)
    shot, _ = read(arm(order, "\n".join(" ".join(f"{x:.9f}" for x in row) for row in rows), frames))
    again, left_out = read(bvh_text(shot).encode())
    assert left_out == []
    at = np.arange(101.0, 101.0 + frames)
    one, other = script.sample(shot, "made", at), script.sample(again, "made", at)
    assert [n.replace(" ", "_") for n in one.joints[1:3]] == list(other.joints[1:3])
    assert np.abs(one.position - other.position).max() < 1e-6


def test_the_porter_s_motion_is_read_back_the_same(tmp_path: Path) -> None:
    shot = script.splined(script.demo(), "porter")
    path = tmp_path / "porter.bvh"
    script.export(shot, path)
    again = script.bring(path)
    assert (again.first, again.last, again.frame_rate) == (101, 160, 24)
    frames = np.arange(101.0, 161.0, 7)
    ours, theirs = script.sample(shot, "porter", frames), script.sample(again, "porter", frames)
    for n, name in enumerate(ours.joints):
        if name == "root":
            continue
        m = theirs.joints.index(name.replace(" ", "_"))
        assert np.abs(ours.position[:, n] - theirs.position[:, m]).max() < 2e-6, name
    report = script.rig_report(again, "porter")
    assert report["build"] == "two-legged" and set(report["limbs"]) == {
        "left arm",
        "right arm",
        "left leg",
        "right leg",
    }
    assert report["limbs"]["left leg"] == ["left_thigh", "left_shin", "left_foot"]


def test_a_brought_figure_is_saved_beside_the_project(tmp_path: Path) -> None:
    source = tmp_path / "in" / "arm.bvh"
    source.parent.mkdir()
    source.write_bytes(arm("ZXY", "0 0 0 0 0 0 0 0 0\n0.1 0.2 0.3 10 20 30 40 50 60\n"))
    shot = script.bring(source)
    out = tmp_path / "out"
    out.mkdir()
    (out / "arm.glb").write_bytes(b"somebody else's")
    script.save(shot, out / "arm.bovrin.json")
    assert (out / "arm.glb").read_bytes() == b"somebody else's" and (out / "arm 2.glb").exists()
    back = script.load(out / "arm.bovrin.json")
    frames = [101.0, 101.5, 102.0]
    assert (
        np.abs(script.sample(back, "arm", frames).position - script.sample(shot, "arm", frames).position).max() < 1e-9
    )
    script.save(back, out / "again.bovrin.json")
    assert len(list(out.glob("*.glb"))) == 2, "the same figure is not written twice"


def test_a_take_keyed_on_every_frame_shares_its_columns() -> None:
    rows = "\n".join(f"0 {n} 0 {n} 0 0 0 {n} 0" for n in range(500))
    shot, _ = read(arm("ZXY", rows, 500))
    moving = [c for c in shot.curves("made").curves if len(c) == 500]
    assert len(moving) == 3 and moving[0].frames is moving[1].frames and moving[0].in_slope is moving[2].in_slope
    own = {
        id(getattr(c, n)): getattr(c, n).nbytes for c in moving for n in ("frames", "values", "in_slope", "out_length")
    }
    assert sum(own.values()) / (3 * 500) <= 64


ROOT = b"HIERARCHY ROOT a { OFFSET 0 0 0 "
DAMAGE = {
    "nothing": (b"", "needs HIERARCHY"),
    "no motion": (ROOT + b"}", "needs HIERARCHY"),
    "cut in the joints": (b"HIERARCHY ROOT a { OFFSET 0 0\nMOTION", "cut off"),
    "strange channel": (ROOT + b"CHANNELS 1 Wrotation }\nMOTION\nFrames: 1\nFrame Time: 0.1\n0", "channel 'wrotation'"),
    "nan offset": (b"HIERARCHY ROOT a { OFFSET nan 0 0 }\nMOTION", "offset is 'nan'"),
    "no frames": (arm("ZXY", "", 0), "no numbers"),
    "no count": (ROOT + b"}\nMOTION\nhello", "how many frames"),
    "words": (arm("ZXY", "one two", 1), "no numbers"),
}


@pytest.mark.parametrize("name", DAMAGE)
def test_damage_is_explained_in_one_sentence(name: str) -> None:
    data, words = DAMAGE[name]
    with pytest.raises(BrokenFile) as caught:
        read(data)
    assert words in caught.value.sentence and "\n" not in caught.value.sentence


def test_what_can_be_trusted_is_kept_and_the_rest_is_told() -> None:
    shot, left_out = read(arm("ZXY", "0 0 0 0 0 0 0 0 0\n0 0 0 nan 0 0 1 2 3\n0 0 0 1 2", 9))
    assert shot.last == 102
    words = " ".join(left_out)
    assert "not finite" in words and "last row" in words and "says 9 frames and has 2" in words
    assert np.isfinite(script.sample(shot, "made", [101, 102]).position).all()
    _, left_out = read(arm("ZXY", "0 0 0 0 0 0 0 0 0\n", 1).replace(b"0.0416667", b"-3"))
    assert "makes no sense" in left_out[0]


@given(st.integers(0, 10_000), st.integers(1, 6))
def test_random_damage_never_gets_through_as_a_crash(seed: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    data = bytearray(arm("YXZ", "0 0 0 0 0 0 0 0 0\n0.1 0.2 0.3 10 20 30 40 50 60\n"))
    for _ in range(count):
        at = int(rng.integers(len(data)))
        if rng.random() < 0.3:
            del data[at : at + int(rng.integers(1, 30))]
        else:
            data[at] = int(rng.integers(32, 127))
    try:
        shot, _ = read(bytes(data))
    except BovrinError as error:
        assert "\n" not in error.sentence
    else:
        assert np.isfinite(script.sample(shot, "made", [101]).position).all()


def test_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "wave.bvh"
    path.write_bytes(arm("ZXY", "0 0 0 0 0 0 0 0 0\n0 0 0 1 2", 2))
    assert run_command(["bring", str(path), "-o", str(tmp_path / "wave.bovrin.json")]) == 0
    assert "wave: other" in (words := capsys.readouterr().out) and "last row" in words
    assert run_command(["export", str(tmp_path / "wave.bovrin.json"), "-o", str(tmp_path / "back.bvh")]) == 0
    assert (tmp_path / "back.bvh").read_text().startswith("HIERARCHY\nROOT root_one")
    assert run_command(["bring", str(tmp_path / "wave.bovrin.json"), "-o", str(tmp_path / "x.bovrin.json")]) == 2
    assert "ending that can be brought" in capsys.readouterr().err
    with pytest.raises(FileProblem, match="cannot be read"):
        script.bring(tmp_path / "none.bvh")


@pytest.mark.parametrize("repeats", [True, False])
def test_a_root_s_offset_is_counted_once_and_one_that_is_needed_is(tmp_path: Path, repeats: bool) -> None:
    """Some files say where the root rests in its offset and again in its position; others put only the rest there. Feet stand on
    the ground in both."""
    plain = bvh_text(script.demo(), "porter")
    first = np.array(plain.split("Frame Time:")[1].split("\n")[1].split()[:3], float)
    offset = first + [0.4, 0.0, -0.3]
    head, tail = plain.split("MOTION")
    head = head.replace("OFFSET 0.000000 0.000000 0.000000", "OFFSET {:.6f} {:.6f} {:.6f}".format(*offset), 1)
    if not repeats:
        time, rows = tail.split("Frame Time:")[1].split("\n", 1)
        cells = [row.split() for row in rows.strip().split("\n")]
        rows = "\n".join(
            " ".join([*(f"{float(c) - o:.6f}" for c, o in zip(r, offset, strict=False)), *r[3:]]) for r in cells
        )
        tail = tail.split("Frame Time:")[0] + f"Frame Time:{time}\n{rows}\n"
    a, left_out = read(plain.encode())
    b, told = read(f"{head}MOTION{tail}".encode())
    assert left_out == [] and len(told) == repeats
    assert not repeats or f"{first[1] * 100:.0f} cm off the ground" in told[0]
    one, two = (script.sample(s, "made", s.whole_frames).position for s in (a, b))
    assert np.abs(one - two)[:, 1:].max() < 2e-5
