"""Meshes of a figure as USD: points, places in pictures, what covers them, and names as USD wants them."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np

from bovrin.formats.colours import to_linear
from bovrin.formats.gltf.container import as_floats
from bovrin.shot import Piece, Texture

PICTURES = "pictures"
"""The folder beside the stage, or in the package, in which pictures lie."""


def apart(names: list[str]) -> list[str]:
    """Names as USD wants them: letters, digits and underscores, each its own."""
    found: dict[str, None] = {}
    tried: dict[str, int] = {}
    for name in names:
        plain = re.sub(r"\W", "_", name) or "_"
        plain = f"_{plain}" if plain[0].isdigit() else plain
        free = plain
        while free in found:
            tried[plain] = tried.get(plain, 1) + 1
            free = f"{plain}_{tried[plain]}"
        found[free] = None
    return list(found)


class Looks:
    """Writes meshes and what covers them into a stage; pictures are written into a folder, each once."""

    def __init__(self, library: Any, stage: Any, folder: Path, pictures: str) -> None:
        self.lib, self.stage, self._folder, self._pictures = library, stage, folder, pictures
        self._written: dict[int, str] = {}

    def mesh(self, piece: Piece, path: str, material: str) -> Any:
        """The mesh of a piece, with its own name kept for people to read; material: the path of what covers it."""
        lib, vt = self.lib, self.lib.Vt
        mesh = lib.UsdGeom.Mesh.Define(self.stage, path)
        mesh.GetPrim().SetDisplayName(piece.name)
        points = vt.Vec3fArray.FromNumpy(as_floats(piece.positions))
        mesh.CreatePointsAttr(points)
        mesh.CreateExtentAttr(lib.UsdGeom.PointBased.ComputeExtent(points))
        mesh.CreateNormalsAttr(vt.Vec3fArray.FromNumpy(as_floats(piece.normals)))
        mesh.SetNormalsInterpolation(lib.UsdGeom.Tokens.vertex)
        mesh.CreateFaceVertexCountsAttr(vt.IntArray.FromNumpy(np.full(len(piece.triangles), 3, np.int32)))
        mesh.CreateFaceVertexIndicesAttr(vt.IntArray.FromNumpy(piece.triangles.astype(np.int32).ravel()))
        mesh.CreateSubdivisionSchemeAttr(lib.UsdGeom.Tokens.none)
        mesh.CreateDoubleSidedAttr(piece.cover.two_sided)
        self._cover(mesh, piece, material)
        return mesh

    def _cover(self, mesh: Any, piece: Piece, material: str) -> None:
        lib, vt, cover = self.lib, self.lib.Vt, piece.cover
        colour = np.array([[to_linear(c) for c in piece.colour]], np.float32)
        if cover.tints is not None:
            levels, at = np.unique(cover.tints, return_inverse=True)
            tints = np.array([to_linear(float(c)) for c in levels], np.float32)[at].reshape(cover.tints.shape)
            mesh.CreateDisplayColorPrimvar(lib.UsdGeom.Tokens.vertex).Set(
                vt.Vec3fArray.FromNumpy(as_floats(colour * tints))
            )
        else:
            mesh.CreateDisplayColorAttr(vt.Vec3fArray.FromNumpy(colour))
        if cover.uv is not None:
            kind, vertex = lib.Sdf.ValueTypeNames.TexCoord2fArray, lib.UsdGeom.Tokens.vertex
            spots = as_floats(cover.uv) * [1.0, -1.0] + [0.0, 1.0]  # USD counts pictures from below
            primvar = lib.UsdGeom.PrimvarsAPI(mesh).CreatePrimvar("st", kind, vertex)
            primvar.Set(vt.Vec2fArray.FromNumpy(as_floats(spots)))
        self._material(mesh, piece, material, colour[0])

    def _material(self, mesh: Any, piece: Piece, path: str, colour: Any) -> None:
        shade, types, cover = self.lib.UsdShade, self.lib.Sdf.ValueTypeNames, piece.cover
        material = shade.Material.Define(self.stage, path)
        surface = shade.Shader.Define(self.stage, f"{path}/surface")
        surface.CreateIdAttr("UsdPreviewSurface")
        surface.CreateInput("roughness", types.Float).Set(0.8)
        red, green, blue = (float(c) for c in colour)
        diffuse = surface.CreateInput("diffuseColor", types.Color3f)
        diffuse.Set(self.lib.Gf.Vec3f(red, green, blue))
        if cover.cutoff:
            surface.CreateInput("opacityThreshold", types.Float).Set(float(cover.cutoff))
        if cover.texture is not None and cover.uv is not None:
            picture = self._texture(cover.texture, path, (red, green, blue, cover.opacity))
            diffuse.ConnectToSource(picture.CreateOutput("rgb", types.Float3))
            if cover.cutoff or cover.blended:
                surface.CreateInput("opacity", types.Float).ConnectToSource(picture.CreateOutput("a", types.Float))
        elif cover.blended:
            surface.CreateInput("opacity", types.Float).Set(float(cover.opacity))
        material.CreateSurfaceOutput().ConnectToSource(surface.ConnectableAPI(), "surface")
        shade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(material)

    def _texture(self, texture: Texture, path: str, scale: tuple[float, float, float, float]) -> Any:
        """The shader that reads a picture, multiplied with the colour of what it lies on."""
        shade, types = self.lib.UsdShade, self.lib.Sdf.ValueTypeNames
        spots = shade.Shader.Define(self.stage, f"{path}/places")
        spots.CreateIdAttr("UsdPrimvarReader_float2")
        spots.CreateInput("varname", types.String).Set("st")
        picture = shade.Shader.Define(self.stage, f"{path}/picture")
        picture.CreateIdAttr("UsdUVTexture")
        picture.CreateInput("file", types.Asset).Set(self.lib.Sdf.AssetPath(self._file(texture)))
        picture.CreateInput("sourceColorSpace", types.Token).Set("sRGB")
        picture.CreateInput("scale", types.Float4).Set(self.lib.Gf.Vec4f(*scale))
        for word, repeats in zip(("wrapS", "wrapT"), texture.repeats, strict=True):
            picture.CreateInput(word, types.Token).Set("repeat" if repeats else "clamp")
        picture.CreateInput("st", types.Float2).ConnectToSource(spots.CreateOutput("result", types.Float2))
        return picture

    def _file(self, texture: Texture) -> str:
        """Where a picture lies, as the stage says it; written on first asking."""
        key = id(texture)
        if key not in self._written:
            ending = ".png" if texture.data.startswith(b"\x89PNG") else ".jpg"
            name = apart([texture.name or "picture"])[0]
            taken = set(self._written.values())
            free, n = name, 2
            while f"./{self._pictures}/{free}{ending}" in taken:
                free, n = f"{name}_{n}", n + 1
            (self._folder / self._pictures).mkdir(exist_ok=True)
            (self._folder / self._pictures / f"{free}{ending}").write_bytes(texture.data)
            self._written[key] = f"./{self._pictures}/{free}{ending}"
        return self._written[key]
