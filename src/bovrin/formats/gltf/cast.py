"""A shot that was handed on as one GLB, taken apart again: a document for each of its figures."""

from __future__ import annotations

import copy
from typing import Any, NamedTuple

from bovrin.formats.gltf.container import GlbReader

Item = dict[str, Any]


class Member(NamedTuple):
    """One figure of a shot: its name, and a reader that finds nothing but it."""

    name: str
    reader: GlbReader


def cast_of(reader: GlbReader) -> list[Member]:
    """The figures of a file that Bovrin wrote of a shot with several; none of any other file."""
    nodes = reader.items("nodes")
    tops = {i: own for i, node in enumerate(nodes) if (own := _own(node)) is not None}
    below = {top: _below(nodes, top) for top in tops}
    if len(tops) < 2:
        return []
    skins = reader.items("skins")
    for index, node in enumerate(nodes):  # a skinned mesh may hang anywhere
        skin = node.get("skin")
        if isinstance(skin, int) and 0 <= skin < len(skins):
            joints = skins[skin].get("joints", [])
            home = next((top for top, own in below.items() if joints and joints[0] in own), None)
            if home is not None:
                below[home].add(index)
    return [_member(reader, own, below[top], top) for top, own in tops.items()]


def _own(node: Item) -> Item | None:
    """What Bovrin wrote on the node that carries a figure of a shot with several."""
    extras = node.get("extras")
    if not isinstance(extras, dict) or extras.get("bovrin") != "whole":
        return None
    own = extras.get("figure")
    return own if isinstance(own, dict) and isinstance(own.get("rig"), dict) else None


def _below(nodes: list[Item], top: int) -> set[int]:
    found, waiting = set[int](), [top]
    while waiting:
        node = waiting.pop()
        if node not in found and 0 <= node < len(nodes):
            found.add(node)
            children = nodes[node].get("children", [])
            waiting += [c for c in children if isinstance(c, int)] if isinstance(children, list) else []
    return found


def _member(reader: GlbReader, own: Item, kept: set[int], top: int) -> Member:
    name = str(own["rig"].get("name") or "figure")
    source = copy.deepcopy(reader.document)
    order = [top, *sorted(kept - {top})]
    at = {node: n for n, node in enumerate(order)}
    skins = [i for i, skin in enumerate(source.get("skins", [])) if set(skin.get("joints", [])) <= kept]
    nodes = [source["nodes"][n] for n in order]
    for node in nodes:
        node["name"] = str(node.get("name", "")).removeprefix(f"{name}/")
        if "children" in node:
            node["children"] = [at[c] for c in node["children"] if c in at]
        if "skin" in node:
            node["skin"] = skins.index(node["skin"])
    nodes[0]["extras"] = {"bovrin": "whole"}
    document = {**source, "nodes": nodes, "skins": [_told_anew(source["skins"][i], at) for i in skins]}
    document["animations"] = [_of_nodes(animation, at) for animation in source.get("animations", [])]
    document["scenes"] = [
        {"nodes": [n for n in range(len(nodes)) if not any(n in x.get("children", []) for x in nodes)]}
    ]
    told = [at[n] for n in own.get("nodes", []) if n in at]
    document["scene"], document["extras"] = 0, {"bovrin": {**own, "nodes": told}}
    return Member(name, reader.showing({k: v for k, v in document.items() if v != []}))


def _told_anew(skin: Item, at: dict[int, int]) -> Item:
    told = {k: v for k, v in skin.items() if k not in ("skeleton", "extras")}
    return {**told, "joints": [at[j] for j in skin["joints"]]}


def _of_nodes(animation: Item, at: dict[int, int]) -> Item:
    """An animation with what it does to some nodes."""
    channels = []
    for channel in animation.get("channels", []):
        target = channel.get("target", {})
        if target.get("node") in at:
            channels.append({**channel, "target": {**target, "node": at[target["node"]]}})
    return {**animation, "channels": channels}
