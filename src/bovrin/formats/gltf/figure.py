"""A glTF file of any maker as a figure with a rig of its own, and its animations as takes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import chain, count
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure, BovrinError, BrokenFile
from bovrin.figure.brought.guess import Guess, guess_build
from bovrin.figure.brought.joint_tree import JointTree
from bovrin.figure.ground.skin import stiff_places
from bovrin.figure.ground.soles import with_soles
from bovrin.figure.making.rig_growing import with_channels, with_shapes
from bovrin.figure.making.rig_making import ORDER, make_rig
from bovrin.figure.making.setup import setup_of
from bovrin.figure.solve.plan import special_column
from bovrin.figure.solve.stick import stick_model
from bovrin.formats.figures.kept_setups import known_guess
from bovrin.formats.figures.rig_data import rig_from_data
from bovrin.formats.files import real_path, stem_of
from bovrin.formats.found import Found, together
from bovrin.formats.gltf.cast import cast_of
from bovrin.formats.gltf.container import GlbReader
from bovrin.formats.gltf.merge import without_motion
from bovrin.formats.gltf.meshes import Meshes, Morph
from bovrin.formats.gltf.motion import TakeMaker, Track, guessed_rate, joint_turns, tracks_of
from bovrin.formats.gltf.nodes import NodeTree, node_tree
from bovrin.formats.gltf.source import read_source
from bovrin.formats.units import is_doubtful, metres_in
from bovrin.frozen import frozen
from bovrin.motion.rotations import order_for, quaternion_matrix
from bovrin.progress import each
from bovrin.shot import (
    ChannelRole,
    ControlKind,
    Curve,
    CurveSet,
    Figure,
    HandleKind,
    Key,
    Model,
    Rig,
    Shot,
    Span,
    Take,
    acting_by,
)
from bovrin.shot.document import FIRST_FRAME

Floats = NDArray[np.float64]
COLOUR = (0.47, 0.44, 0.39)
CLOSE = 1e-3
"""How near the end of a motion is to its beginning when it goes round."""
LONGEST = 200_000
"""Frames of the longest motion that is brought."""


@frozen
class Brought:
    """What a file holds, before it has a rig."""

    reader: GlbReader
    tree: NodeTree
    model: Model
    shapes: dict[int, list[Morph]]
    metres: float
    doubtful: bool = False

    def morphs(self) -> list[tuple[str, float, int]]:
        """The amounts of meshes' shapes: name, at rest, carrying joint."""
        return [(m.name, m.default, m.joint) for found in self.shapes.values() for m in found]


def shot_from_gltf(path: Path, scale: float | None = None) -> Found:
    """A shot that holds the figure of a file, its animations as takes, and what was left out.

    scale: metres in one unit of the file, guessed from the figure's size when it is not given.
    """
    reader, left_out = read_source(path)
    try:
        members = cast_of(reader)
        readers = [(one.reader, one.name) for one in members] or [(reader, stem_of(path))]
        told = [_shot(one, name, path, scale, left_out) for one, name in each(readers)]
        shot = together(stem_of(path), [own for own, _ in told]) if members else told[0][0]
    except BadFigure as error:
        raise BadFigure(error.what, where=str(path), advice=error.advice) from error
    except BovrinError:
        raise
    except (TypeError, ValueError, KeyError, IndexError, OverflowError, AttributeError) as error:
        raise BrokenFile(
            "the file does not hold what glTF asks for.", where=str(path), advice="Export it again."
        ) from error
    return Found(shot, list(dict.fromkeys(left_out)), _written_rate(reader) is not None, told[0][1])


