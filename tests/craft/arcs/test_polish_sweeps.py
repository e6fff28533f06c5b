"""Polish tools on all kinds of figures and motion, at random: a sentence or a sound shot, and nothing else is touched."""

from collections.abc import Callable
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from benchmarks.motions import smooth_motion
from tests.formats import gltf_maker as make

from bovrin import cast, script
from bovrin.errors import BovrinError
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot

SHAPERS = ("before", "after", "soften", "exaggerate", "ease", "thin out", "fill in", "tremble", "shift", "default")
WHO = ("porter", "porter in steps", "crate", "buoy", "goat", "stroll", "stranger", "dense")


@cache
def who(name: str, folder: Path) -> tuple[Shot, str]:
    if name in ("porter", "crate", "buoy"):
        return script.splined(script.demo(), name), name
    if name == "porter in steps":
        return script.demo(), "porter"
    if name == "goat":
        return script.splined(script.load(cast.GOAT), "goat"), "goat"
    if name == "stroll":
        shot = script.bring(cast.FOLDER / "stroll.glb")
        return shot, shot.cast[0].name
    path = folder / ("s.glb" if name == "stranger" else "m.bvh")
    path.write_bytes(make.figure(make.TWO_LEGS).glb() if name == "stranger" else smooth_motion(120)[0])
    shot = script.bring(path)
    figure = shot.cast[0].name
    for frame in (101.0, 115.0, 130.0) if name == "stranger" else ():
        moved = {c: 0.01 * (frame - 101) for c in script.channels(shot, figure) if c.endswith(("/turn", "/up"))}
        shot = script.key_pose(script.set_values(shot, figure, frame, moved), figure, frame)
    return shot, figure


def tools(shot: Shot, figure: str, rng: np.random.Generator) -> dict[str, Callable[[], Shot]]:
    """Every tool with random points, chains, frames and amounts; a and b: the span of those that have one."""
    rig = shot.figure(figure).rig
    joint = str(rng.choice([j.name for j in rig.joints]))
    point = (joint, tuple(rng.normal(0, 0.05, 3).tolist())) if rng.random() < 0.3 else joint
    frame = float(rng.integers(shot.first, shot.last)) + float(rng.choice([0, 0, 0.25]))
    to = script.arc(shot, figure, point, [frame]).position[0] + rng.normal(0, 0.04, 3)
    chain = [rig.controls[int(c)].name for c in rng.choice(len(rig.controls), min(3, len(rig.controls)), replace=False)]
    channels = rng.choice(script.channels(shot, figure), min(6, len(rig.channels)), replace=False).tolist()
    a = float(rng.integers(shot.first, shot.last - 12))
    b = a + float(rng.integers(2, 12))
    by = float(rng.uniform(-1.2, 1.2))
    made: dict[str, Callable[[], Shot]] = {
        how: lambda how=how: script.drag_arc(shot, figure, point, frame, to, how)  # type: ignore[misc]
        for how in ("pose", "handles", "breakdown")
    }
    made["bow"] = lambda: script.on_an_arc(shot, figure, point, a, b, rng.normal(0, 0.03, 3))
    made["led"] = lambda: script.on_an_arc(shot, figure, point, a, b)
    made["mend"] = lambda: script.mend_kinks(shot, figure, point, a, b)
    made["overlap"] = lambda: script.overlap(shot, figure, chain, by, abs(by), abs(by), 0.5, a, b)
    made["break up"] = lambda: script.break_up(shot, figure, frame)
    made["hold"] = lambda: script.moving_hold(shot, figure, a, b, by / 5, "next" if by > 0 else "on")
    for name in SHAPERS:
        made[name] = lambda n=name: script.shape(shot, figure, channels, a, b, n, by if n != "fill in" else 1.5)  # type: ignore[misc]
    return made


@pytest.mark.sweep
@pytest.mark.parametrize("seed", range(12))
@pytest.mark.parametrize("name", WHO)
def test_a_sentence_or_a_sound_shot(name: str, seed: int, tmp_path_factory: pytest.TempPathFactory) -> None:
    shot, figure = who(name, tmp_path_factory.getbasetemp())
    rig, half = shot.figure(figure).rig, np.arange(shot.first - 2, shot.last + 2, 0.5)
    before = channel_values(shot.curves(figure), rig, half)
    for tool, run in tools(shot, figure, np.random.default_rng(seed)).items():
        try:
            made = run()
        except BovrinError as error:
            assert str(error).strip()
            continue
        after = channel_values(made.curves(figure), rig, half)
        assert np.isfinite(after).all(), tool
        assert all(made.curves(f.name) is shot.curves(f.name) for f in shot.cast if f.name != figure), tool
        if tool == "fill in":
            assert np.abs(after - before).max() < 1e-6
        script.export(made, tmp_path_factory.getbasetemp() / "out.glb") if seed == 0 else None
