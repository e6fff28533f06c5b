"""Rotations as arrays: quaternions are xyzw on the last axis, matrices (..., 3, 3), angles radians."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

_AXIS = {"X": 0, "Y": 1, "Z": 2}
NEXT, LAST = np.array([1, 2, 0]), np.array([2, 0, 1])
FEW = 1500
"""Numbers up to which a product of rearranged copies is quicker than one column by column."""


def axis_matrix(axis: str, angle: Floats) -> Floats:
    """Rotation about X, Y or Z by angles (...): (..., 3, 3)."""
    result = np.zeros((*angle.shape, 3, 3))
    i = _AXIS[axis]
    j, k = (i + 1) % 3, (i + 2) % 3
    cos, sin = np.cos(angle), np.sin(angle)
    result[..., i, i] = 1.0
    result[..., j, j] = result[..., k, k] = cos
    result[..., j, k] = -sin
    result[..., k, j] = sin
    return result


def euler_matrix(angles: Floats, order: str) -> Floats:
    """Angles (..., 3) about x, y, z to matrices (..., 3, 3); order "YXZ" is Ry·Rx·Rz, written out without products."""
    i, j, k = (_AXIS[a] for a in order)
    sign = 1.0 if (i, j, k) in ((0, 1, 2), (1, 2, 0), (2, 0, 1)) else -1.0
    cos, sin = np.cos(angles), np.sin(angles)
    ci, cj, ck = cos[..., i], cos[..., j], cos[..., k]
    si, sj, sk = sign * sin[..., i], sign * sin[..., j], sign * sin[..., k]
    result = np.empty((*angles.shape[:-1], 3, 3))
    result[..., i, i] = cj * ck
    result[..., i, j] = -cj * sk
    result[..., i, k] = sj
    result[..., j, i] = ci * sk + si * sj * ck
    result[..., j, j] = ci * ck - si * sj * sk
    result[..., j, k] = -si * cj
    result[..., k, i] = si * sk - ci * sj * ck
    result[..., k, j] = si * ck + ci * sj * sk
    result[..., k, k] = ci * cj
    return result


def euler_quaternion(angles: Floats, order: str) -> Floats:
    """Angles (..., 3) about x, y, z to unit quaternions (..., 4), in the same orders."""
    i, j, k = (_AXIS[a] for a in order)
    sign = 1.0 if (i, j, k) in ((0, 1, 2), (1, 2, 0), (2, 0, 1)) else -1.0
    cos, sin = np.cos(angles / 2), np.sin(angles / 2)
    ci, cj, ck = cos[..., i], cos[..., j], cos[..., k]
    si, sj, sk = sin[..., i], sin[..., j], sin[..., k]
    result = np.empty((*angles.shape[:-1], 4))
    result[..., i] = si * cj * ck + sign * ci * sj * sk
    result[..., j] = ci * sj * ck - sign * si * cj * sk
    result[..., k] = ci * cj * sk + sign * si * sj * ck
    result[..., 3] = ci * cj * ck - sign * si * sj * sk
    return result


LOCKED = 1e-9
"""The cosine of a middle angle below which the first angle takes up all of the turn that it shares with the third."""


def matrix_euler(matrix: Floats, order: str) -> Floats:
    """Matrices (..., 3, 3) to angles (..., 3) about x, y, z in the given order, the middle one within ±90 degrees.

    The third angle is read off what is left when the first is turned back, so that the three together are exact even where
    the first alone says little because its axis lines up with the third's.
    """
    i, j, k = (_AXIS[a] for a in order)
    sign = 1.0 if (i, j, k) in ((0, 1, 2), (1, 2, 0), (2, 0, 1)) else -1.0
    flat = np.hypot(matrix[..., i, i], matrix[..., i, j])
    middle = np.arctan2(matrix[..., i, k], flat)
    locked = flat < LOCKED
    first = np.where(
        locked,
        np.arctan2(matrix[..., k, j], matrix[..., j, j]),
        np.arctan2(-matrix[..., j, k], matrix[..., k, k]),
    )
    cos, sin = np.cos(first), np.sin(first)
    third = np.arctan2(
        cos * matrix[..., j, i] + sin * matrix[..., k, i], cos * matrix[..., j, j] + sin * matrix[..., k, j]
    )
    result = np.empty(matrix.shape[:-1])
    result[..., i], result[..., j], result[..., k] = sign * first, sign * middle, sign * third
    return result


def about(axis: Floats, angle: Floats) -> Floats:
    """Rotations about unit axes (..., 3) by angles (...): (..., 3, 3) (Rodrigues' formula)."""
    x, y, z = (axis[..., i] for i in range(3))
    cos, sin = np.cos(angle), np.sin(angle)
    rest = 1.0 - cos
    result = np.empty((*np.broadcast_shapes(axis.shape[:-1], np.shape(angle)), 3, 3))
    result[..., 0, 0], result[..., 1, 1], result[..., 2, 2] = cos + x * x * rest, cos + y * y * rest, cos + z * z * rest
    for i, j, both, own in (
        (0, 1, x * y * rest, z * sin),
        (2, 0, x * z * rest, y * sin),
        (1, 2, y * z * rest, x * sin),
    ):
        result[..., i, j], result[..., j, i] = both - own, both + own
    return result


def vector_matrix(vector: Floats) -> Floats:
    """Rotation vectors (..., 3), radians along the axis, to matrices (..., 3, 3)."""
    angle = np.sqrt((vector * vector).sum(-1))
    return about(vector / np.maximum(angle, 1e-12)[..., None], angle)


def rotation_vector(matrix: Floats) -> Floats:
    """Matrices (..., 3, 3) to rotation vectors (..., 3) of at most half a turn."""
    q = matrix_quaternion(matrix)
    size = np.sqrt((q[..., :3] * q[..., :3]).sum(-1))
    angle = 2.0 * np.arctan2(size, q[..., 3])
    return np.asarray(q[..., :3] * np.where(size > 1e-9, angle / np.maximum(size, 1e-12), 2.0)[..., None])


def turn_only(matrix: Floats) -> Floats:
    """The turns in matrices (..., 3, 3) that may be stretched too: the nearest rotations (polar decomposition).

    N. J. Higham, "Computing the polar decomposition", SIAM J. Sci. Stat. Comput. 7 (1986).
    """
    product = np.swapaxes(matrix, -1, -2) @ matrix
    if not product.size or np.abs(product - np.eye(3)).max() < 1e-9:
        return matrix
    left, _, right = np.linalg.svd(matrix)
    return np.asarray(left @ right)


def nearest_euler(angles: Floats, near: Floats, order: str) -> Floats:
    """The same rotation written with the angles closest to `near` (both (..., 3)): whole turns and the second solution."""
    i, j, k = (_AXIS[a] for a in order)
    other = angles.copy()
    other[..., i] += np.pi
    other[..., j] = np.pi - other[..., j]
    other[..., k] += np.pi
    best = _unturned(angles, near)
    second = _unturned(other, near)
    closer = np.abs(second - near).sum(-1) < np.abs(best - near).sum(-1) - 1e-9
    return np.asarray(np.where(closer[..., None], second, best))


CLEAR = 1.2
"""Radians below which no angle's step can be shorter when the turn is written the other way."""


def followed(angles: Floats, order: str) -> Floats:
    """Angles (F, ..., 3), radians, of turns that follow one another, each written nearest to the one before.

    Written the other way, both of two turns are as far apart as they were; so whether one changes its way against the one
    before does not depend on how that is written, and all changes are found at once.
    """
    if len(angles) < 2 or np.abs(np.diff(angles, axis=0)).max() < CLEAR:
        return angles.copy()
    i, j, k = (_AXIS[a] for a in order)
    other = angles.copy()
    other[..., i] += np.pi
    other[..., j] = np.pi - other[..., j]
    other[..., k] += np.pi
    same, over = (np.abs(_within_half(way[1:] - angles[:-1])).sum(-1) for way in (angles, other))
    changes = np.zeros(angles.shape[:-1], bool)
    changes[1:] = over < same - 1e-9
    changed = np.cumsum(changes, axis=0) % 2 == 1
    return going_on(np.where(changed[..., None], other, angles))


def going_on(angles: Floats) -> Floats:
    """Angles (F, ...), radians, each written within half a turn of the one before."""
    result = angles.copy()
    result[1:] -= np.cumsum(np.round(np.diff(angles, axis=0) / (2 * np.pi)), axis=0) * (2 * np.pi)
    return result


def _within_half(angles: Floats) -> Floats:
    """The same angles within half a turn to either side."""
    return np.asarray(angles - np.round(angles / (2 * np.pi)) * 2 * np.pi)


ORDERS = ("XYZ", "YZX", "ZXY", "XZY", "YXZ", "ZYX")
STRAY = 0.05
"""Share of the way from one turn to the next by which straight lines between their angles may leave it."""


WILD = 1.0
"""Radians from turn to turn beyond which no order makes a motion of them."""
LOOKED_AT = 600
"""Steps from turn to turn by which an order is chosen."""


def order_for(turns: Floats, wanted: str) -> str:
    """The rotation order in which straight lines between the angles of turns (F, 3, 3) that follow one another leave the
    shortest way least; the wanted one where that is good enough."""
    at = looked_at(len(turns))
    return order_for_steps(turns[at], turns[at + 1], wanted)


def looked_at(count: int) -> NDArray[np.intp]:
    """The frames, of so many, from which the step to the next is looked at when an order is chosen."""
    return np.arange(0, max(count - 1, 0), max(-(-(count - 1) // LOOKED_AT), 1))


def order_for_steps(start: Floats, end: Floats, wanted: str) -> str:
    """The same for steps from turns (S, 3, 3) to others (S, 3, 3)."""
    if not len(start):
        return wanted
    step = rotation_vector(np.swapaxes(start, -1, -2) @ end)
    size = np.linalg.norm(step, axis=-1)
    if np.median(size) > WILD:
        return wanted
    half = start @ vector_matrix(step / 2)

    def strays(order: str) -> float:
        first = matrix_euler(start, order)
        second = nearest_euler(matrix_euler(end, order), first, order)
        between = euler_matrix((first + second) / 2, order)
        off = np.linalg.norm(rotation_vector(np.swapaxes(half, -1, -2) @ between), axis=-1)
        return float((off / np.maximum(size, 1e-2)).max())

    if strays(wanted) < STRAY:
        return wanted
    return min(ORDERS, key=strays)


def _unturned(angles: Floats, near: Floats) -> Floats:
    turn = 2 * np.pi
    return np.asarray(angles + np.round((near - angles) / turn) * turn)


def matrix_quaternion(matrix: Floats) -> Floats:
    """Matrices (..., 3, 3) to unit quaternions (..., 4), w not negative.

    S. W. Shepperd, "Quaternion from rotation matrix", J. Guidance and Control 1 (1978): the largest of the four
    candidates is used, so no square root is taken of a small number.
    """
    m = matrix
    xx, yy, zz = m[..., 0, 0], m[..., 1, 1], m[..., 2, 2]
    four = 1 + xx + yy + zz
    if four.size and four.min() > 0.5:  # no turn near half a circle: the plain formula is safe for all
        plain = np.empty((*m.shape[:-2], 4))
        scale = 0.5 / np.sqrt(four)
        for i, a, b in ((0, 2, 1), (1, 0, 2), (2, 1, 0)):
            plain[..., i] = (m[..., a, b] - m[..., b, a]) * scale
        plain[..., 3] = scale * four
        return plain
    rows = np.empty((*m.shape[:-2], 4, 4))
    rows[..., 0, 0] = 1 + xx - yy - zz
    rows[..., 1, 1] = 1 - xx + yy - zz
    rows[..., 2, 2] = 1 - xx - yy + zz
    rows[..., 3, 3] = four
    for i, a, b in ((0, 2, 1), (1, 0, 2), (2, 1, 0)):
        rows[..., i, 3] = rows[..., 3, i] = m[..., a, b] - m[..., b, a]
    for i, j in ((0, 1), (0, 2), (1, 2)):
        rows[..., i, j] = rows[..., j, i] = m[..., i, j] + m[..., j, i]
    largest = np.argmax(np.diagonal(rows, axis1=-2, axis2=-1), -1)
    chosen = np.take_along_axis(rows, largest[..., None, None], -2)[..., 0, :]
    size = np.sqrt((chosen * chosen).sum(-1, keepdims=True))
    return np.asarray(chosen / np.where(chosen[..., 3:] < 0, -size, size))


def quaternion_matrix(q: Floats) -> Floats:
    """Unit quaternions (..., 4) to matrices (..., 3, 3)."""
    x, y, z, w = (q[..., n] for n in range(4))
    result = np.empty((*q.shape[:-1], 3, 3))
    result[..., 0, 0], result[..., 0, 1], result[..., 0, 2] = (
        1 - 2 * (y * y + z * z),
        2 * (x * y - z * w),
        2 * (x * z + y * w),
    )
    result[..., 1, 0], result[..., 1, 1], result[..., 1, 2] = (
        2 * (x * y + z * w),
        1 - 2 * (x * x + z * z),
        2 * (y * z - x * w),
    )
    result[..., 2, 0], result[..., 2, 1], result[..., 2, 2] = (
        2 * (x * z - y * w),
        2 * (y * z + x * w),
        1 - 2 * (x * x + y * y),
    )
    return result


def multiply(a: Floats, b: Floats) -> Floats:
    """Quaternion product a·b, (..., 4)."""
    ax, ay, az, aw = (a[..., n] for n in range(4))
    bx, by, bz, bw = (b[..., n] for n in range(4))
    return np.stack(
        [
            aw * bx + ax * bw + ay * bz - az * by,
            aw * by - ax * bz + ay * bw + az * bx,
            aw * bz + ax * by - ay * bx + az * bw,
            aw * bw - ax * bx - ay * by - az * bz,
        ],
        -1,
    )


def inverse(q: Floats) -> Floats:
    """Inverse of unit quaternions (..., 4)."""
    return np.asarray(q * np.array([-1.0, -1.0, -1.0, 1.0]))


def vector_quaternion(vector: Floats) -> Floats:
    """Rotation vectors (..., 3), radians along the axis, to unit quaternions (..., 4)."""
    half = np.sqrt((vector * vector).sum(-1, keepdims=True)) / 2.0
    return np.concatenate([vector * (np.sinc(half / np.pi) / 2.0), np.cos(half)], -1)


def quaternion_vector(q: Floats) -> Floats:
    """Unit quaternions (..., 4) to rotation vectors (..., 3) of at most half a turn."""
    q = np.where(q[..., 3:] < 0, -q, q)
    size = np.sqrt((q[..., :3] ** 2).sum(-1, keepdims=True))
    angle = 2.0 * np.arctan2(size, q[..., 3:])
    return np.asarray(q[..., :3] * np.where(size > 1e-12, angle / np.maximum(size, 1e-300), 2.0))


def power(q: Floats, share: Floats) -> Floats:
    """A share (...) of the turn of unit quaternions (..., 4), the short way; shares past 0 and 1 carry on."""
    q = np.where(q[..., 3:] < 0, -q, q)
    size = np.linalg.norm(q[..., :3], axis=-1)
    half = np.arctan2(size, q[..., 3])
    axis = q[..., :3] / np.where(size > 1e-12, size, 1.0)[..., None]
    turned = half * share
    return np.concatenate([axis * np.sin(turned)[..., None], np.cos(turned)[..., None]], -1)


def blend(a: Floats, b: Floats, share: Floats) -> Floats:
    """Spherical blend from a to b, (..., 4), the short way.

    K. Shoemake, "Animating rotation with quaternion curves", SIGGRAPH 1985.
    """
    return multiply(a, power(multiply(inverse(a), b), share))


def fixed_first(fixed: Floats, moving: Floats) -> Floats:
    """One matrix for each item (n, 3, 3) times its matrices (n, F, 3, 3).

    Laid side by side the frames make one wide product for each item, which is far quicker than many small ones.
    """
    count, frames = moving.shape[:2]
    wide = moving.transpose(0, 2, 1, 3).reshape(count, 3, frames * 3)
    return np.asarray((fixed @ wide).reshape(count, 3, frames, 3).transpose(0, 2, 1, 3))


def fixed_last(moving: Floats, fixed: Floats) -> Floats:
    """Matrices (n, F, 3, 3) times one matrix for each item (n, 3, 3); one tall product for each."""
    count, frames = moving.shape[:2]
    return np.asarray((moving.reshape(count, frames * 3, 3) @ fixed).reshape(count, frames, 3, 3))


def unrolled(q: Floats) -> Floats:
    """Quaternions (F, ..., 4) with signs chosen so that each is close to the frame before."""
    dots = (q[1:] * q[:-1]).sum(-1)
    signs = np.concatenate([np.ones((1, *q.shape[1:-1])), np.cumprod(np.where(dots < 0, -1.0, 1.0), axis=0)])
    return np.asarray(q * signs[..., None])


def shortest(a: Floats, b: Floats) -> Floats:
    """The smallest turn (3, 3) that brings unit vector a to unit vector b, each (3,); none where one of them is 0."""
    axis = np.cross(a, b)
    size = float(np.linalg.norm(axis))
    if size < 1e-12:
        if float(a @ b) >= 0:
            return np.eye(3)
        axis, size = np.cross(a, np.eye(3)[int(np.abs(a).argmin())]), 0.0
        return about(axis / np.linalg.norm(axis), np.asarray(np.pi))
    return about(axis / size, np.arctan2(size, float(a @ b)))


def swings(a: Floats, b: Floats) -> Floats:
    """The smallest turns from unit vectors (..., 3) to others, as rotation vectors (..., 3), radians along the axis."""
    axis = cross(a, b)
    size = np.sqrt((axis * axis).sum(-1))
    cosine = (a * b).sum(-1)
    aside = cross(np.asarray(a, float), np.where((np.abs(a[..., 1:2]) < 0.9), [0.0, 1.0, 0.0], [1.0, 0.0, 0.0]))
    aside = aside / np.sqrt((aside * aside).sum(-1, keepdims=True))
    along = np.where((size > 1e-12)[..., None], axis / np.maximum(size, 1e-300)[..., None], aside)
    return np.asarray(along * np.arctan2(size, cosine)[..., None])


def cross(a: Floats, b: Floats) -> Floats:
    """Cross product on the last axis; far less overhead than the general one, for few vectors and for many."""
    if a.size + b.size < FEW:
        return np.asarray(a.take(NEXT, -1) * b.take(LAST, -1) - a.take(LAST, -1) * b.take(NEXT, -1))
    result = np.empty(np.broadcast_shapes(a.shape, b.shape))
    for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
        result[..., i] = a[..., j] * b[..., k] - a[..., k] * b[..., j]
    return result
