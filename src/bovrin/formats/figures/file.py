"""Figures as GLB files: skinned mesh, joints as nodes, rig in the skin's `extras`."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure, BovrinError, BrokenFile
from bovrin.figure.solve.plan import plan_of
from bovrin.formats.colours import to_linear
from bovrin.formats.figures.rig_data import rig_from_data, rig_to_data
from bovrin.formats.files import read_bytes
from bovrin.formats.gltf.container import GlbReader, GlbWriter, packed
from bovrin.formats.gltf.materials import Materials, add_cover, cut_of
from bovrin.shot import DrawnIn, Figure, Joint, Model, Piece, Rig

ARRAY_BUFFER, ELEMENT_BUFFER = 34962, 34963


def figure_bytes(figure: Figure) -> bytes:
    """The figure at rest as a GLB; one that was brought as the file it came from, its rig added."""
    if figure.model.brought:
        return _brought_bytes(figure)
    writer = GlbWriter()
    add_figure(writer, figure, lambda name: name)
    finish_scene(writer)
    return writer.to_bytes()


def _brought_bytes(figure: Figure) -> bytes:
    reader = GlbReader(figure.model.brought, figure.source)
    extras = reader.document.get("extras")
    own = brought_extras(figure)
    document = {**reader.document, "extras": {**(extras if isinstance(extras, dict) else {}), "bovrin": own}}
    document.pop("buffers", None)
    return packed(document, reader.blob)


def brought_extras(figure: Figure) -> dict[str, Any]:
    """What a brought figure's file says of it besides what came in."""
    rig = rig_to_data(figure.rig, figure.name, figure.colour)
    return {"metres": figure.model.metres, "nodes": list(figure.model.nodes), "rig": rig}


def finish_scene(writer: GlbWriter, loose: Sequence[int] = ()) -> None:
    """Put every node that is nobody's child into the one scene, but for loose ones."""
    nodes = writer.document["nodes"]
    children = {child for node in nodes for child in node.get("children", [])}
    writer.document["scenes"] = [{"nodes": [i for i in range(len(nodes)) if i not in children and i not in loose]}]
    writer.document["scene"] = 0


def add_figure(writer: GlbWriter, figure: Figure, node_name: Any) -> list[int]:
    """Write a figure's nodes, skin and mesh; returns the node of each joint. `node_name` turns joint into node names."""
    rig = figure.rig
    nodes = []
    for joint in rig.joints:
        node = {
            "name": node_name(joint.name),
            "translation": list(joint.translation),
            "rotation": [min(max(x, -1.0), 1.0) for x in joint.rotation],
        }
        nodes.append(writer.append("nodes", node))
    writer.document["nodes"][nodes[0]]["extras"] = {"bovrin": "whole"}
    for index, joint in enumerate(rig.joints):
        if joint.parent >= 0:
            writer.document["nodes"][nodes[joint.parent]].setdefault("children", []).append(nodes[index])
    bind = np.swapaxes(plan_of(rig).rest_inverse, -1, -2).astype(np.float32).reshape(-1, 16)
    skin = {
        "name": figure.name,
        "joints": nodes,
        "inverseBindMatrices": writer.array(bind, "MAT4"),
        "extras": {"bovrin": rig_to_data(rig, figure.name, figure.colour), **_unit(figure)},
    }
    if not figure.model.pieces:  # glTF knows no empty mesh; the joints alone carry the motion
        writer.append("skins", skin)
        return nodes
    number = writer.append("skins", skin)
    mesh = writer.append("meshes", _mesh(writer, rig, figure.name, figure.model.pieces))
    writer.append("nodes", {"name": f"{figure.name} mesh", "mesh": mesh, "skin": number})
    return nodes


def _unit(figure: Figure) -> dict[str, Any]:
    """How many metres a unit of the file was that a figure came from, where it was another; and where it was drawn."""
    drawn = figure.model.drawn
    told = {} if drawn is None else {"drawn": {"path": drawn.path, "middle": drawn.middle, "ground": drawn.ground}}
    return told if figure.model.metres == 1.0 else {"metres": figure.model.metres, **told}


def _mesh(writer: GlbWriter, rig: Rig, name: str, pieces: Sequence[Piece]) -> dict[str, Any]:
    shapes = list(dict.fromkeys(shape for piece in pieces for shape, _ in piece.morphs))
    mesh: dict[str, Any] = {"name": name, "primitives": [_primitive(writer, piece, shapes) for piece in pieces]}
    if shapes:
        mesh |= {"weights": [_at_rest(rig, shape) for shape in shapes], "extras": {"targetNames": shapes}}
    return mesh


def _at_rest(rig: Rig, name: str) -> float:
    return rig.channels[rig.morph_columns[rig.morph_names[name]]].default if name in rig.morph_names else 0.0


