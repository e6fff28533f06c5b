"""The right column: what each pass holds, folded and remembered, made when it is needed."""

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtWidgets import QApplication, QMessageBox
from tests.desk.conftest import Hand

from bovrin.desk.kit.polygons import polygon
from bovrin.desk.passes import PASSES
from bovrin.desk.window import Window
from bovrin.shot import Shot


def seen(window: Window) -> list[str]:
    column = window.right.column
    widgets = [column.itemAt(n).widget() for n in range(column.count())]  # type: ignore[union-attr]
    names = {id(panel): name for name, panel in window.right._made.items()}
    return [names[id(w)] for w in widgets if w is not None and id(w) in names and not w.isHidden()]


def test_each_pass_holds_its_panels_in_its_order(window: Window) -> None:
    for wanted in (*PASSES, PASSES[0]):
        window.session.set_pass(wanted.pass_)
        assert seen(window) == [kind.name for kind in wanted.panels]
    window.run("view.light_table")
    assert seen(window) == [*(kind.name for kind in PASSES[0].panels), "light"]
    window.run("view.light_table")
    assert seen(window) == [kind.name for kind in PASSES[0].panels]


def test_panels_of_other_passes_are_not_made_before_they_are_needed(window: Window) -> None:
    assert "breakdown" not in window.right._made and window.bottom.made_curves is None
    window.run("pass.break_down")
    assert "breakdown" in window.right._made
    window.run("pass.spline")
    assert window.curves.desk.isVisible() and "traces" in window.right._made


def test_nothing_that_is_made_later_takes_the_keyboard(window: Window, hand: Hand) -> None:
    window.stage.main.setFocus()
    hand.key(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    assert window.right.panel("chosen keys").isVisible() and QApplication.focusWidget() is window.stage.main
    assert len(QApplication.topLevelWidgets()) <= 2, "no panel became a window of its own"


def test_folds_are_remembered(make, demo: Shot) -> None:  # type: ignore[no-untyped-def]
    window: Window = make(demo)
    QApplication.processEvents()
    assert window.right.panel("markers").folded and not window.right.panel("values").folded
    window.right.panel("values").fold.click()  # type: ignore[union-attr]
    window.right.panel("markers").fold.click()  # type: ignore[union-attr]
    assert window.right.panel("values").body.isHidden() and window.right.panel("values").fold.text() == "VALUES …"  # type: ignore[union-attr]
    window.ask.unsaved = lambda: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    window.close()
    again: Window = make(demo)
    QApplication.processEvents()
    assert again.right.panel("values").folded and not again.right.panel("markers").folded
    assert not again.right.panel("keys").folded


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
