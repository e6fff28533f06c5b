"""The front glass: a second small view over the stage, from any side, in which posing works too."""

from __future__ import annotations

from PyQt6.QtCore import QRect, pyqtSignal
from PyQt6.QtGui import QHideEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from bovrin.desk.kit.menus import add_action, popup
from bovrin.desk.kit.widgets import SignButton
from bovrin.desk.stage.drags.navigation import SpaceBar
from bovrin.desk.stage.stage import Stage
from bovrin.desk.state.document.session import Session
from bovrin.picture.view import VIEWS, View

SMALL = (216, 196)
MARGIN = 12
PILLS = 38
"""Pixels that the pills over the stage take up."""
SMALL_HANDLE = 0.62


class FrontGlass(QWidget):
    """A stage of its own over the stage, small in the corner or as large as its half."""

    arranged = pyqtSignal()

    def __init__(self, session: Session, space: SpaceBar) -> None:
        super().__init__()
        self.setMinimumSize(120, 110)
        self.large = False
        self.stage = Stage(session, space, handle_size=SMALL_HANDLE, words=False)
        self.stage.setParent(self)
        self.stage.setAccessibleName("Front glass")
        self.stage.setMinimumSize(0, 0)
        self.stage.scene.look_from(VIEWS["front"])
        self._row = QWidget(self)
        line = QHBoxLayout(self._row)
        line.setContentsMargins(8, 6, 4, 0)
        line.setSpacing(2)
        self.side = QPushButton("Front")
        self.side.setToolTip("Look from another side; the middle button turns it freely")
        self.side.clicked.connect(self.open_sides)
        line.addWidget(self.side)
        line.addStretch(1)
        self.enlarge = SignButton("enlarge", "Half of the stage, or small again", self.toggle_large)
        line.addWidget(self.enlarge)
        self.close_sign = SignButton("close", "Close the front glass (G)", self.toggle)
        line.addWidget(self.close_sign)
        self.stage.scene.view_changed.connect(self._on_view_changed)
        self._placed = False
        self.stage.first_drawn.connect(self._on_first_drawn)
        session.looking_changed.connect(self._on_looking_changed)
        self.hide()

    def toggle(self) -> None:
        """Open or close it."""
        self.setVisible(not self.isVisible())
        self.arranged.emit()
        if self.isVisible():
            self.raise_()
            self.fit_all()

    def put_back(self, view: View | None, *, open_: bool, large: bool) -> None:
        """As it was left: where it looked from, and whether it was open and large."""
        self._placed = view is not None
        if large != self.large:
            self.toggle_large()
        if open_ != self.isVisibleTo(self.parentWidget()):
            self.setVisible(open_)
            self.raise_()
        self.arranged.emit()
        if view is not None:
            self.stage.look_from(view)

    def _on_first_drawn(self) -> None:
        if not self._placed:
            self.fit_all()

    def toggle_large(self) -> None:
        """Half of the stage, or small again."""
        self.large = not self.large
        self.stage.scene.handle_size = 1.0 if self.large else SMALL_HANDLE
        self._row.move(0, PILLS if self.large else 0)
        self.arranged.emit()
        self.fit_all()

    def fit_all(self) -> None:
        """See the whole of what is shown."""
        if self.stage.scene.drawable:
            self.stage.look_from(self.stage.scene.fitted())

    def open_sides(self) -> None:
        """The views by name."""
        menu = QMenu()
        for name in VIEWS:
            add_action(menu, name.capitalize(), lambda n=name: self.look_from(n))  # type: ignore[misc]
        popup(menu, self.side.mapToGlobal(self.side.rect().bottomLeft()), self)

    def look_from(self, name: str) -> None:
        """Look from a named side at everything."""
        self.stage.look_from(VIEWS[name])
        self.fit_all()
        self.side.setText(name.capitalize())

    def _on_looking_changed(self) -> None:
        for sign in (self.enlarge, self.close_sign):
            sign.refresh()

    def _on_view_changed(self) -> None:
        now = _way(self.stage.scene.view)
        self.side.setText(next((n.capitalize() for n, view in VIEWS.items() if _way(view) == now), "Free"))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.stage.setGeometry(self.rect())
        self._row.setFixedWidth(self.width())
        self._row.raise_()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.stage.cancel_drag()
        super().hideEvent(event)


def _way(view: View) -> tuple[float, float, bool]:
    return view.yaw, view.pitch, view.flat


class StageArea(QWidget):
    """The stage with the front glass over its corner, or both side by side. What commands ask of the stage they ask here."""

    def __init__(self, session: Session, space: SpaceBar) -> None:
        super().__init__()
        self.main, self.glass = Stage(session, space), FrontGlass(session, space)
        self.main.setParent(self)
        self.glass.setParent(self)
        self.glass.hide()
        self.glass.arranged.connect(self.arrange)

    def fit(self) -> None:
        """See what is chosen, again everything."""
        self.main.fit()

    def see_all(self) -> None:
        """See everything in the cast."""
        self.main.see_all()

    def look_from(self, view: View) -> None:
        """Look from elsewhere."""
        self.main.look_from(view)

    def look_at_figure(self, side: str) -> None:
        """See the chosen figure from its own front or side."""
        self.main.look_at_figure(side)

    def ask_place(self, what: str) -> None:
        """Let the next click on the stage say where the "pivot", the "spot" of an arc, or the "gaze" is."""
        self.main.ask_place(what)
        if what == "pivot":
            self.glass.stage.ask_place(what)

    def toggle_glass(self) -> None:
        """Open or close the front glass."""
        self.glass.toggle()

    def cancel_drag(self) -> bool:
        """Put everything back on both."""
        return self.main.cancel_drag() | self.glass.stage.cancel_drag()

    def arrange(self) -> None:
        """Share the room out."""
        width, height = self.width(), self.height()
        beside = self.glass.large and self.glass.isVisibleTo(self)
        self.main.setGeometry(QRect(0, 0, width // 2 - 2 if beside else width, height))
        if self.glass.large:
            self.glass.setGeometry(QRect(width // 2 + 2, 0, width - width // 2 - 2, height))
        else:
            wide, high = min(SMALL[0], width // 2), min(SMALL[1], height // 2)
            self.glass.setGeometry(QRect(width - wide - MARGIN, height - high - 44, wide, high))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.arrange()