def _primitive(writer: GlbWriter, piece: Piece, shapes: list[str]) -> dict[str, Any]:
    linear = [round(to_linear(c), 6) for c in piece.colour]
    material: dict[str, Any] = {
        "name": piece.name,
        "pbrMetallicRoughness": {"baseColorFactor": [*linear, 1.0], "metallicFactor": 0.0, "roughnessFactor": 0.9},
    }
    indices = piece.triangles.astype(np.uint16 if len(piece.positions) < 65535 else np.uint32).reshape(-1, 1)
    attributes = {
        "POSITION": writer.array(piece.positions, "VEC3", target=ARRAY_BUFFER, bounds=True),
        "NORMAL": writer.array(piece.normals, "VEC3", target=ARRAY_BUFFER),
        "JOINTS_0": writer.array(piece.joints, "VEC4", target=ARRAY_BUFFER),
        "WEIGHTS_0": writer.array(piece.weights, "VEC4", target=ARRAY_BUFFER),
    }
    add_cover(writer, piece, material, attributes)
    made: dict[str, Any] = {
        "attributes": attributes,
        "indices": writer.array(indices, "SCALAR", target=ELEMENT_BUFFER),
        "material": writer.append("materials", material),
    }
    if piece.cut is not None:
        made["extras"] = {"bovrin": {"part": piece.cut.control, "drawing": piece.cut.drawing}}
    if shapes:
        own = dict(piece.morphs)
        made["targets"] = [{"POSITION": _shape(writer, own.get(n), len(piece.positions))} for n in shapes]
    return made


def _shape(writer: GlbWriter, deltas: NDArray[np.float32] | None, count: int) -> int:
    """What a shape adds to a piece; every piece of a mesh has all its shapes, also those that leave it alone."""
    return writer.zeros(count, "VEC3") if deltas is None else writer.array(deltas, "VEC3", bounds=True)


def read_figure(path: Path, source: str) -> Figure:
    """The figure of a GLB file made by Bovrin. FileProblem or BadFigure say what is wrong with it."""
    return figure_from_bytes(read_bytes(path, "figure file"), str(path), source)


def figure_from_bytes(data: bytes, where: str, source: str) -> Figure:
    """The figure in the bytes of a GLB file."""
    reader = GlbReader(data, where)
    try:
        return _read(reader, source)
    except BadFigure as error:
        raise BadFigure(error.what, where=where, advice=error.advice) from error
    except BovrinError:
        raise
    except (TypeError, ValueError, KeyError, IndexError, OverflowError, AttributeError) as error:
        raise BrokenFile("the figure file does not hold what glTF asks for.", where=where) from error


def _read(reader: GlbReader, source: str) -> Figure:
    own = reader.document.get("extras")
    brought = own.get("bovrin") if isinstance(own, dict) else None
    if isinstance(brought, dict):
        from bovrin.formats.gltf.figure import figure_from_brought  # noqa: PLC0415 - kept out of the window's start

        return figure_from_brought(reader, source, brought)
    nodes = reader.items("nodes")
    number = _skin_of(reader, nodes)
    skin = reader.item("skins", number)
    wanted = skin.get("joints")
    if not isinstance(wanted, list) or not wanted:
        raise reader.fault("the figure has no joints.")
    joints, order = _joints(reader, wanted)
    extras = skin.get("extras")
    raw = extras.get("bovrin") if isinstance(extras, dict) else None
    if raw is None:
        raise BadFigure("the figure carries no rig.", advice="Use a figure file made by Bovrin.")
    rig, name, colour = rig_from_data(raw, joints)
    pieces, materials = list[Piece](), Materials(reader, [])
    for node in nodes:
        if "mesh" in node and node.get("skin") == number:
            mesh = reader.item("meshes", node["mesh"])
            shapes = (mesh.get("extras") or {}).get("targetNames", [])
            pieces += [_piece(materials, primitive, order, shapes) for primitive in mesh.get("primitives", [])]
    metres = extras.get("metres", 1.0) if isinstance(extras, dict) else 1.0
    unit = float(metres) if isinstance(metres, (int, float)) and metres > 0 else 1.0
    model = Model(tuple(pieces), metres=unit, drawn=_drawn_in(extras))
    return Figure(name, rig, model, source, colour)


def _drawn_in(extras: Any) -> DrawnIn | None:
    """Where a flat figure was drawn, as its file says."""
    told = extras.get("drawn") if isinstance(extras, dict) else None
    if not isinstance(told, dict):
        return None
    numbers = told.get("middle"), told.get("ground")
    if not all(isinstance(n, (int, float)) and abs(n) < 1e9 for n in numbers):
        return None
    return DrawnIn(str(told.get("path", "")), float(numbers[0] or 0.0), float(numbers[1] or 0.0))


