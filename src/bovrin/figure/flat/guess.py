"""What hangs on what in a flat figure, where the pivots are, and which way it faces: from names and from what overlaps."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.brought.bone_words import Bone, bone_of
from bovrin.figure.brought.joint_tree import side_of, without_side, words_of
from bovrin.figure.flat.layers import Box, DrawnPart, Facing
from bovrin.frozen import frozen

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

BODY = ("hips", "pelvis", "body", "torso", "trunk", "chest", "belly")
"""What the part is called that carries the others, the surest word first."""
NECK, HEAD = {"neck"}, {"head", "skull", "face"}
ON_HEAD = {
    *(
        "eye",
        "eyes",
        "brow",
        "brows",
        "eyebrow",
        "lid",
        "lids",
        "mouth",
        "lips",
        "beak",
        "bill",
        "nose",
        "snout",
        "muzzle",
    ),
    *("ear", "ears", "hair", "hat", "cap", "crest", "beard", "jaw", "chin", "horn", "horns", "moustache", "comb"),
}
ON_TRUNK = (Bone.THIGH, Bone.LEG, Bone.UPPER_ARM, Bone.ARM, Bone.SHOULDER)
"""Bones that hang on the body where nothing says otherwise."""
END = 0.2
"""The share of a part that counts as its end."""
ON_BODY = {"wing", "wings", "tail", "fin"}
ON_EYE = {"pupil", "iris"}
AHEAD = {"beak", "bill", "nose", "snout", "muzzle"}
ABOVE = {
    Bone.HAND: (Bone.FOREARM, Bone.ARM, Bone.UPPER_ARM),
    Bone.FOREARM: (Bone.UPPER_ARM, Bone.ARM),
    Bone.DIGIT: (Bone.HAND, Bone.FOOT),
    Bone.FOOT: (Bone.SHIN, Bone.LEG, Bone.THIGH),
    Bone.SHIN: (Bone.THIGH, Bone.LEG),
}
"""On which bones one hangs, the likeliest first."""


@frozen
class Masks:
    """Where each part is seen (P, H, W) in cells of a grid over a box of the drawing."""

    seen: Bools
    box: Box

    def spot(self, where: Bools) -> tuple[float, float]:
        """The middle of cells (H, W), in the drawing's units."""
        rows, columns = np.nonzero(where)
        left, top, right, bottom = self.box
        height, width = where.shape
        across = left + (float(columns.mean()) + 0.5) / width * (right - left)
        return across, top + (float(rows.mean()) + 0.5) / height * (bottom - top)

    def middle(self, part: int) -> tuple[float, float]:
        """The middle of a part."""
        return self.spot(self.seen[part])


def body_of(layers: Sequence[DrawnPart], masks: Masks) -> int:
    """The part that carries the others: by its name, else the largest."""
    words = [set(words_of(layer.name)) for layer in layers]
    for word in BODY:
        named = [n for n, own in enumerate(words) if word in own]
        if named:
            return named[0]
    return int(masks.seen.sum((1, 2)).argmax())


def parents_of(layers: Sequence[DrawnPart], masks: Masks, body_name: str = "") -> list[int]:
    """The part that each part hangs on; -1 for the body alone, which is guessed where it is not named.

    What the file says counts first, then what names say; else a part hangs on the one that it overlaps most toward the body.
    """
    named = [n for n, layer in enumerate(layers) if body_name and layer.name == body_name]
    body = named[0] if named else body_of(layers, masks)
    at = {layer.name: n for n, layer in enumerate(layers)}
    found = [-1] * len(layers)
    for n, layer in enumerate(layers):
        if n != body:
            found[n] = at.get(layer.parent, -1)
            if found[n] < 0 or _circle(found, n):
                found[n] = _named_parent(layers, n, body)
            if _circle(found, n):
                found[n] = -1
    return _overlapping(found, body, masks)


def _circle(parents: list[int], start: int) -> bool:
    at, steps = parents[start], 0
    while at >= 0 and steps <= len(parents):
        if at == start:
            return True
        at, steps = parents[at], steps + 1
    return steps > len(parents)


def _named_parent(layers: Sequence[DrawnPart], part: int, body: int) -> int:
    words = set(words_of(layers[part].name))
    if words & ON_EYE:
        return (
            _alike(layers, part, {"eye", "eyes"})
            if _alike(layers, part, {"eye", "eyes"}) >= 0
            else _first(layers, HEAD)
        )
    if words & ON_HEAD and not words & HEAD:
        return _first(layers, HEAD)
    if words & HEAD:
        neck = _first(layers, NECK)
        return neck if neck >= 0 else body
    if words & NECK:
        chest = _first(layers, {"chest", "torso"})
        return chest if chest >= 0 and chest != part else body
    if words & ON_BODY:
        return body
    bone, side = bone_of(without_side(layers[part].name)), side_of(layers[part].name)
    for above in ABOVE.get(bone, ()) if bone else ():
        for n, layer in enumerate(layers):
            if n != part and side_of(layer.name) == side and bone_of(without_side(layer.name)) is above:
                return n
    return body if bone in ON_TRUNK else -1


def _first(layers: Sequence[DrawnPart], words: set[str]) -> int:
    return next((n for n, layer in enumerate(layers) if set(words_of(layer.name)) & words), -1)


