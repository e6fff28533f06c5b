import ctypes
from dataclasses import replace

import numpy as np
import pytest

from bovrin import script
from bovrin.errors import BadMotion, UnknownName
from bovrin.picture import renderer as renderer_module
from bovrin.picture.item import Item, items_at
from bovrin.picture.renderer import PictureStyle, Renderer, shared_renderer
from bovrin.picture.shot_picture import shot_picture
from bovrin.picture.theme import NIGHT, PAPER, THEMES, rgb
from bovrin.picture.view import VIEWS, named_view
from bovrin.shot import Shot

SIZE = (320, 240)


def differs(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return (np.abs(a.astype(int) - b.astype(int)) > 24).any(-1)


def test_the_same_shot_gives_the_same_picture(demo: Shot) -> None:
    a, b = (script.picture(demo, 119, "three-quarter", SIZE) for _ in range(2))
    assert a.shape == (240, 320, 4) and a.dtype == np.uint8
    assert np.array_equal(a, b)
    assert (a[..., 3] == 255).all()


def test_another_pose_gives_another_picture(demo: Shot) -> None:
    a, b = (script.picture(demo, f, "three-quarter", SIZE) for f in (101, 119))
    assert differs(a, b).sum() > 500


def test_a_held_pose_is_held_to_the_pixel(demo: Shot) -> None:
    acting = replace(demo, cast=tuple(f for f in demo.cast if f.name in ("porter", "crate")))
    assert np.array_equal(*(script.picture(acting, f, "side", SIZE) for f in (119, 126)))


def test_the_figure_is_drawn_where_its_joints_are(demo: Shot) -> None:
    view = named_view("front")
    with_figure = shot_picture(demo, 101, view, SIZE, PictureStyle(shadow=False))
    empty = shot_picture(Shot("none"), 101, view, SIZE, PictureStyle(shadow=False))
    drawn = differs(with_figure, empty)
    motion = script.sample(demo, "porter", [101])
    for joint in ("head", "chest", "left shin"):
        x, y, _ = view.project(motion.position[0, motion.joints.index(joint)], SIZE)
        assert drawn[int(y), int(x)], joint
    assert not drawn[5, 5] and not drawn[5, -5]


def test_ink_runs_along_the_outline(demo: Shot) -> None:
    items = items_at(demo, 101)[:1]
    plain = shared_renderer().draw(
        items, named_view("front"), SIZE, PictureStyle(backdrop=None, shadow=False, line=0, fine=False)
    )
    inked = shared_renderer().draw(
        items, named_view("front"), SIZE, PictureStyle(backdrop=None, shadow=False, line=1.5, fine=False)
    )
    more = (inked[..., 3] > 0) & (plain[..., 3] == 0)
    assert more.sum() > 200
    assert (inked[more][:, :3] < 60).all()


def test_the_shadow_darkens_the_ground_under_the_feet(demo: Shot) -> None:
    bare = shot_picture(demo, 101, VIEWS["three-quarter"], SIZE, PictureStyle(shadow=False, fine=False))
    shaded = shot_picture(demo, 101, VIEWS["three-quarter"], SIZE, PictureStyle(fine=False))
    changed = bare[..., :3].astype(int).sum(-1) - shaded[..., :3].astype(int).sum(-1)
    assert (changed >= -3).all() and (changed > 20).sum() > 300
    assert changed[:100].max() <= 3


def test_picking_finds_the_joint_under_a_pixel(demo: Shot) -> None:
    view = named_view("front")
    items = items_at(demo, 101)
    picked = shared_renderer().pick(items[:1], view, SIZE)
    rig = demo.figure("porter").rig
    x, y, _ = view.project(items[0].world[rig.joint("head"), :3, 3] + [0, 0.1, 0], SIZE)
    hit = picked.at(int(x), int(y))
    assert hit is not None and hit.figure is items[0].figure and rig.joints[hit.joint].name in ("head", "beard")
    assert picked.at(2, 2) is None and picked.at(-1, 5) is None and picked.at(SIZE[0], 5) is None


def test_a_box_finds_the_joints_of_one_figure(demo: Shot) -> None:
    """Also where a set stands first in the cast and is not picked."""
    view = named_view("front")
    items = [item for item in items_at(demo, 101) if not item.figure.is_set]
    picked = shared_renderer().pick(items[::-1], view, SIZE)
    whole = picked.within(0, 0, SIZE[0], SIZE[1], "porter")
    assert whole is not None and whole[0].name == "porter" and len(whole[1]) > 20
    other = picked.within(0, 0, SIZE[0], SIZE[1], "crate")
    assert other is not None and other[0].name == "crate" and other[1] == [0]
    most = picked.within(-50, -50, SIZE[0] + 50, SIZE[1] + 50, "nobody")
    assert most is not None and most[0].name == "porter"
    assert picked.within(0, 0, 3, 3, "porter") is None


def test_themes_have_contrast_for_reading() -> None:
    def luminance(colour: str) -> float:
        linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in rgb(colour)]
        return float(np.dot(linear, [0.2126, 0.7152, 0.0722]))

    for theme in THEMES.values():
        pairs = [("ink", b) for b in ("panel", "raised", "desk", "accent_wash", "ochre_wash")]
        pairs += [("muted", b) for b in ("panel", "raised", "desk")] + [("on_accent", "accent")]
        for text, ground in pairs:
            a, b = sorted((luminance(getattr(theme, text)), luminance(getattr(theme, ground))))
            assert (b + 0.05) / (a + 0.05) >= 4.5, (theme.name, text, ground)