def _skin_of(reader: GlbReader, nodes: list[dict[str, Any]]) -> Any:
    """The skin of the figure: of a mesh, or of joints without one that carry a rig."""
    meshed = next((node for node in nodes if "mesh" in node and "skin" in node), None)
    if meshed is not None:
        return meshed["skin"]
    extras = (skin.get("extras") for skin in reader.items("skins"))
    rigged = next((n for n, own in enumerate(extras) if isinstance(own, dict) and "bovrin" in own), None)
    if rigged is None:
        raise BadFigure("the file holds no figure with joints.", advice="Choose a file with a skinned mesh.")
    return rigged


def _joints(reader: GlbReader, wanted: list[Any]) -> tuple[tuple[Joint, ...], NDArray[np.uint16]]:
    """Joints with parents first, and for each entry of the skin the joint it became."""
    nodes = reader.items("nodes")
    parent_of: dict[int, int] = {}
    for index, node in enumerate(nodes):
        for child in node.get("children", []):
            reader.item("nodes", child)
            if child in parent_of:
                raise reader.fault("a joint of the figure has two parents.")
            parent_of[child] = index
    for index in wanted:
        reader.item("nodes", index)
    depth = [_depth(reader, index, parent_of) for index in wanted]
    listed = {w: i for i, w in enumerate(wanted)}
    settled = all(listed.get(parent_of.get(w, -1), -1) < i for i, w in enumerate(wanted))
    sequence = list(range(len(wanted))) if settled else sorted(range(len(wanted)), key=lambda i: depth[i])
    place = {wanted[i]: n for n, i in enumerate(sequence)}
    if len(place) != len(wanted):
        raise reader.fault("the figure lists a joint twice.")
    joints = []
    for i in sequence:
        node = nodes[wanted[i]]
        parent = place.get(parent_of.get(wanted[i], -1), -1)
        rotation = np.array(reader.vector(node, "rotation", (0.0, 0.0, 0.0, 1.0)))
        size = float(np.linalg.norm(rotation))
        if size < 1e-6:
            raise reader.fault("a joint of the figure has a rotation of length zero.")
        x, y, z, w = (float(n) for n in (rotation if abs(size - 1) < 1e-12 else rotation / size))
        tx, ty, tz = reader.vector(node, "translation", (0.0, 0.0, 0.0))
        joints.append(Joint(str(node.get("name", f"joint {i}")), parent, (tx, ty, tz), (x, y, z, w)))
    return tuple(joints), np.array([place[index] for index in wanted], np.uint16)


def _depth(reader: GlbReader, index: int, parent_of: dict[int, int]) -> int:
    depth, at = 0, index
    while at in parent_of:
        at = parent_of[at]
        depth += 1
        if depth > len(parent_of):
            raise reader.fault("the joints of the figure hang in a circle.")
    return depth


def _piece(materials: Materials, primitive: dict[str, Any], order: NDArray[np.uint16], shapes: list[str]) -> Piece:
    reader = materials.reader
    attributes = primitive.get("attributes")
    if not isinstance(attributes, dict):
        raise reader.fault("a mesh of the figure has no vertices.")
    joints = reader.array(attributes.get("JOINTS_0"), "VEC4").astype(np.int64)
    if joints.size and int(joints.max()) >= len(order):
        raise reader.fault("the mesh of the figure is bound to joints that are not there.")
    positions = reader.array(attributes.get("POSITION"), "VEC3").astype(np.float32)
    colour, cover = materials.cover(primitive.get("material"), attributes, len(positions))
    indices = reader.array(primitive.get("indices"), "SCALAR").astype(np.uint32)
    if len(indices) % 3:
        raise reader.fault("the triangles of the figure are cut off.")
    return Piece(
        name=materials.name(primitive.get("material")) or "mesh",
        colour=colour,
        positions=positions,
        normals=reader.array(attributes.get("NORMAL"), "VEC3").astype(np.float32),
        joints=order[joints],
        weights=reader.array(attributes.get("WEIGHTS_0"), "VEC4").astype(np.float32),
        triangles=indices.reshape(-1, 3),
        cover=cover,
        morphs=_shapes(reader, primitive, shapes),
        cut=cut_of(primitive),
    )


def _shapes(
    reader: GlbReader, primitive: dict[str, Any], names: list[str]
) -> tuple[tuple[str, NDArray[np.float32]], ...]:
    """What the amounts of a figure's shapes add; those that add nothing here are not kept."""
    found = [
        (str(name), reader.array(target.get("POSITION"), "VEC3").astype(np.float32))
        for name, target in zip(names, primitive.get("targets", []), strict=False)
    ]
    return tuple((name, deltas) for name, deltas in found if deltas.any())
