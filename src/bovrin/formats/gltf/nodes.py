"""The nodes of a glTF file as joints of a figure: which of them count, in what order, and how large each one's space is."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from itertools import chain, count
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.formats.gltf.container import GlbReader
from bovrin.frozen import frozen
from bovrin.motion.rotations import matrix_quaternion, turn_only
from bovrin.shot import Joint

Floats = NDArray[np.float64]
WHOLE = "whole"
EVEN = 1e-4


@frozen
class NodeTree:
    """Joints, the first of which carries the whole figure. nodes: the file's node of each joint (-1: none).

    grow (J,): metres in a unit of the joint's own space, from even sizes above and of itself. sizes: joints that are sized
    unevenly at rest, and how. turn (J, 4), place (J, 3), size (J, 3): as the file has them.
    unit: metres in a unit of the file.
    """

    joints: tuple[Joint, ...]
    nodes: tuple[int, ...]
    grow: Floats
    sizes: dict[int, tuple[float, float, float]]
    place: Floats
    turn: Floats
    size: Floats
    unit: float = 1.0

    def of_node(self) -> dict[int, int]:
        """The joint of each node that is one."""
        return {node: j for j, node in enumerate(self.nodes) if node >= 0}

    def room(self, joint: int) -> float:
        """Metres in a unit of the space that a joint's place is told in."""
        parent = self.joints[joint].parent
        return float(self.grow[parent]) if parent >= 0 else self.unit

    def scaled(self, by: float) -> NodeTree:
        """The same figure in other units."""
        joints = tuple(
            replace(j, translation=(j.translation[0] * by, j.translation[1] * by, j.translation[2] * by))
            for j in self.joints
        )
        return replace(self, joints=joints, grow=self.grow * by, unit=self.unit * by)


def node_tree(reader: GlbReader, left_out: list[str], known: Iterable[int] = ()) -> NodeTree:
    """The joints of a file, a node of its own units being a metre. known: nodes that are joints whatever the file does."""
    nodes = reader.items("nodes")
    parents = _parents(reader, nodes, left_out)
    order = _in_order(_wanted(reader, nodes, parents, known), parents)
    tops = [n for n in order if _is_whole(nodes[n]) and parents.get(n, -1) < 0]
    joints, grow, rest = [], [], []
    sizes: dict[int, tuple[float, float, float]] = {}
    if len(tops) == 1:
        order = [tops[0], *(n for n in order if n != tops[0])]
    else:
        named = {str(nodes[n].get("name")) for n in order}
        free = next(n for n in chain([WHOLE, f"{WHOLE} figure"], (f"{WHOLE} {i}" for i in count(2))) if n not in named)
        joints, grow = [Joint(free, -1, (0.0, 0.0, 0.0))], [1.0]
        rest = [(np.zeros(3), np.array([0.0, 0.0, 0.0, 1.0]), np.ones(3))]
    made = len(joints)
    names = _names([nodes[n] for n in order])
    place_at = {node: i + made for i, node in enumerate(order)}
    for name, node in zip(names, order, strict=True):
        parent = place_at.get(parents.get(node, -1), made - 1)
        place, turn, size = _parts(reader, nodes[node], left_out)
        rest.append((place, turn, size))
        above = grow[parent] if parent >= 0 else 1.0
        x, y, z = (float(v) * above for v in place)
        joints.append(Joint(name, parent, (x, y, z), tuple(map(float, turn))))  # type: ignore[arg-type]
        even = float(np.ptp(size)) < EVEN * float(np.abs(size).max()) and size[0] > 0
        grow.append(above * (float(size.mean()) if even else 1.0))
        if not even:
            sizes[len(joints) - 1] = (float(size[0]), float(size[1]), float(size[2]))
    places, turns, even = (np.array(column, float) for column in zip(*rest, strict=True))
    return NodeTree(tuple(joints), (*(-1,) * made, *order), np.array(grow), sizes, places, turns, even)


def _is_whole(node: dict[str, Any]) -> bool:
    """Whether a node was written as the one that carries a whole figure."""
    extras = node.get("extras")
    return isinstance(extras, dict) and extras.get("bovrin") == "whole"


def _parents(reader: GlbReader, nodes: list[dict[str, Any]], left_out: list[str]) -> dict[int, int]:
    """The parent of each node that has one; second parents and circles are cut."""
    found: dict[int, int] = {}
    for index, node in enumerate(nodes):
        children = node.get("children", [])
        for child in children if isinstance(children, list) else []:
            if not isinstance(child, int) or isinstance(child, bool) or not 0 <= child < len(nodes):
                left_out.append("A node has a child that is not there; it was left out.")
            elif child in found or child == index:
                left_out.append("A node has two parents; the first one counts.")
            else:
                found[child] = index
    safe: set[int] = set()
    for start in list(found):
        seen, at = {start}, start
        while at in found and at not in safe:
            at = found[at]
            if at in seen:
                del found[at]
                left_out.append("Some nodes hang in a circle, which was cut.")
                break
            seen.add(at)
        safe |= seen
    return found


