"""One glTF document put into another, whole but for its animations: every index is told anew, and nothing unused comes along."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any, TypeGuard

from bovrin.errors import BrokenFile
from bovrin.formats.gltf.container import GlbReader, GlbWriter

Item = dict[str, Any]
LIGHTS = "KHR_lights_punctual"


@dataclass
class Merged:
    """Where things of the document that was put in are now: nodes, skins … by their old index; roots of its scene."""

    nodes: list[int]
    skins: list[int]
    roots: list[int]
    loose: list[int] = field(default_factory=list)


def _is_index(value: Any) -> TypeGuard[int]:
    """Whether something can point at an entry; what is true or false does not."""
    return isinstance(value, int) and not isinstance(value, bool)


def without_motion(reader: GlbReader) -> bytes:
    """The file as a GLB with everything it holds but animations."""
    writer = GlbWriter()
    merged = merge(writer, reader)
    writer.document["scenes"] = [{"nodes": merged.roots}] if merged.roots else []
    if merged.roots:
        writer.document["scene"] = 0
    else:
        del writer.document["scenes"]
    return writer.to_bytes()


def merge(writer: GlbWriter, reader: GlbReader) -> Merged:
    """Put a document into the writer's."""
    return _Merging(writer, reader).run()


class _Merging:
    def __init__(self, writer: GlbWriter, reader: GlbReader) -> None:
        self.writer, self.reader = writer, reader
        self.source: Item = copy.deepcopy(reader.document)
        self._views: dict[int, int] = {}
        self._accessors: dict[int, int] = {}
        document = writer.document
        self._start = {
            group: len(document.get(group, []))
            for group in ("nodes", "meshes", "skins", "materials", "textures", "images", "samplers", "cameras")
        }
        self._lights = len(document.get("extensions", {}).get(LIGHTS, {}).get("lights", []))

    def run(self) -> Merged:
        """Everything, told anew."""
        self._arrays()
        self._pictures()
        self._nodes()
        for group in ("meshes", "skins", "materials", "textures", "images", "samplers", "cameras", "nodes"):
            for item in self._items(group):
                self.writer.append(group, item)
        self._extensions()
        return self._result()

    def _items(self, group: str) -> list[Item]:
        found = self.source.get(group)
        return [item for item in found if isinstance(item, dict)] if isinstance(found, list) else []

    def _shifted(self, item: Item, name: str, group: str) -> None:
        if _is_index(item.get(name)):
            item[name] += self._start[group]

    def _arrays(self) -> None:
        for mesh in self._items("meshes"):
            for primitive in _dicts(mesh.get("primitives")):
                for holder in (primitive.get("attributes"), *_dicts(primitive.get("targets"))):
                    self._move_all(holder)
                self._move(primitive, "indices")
                self._shifted(primitive, "material", "materials")
        for skin in self._items("skins"):
            self._move(skin, "inverseBindMatrices")
            self._shifted(skin, "skeleton", "nodes")
            if isinstance(skin.get("joints"), list):
                skin["joints"] = [j + self._start["nodes"] for j in skin["joints"] if _is_index(j)]

    def _move_all(self, holder: Any) -> None:
        for name in list(holder) if isinstance(holder, dict) else []:
            self._move(holder, name)

    def _move(self, holder: Item, name: str) -> None:
        """Take an accessor along and tell its new index; one that is not there is left out."""
        index = holder.get(name)
        accessors = self.reader.items("accessors")
        if not _is_index(index) or not 0 <= index < len(accessors):
            holder.pop(name, None)
            return
        if index not in self._accessors:
            accessor = copy.deepcopy(accessors[index])
            sparse = accessor.get("sparse")
            parts = [accessor] if "bufferView" in accessor else []
            parts += [
                sparse[k] for k in ("indices", "values") if isinstance(sparse, dict) and isinstance(sparse.get(k), dict)
            ]
            if [part for part in parts if not self._view(part)]:
                holder.pop(name, None)
                return
            self._accessors[index] = self.writer.append("accessors", accessor)
        holder[name] = self._accessors[index]

    def _view(self, holder: Item) -> bool:
        """Take a view along and tell its new index; whether it is there."""
        index = holder.get("bufferView")
        if not _is_index(index):
            holder.pop("bufferView", None)
            return False
        if index not in self._views:
            try:
                at = self.writer.add_bytes(self.reader.view_bytes(index))
            except BrokenFile:
                holder.pop("bufferView", None)
                return False
            kept = {
                k: v
                for k, v in self.reader.item("bufferViews", index).items()
                if k not in ("buffer", "byteOffset", "byteLength")
            }
            self.writer.document["bufferViews"][at].update(kept)
            self._views[index] = at
        holder["bufferView"] = self._views[index]
        return True

    def _pictures(self) -> None:
        for image in self._items("images"):
            if "bufferView" in image:
                self._view(image)
        for texture in self._items("textures"):
            self._shifted(texture, "source", "images")
            self._shifted(texture, "sampler", "samplers")
            for own in (texture.get("extensions") or {}).values():
                if isinstance(own, dict):
                    self._shifted(own, "source", "images")
        for material in self._items("materials"):
            for info in _texture_infos(material):
                self._shifted(info, "index", "textures")

    def _nodes(self) -> None:
        for node in self._items("nodes"):
            for name, group in (("mesh", "meshes"), ("skin", "skins"), ("camera", "cameras")):
                self._shifted(node, name, group)
            if isinstance(node.get("children"), list):
                node["children"] = [c + self._start["nodes"] for c in node["children"] if _is_index(c)]
            own = (node.get("extensions") or {}).get(LIGHTS) if isinstance(node.get("extensions"), dict) else None
            if isinstance(own, dict) and _is_index(own.get("light")):
                own["light"] += self._lights

    def _extensions(self) -> None:
        document = self.writer.document
        for name in ("extensionsUsed", "extensionsRequired"):
            found = self.source.get(name)
            if isinstance(found, list) and found:
                document[name] = sorted({*document.get(name, []), *map(str, found)})
        for name, value in (self.source.get("extensions") or {}).items():
            kept = document.setdefault("extensions", {})
            if name == LIGHTS and isinstance(value, dict):
                kept.setdefault(LIGHTS, {"lights": []})["lights"] += _dicts(value.get("lights"))
            else:
                kept.setdefault(name, value)
        extras = self.source.get("extras")
        if isinstance(extras, dict):
            own = {k: v for k, v in extras.items() if k != "bovrin"}
            if own:
                document.setdefault("extras", {}).update(own)

    def _result(self) -> Merged:
        base = self._start["nodes"]
        nodes = [base + n for n in range(len(self._items("nodes")))]
        children = {c for node in self._items("nodes") for c in node.get("children", [])}
        scenes, number = self._items("scenes"), self.source.get("scene", 0)
        tops = [n for n in nodes if n not in children]
        if scenes and _is_index(number) and 0 <= number < len(scenes):
            listed = scenes[number].get("nodes", [])
            shown = {base + n for n in listed if _is_index(n)} if isinstance(listed, list) else set()
            tops = [n for n in tops if n in shown] or tops
        loose = [n for n in nodes if n not in children and n not in tops]
        skins = [self._start["skins"] + n for n in range(len(self._items("skins")))]
        return Merged(nodes, skins, tops, loose)


def _dicts(value: Any) -> list[Item]:
    return [item for item in value if isinstance(item, dict)] if isinstance(value, list) else []


def _texture_infos(item: Any) -> Iterator[Item]:
    """Every place in a material, extensions too, that names a texture."""
    for key, value in item.items() if isinstance(item, dict) else ():
        if isinstance(value, dict):
            if key.endswith("Texture") and "index" in value:
                yield value
            yield from _texture_infos(value)
