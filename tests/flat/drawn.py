"""Made-up layered drawings: a puppet in profile, one from the front, and drawings of many shapes by a seed."""

from __future__ import annotations

import random
from pathlib import Path

HEAD = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
    'viewBox="0 0 400 500" width="400" height="500">'
)
INKED = 'stroke="#222" stroke-width="3"'


def wrapped(*parts: str) -> str:
    """A whole drawing."""
    return HEAD + "".join(parts) + "</svg>"


def group(name: str, *content: str, more: str = "") -> str:
    """A named group."""
    return f'<g id="{name}" {more}>{"".join(content)}</g>'


def box(x: float, y: float, wide: float, high: float, fill: str = "#789") -> str:
    """A rectangle."""
    return f'<rect x="{x}" y="{y}" width="{wide}" height="{high}" fill="{fill}" {INKED}/>'


def profile() -> str:
    """A walker that faces right: a hat of two drawings, a near and a far leg, a hand with a fist."""
    return wrapped(
        group("far_upper_leg", box(195, 300, 30, 90, "#556")),
        group("far_lower_leg", box(197, 380, 26, 80, "#556")),
        group("far_foot", box(196, 452, 60, 28, "#556")),
        group("near_upper_leg", box(175, 300, 30, 90)),
        group("near_lower_leg", box(177, 380, 26, 80)),
        group("near_foot", box(176, 452, 60, 28)),
        group("body", box(160, 160, 80, 160, "#aac")),
        group("head", '<circle cx="205" cy="110" r="50" fill="#eca"/>' + box(245, 105, 26, 14, "#eca")),
        group("hat", box(165, 40, 80, 34, "#433")),
        group("hat_2", box(150, 30, 110, 44, "#933"), more='display="none"'),
        group("near_upper_arm", box(185, 180, 24, 80, "#99b")),
        group("near_forearm", box(186, 250, 22, 70, "#99b")),
        group("near_hand", '<circle cx="197" cy="328" r="16" fill="#eca"/>'),
        group("near_hand_fist", box(183, 316, 28, 26, "#eca"), more='style="display:none" data-name="near hand:fist"'),
    )


def front() -> str:
    """A figure from the front, its arms out to both sides."""
    return wrapped(
        group("left_arm", box(240, 190, 100, 22)),
        group("right_arm", box(60, 190, 100, 22)),
        group("body", box(150, 170, 100, 180)),
        group("head", '<circle cx="200" cy="120" r="55" fill="#eca"/>'),
        group("left_leg", box(210, 340, 30, 140)),
        group("right_leg", box(160, 340, 30, 140)),
    )


def random_drawing(seed: int) -> str:
    """Groups in groups with mirrors, shears, gradients, copies, clips, masks of opacity, and hidden drawings."""
    dice = random.Random(seed)
    defs = (
        '<defs><linearGradient id="fade"><stop offset="0" stop-color="#b53"/>'
        '<stop offset="1" stop-color="#46a"/></linearGradient>'
        '<clipPath id="cut"><circle cx="0" cy="0" r="34"/></clipPath>'
        '<path id="leaf" d="M0,0 C20,-30 50,-20 60,0 C50,20 20,30 0,0 Z"/></defs><style>.soft{opacity:0.8}</style>'
    )
    return wrapped(defs, *(_random_group(dice, f"part_{chr(97 + n)}", 0) for n in range(dice.randint(2, 6))))


def _random_group(dice: random.Random, name: str, depth: int) -> str:
    own = "".join(_random_shape(dice) for _ in range(dice.randint(1, 3)))
    below = "".join(_random_group(dice, f"{name}_{n}x", depth + 1) for n in range(dice.randint(0, 2)) if depth < 2)
    hidden = group(f"{name}_h", _random_shape(dice), more=f'data-name="{name.replace("_", " ")}:other" display="none"')
    return group(name, own, below, more=_random_place(dice, depth)) + (
        hidden if depth == 0 and dice.random() < 0.5 else ""
    )


def _random_place(dice: random.Random, depth: int) -> str:
    mirror = dice.choice((1, -1))
    turn, lean = dice.uniform(-40, 40), dice.uniform(-25, 25)
    x, y = (
        (dice.uniform(120, 280), dice.uniform(150, 350))
        if depth == 0
        else (dice.uniform(-40, 40), dice.uniform(-40, 40))
    )
    size = dice.uniform(0.6, 1.2)
    return f'transform="translate({x:.1f} {y:.1f}) rotate({turn:.1f}) skewX({lean:.1f}) scale({mirror * size:.2f} {size:.2f})"'


def _random_shape(dice: random.Random) -> str:
    fill = dice.choice(("url(#fade)", "#8b6", "#c84", "#357"))
    x, y = dice.uniform(-30, 30), dice.uniform(-30, 30)
    return dice.choice(
        (
            f'<rect x="{x:.1f}" y="{y:.1f}" width="50" height="34" fill="{fill}" class="soft"/>',
            f'<ellipse cx="{x:.1f}" cy="{y:.1f}" rx="30" ry="18" fill="{fill}" stroke="#222" stroke-width="2"/>',
            f'<use xlink:href="#leaf" x="{x:.1f}" y="{y:.1f}" fill="{fill}"/>',
            f'<g clip-path="url(#cut)"><rect x="-40" y="-20" width="90" height="50" style="fill:{fill}"/></g>',
        )
    )


def written(folder: Path, text: str, name: str = "puppet.svg") -> Path:
    """A drawing as a file."""
    path = folder / name
    path.write_text(text, encoding="utf-8")
    return path