def _alike(layers: Sequence[DrawnPart], part: int, words: set[str]) -> int:
    """The part of such a name on the same side."""
    side = side_of(layers[part].name)
    found = [n for n, own in enumerate(layers) if set(words_of(own.name)) & words and side_of(own.name) == side]
    return found[0] if found else -1


def _overlapping(parents: list[int], body: int, masks: Masks) -> list[int]:
    """Parents for those that have none yet: one after another, the one that overlaps most of what is joined already."""
    flat = masks.seen.reshape(len(masks.seen), -1).astype(np.float32)
    shared = flat @ flat.T
    area = np.maximum(shared.diagonal(), 1.0)
    middles = np.array([masks.middle(n) if area[n] > 1.0 else (np.inf, np.inf) for n in range(len(parents))])
    joined = {body}
    loose = [n for n in range(len(parents)) if parents[n] < 0 and n != body]
    while True:
        joined |= {n for n in range(len(parents)) if parents[n] >= 0 and _reaches(parents, n, joined)}
        if not loose:
            return parents
        open_ends = sorted(joined)
        share = shared[np.ix_(loose, open_ends)] / area[loose][:, None]
        row, column = np.unravel_index(int(share.argmax()), share.shape)
        part = loose.pop(int(row))
        parents[part] = open_ends[int(column)] if share[row, column] > 0 else _nearest(part, open_ends, middles)
        joined.add(part)


def _reaches(parents: list[int], part: int, joined: set[int]) -> bool:
    at = part
    for _ in parents:
        if at in joined:
            return True
        at = parents[at]
        if at < 0:
            return False
    return False


def _nearest(part: int, others: list[int], middles: Floats) -> int:
    return others[int(np.nan_to_num(np.hypot(*(middles[others] - middles[part]).T), nan=np.inf).argmin())]


def pivots_of(layers: Sequence[DrawnPart], parents: Sequence[int], masks: Masks) -> Floats:
    """Where each part turns (P, 2), in the drawing's units: where the file says, else at the middle of what it shares with
    the part that it hangs on, or where the two are nearest."""
    return np.array([_pivot(layers, parents, masks, n) for n in range(len(layers))])


def _pivot(layers: Sequence[DrawnPart], parents: Sequence[int], masks: Masks, part: int) -> tuple[float, float]:
    told, parent = layers[part].pivot, parents[part]
    if told is not None:
        return told
    if parent < 0:
        return masks.middle(part)
    own, other = masks.seen[part], masks.seen[parent]
    both = own & other
    if both.any() and both.sum() < 0.7 * own.sum():
        return masks.spot(both)
    if both.any():  # it lies on the other: an eye turns about its middle, an arm about the end away from its hand
        carried = [n for n, above in enumerate(parents) if above == part]
        return _far_end(own, masks, carried[0]) if carried else masks.spot(own)
    rows, columns = np.nonzero(own)
    there = np.stack(np.nonzero(other), 1)
    if not len(there) or not len(rows):
        return masks.middle(part)
    away = np.hypot(rows[:, None] - there[:, 0].mean(), columns[:, None] - there[:, 1].mean()).ravel()
    near = np.zeros_like(own)
    near[rows[away <= away.min() + 1.5], columns[away <= away.min() + 1.5]] = True
    return masks.spot(near)


def _far_end(own: Bools, masks: Masks, carried: int) -> tuple[float, float]:
    """The middle of that end of a part (H, W) that lies away from what hangs on it."""
    rows, columns = np.nonzero(own)
    below = np.stack(np.nonzero(masks.seen[carried]), 1).mean(0)
    spots = np.stack([rows, columns], 1)
    away = (spots - spots.mean(0)) @ (spots.mean(0) - below)
    end = np.zeros_like(own)
    last = away >= np.quantile(away, 1.0 - END)
    end[rows[last], columns[last]] = True
    return masks.spot(end)


def facing_of(layers: Sequence[DrawnPart], parents: Sequence[int], masks: Masks) -> Facing:
    """Which way a figure faces: to the front where left and right parts lie on their sides, else where its nose, feet or head
    are from what they hang on."""
    words = [set(words_of(layer.name)) for layer in layers]
    if not any(own & {"near", "far"} for own in words) and _both_sides(layers, masks):
        return Facing.FRONT
    looks = [n for n, own in enumerate(words) if own & AHEAD]
    looks += [n for n, layer in enumerate(layers) if bone_of(without_side(layer.name)) is Bone.FOOT]
    looks += [n for n, own in enumerate(words) if own & HEAD]
    for n in looks:
        if parents[n] >= 0:
            away = masks.middle(n)[0] - masks.middle(parents[n])[0]
            if abs(away) > 0.01 * (masks.box[2] - masks.box[0]):
                return Facing.RIGHT if away > 0 else Facing.LEFT
    return Facing.RIGHT


def _both_sides(layers: Sequence[DrawnPart], masks: Masks) -> bool:
    pairs: dict[tuple[str, ...], dict[str, float]] = {}
    for n, layer in enumerate(layers):
        side = side_of(layer.name)
        if side:
            pairs.setdefault(without_side(layer.name), {})[side] = masks.middle(n)[0]
    apart = [abs(row["left"] - row["right"]) for row in pairs.values() if len(row) == 2]
    return bool(apart) and float(np.median(apart)) > 0.12 * (masks.box[2] - masks.box[0])