def _wanted(reader: GlbReader, nodes: list[dict[str, Any]], parents: dict[int, int], known: Iterable[int]) -> set[int]:
    """Nodes in skins, nodes with rigid meshes, nodes that animations move, and known ones; and all above them."""
    tops = {i for i, node in enumerate(nodes) if "mesh" in node and "skin" not in node}
    tops |= {n for n in known if 0 <= n < len(nodes)}
    for skin in reader.items("skins"):
        listed = skin.get("joints", [])
        tops |= {j for j in listed if isinstance(j, int) and 0 <= j < len(nodes)} if isinstance(listed, list) else set()
    skinned = {i for i, node in enumerate(nodes) if "mesh" in node and "skin" in node}
    tops |= _animated(reader, len(nodes)) - skinned
    found = set(tops)
    for top in tops:
        at = top
        while at in parents and parents[at] not in found:
            at = parents[at]
            found.add(at)
    return found


def _animated(reader: GlbReader, count: int) -> set[int]:
    found = set()
    for animation in reader.items("animations"):
        channels = animation.get("channels", [])
        for channel in channels if isinstance(channels, list) else []:
            target = channel.get("target") if isinstance(channel, dict) else None
            node = target.get("node") if isinstance(target, dict) else None
            if isinstance(node, int) and 0 <= node < count and target is not None and target.get("path") != "weights":
                found.add(node)
    return found


def _in_order(wanted: set[int], parents: dict[int, int]) -> list[int]:
    """Parents before children, brothers in the file's order."""
    children: dict[int, list[int]] = {}
    for node in sorted(wanted):
        children.setdefault(parents.get(node, -1), []).append(node)
    found: list[int] = []
    waiting = list(reversed(children.get(-1, [])))
    while waiting:
        node = waiting.pop()
        found.append(node)
        waiting.extend(reversed(children.get(node, [])))
    return found


def _names(nodes: list[dict[str, Any]]) -> list[str]:
    """A name of its own for each node."""
    taken: set[str] = set()
    numbers: dict[str, int] = {}
    found = []
    for number, node in enumerate(nodes, 1):
        plain = str(node.get("name") or "").strip().replace("/", " ") or f"node {number}"
        name = plain
        while name in taken:  # the next number is known, so that many of one name take no longer
            numbers[plain] = numbers.get(plain, 1) + 1
            name = f"{plain} {numbers[plain]}"
        taken.add(name)
        found.append(name)
    return found


def _parts(reader: GlbReader, node: dict[str, Any], left_out: list[str]) -> tuple[Floats, Floats, Floats]:
    """Place, turn (a unit quaternion) and size of a node."""
    if "matrix" in node:
        return _taken_apart(reader, node, left_out)
    place = np.array(reader.vector(node, "translation", (0.0, 0.0, 0.0)))
    turn = np.array(reader.vector(node, "rotation", (0.0, 0.0, 0.0, 1.0)))
    size = np.array(reader.vector(node, "scale", (1.0, 1.0, 1.0)))
    length = float(np.linalg.norm(turn))
    if length < 1e-6:
        left_out.append("A node has a rotation of length zero; it counts as not turned.")
        turn, length = np.array([0.0, 0.0, 0.0, 1.0]), 1.0
    if np.abs(size).min() < 1e-9:
        size = np.where(np.abs(size) < 1e-9, 1e-6, size)  # hidden by size: kept, as nothing that can be seen
    return _checked(reader, place), turn / length, _checked(reader, size)


def _checked(reader: GlbReader, values: Floats) -> Floats:
    if np.abs(values).max() > 1e9:
        raise reader.fault("a node of the figure lies or is sized beyond all measure.")
    return values


def _taken_apart(reader: GlbReader, node: dict[str, Any], left_out: list[str]) -> tuple[Floats, Floats, Floats]:
    matrix = np.array(reader.vector(node, "matrix", tuple(np.eye(4).ravel()))).reshape(4, 4).T
    linear = matrix[:3, :3]
    if abs(float(np.linalg.det(linear))) < 1e-18:
        left_out.append("A node's matrix makes it flat; it counts as not turned.")
        return _checked(reader, matrix[:3, 3]), np.array([0.0, 0.0, 0.0, 1.0]), np.ones(3)
    turn = np.array(turn_only(linear))
    flip = np.ones(3)
    if np.linalg.det(turn) < 0:
        flip[0] = -1.0
        turn = turn * flip
    own = turn.T @ linear
    size = np.diag(own).copy()
    if np.abs(own - np.diag(size)).max() > 1e-4 * np.abs(size).max():
        left_out.append("A node's matrix is skewed; the skew was left out.")
    return _checked(reader, matrix[:3, 3]), matrix_quaternion(turn), _checked(reader, size)
