"""glTF materials as covers of meshes: base colour, its picture and how that lies, what is cut out, both sides."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BovrinError
from bovrin.formats.colours import to_srgb
from bovrin.formats.gltf.container import GlbReader, GlbWriter, mime_of
from bovrin.shot import Cover, Cut, Piece, Texture

Floats32 = NDArray[np.float32]
CLAMPED, REPEATED = 33071, 10497


@dataclass
class Materials:
    """Covers and colours by material, each picture once."""

    reader: GlbReader
    left_out: list[str]
    _textures: dict[int, Texture | None] = field(default_factory=dict)

    def name(self, index: Any) -> str:
        """What a material is called, or ""."""
        found = self.reader.items("materials")
        return str(found[index].get("name", "")) if isinstance(index, int) and 0 <= index < len(found) else ""

    def cover(self, index: Any, attributes: dict[str, Any], count: int) -> tuple[tuple[float, float, float], Cover]:
        """Colour (sRGB) of a material, and the cover that it makes of the attributes of so many vertices."""
        spots = self._spots(attributes, count)
        material = self.reader.item("materials", index) if index is not None else {}
        plain = _part(material, "pbrMetallicRoughness")
        red, green, blue, alpha = self.reader.vector(plain, "baseColorFactor", (1.0, 1.0, 1.0, 1.0))
        mode = material.get("alphaMode", "OPAQUE")
        cutoff = _number(material, "alphaCutoff", 0.5) if mode == "MASK" else 0.0
        texture, uv = self._picture(plain.get("baseColorTexture"), spots)
        cover = Cover(
            texture=texture,
            uv=uv,
            tints=self._tints(attributes, count),
            cutoff=min(cutoff / max(alpha, 1e-3), 1.0) if texture is not None else 0.0,
            two_sided=material.get("doubleSided") is True,
            blended=mode == "BLEND",
            opacity=min(max(alpha, 0.0), 1.0) if mode == "BLEND" else 1.0,
        )
        return (to_srgb(red), to_srgb(green), to_srgb(blue)), cover

    def _spots(self, attributes: dict[str, Any], count: int) -> dict[int, Floats32]:
        """Places in pictures (V, 2), by set."""
        found = {}
        for n in range(4):
            if f"TEXCOORD_{n}" in attributes:
                uv = self.reader.array(attributes[f"TEXCOORD_{n}"], "VEC2").astype(np.float32)
                if len(uv) == count:
                    found[n] = uv
        return found

    def _tints(self, attributes: dict[str, Any], count: int) -> Floats32 | None:
        if "COLOR_0" not in attributes:
            return None
        kind = str(self.reader.item("accessors", attributes["COLOR_0"]).get("type"))
        if kind not in ("VEC3", "VEC4"):
            return None
        light = np.clip(self.reader.array(attributes["COLOR_0"], kind)[:, :3].astype(float), 0.0, 1.0)
        if len(light) != count:
            return None
        shown = np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)
        return np.asarray(shown, np.float32)

    def _picture(self, info: Any, spots: dict[int, Floats32]) -> tuple[Texture | None, Floats32 | None]:
        if not isinstance(info, dict):
            return None, None
        moved = _part(_part(info, "extensions"), "KHR_texture_transform")
        uv = spots.get(_whole(moved.get("texCoord", info.get("texCoord", 0))))
        index = info.get("index")
        if uv is None or not isinstance(index, int):
            return None, None
        if index not in self._textures:
            try:
                self._textures[index] = self._texture(index)
            except BovrinError as error:
                self.left_out.append(f"A picture was left out: {error.what}")
                self._textures[index] = None
        texture = self._textures[index]
        return (None, None) if texture is None else (texture, self._laid(uv, moved))

    def _texture(self, index: int) -> Texture | None:
        texture = self.reader.item("textures", index)
        if "source" not in texture:
            self.left_out.append("A picture of a kind that is not understood was left out.")
            return None
        image = self.reader.item("images", texture["source"])
        if "bufferView" not in image:
            return None  # it was not there; that has been told
        data = self.reader.view_bytes(image["bufferView"])
        if not mime_of(data):
            self.left_out.append(f"The picture '{image.get('name', index)}' is neither PNG nor JPEG; it was left out.")
            return None
        sampler = self.reader.item("samplers", texture["sampler"]) if "sampler" in texture else {}
        across, up = (sampler.get(key) != CLAMPED for key in ("wrapS", "wrapT"))
        return Texture(str(image.get("name") or f"picture {index + 1}"), data, (across, up))

    def _laid(self, uv: Floats32, moved: dict[str, Any]) -> Floats32:
        """Places in the picture after the material's own move, turn and size (KHR_texture_transform)."""
        if not moved:
            return uv
        size = np.array(self.reader.vector(moved, "scale", (1.0, 1.0)))
        shift = np.array(self.reader.vector(moved, "offset", (0.0, 0.0)))
        turn = _number(moved, "rotation", 0.0)
        cos, sin = np.cos(turn), np.sin(turn)
        return np.asarray((uv * size) @ np.array([[cos, -sin], [sin, cos]]) + shift, np.float32)


def cut_of(primitive: dict[str, Any]) -> Cut | None:
    """What makes a mesh a drawing of a flat part."""
    own = _part(_part(primitive, "extras"), "bovrin")
    return Cut(str(own["part"]), str(own["drawing"])) if "part" in own and "drawing" in own else None


def add_cover(writer: GlbWriter, piece: Piece, material: dict[str, Any], attributes: dict[str, Any]) -> None:
    """Write what a mesh has besides its colour into its material and its attributes, as `Materials.cover` reads it."""
    cover = piece.cover
    if cover.two_sided:
        material["doubleSided"] = True
    if cover.blended:
        material["alphaMode"] = "BLEND"
        material["pbrMetallicRoughness"]["baseColorFactor"][3] = cover.opacity
    elif cover.cutoff:
        material |= {"alphaMode": "MASK", "alphaCutoff": cover.cutoff}
    if cover.tints is not None:
        shown = cover.tints.astype(float)
        light = np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
        attributes["COLOR_0"] = writer.array(light, "VEC3")
    if cover.texture is not None and cover.uv is not None:
        attributes["TEXCOORD_0"] = writer.array(cover.uv, "VEC2")
        material["pbrMetallicRoughness"]["baseColorTexture"] = {"index": _added(writer, cover.texture)}


def _added(writer: GlbWriter, texture: Texture) -> int:
    """The number of a picture in a file; each is written once."""
    known = writer.pictures
    if id(texture) not in known:
        image = {"name": texture.name, "bufferView": writer.add_bytes(texture.data), "mimeType": mime_of(texture.data)}
        across, up = (REPEATED if repeats else CLAMPED for repeats in texture.repeats)
        sampler = writer.append("samplers", {"wrapS": across, "wrapT": up})
        known[id(texture)] = writer.append("textures", {"source": writer.append("images", image), "sampler": sampler})
    return known[id(texture)]


def _part(item: dict[str, Any], name: str) -> dict[str, Any]:
    found = item.get(name)
    return found if isinstance(found, dict) else {}


def _number(item: dict[str, Any], name: str, default: float) -> float:
    value = item.get(name, default)
    return float(value) if isinstance(value, (int, float)) and abs(value) < 1e9 else default


def _whole(value: Any) -> int:
    return value if isinstance(value, int) else -1
