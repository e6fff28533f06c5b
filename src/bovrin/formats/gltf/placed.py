"""Figures as nodes of a glTF document: those made by Bovrin anew, brought ones as they came in."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.formats.figures.file import add_figure
from bovrin.formats.gltf.container import GlbReader, GlbWriter
from bovrin.shot import Figure

Floats = NDArray[np.float64]


@dataclass
class InDocument:
    """A figure in the document. nodes: the node of each joint, -1 where it needs none. grow (J,): metres in a unit of that
    node's space. room (J,): metres in a unit of the space that the node's place is told in. rest: places (J, 3), turns (J, 4)
    and sizes (J, 3) of the nodes.

    skins: entries whose joints are its nodes. shapes: nodes whose meshes have shapes, and those shapes' names in order.
    loose: nodes that belong to no scene. unit: metres in a unit of the document.
    """

    figure: Figure
    nodes: list[int]
    grow: Floats
    room: Floats
    rest: tuple[Floats, Floats, Floats]
    skins: list[dict[str, Any]]
    shapes: list[tuple[int, list[str]]] = field(default_factory=list)
    loose: list[int] = field(default_factory=list)
    unit: float = 1.0


def placed(
    writer: GlbWriter, figure: Figure, shared: set[str], unit: float = 1.0, *, carried: bool = True
) -> InDocument:
    """Put a figure into the document. shared: names of joints that another figure has too.

    Of brought figures: unit: metres in a unit of the document. carried: whether the whole figure needs a node, where its file
    has none for that.
    """
    if figure.model.brought:
        return _placed_brought(writer, figure, unit, carried=carried)
    name = figure.name
    nodes = add_figure(writer, figure, lambda n: f"{name}/{n}" if n in shared else n)
    skins = [writer.document["skins"][-1]]
    ones = np.ones(len(nodes))
    shapes = [
        (i, writer.document["meshes"][node["mesh"]]["extras"]["targetNames"])
        for i, node in enumerate(writer.document["nodes"])
        if node.get("skin") == len(writer.document["skins"]) - 1
        and "weights" in writer.document["meshes"][node["mesh"]]
    ]
    joints = figure.rig.joints
    rest = np.array([j.translation for j in joints]), np.array([j.rotation for j in joints]), np.ones((len(joints), 3))
    return InDocument(figure, nodes, ones, ones, rest, skins, shapes)


def _hangs_on_its_skin(node: dict[str, Any]) -> bool:
    """Whether what carries a node makes no difference to it."""
    return "skin" in node and not node.get("children")


def _placed_brought(writer: GlbWriter, figure: Figure, unit: float, *, carried: bool) -> InDocument:
    # Reading figures of other makers is loaded only when there is one.
    from bovrin.formats.gltf.figure import brought  # noqa: PLC0415
    from bovrin.formats.gltf.merge import merge  # noqa: PLC0415

    reader = GlbReader(figure.model.brought, figure.source)
    what = brought(reader, [], figure.model.metres, figure.model.nodes)
    merged, tree = merge(writer, reader), what.tree
    whole = tree.nodes[0]
    grow = tree.grow if whole >= 0 else np.concatenate([[figure.model.metres], tree.grow[1:]])
    rest = tree.place.copy(), tree.turn.copy(), tree.size.copy()
    size = float(grow[0]) / unit
    if whole >= 0:
        top = merged.nodes[whole]
        rest[2][0] = size
        if not np.allclose(tree.size[0], size):
            writer.document["nodes"][top]["scale"] = [size] * 3
    else:
        top = _carrier(writer, tree.joints[0].name, merged.roots, size) if carried or size != 1.0 else -1
        rest[2][0] = size
    room = np.array([unit if j.parent < 0 else grow[j.parent] for j in tree.joints])
    nodes = [top, *(merged.nodes[n] for n in tree.nodes[1:])]
    shapes = [(merged.nodes[n], [m.name for m in found]) for n, found in what.shapes.items()]
    skins = [writer.document["skins"][i] for i in merged.skins]
    return InDocument(figure, nodes, grow, room, rest, skins, shapes, merged.loose, unit)


def _carrier(writer: GlbWriter, name: str, roots: list[int], size: float) -> int:
    """A node that carries a whole figure, over the roots of its file."""
    nodes = writer.document["nodes"]
    node: dict[str, Any] = {"name": name, "extras": {"bovrin": "whole"}}
    if size != 1.0:
        node["scale"] = [size] * 3
    below = [n for n in roots if not _hangs_on_its_skin(nodes[n])]
    if below:
        node["children"] = below
    return writer.append("nodes", node)
