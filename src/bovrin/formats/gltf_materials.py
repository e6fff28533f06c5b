"""glTF materials as covers of meshes: base colour, its picture and how that lies, what is cut out, both sides."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BovrinError
from bovrin.formats.colours import to_srgb
from bovrin.formats.container import GlbReader
from bovrin.formats.gltf_source import mime_of
from bovrin.shot import Cover, Texture

Floats32 = NDArray[np.float32]
CLAMPED = 33071


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

    def cover(
        self, index: Any, spots: dict[int, Floats32], tints: Floats32 | None
    ) -> tuple[tuple[float, float, float], Cover]:
        """Colour (sRGB) and cover of a material. spots: places in pictures (V, 2), by set."""
        material = self.reader.item("materials", index) if index is not None else {}
        plain = _part(material, "pbrMetallicRoughness")
        red, green, blue, alpha = self.reader.vector(plain, "baseColorFactor", (1.0, 1.0, 1.0, 1.0))
        mode = material.get("alphaMode", "OPAQUE")
        cutoff = _number(material, "alphaCutoff", 0.5) if mode == "MASK" else 0.0
        texture, uv = self._picture(plain.get("baseColorTexture"), spots)
        cover = Cover(
            texture=texture,
            uv=uv,
            tints=tints,
            cutoff=min(cutoff / max(alpha, 1e-3), 1.0) if texture is not None else 0.0,
            two_sided=material.get("doubleSided") is True,
            blended=mode == "BLEND",
            opacity=min(max(alpha, 0.0), 1.0) if mode == "BLEND" else 1.0,
        )
        return (to_srgb(red), to_srgb(green), to_srgb(blue)), cover

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


def _part(item: dict[str, Any], name: str) -> dict[str, Any]:
    found = item.get(name)
    return found if isinstance(found, dict) else {}


def _number(item: dict[str, Any], name: str, default: float) -> float:
    value = item.get(name, default)
    return float(value) if isinstance(value, (int, float)) and abs(value) < 1e9 else default


def _whole(value: Any) -> int:
    return value if isinstance(value, int) else -1
