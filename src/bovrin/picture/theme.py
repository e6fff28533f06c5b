"""Every colour, size and font name of Bovrin. Nothing else in the program names one."""

from __future__ import annotations

from bovrin.frozen import frozen_equal

Colour = tuple[float, float, float]
DAY: Colour = (1.0, 1.0, 1.0)


@frozen_equal
class Theme:
    """Colours by their role, as "#RRGGBB"."""

    name: str
    desk: str
    panel: str
    raised: str
    stage_centre: str
    stage_edge: str
    ink: str
    muted: str
    hairline: str
    accent: str
    on_accent: str
    accent_wash: str
    ochre: str
    ochre_wash: str
    before: str
    after: str
    left: str
    right: str
    middle: str
    alert: str
    ground_line: str
    axis_x: str
    axis_y: str
    axis_z: str
    set_light: Colour = DAY
    """What a set's colours are multiplied by: it is dimmed where the room is dark, so that the actors stand out."""


PAPER = Theme(
    name="paper",
    desk="#DDD5C6",
    panel="#F1ECE2",
    raised="#FBF8F1",
    stage_centre="#FBF8F0",
    stage_edge="#E9E0CE",
    ink="#29272F",
    muted="#5C5660",
    hairline="#CDC4B3",
    accent="#2F5D62",
    on_accent="#FBF8F1",
    accent_wash="#CFE0DD",
    ochre="#C4791A",
    ochre_wash="#F8EBD3",
    before="#B9533B",
    after="#5A6FB0",
    left="#2F8F83",
    right="#8A3F74",
    middle="#A89B84",
    alert="#C2342A",
    ground_line="#B9AB92",
    axis_x="#B9533B",
    axis_y="#2F8F83",
    axis_z="#5A6FB0",
)

NIGHT = Theme(
    name="night",
    desk="#1F1E22",
    panel="#2A292E",
    raised="#37353B",
    stage_centre="#4A474B",
    stage_edge="#363438",
    ink="#EFE9DC",
    muted="#B4ADA6",
    hairline="#4B484F",
    accent="#8CC3BC",
    on_accent="#1F1E22",
    accent_wash="#33504F",
    ochre="#E3A44E",
    ochre_wash="#4A3B26",
    before="#DF8B72",
    after="#97A8DC",
    left="#63BDB0",
    right="#C583B1",
    middle="#A89B84",
    alert="#F0786C",
    ground_line="#6B665F",
    axis_x="#DF8B72",
    axis_y="#63BDB0",
    axis_z="#97A8DC",
    set_light=(0.40, 0.43, 0.50),
)

THEMES = {theme.name: theme for theme in (PAPER, NIGHT)}

FONT_TEXT = "Cabin"
FONT_NUMBERS = "B612 Mono"
INK_LINE = (0.125, 0.115, 0.145)
"""The outline of figures: the same on every theme, as a drawing's."""


def rgb(text: str) -> Colour:
    """sRGB 0..1 of "#RRGGBB"."""
    return (int(text[1:3], 16) / 255, int(text[3:5], 16) / 255, int(text[5:7], 16) / 255)


PENCIL_ROLES = {
    "slate": "after",
    "sanguine": "before",
    "teal": "left",
    "plum": "right",
    "ochre": "ochre",
    "green": "accent",
}
"""The theme's role for each pencil."""