def brought(reader: GlbReader, left_out: list[str], scale: float | None, known: Iterable[int] = ()) -> Brought:
    """Joints and meshes of a file, in metres. known: nodes that are joints whatever the file does with them."""
    tree = node_tree(reader, left_out, known)
    meshes = Meshes(reader, tree, left_out)
    model = meshes.read()
    if len(tree.joints) == 1 and not model.pieces:
        raise BadFigure("the file holds no figure: no mesh, no joints.", advice="Choose a file with a model in it.")
    size = _size(tree, model)
    metres = scale if scale is not None else metres_in(size)
    if metres != 1.0:
        tree, model = tree.scaled(metres), _scaled(model, metres)
    return Brought(reader, tree, model, meshes.shapes, metres, scale is None and is_doubtful(size))


def rigged(what: Brought, guess: Guess, *, reach: bool, tracks: Sequence[Track] = ()) -> Rig:
    """The rig of a guessed build, with channels for all that tracks move."""
    tree = what.tree
    at, orders = tree.of_node(), _orders(tree, tracks)
    rig = make_rig(tree.joints, guess, orders, reach=reach)
    by_path: dict[str, set[int]] = {"translation": set(), "rotation": set(), "scale": set(), "weights": set()}
    for track in tracks:
        if track.node in at:
            by_path[track.path].add(at[track.node])
    sizes = dict.fromkeys(by_path["scale"], (1.0, 1.0, 1.0)) | tree.sizes
    rig = with_shapes(with_channels(rig, by_path["translation"], by_path["rotation"], sizes, orders), what.morphs())
    return with_soles(rig, what.model) if what.model.pieces else rig


def _orders(tree: NodeTree, tracks: Sequence[Track]) -> dict[int, str]:
    """By joint the rotation order in which its longest motion is far from where orders lock, where the usual one is not."""
    at, longest = tree.of_node(), dict[int, Track]()
    for track in tracks:
        joint = at.get(track.node)
        if joint is not None and track.path == "rotation" and len(track.times) > 2:
            longest[joint] = max(longest.get(joint, track), track, key=lambda t: len(t.times))
    found = {j: order_for(quaternion_matrix(joint_turns(tree, t, j)), ORDER) for j, t in longest.items()}
    return {j: order for j, order in found.items() if order != ORDER}


def figure_from_brought(reader: GlbReader, source: str, raw: dict[str, Any]) -> Figure:
    """A figure that was brought before, by the rig that was kept in its file."""
    what = brought(reader, [], float(raw.get("metres", 1.0)), _known_nodes(reader, raw))
    rig, name, colour = rig_from_data(raw.get("rig"), what.tree.joints)
    return Figure(name, rig, _dressed(what, rig), source, colour)


def _dressed(what: Brought, rig: Rig) -> Model:
    model = what.model if what.model.pieces else stick_model(rig)
    nodes = tuple(n for n in what.tree.nodes if n >= 0)
    return replace(model, brought=without_motion(what.reader), metres=what.metres, nodes=nodes)


def _known_nodes(reader: GlbReader, own: dict[str, Any]) -> list[int]:
    """The nodes that a kept rig has joints for: as they were kept, else those with the names of its joints."""
    nodes = own.get("nodes")
    if isinstance(nodes, list):
        return [n for n in nodes if isinstance(n, int)]
    rig = own.get("rig")
    controls = rig.get("controls") if isinstance(rig, dict) else None
    rows = [row for row in controls if isinstance(row, dict)] if isinstance(controls, list) else []
    names = {str(row.get("joint")) for row in rows}
    return [n for n, node in enumerate(reader.items("nodes")) if str(node.get("name", "")).strip() in names]