def test_the_night_theme_changes_the_stage(demo: Shot) -> None:
    day, night = (
        shot_picture(demo, 101, VIEWS["side"], SIZE, PictureStyle(theme=t, fine=False)) for t in (PAPER, NIGHT)
    )
    assert day[3, 3, 0] > night[3, 3, 0] + 80


@pytest.mark.parametrize("size", [(0, 100), (100, 9000), (-5, 40)])
def test_impossible_sizes_are_refused(demo: Shot, size: tuple[int, int]) -> None:
    with pytest.raises(BadMotion, match="not possible"):
        script.picture(demo, 101, "front", size)


def test_unknown_views_are_refused(demo: Shot) -> None:
    with pytest.raises(UnknownName):
        script.picture(demo, 101, "behind", SIZE)


def test_pictures_of_many_sizes_stay_right(demo: Shot) -> None:
    """More sizes than are kept, fine and plain by turns: each picture is the one that its size gives alone."""
    items, view, renderer = items_at(demo, 119), VIEWS["three-quarter"], shared_renderer()
    sizes = [(80 + 8 * i, 60 + 6 * i) for i in range(9)]
    first = [renderer.draw(items, view, s, PictureStyle(fine=f)).copy() for s in sizes for f in (True, False)]
    again = [renderer.draw(items, view, s, PictureStyle(fine=f)).copy() for s in reversed(sizes) for f in (False, True)]
    assert all(np.array_equal(a, b) for a, b in zip(first, reversed(again), strict=True))


