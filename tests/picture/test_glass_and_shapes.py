"""What is seen through is blended with what lies behind it, whoever came first; normals follow what shapes do."""

from dataclasses import replace

import numpy as np
import pytest

from bovrin import script
from bovrin.figure.ground.normals import Bending, face_normals
from bovrin.picture.item import Item, item_posed
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Cover, Figure, Model, Piece

SIZE = (120, 120)
LOOK = PictureStyle(backdrop=None, shadow=False, fine=False)
BUOY = script.demo().figure("buoy")


def pane(name: str, colour: tuple[float, float, float], z: float, opacity: float = 1.0) -> Figure:
    """A square a metre wide that stands at a depth, facing the front view."""
    places = np.array([[-0.5, 0, z], [0.5, 0, z], [0.5, 1, z], [-0.5, 1, z]], np.float32)
    cover = Cover(two_sided=True, blended=opacity < 1.0, opacity=opacity)
    piece = Piece(
        name, colour, places, np.tile(np.float32([0, 0, 1]), (4, 1)), np.zeros((4, 4), np.uint16),
        np.tile(np.float32([1, 0, 0, 0]), (4, 1)), np.array([[0, 1, 2], [0, 2, 3]], np.uint32), cover,
    )  # fmt: skip
    return replace(BUOY, name=name, model=Model((piece,)), rig=BUOY.rig)


def drawn(*figures: Figure) -> np.ndarray:
    items = [standing(figure) for figure in figures]
    view = VIEWS["front"].fitted(np.array([[-0.5, 0, 0], [0.5, 1, 0]]), 1.0)
    return shared_renderer().draw(items, view, SIZE, LOOK)


def standing(figure: Figure) -> Item:
    item = item_posed(figure, np.array(figure.rig.defaults))
    return replace(item, world=np.tile(np.eye(4), (len(figure.rig.joints), 1, 1)))


@pytest.mark.parametrize("glass_first", [True, False])
def test_glass_shows_what_is_behind_it_in_whatever_order_they_come(glass_first: bool) -> None:
    wall, glass = pane("wall", (1, 0, 0), -0.3), pane("glass", (0, 0, 1), 0.3, 0.5)
    one, other, both = (
        drawn(*figures)[60, 60].astype(float)
        for figures in ((wall,), (pane("solid", (0, 0, 1), 0.3),), (glass, wall) if glass_first else (wall, glass))
    )
    assert np.abs(both - (one + other) / 2).max() < 4, "half of each"
    assert both[3] == 255


def test_glass_behind_something_is_not_seen() -> None:
    wall, glass = pane("wall", (1, 0, 0), 0.3), pane("glass", (0, 0, 1), -0.3, 0.5)
    assert np.array_equal(drawn(wall)[60, 60], drawn(glass, wall)[60, 60])


def test_normals_turn_with_the_faces_that_shapes_turn() -> None:
    places = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], float)
    triangles = np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
    flat = face_normals(places, triangles)
    assert np.allclose(flat, [0, 0, 1])
    tilted = places @ np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]], float)
    assert np.allclose(Bending(flat, places, triangles).at(tilted), face_normals(tilted, triangles), atol=1e-6)
    soft = np.tile(np.float32([0.6, 0, 0.8]), (4, 1))
    assert np.allclose(Bending(soft, places, triangles).at(places), soft), "nothing moved, nothing turned"


def test_a_shape_that_tilts_a_face_changes_its_tone() -> None:
    base = script.demo().figure("porter")
    name = next(iter(base.rig.morph_names))
    flat = pane("card", (0.8, 0.8, 0.8), 0.0)
    (piece,) = flat.model.pieces
    away = np.float32([[0, 0, -3], [0, 0, -3], [0, 0, 0], [0, 0, 0]])  # the lower edge goes back: it faces down
    card = replace(base, model=Model((replace(piece, morphs=((name, away),)),)))
    item = standing(card)
    view = VIEWS["front"].fitted(np.array([[-0.5, 0, 0], [0.5, 1, 0]]), 1.0)
    tones = []
    for amount in (0.0, 1.0):
        values = np.array(card.rig.defaults)
        values[card.rig.morph_columns[card.rig.morph_names[name]]] = amount
        tones.append(shared_renderer().draw([replace(item, values=values)], view, SIZE, LOOK)[60, 60, :3].astype(int))
    assert tones[1].sum() < tones[0].sum() - 60, "it lies in shade now"
