"""The right column: what each pass holds, folded and remembered, made when it is needed."""

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtWidgets import QApplication, QMessageBox, QPushButton
from tests.desk.conftest import Hand

from bovrin import cast, script
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.passes.registry import PASSES
from bovrin.desk.state.shelf import Place
from bovrin.desk.window import Window
from bovrin.shot import Shot


def seen(window: Window) -> list[str]:
    """The names of the panels that are open, from the top, then those whose titles stand below."""
    QApplication.processEvents()
    column = window.right.column
    widgets = [column.itemAt(n).widget() for n in range(column.count())]  # type: ignore[union-attr]
    names = {id(panel): name for name, panel in window.right._made.items()}
    opened = [names[id(w)] for w in widgets if w is not None and id(w) in names and not w.isHidden()]
    return [*opened, *window.right.titles.names()]


def test_each_pass_holds_its_panels_in_its_order(window: Window) -> None:
    for wanted in (*PASSES, PASSES[0]):
        window.session.set_pass(wanted.pass_)
        fitting = [kind for kind in wanted.panels if kind.fits(window.session)]
        names, found = [kind.name for kind in fitting], seen(window)
        assert sorted(found) == sorted(names)
        opened = [name for name in found if name not in window.right.titles.names()]
        assert opened == [name for name in names if name in opened] and opened, "from the top in the pass's order"
    window.run("view.light_table")
    assert "light" in seen(window) and window.right.panel("light").isVisible(), "what was asked for last is open"
    window.run("view.light_table")
    assert "light" not in seen(window)


@pytest.mark.parametrize("height", [640, 800, 1080])
def test_what_does_not_fit_stands_as_a_title(window: Window, height: int) -> None:
    """No panel is cut: what is open ends above the column's end, or it is alone."""
    window.resize(1280, height)
    window.session.choose("porter", [window.session.shot.figure("porter").rig.control("hips")])
    for wanted in PASSES:
        window.session.set_pass(wanted.pass_)
        window.session.go_to(123)
        for _ in range(3):
            QApplication.processEvents()
        panels = window.right.open_panels()
        end = max(panel.geometry().bottom() for panel in panels)
        port = window.right.viewport()
        assert port is not None
        assert end <= port.height() or len(panels) == 1
        for name in window.right.titles.names():
            window.right.open(name)
            QApplication.processEvents()
            assert window.right.panel(name).isVisible() and name not in window.right.titles.names()


def test_no_panel_is_wider_than_its_column(window: Window) -> None:
    """With all that may stand in them: a cycle, a laid clip that is chosen, a ruler, chosen controls."""
    shot = script.load(cast.ACROSS)
    window.session.replace(script.lay_ruler(shot, (0.0, 0.0), (1.0, 0.0)), None)
    rig = window.session.shot.figure("porter").rig
    window.session.choose("porter", [rig.control("head")])
    window.session.shelf.choose(Place(0, 1))
    for wanted in PASSES:
        window.session.set_pass(wanted.pass_)
        for kind in wanted.panels:
            panel = window.right.open(kind.name)
            QApplication.processEvents()
            assert panel.minimumSizeHint().width() <= window.right.width(), f"'{kind.name}' is cut"


def test_panels_of_other_passes_are_not_made_before_they_are_needed(window: Window) -> None:
    assert "breakdown" not in window.right._made and window.bottom.made_curves is None
    window.run("pass.break_down")
    QApplication.processEvents()
    assert "breakdown" in window.right._made
    window.run("pass.spline")
    QApplication.processEvents()
    assert window.curves.desk.isVisible() and "traces" in window.right._made


def test_nothing_that_is_made_later_takes_the_keyboard(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    assert window.right.panel("chosen keys").isVisible() and QApplication.focusWidget() is window.stage.main
    assert len(QApplication.topLevelWidgets()) <= 2, "no panel became a window of its own"


def test_what_was_put_away_and_used_last_is_remembered(make, demo: Shot) -> None:  # type: ignore[no-untyped-def]
    window: Window = make(demo)
    assert "markers" in seen(window) and "markers" in window.right.titles.names()
    window.right.panel("values").fold.click()
    title = next(b for b in window.right.titles.findChildren(QPushButton) if b.text() == "MARKERS")
    title.click()
    assert "values" in seen(window) and "values" in window.right.titles.names()
    assert "markers" not in window.right.titles.names()
    window.ask.unsaved = lambda _title: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    window.close()
    again: Window = make(demo)
    assert "values" in seen(again) and "values" in again.right.titles.names()
    assert again.right.panel("markers").isVisible()
    again.right.restore("{ not what was written")
    assert again.right.panel("markers").isVisible(), "what cannot be read changes nothing"


def test_polygons_hold_the_points_they_are_made_of() -> None:
    xs, ys = np.array([1.0, -2.5, 1e5]), np.array([0.0, 7.25, -1e-3])
    made = polygon(xs, ys)
    assert [(p.x(), p.y()) for p in made] == list(zip(xs, ys, strict=True))
    assert len(polygon(np.empty(0), np.empty(0))) == 0


def test_the_hint_follows_the_pointer_over_the_strip(window: Window, hand: Hand) -> None:
    strip, scale = window.strip, window.bottom.scale
    places = {
        "scrub": QPointF(scale.x(110), 4),
        "end of the range": QPointF(scale.x(160), 20),
        "add a marker": QPointF(scale.x(150), strip.places.markers_top() + 5),
        "move it or its ends": QPointF(scale.x(105), strip.places.markers_top() + 5),
        "Timing chart": QPointF(scale.x(112), strip.places.chart_top() + 8),
        "each pose holds": QPointF(scale.x(112), strip.places.holds_top() + 5),
        "Click to go to this pose": strip.places.card_rects()[2][1].center(),
        "Drag the edge": QPointF(
            strip.places.card_rects()[2][1].right() - 2, strip.places.card_rects()[2][1].center().y()
        ),
        "Drag to move these keys": QPointF(scale.x(119), strip.places.lane_y(1)),
        "drag a box": QPointF(scale.x(130), strip.places.lane_y(1)),
        "Click a lane": QPointF(60, strip.places.lane_y(1)),
    }
    none, keys = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier
    for words, at in places.items():
        hand.mouse(strip, QEvent.Type.MouseMove, at, none, none, keys)
        assert words in window.status.hint.text(), (words, window.status.hint.text())