def test_sizes_that_are_nearly_the_same_share_a_target_and_are_drawn_to_the_pixel(
    demo: Shot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A splitter dragged about: each picture is the one that a target of just its size gives."""
    items, view = items_at(demo, 119), VIEWS["three-quarter"]
    styles = PictureStyle(fine=True), PictureStyle(fine=False), PictureStyle(fine=False, backdrop=None)
    sizes = [(200 + n, 140 + n % 7) for n in (0, 1, 9, 3, 30, 2, 0, 1)]
    shared = Renderer()
    drawn = [shared.draw(items, view, size, style).copy() for size in sizes for style in styles]
    before = alive(shared)["Renderbuffer"]
    for n in range(20):
        shared.draw(items, view, (210 + n % 7, 140), styles[1])
    assert alive(shared)["Renderbuffer"] <= before + 4
    monkeypatch.setattr(renderer_module, "ROUNDED", 1)
    alone = Renderer()
    exact = [alone.draw(items, view, size, style).copy() for size in sizes for style in styles]
    assert all(np.array_equal(a, b) for a, b in zip(drawn, exact, strict=True))


@pytest.mark.parametrize("yaw", np.radians([0, 35, 120, 200, 290]))
@pytest.mark.parametrize("distance", [18.0, 30.0])
def test_the_water_ends_in_a_level_horizon(demo: Shot, yaw: float, distance: float) -> None:
    """Wherever one looks from, both edges of the picture are water up to the same row, and paper above it."""
    view = replace(VIEWS["three-quarter"], yaw=float(yaw), distance=distance)
    style = PictureStyle(fine=False, line=0.0)
    with_water = shared_renderer().draw(items_at(demo, 101), view, SIZE, style)
    without = shared_renderer().draw([i for i in items_at(demo, 101) if not i.figure.is_set], view, SIZE, style)
    rows = [np.flatnonzero(differs(with_water[:, column], without[:, column])) for column in (0, SIZE[0] - 1)]
    assert all(len(r) > 40 and r.max() == SIZE[1] - 1 and (np.diff(r) == 1).all() for r in rows)
    assert abs(int(rows[0].min()) - int(rows[1].min())) <= 1


def test_night_dims_the_set_and_not_the_actors(demo: Shot) -> None:
    view = VIEWS["three-quarter"]

    def drawn(name: str) -> tuple[np.ndarray, np.ndarray]:
        style = PictureStyle(theme=THEMES[name], fine=False, line=0.0, shadow=False)
        picture = shared_renderer().draw(items_at(demo, 101), view, SIZE, style)
        whose = shared_renderer().pick(items_at(demo, 101), view, SIZE)
        number = np.asarray(whose.pixels[..., 2], int)
        is_set = np.array([False, *(i.figure.is_set for i in whose.items)])[number]
        return picture[(number > 0) & ~is_set], picture[is_set]

    (actors_day, set_day), (actors_night, set_night) = drawn("paper"), drawn("night")
    assert np.array_equal(actors_day, actors_night) and len(actors_day) > 1000
    assert set_night[..., :3].mean() < 0.6 * set_day[..., :3].mean() and len(set_day) > 1000


def test_two_renderers_in_turn_draw_what_each_draws_alone(demo: Shot) -> None:
    items, view, style = items_at(demo, 119), VIEWS["three-quarter"], PictureStyle(fine=False)
    alone = shared_renderer().draw(items, view, SIZE, style).copy()
    other = Renderer()
    for _ in range(3):
        assert np.array_equal(shared_renderer().draw(items, view, SIZE, style), alone)
        assert np.array_equal(other.draw(items, view, SIZE, style), alone)


KINDS = ("Renderbuffer", "Framebuffer", "Buffer", "Texture", "VertexArray", "Program")


def alive(renderer: Renderer) -> dict[str, int]:
    """What the graphics library itself says there is of each kind, in the renderer's context."""
    renderer.ctx.gc()
    library = ctypes.CDLL("libGL.so.1")
    found = {}
    for kind in KINDS:
        asked = getattr(library, f"glIs{kind}")
        asked.restype = ctypes.c_ubyte
        found[kind] = sum(bool(asked(n)) for n in range(1, 3000))
    return found


def test_pictures_of_many_sizes_give_their_memory_back(demo: Shot) -> None:
    renderer, found = Renderer(), list[int]()
    for n in range(40):
        renderer.draw(items_at(demo, 119)[:1], VIEWS["front"], (300 + 20 * n, 200), PictureStyle(fine=n % 2 == 0))
        found.append(alive(renderer)["Renderbuffer"])
    assert found[-1] == max(found[:20]), "after the first sizes it stays as it is"


def test_figures_and_renderers_that_are_gone_leave_nothing_on_the_graphics_side(demo: Shot) -> None:
    figure, view, style = demo.figure("porter"), VIEWS["front"], PictureStyle(fine=False)
    items_at(demo, 119)
    found: list[dict[str, int]] = []
    for _ in range(4):
        renderer = Renderer()
        for _ in range(3):
            other = replace(figure, model=replace(figure.model))
            shot = replace(demo, cast=tuple(other if f is figure else f for f in demo.cast))
            renderer.draw(items_at(shot, 119), view, SIZE, style)
            found.append(alive(renderer))
        del renderer, other, shot
    assert found[0]["Buffer"] > 0 and found[2] == found[1]
    assert found[-1] == found[-4], "a renderer more, and one less"


def test_what_is_where_it_was_is_not_placed_again_and_what_moved_is(demo: Shot) -> None:
    """Poses, shapes, views and sizes in turn: each picture is that of a renderer that has drawn nothing before."""
    items = [items_at(demo, frame) for frame in (101, 119)]
    smiling = [Item(i.figure, i.world, i.values * 1.2 if len(i.amounts) else i.values) for i in items[0]]
    turns = [
        (items[0], "front"),
        (items[0], "side"),
        (smiling, "side"),
        (items[1], "side"),
        (items[0], "side"),
        (items[0][:2], "side"),
    ]
    used = Renderer()
    for shown, view in turns:
        drawn = used.draw(shown, VIEWS[view], SIZE, PictureStyle(fine=False)).copy()
        assert np.array_equal(drawn, Renderer().draw(shown, VIEWS[view], SIZE, PictureStyle(fine=False)))
