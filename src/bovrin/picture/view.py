"""Where the stage is looked at from: projection, its inverse, and the named views."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.errors import UnknownName
from bovrin.frozen import frozen_equal

Floats = NDArray[np.float64]

FIELD_OF_VIEW = math.radians(24)
NEAREST, FARTHEST = 0.3, 60.0
GROUND_FAR = 30.0
"""Metres from the viewer beyond which the ground is not drawn on."""


@frozen_equal
class View:
    """A camera on a sphere round a target: yaw and pitch in radians, distance in metres. Flat: no perspective."""

    target: tuple[float, float, float] = (0.0, 0.86, 0.0)
    distance: float = 5.6
    yaw: float = math.radians(35)
    pitch: float = math.radians(9)
    flat: bool = False

    def axes(self) -> Floats:
        """Rows right, up, toward the viewer (3, 3)."""
        cy, sy, cp, sp = math.cos(self.yaw), math.sin(self.yaw), math.cos(self.pitch), math.sin(self.pitch)
        return np.array([[cy, 0.0, -sy], [-sp * sy, cp, -sp * cy], [sy * cp, sp, cy * cp]])

    def eye(self) -> Floats:
        """Where the viewer is (3,)."""
        return np.asarray(np.asarray(self.target) + self.axes()[2] * self.distance)

    def matrix(self, aspect: float) -> Floats:
        """World to clip space (4, 4)."""
        look = np.eye(4)
        look[:3, :3] = self.axes()
        look[:3, 3] = -self.axes() @ self.eye()
        near, far = self.distance * 0.05, self.distance + 40.0
        projection = np.zeros((4, 4))
        if self.flat:
            half = self.half_height()
            projection[0, 0], projection[1, 1] = 1 / (half * aspect), 1 / half
            near, far = self.distance - 40.0, self.distance + 40.0
            projection[2, 2], projection[2, 3], projection[3, 3] = -2 / (far - near), -(far + near) / (far - near), 1.0
        else:
            f = 1 / math.tan(FIELD_OF_VIEW / 2)
            projection[0, 0], projection[1, 1] = f / aspect, f
            projection[2, 2], projection[2, 3], projection[3, 2] = (
                (far + near) / (near - far),
                2 * far * near / (near - far),
                -1.0,
            )
        return projection @ look

    def half_height(self) -> float:
        """Half the height in metres that is seen at the target."""
        return self.distance * math.tan(FIELD_OF_VIEW / 2)

    def project(self, points: ArrayLike, size: tuple[int, int]) -> Floats:
        """World points (..., 3) to pixels from the top left, and depth: (..., 3)."""
        width, height = size
        p = np.asarray(points, float)
        clip = p @ self.matrix(width / height)[:, :3].T + self.matrix(width / height)[:, 3]
        w = np.where(np.abs(clip[..., 3:]) < 1e-9, 1e-9, clip[..., 3:])
        ndc = clip[..., :3] / w
        return np.stack([(ndc[..., 0] + 1) * width / 2, (1 - ndc[..., 1]) * height / 2, ndc[..., 2]], -1)

    def ray(self, x: float, y: float, size: tuple[int, int]) -> tuple[Floats, Floats]:
        """Where the line of sight through a pixel begins (3,), and its way (3,), not of length one."""
        width, height = size
        axes, half = self.axes(), self.half_height()
        across, up = (x - width / 2) / (height / 2) * half, (height / 2 - y) / (height / 2) * half
        on_plane = np.asarray(self.target, float) + axes[0] * across + axes[1] * up
        if self.flat:
            return on_plane + axes[2] * self.distance, -axes[2]
        eye = self.eye()
        return eye, on_plane - eye

    def in_plane(self, x: float, y: float, size: tuple[int, int], through: ArrayLike) -> Floats:
        """What a pixel shows (3,) in the plane of the screen through a place."""
        start, way = self.ray(x, y, size)
        axis = self.axes()[2]
        return np.asarray(start + float((np.asarray(through, float) - start) @ axis / (way @ axis)) * way)

    def on_ground(self, x: float, y: float, size: tuple[int, int]) -> Floats:
        """What a pixel shows (3,) of the ground; over its far edge, of the plane of the screen through what is looked at."""
        start, way = self.ray(x, y, size)
        reach = -start[1] / way[1] if way[1] < -1e-6 else -1.0
        if 0 < reach * np.linalg.norm(way) < GROUND_FAR:
            return np.asarray(start + reach * way)
        return self.in_plane(x, y, size, self.target)

    def metres_per_pixel(self, point: ArrayLike, height: int) -> float:
        """How many metres one pixel spans at the depth of a world point."""
        if self.flat:
            return 2 * self.half_height() / height
        depth = float((self.eye() - np.asarray(point, float)) @ self.axes()[2])
        return max(depth, 1e-3) * math.tan(FIELD_OF_VIEW / 2) * 2 / height

    def slide(self, start: ArrayLike, dx: float, dy: float, height: int) -> Floats:
        """A world point moved in the view's plane by pixels (right, down): (3,)."""
        scale = self.metres_per_pixel(start, height)
        right, up, _ = self.axes()
        return np.asarray(np.asarray(start, float) + right * dx * scale - up * dy * scale)

    def turned(self, yaw: float, pitch: float) -> View:
        """Moved round the target by angles."""
        limit = math.radians(89.9)
        return replace(self, yaw=self.yaw + yaw, pitch=max(-limit, min(limit, self.pitch + pitch)), flat=False)

    def moved(self, dx: float, dy: float, height: int) -> View:
        """Slid so that what was under the pointer follows it, pixels."""
        new = self.slide(self.target, -dx, -dy, height)
        return replace(self, target=(float(new[0]), float(new[1]), float(new[2])))

    def nearer(self, factor: float) -> View:
        """Nearer (factor above 1) or farther."""
        return replace(self, distance=max(NEAREST, min(FARTHEST, self.distance / factor)))

    def fitted(self, points: ArrayLike, aspect: float, margin: float = 1.25) -> View:
        """Moved so that world points (N, 3) fill the picture."""
        p = np.asarray(points, float)
        low, high = p.min(0), p.max(0)
        target = (low + high) / 2
        local = (p - target) @ self.axes().T
        half = np.maximum(np.maximum(np.abs(local[:, 1]), np.abs(local[:, 0]) / aspect), 0.08)
        nearer = np.zeros(len(p)) if self.flat else local[:, 2]
        distance = float((margin * half / math.tan(FIELD_OF_VIEW / 2) + nearer).max())
        limited = max(NEAREST, min(FARTHEST, distance))
        return replace(self, target=(float(target[0]), float(target[1]), float(target[2])), distance=limited)


VIEWS: dict[str, View] = {
    "three-quarter": View(),
    "front": View(yaw=0.0, pitch=0.0, flat=True),
    "side": View(yaw=math.radians(90), pitch=0.0, flat=True),
    "top": View(yaw=0.0, pitch=math.radians(89.9), flat=True),
}


def named_view(name: str) -> View:
    """The view of that name."""
    if name not in VIEWS:
        raise UnknownName(f"there is no view '{name}'.", advice="Views: " + ", ".join(VIEWS) + ".")
    return VIEWS[name]


def facing(root: Floats, side: str, near: View) -> View:
    """The flat view of a figure's own "front" or "side", by its root's world matrix (4, 4); as near as a view there was."""
    ahead = root[:3, 2]
    yaw = math.atan2(float(ahead[0]), float(ahead[2])) + (math.pi / 2 if side == "side" else 0.0)
    target = (float(root[0, 3]), near.target[1], float(root[2, 3]))
    return replace(near, target=target, yaw=yaw, pitch=0.0, flat=True)
