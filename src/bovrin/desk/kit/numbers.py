"""Numbers as an animator types them: with units, and simple sums."""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable

from bovrin.errors import BadMotion
from bovrin.shot import HOLDING, Unit

UNITS: dict[Unit, dict[str, float]] = {
    Unit.LENGTH: {"cm": 1.0, "mm": 0.1, "m": 100.0},
    Unit.ANGLE: {"°": 1.0, "deg": 1.0, "rad": 180 / math.pi, "turns": 360.0, "turn": 360.0},
    Unit.AMOUNT: {"%": 1.0, "x": 100.0},
    **{unit: {} for unit in HOLDING},
    Unit.NUMBER: {},
}
_SUMS: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_MOST = 60


def typed_number(text: str, unit: Unit, now: float) -> float:
    """What was typed, in the shown unit (cm, degrees, percent). A sum that begins with +, * or / starts from `now`.

    BadMotion says what cannot be read.
    """
    plain = text.strip().replace("×", "*").replace("−", "-")
    plain = re.sub(r"(\d),(\d)", r"\1.\2", plain)
    if not plain or len(plain) > _MOST:
        raise _unread(text, unit)
    if plain[0] in "+*/":
        plain = f"({now!r}){plain}"
    words = sorted(UNITS[unit], key=len, reverse=True)
    for word in words:
        plain = re.sub(rf"(?<=[\d.)\s]){re.escape(word)}(?!\s*[\d.(a-z°])", f"*{UNITS[unit][word]!r}", plain)
    try:
        value = _value(ast.parse(plain, mode="eval").body)
    except (SyntaxError, ValueError, ZeroDivisionError, OverflowError, RecursionError) as error:
        raise _unread(text, unit) from error
    if not math.isfinite(value):
        raise _unread(text, unit)
    return value


def _value(node: ast.expr) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
        return float(node.value)
    if isinstance(node, ast.BinOp) and type(node.op) in _SUMS:
        return _SUMS[type(node.op)](_value(node.left), _value(node.right))
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.UAdd):
        value = _value(node.operand)
        return -value if isinstance(node.op, ast.USub) else value
    raise ValueError(node)


def _unread(text: str, unit: Unit) -> BadMotion:
    known = ", ".join(word for word in UNITS[unit]) or "0 or 1"
    return BadMotion(f"'{text.strip()}' is not a number.", advice=f"Type one such as 12, 12 + 3 or *2; units: {known}.")