def _shot(reader: GlbReader, name: str, path: Path, scale: float | None, left_out: list[str]) -> tuple[Shot, bool]:
    """A shot of one figure, and whether its size is in doubt."""
    own = _own_rig(reader)
    metres = float(own.get("metres", 1.0)) if own else 1.0 if scale is None and _is_ours(reader) else scale
    what = brought(reader, left_out, metres, _known_nodes(reader, own) if own else ())
    animations = [(a, tracks_of(reader, a, what.shapes, left_out)) for a in reader.items("animations")]
    animations = [(a, tracks) for a, tracks in animations if tracks]
    tracks = [t for _, found in animations for t in found]
    rig = _known_rig(what, own, tracks) if own else None
    if rig is None:
        rig = _as_kept(what, tracks) or rigged(what, guess_build(what.tree.joints), reach=not tracks, tracks=tracks)
    colour = what.model.pieces[0].colour if what.model.pieces else COLOUR
    figure = Figure(name, rig, _dressed(what, rig), str(real_path(path)), colour)
    rate = _written_rate(reader) or guessed_rate(tracks)
    longest = max((float(track.times[-1]) for track in tracks), default=0.0) * rate
    if longest > LONGEST:
        raise BadFigure(f"its motion is {longest:.0f} frames long.", advice=f"Up to {LONGEST} frames can be brought.")
    first = _first_frame(animations[0][0]) if animations else FIRST_FRAME
    takes = _takes(figure, TakeMaker(what.tree, rig, rate), animations, what.shapes)
    span = takes[0].span or Span(first, first + 47.0)
    worked_on = replace(takes[0], span=None)
    shot = Shot(name, (figure,), worked_on, frame_rate=rate, takes=tuple(takes[1:]), **span._asdict())
    return shot, what.doubtful


def _as_kept(what: Brought, tracks: Sequence[Track]) -> Rig | None:
    """The rig that was kept for files with such joints; None when nothing was, or what was kept makes no rig."""
    kept = known_guess(what.tree.joints)
    if kept is None:
        return None
    try:
        return replace(rigged(what, kept, reach=not tracks, tracks=tracks), setup=setup_of(kept))
    except (BovrinError, ValueError, IndexError, KeyError, TypeError, StopIteration, np.linalg.LinAlgError):
        return None


def _own_rig(reader: GlbReader) -> dict[str, Any] | None:
    """What Bovrin wrote about the one figure of a file that it made or kept, if it did."""
    extras = reader.document.get("extras")
    own = extras.get("bovrin") if isinstance(extras, dict) else None
    if isinstance(own, dict) and isinstance(own.get("metres", 1.0), (int, float)):
        return own
    skins = [
        s["extras"]["bovrin"]
        for s in reader.items("skins")
        if isinstance(s.get("extras"), dict) and "bovrin" in s["extras"]
    ]
    return {"rig": skins[0]} if len(skins) == 1 else None


def _is_ours(reader: GlbReader) -> bool:
    """Whether Bovrin wrote a file, whose units are metres then."""
    asset = reader.document.get("asset")
    return isinstance(asset, dict) and str(asset.get("generator", "")).startswith("Bovrin")


def _known_rig(what: Brought, own: dict[str, Any], tracks: Sequence[Track]) -> Rig | None:
    """The rig that the file itself holds, with channels for all that tracks move; None when it does not fit."""
    try:
        rig, _, _ = rig_from_data(own.get("rig"), what.tree.joints)
    except BadFigure:
        return None
    at, helpers = what.tree.of_node(), {f.joint for f in rig.follows}
    moved = {at[t.node] for t in tracks if t.path == "translation" and t.node in at} - helpers
    turned = {at[t.node] for t in tracks if t.path == "rotation" and t.node in at} - helpers
    sized = {at[t.node]: (1.0, 1.0, 1.0) for t in tracks if t.path == "scale" and t.node in at}
    whole = {c.joint for c in rig.controls if c.kind is ControlKind.WHOLE}
    return with_channels(rig, moved - whole, turned - whole, sized)


def _extra(animation: dict[str, Any], name: str) -> object:
    """What Bovrin, or another maker, wrote about an animation."""
    extras = animation.get("extras")
    return extras.get(name) if isinstance(extras, dict) else None


