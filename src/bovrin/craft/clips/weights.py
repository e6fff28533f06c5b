"""How much of a laid clip is seen: one share of it throughout, or a curve."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, Key, Laid
from bovrin.shot.curve import NO_KEYS, SAME_FRAME


def weight_at(laid: Laid, frame: float) -> float:
    """How much of a laid clip is seen on a frame, 0 to 1."""
    if not len(laid.weight):
        return 1.0
    return float(np.clip(curve_values(laid.weight, np.array([frame - laid.at]), 1.0)[0], 0.0, 1.0))


def with_weight(laid: Laid, frame: float, share: float) -> Laid:
    """A laid clip of which so much is seen: throughout, or where its weight is a curve, on a frame."""
    if len(laid.weight) > 1:
        return with_weight_key(laid, frame, share)
    return replace(laid, weight=_throughout(share))


def with_weight_key(laid: Laid, frame: float, share: float) -> Laid:
    """A laid clip of which so much is seen on a frame; elsewhere its weight stays as it was keyed."""
    at = min(max(frame, laid.at), laid.end) - laid.at
    keys = _keys(laid.weight) if len(laid.weight) > 1 else [Key(0.0, weight_at(laid, laid.at))]
    others = [key for key in keys if abs(key.frame - at) > SAME_FRAME]
    return replace(laid, weight=Curve.from_keys([*others, Key(at, _share(share))]))


def with_weight_key_moved(laid: Laid, index: int, frame: float, share: float) -> Laid:
    """A laid clip whose weight has a key elsewhere, between those beside it."""
    keys = _keys(laid.weight)
    low = keys[index - 1].frame + 1.0 if index else 0.0
    high = keys[index + 1].frame - 1.0 if index + 1 < len(keys) else laid.length
    at = min(max(frame - laid.at, low), max(high, low))
    keys[index] = keys[index]._replace(frame=at, value=_share(share))
    return replace(laid, weight=Curve.from_keys(keys))


def without_weight_key(laid: Laid, index: int) -> Laid:
    """A laid clip whose weight has a key less; with the last but one it is the same throughout."""
    keys = [key for n, key in enumerate(_keys(laid.weight)) if n != index]
    return replace(laid, weight=Curve.from_keys(keys) if len(keys) > 1 else _throughout(keys[0].value if keys else 1.0))


def _keys(curve: Curve) -> list[Key]:
    return [curve.key(n) for n in range(len(curve))]


def _share(share: float) -> float:
    return min(max(share, 0.0), 1.0)


def _throughout(share: float) -> Curve:
    return NO_KEYS if _share(share) == 1.0 else Curve.from_keys([Key(0.0, _share(share))])
