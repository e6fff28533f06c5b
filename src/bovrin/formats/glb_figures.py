"""Figures as nodes of a glTF document: those made by Bovrin anew, brought ones as they came in."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.formats.container import GlbReader, GlbWriter
from bovrin.formats.figure_file import add_figure
from bovrin.shot import Figure

Floats = NDArray[np.float64]


@dataclass
class Placed:
    """A figure in the document. nodes: the node of each joint. grow (J,): metres in a unit of that node's space.

    room (J,): metres in a unit of the space that the node's place is told in. skins: entries whose joints are its nodes.
    shapes: nodes whose meshes have shapes, and those shapes' names in order. loose: nodes that belong to no scene.
    """

    figure: Figure
    nodes: list[int]
    grow: Floats
    room: Floats
    skins: list[dict[str, Any]]
    shapes: list[tuple[int, list[str]]] = field(default_factory=list)
    loose: list[int] = field(default_factory=list)


def placed(writer: GlbWriter, figure: Figure, shared: set[str]) -> Placed:
    """Put a figure into the document. shared: names of joints that another figure has too."""
    if figure.model.brought:
        return _placed_brought(writer, figure)
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
    return Placed(figure, nodes, ones, ones, skins, shapes)


def _hangs_on_its_skin(node: dict[str, Any]) -> bool:
    """Whether what carries a node makes no difference to it."""
    return "skin" in node and not node.get("children")


def _placed_brought(writer: GlbWriter, figure: Figure) -> Placed:
    # Reading figures of other makers is loaded only when there is one.
    from bovrin.formats.gltf_figure import brought  # noqa: PLC0415
    from bovrin.formats.gltf_merge import merge  # noqa: PLC0415

    reader = GlbReader(figure.model.brought, figure.source)
    what = brought(reader, [], figure.model.metres)
    merged = merge(writer, reader)
    document = writer.document
    whole = what.tree.nodes[0]
    if whole >= 0:
        top = merged.nodes[whole]
    else:
        node: dict[str, Any] = {"name": what.tree.joints[0].name, "extras": {"bovrin": "whole"}}
        if figure.model.metres != 1.0:
            node["scale"] = [figure.model.metres] * 3
        carried = [n for n in merged.roots if not _hangs_on_its_skin(document["nodes"][n])]
        if carried:
            node["children"] = carried
        top = writer.append("nodes", node)
    nodes = [top, *(merged.nodes[n] for n in what.tree.nodes[1:])]
    for joint, node_index in zip(what.tree.joints, nodes, strict=True):
        own = document["nodes"][node_index]
        if "matrix" in own:  # what is animated is told in parts
            del own["matrix"]
            j = nodes.index(node_index)
            own |= {"translation": what.tree.place[j].tolist(), "rotation": what.tree.turn[j].tolist()}
            own["scale"] = what.tree.size[j].tolist()
        own.setdefault("name", joint.name)
    grow = what.tree.grow if whole >= 0 else np.concatenate([[figure.model.metres], what.tree.grow[1:]])
    room = np.array([1.0 if j.parent < 0 else grow[j.parent] for j in what.tree.joints])
    shapes = [(merged.nodes[n], [m.name for m in found]) for n, found in what.shapes.items()]
    skins = [document["skins"][i] for i in merged.skins]
    return Placed(figure, nodes, grow, room, skins, shapes, merged.loose)