def _first_frame(animation: dict[str, Any]) -> float:
    """The frame that second 0 is: as Bovrin wrote it, else the first of a new shot."""
    first = _extra(animation, "first")
    return float(first) if isinstance(first, (int, float)) and 0 <= first < 1e6 else FIRST_FRAME


def _written_rate(reader: GlbReader) -> float | None:
    """The frames a second that Bovrin wrote with the animations, if it did."""
    for animation in reader.items("animations"):
        rate = _extra(animation, "frame_rate")
        if isinstance(rate, (int, float)) and 1 <= rate <= 240:
            return float(rate)
    return None


def _by_joints(rig: Rig, curves: CurveSet, first: float) -> CurveSet:
    """The curves with every limb that would reach posed joint by joint, as a file's motion is."""
    switches = [special_column(rig, limb.goal, ChannelRole.REACH) for limb in rig.limbs]
    off = Curve.from_keys([Key(first, 0.0, out_kind=HandleKind.STEPPED)])
    return curves.replaced({c: off for c in switches if c >= 0 and rig.channels[c].default > 0.5})


Animations = list[tuple[dict[str, Any], list[Track]]]


def _takes(figure: Figure, maker: TakeMaker, animations: Animations, shapes: dict[int, list[Morph]]) -> list[Take]:
    """A take for each animation, by its name, in the order of the file and as long; one that rests without any."""
    takes: list[Take] = []
    for number, (animation, tracks) in enumerate(each(animations)):
        plain = str(animation.get("name") or "").strip() or chr(ord("A") + number % 26)
        taken = {take.name for take in takes}
        free = next(n for n in chain([plain], (f"{plain} {i}" for i in count(2))) if n not in taken)
        first = _first_frame(animation)
        last = first + float(np.ceil(max(float(track.times[-1]) for track in tracks) * maker.rate - 1e-3))
        curves = _by_joints(figure.rig, maker.curves(tracks, shapes, first), first)
        loops = _extra(animation, "loops")
        span = Span(first, last, loops if isinstance(loops, bool) else _returns(tracks))
        takes.append(Take(free, acting_by({figure.name: curves}), order=number, span=span))
    return takes or [Take("A", acting_by({figure.name: figure.no_motion()}))]


def _returns(tracks: list[Track]) -> bool:
    """Whether all that moves is at the end as it was at the beginning, so that the motion goes round."""
    moving = [track for track in tracks if len(track.values) > 2 and float(np.ptp(track.values, axis=0).max()) > CLOSE]
    ends = [np.abs(track.values[0] - track.values[-1]).max() for track in moving]
    flipped = [np.abs(track.values[0] + track.values[-1]).max() for track in moving]
    return bool(moving) and all(
        min(end, turned if track.path == "rotation" else end) < CLOSE
        for track, end, turned in zip(moving, ends, flipped, strict=True)
    )


def _size(tree: NodeTree, model: Model) -> float:
    """The longest side of the box around joints and meshes at rest, in the file's units; what only carries them may lie afar."""
    world = rest_world(tree)
    carried = [j for j in JointTree(tree.joints).carried if j]
    places = [world[carried or [0], :3, 3]]
    if model.bones is not None and model.binds is not None:
        places.append(stiff_places(model, world))
    return float(np.ptp(np.concatenate(places), axis=0).max())


def rest_world(tree: NodeTree) -> Floats:
    """Rigid world matrices of all joints at rest (J, 4, 4)."""
    world = np.tile(np.eye(4), (len(tree.joints), 1, 1))
    world[:, :3, :3] = quaternion_matrix(np.array([j.rotation for j in tree.joints]))
    world[:, :3, 3] = [j.translation for j in tree.joints]
    for i, joint in enumerate(tree.joints):
        if joint.parent >= 0:
            world[i] = world[joint.parent] @ world[i]
    return world


def _scaled(model: Model, by: float) -> Model:
    if model.binds is None:
        return model
    return replace(model, binds=np.diag([by, by, by, 1.0]) @ model.binds)
