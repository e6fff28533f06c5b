"""A stage picture against a bare draw of the same triangles into the same target."""

from __future__ import annotations

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.picture.item import items_at
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS

SIZE = (860, 520)


def rows() -> list[Row]:
    """While dragging, and at rest with multisampling (its baseline multisampled too)."""
    shot = script.demo()
    items = [i for i in items_at(shot, 119) if not i.figure.is_set]  # a set is drawn once and kept
    draw, view = shared_renderer().draw, VIEWS["three-quarter"]
    found = []
    for fine, when in ((False, "moving"), (True, "at rest")):
        full = PictureStyle(fine=fine)
        bare = PictureStyle(fine=fine, backdrop=None, shadow=False, line=0)
        found.append(
            compare(
                f"stage picture {SIZE[0]}x{SIZE[1]}, {when}",
                1.7 if fine else 1.5,
                lambda style=full: draw(items, view, SIZE, style),
                lambda style=bare: draw(items, view, SIZE, style),
            )
        )
    return found
