"""The scene on a stage: what is seen, from where, and what lies where on the screen."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QLineF, QObject, QPointF, QRect, QSize, pyqtSignal
from PyQt6.QtGui import QTabletEvent

from bovrin.craft.keying.keys import poses_around
from bovrin.craft.pose.posing import control_for_joint, leader_of
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.following import Following
from bovrin.desk.stage.overlays.ghosts import ghosts
from bovrin.desk.stage.overlays.other_take import OtherTake
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.light_table import RANGE
from bovrin.figure.body.bends import movers
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import stance, stances
from bovrin.picture.item import Ghost, Item, item_of
from bovrin.picture.parts import only_parts
from bovrin.picture.picked import Picked, Seen
from bovrin.picture.renderer import shared_renderer
from bovrin.picture.view import VIEWS, View
from bovrin.shot import Figure

Floats = NDArray[np.float64]

BESIDE_BONES = 16
"""Pixels from the pointer within which bones without skin are under it; their tips are thinner than one."""
NEAR = 9.0
"""Pixels from the pointer within which skin counts as under it."""
ROUND = 1.25
"""Air around all that is seen when it is fitted."""


END_ROOM = 0.3
"""The share of a limb's lower bone, as seen, that belongs to the hand or foot at its end."""


class Scene(QObject):
    """The session's shot, seen from a view in a widget of a size. `drawable`: whether this machine draws pictures."""

    view_changed = pyqtSignal()

    def __init__(self, session: Session, handle_size: float = 1.0) -> None:
        super().__init__()
        self.session, self.handle_size = session, handle_size
        self._following = Following(session, VIEWS["three-quarter"])
        self.size = QSize(16, 16)
        self.drawable = False
        self.pressure: float | None = None
        self._picked: Picked | None = None
        self.other_take = OtherTake(session)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The pressure of a pen is noted; the mouse event that follows draws with it."""
        if isinstance(event, QTabletEvent):
            self.pressure = None if event.type() == QEvent.Type.TabletRelease else event.pressure()
            event.ignore()
        return super().eventFilter(watched, event)

    def look_from(self, view: View) -> None:
        """Look from elsewhere."""
        self._following.take(view)
        self.forget()
        self.view_changed.emit()

    @property
    def view(self) -> View:
        """Where the stage is looked at from now."""
        return self._following.at(self.session.frame)

    def view_on(self, frame: float) -> View:
        """Where it is looked at from on a frame."""
        return self._following.at(frame)

    def forget(self) -> None:
        """Something else is seen now."""
        self._picked = None

    @property
    def pixels(self) -> tuple[int, int]:
        """The widget's size; never too small for a picture."""
        return max(16, self.size.width()), max(16, self.size.height())

    # -- what is seen -------------------------------------------------------------------------------------------------

    def items(self, frame: float | None = None) -> list[Item]:
        """Where every figure that is shown is now, or on another frame."""
        session = self.session
        shot, looking = session.seen, session.looking
        at = session.frame if frame is None else frame
        shown = [figure for figure in shot.cast if looking.shows(figure)]
        where = stances(shot, [figure.name for figure in shown], at)
        found = []
        for figure in shown:
            parts = looking.seen_parts(figure)
            drawn = figure if parts is None else only_parts(figure, parts)
            found.append(item_of(drawn, where[figure.name]))
        return found

    def ghosts(self) -> list[Ghost]:
        """What lies on the light table: drawings of the chosen figure around the current frame."""
        session = self.session
        figure, table = session.figure, session.looking.light_table
        if figure is None or not table.on or session.playing or not session.looking.shows(figure):
            return []
        shot = session.shown
        cycle, first, last = shot.cycle(figure.name), shot.first, shot.last
        if cycle is not None and table.kind != RANGE:  # a loop goes on over its seam
            first, last = min(first, cycle.first - cycle.length), max(last, cycle.last + cycle.length)
        around = table.frames_shown(
            session.frame, poses_around(session.poses.cards, cycle, session.frame), first, last, shot.second
        )
        return ghosts(table, session.seen, figure, around, session.frame, Look.theme, self._table_joint(figure))

    def _table_joint(self, figure: Figure) -> int:
        """The joint that drawings are lined up on: the chosen control's, else what carries the body."""
        if self.session.controls:
            return figure.rig.controls[self.session.controls[-1]].joint
        carriers = movers(figure.rig)
        return max(carriers) if carriers else 0

    def fitted(self, places: Floats | None = None, margin: float = 1.25) -> View:
        """The view from here in which places (N, 3) are seen, or else all that is shown."""
        aspect = self.size.width() / max(self.size.height(), 1)
        if places is not None:
            return self.view.fitted(places, aspect, margin)
        seen = self.items() + self.other_take.beside(self.view)
        actors = [item for item in seen if not item.figure.is_set] or seen
        corners = np.concatenate([_corners(item) for item in actors] or [np.array([[0.0, 0.0, 0.0], [1.0, 1.0, 1.0]])])
        low, high = corners.min(0), corners.max(0)
        box = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        return self.view.fitted(box, aspect, ROUND)

    # -- what lies where ----------------------------------------------------------------------------------------------

    def on_screen(self, place: Floats) -> QPointF:
        """A world place in the widget's pixels."""
        x, y, _ = self.view.project(place, (self.size.width(), self.size.height()))
        return QPointF(float(x), float(y))

    def metres_per_pixel(self, place: Floats) -> float:
        """How many metres a pixel spans at the depth of a world place."""
        return self.view.metres_per_pixel(place, self.size.height())

    def picked(self) -> Picked | None:
        """What lies under each pixel: the actors, and a set only while it is the chosen figure."""
        if not self.drawable:
            return None
        if self._picked is None:
            chosen = self.session.figure_name
            touchable = [i for i in self.items() if not i.figure.is_set or i.figure.name == chosen]
            self._picked = shared_renderer().pick(touchable, self.view, self.pixels)
        return self._picked

    def skin_at(self, at: QPointF) -> Seen | None:
        """The figure and joint whose skin is under a point of the widget; bones that are seen without skin are as wide as a
        finger's tip."""
        picked = self.picked()
        if picked is None:
            return None
        x, y = int(at.x()), int(at.y())
        return picked.at(x, y) or picked.near(x, y, BESIDE_BONES, lambda figure: figure.model.is_bones)

    def control_of(self, figure: str, joint: int) -> int:
        """The control that moves a joint's skin now."""
        return control_for_joint(stance(self.session.seen, figure, self.session.frame), joint)

    def control_at(self, at: QPointF) -> tuple[str, int] | None:
        """The figure and control under a point of the widget."""
        hit = self.skin_at(at)
        if hit is None:
            return None
        name = hit.figure.name
        return name, self.control_of(name, self._meant(name, leader_of(hit.figure.rig, hit.joint), at))

    def _meant(self, name: str, joint: int, at: QPointF) -> int:
        """The joint that a point on a joint's skin means: near its end a limb's lower bone gives room to hand or foot."""
        now = stance(self.session.seen, name, self.session.frame)
        for limb in now.rig.limbs:
            if joint == limb.middle:
                middle, end = (self.on_screen(now.seen(j)) for j in (limb.middle, limb.end))
                if QLineF(end, at).length() < END_ROOM * QLineF(end, middle).length():
                    return limb.end
        return joint

    def controls_in(self, box: QRect) -> tuple[str, list[int]] | None:
        """The controls of one figure whose skin is seen in a box: of the chosen figure if it is there."""
        picked = self.picked()
        edges = box.left(), box.top(), box.right(), box.bottom()
        seen = None if picked is None else picked.within(*edges, self.session.figure_name)
        if seen is None:
            return None
        name = seen[0].name
        return name, list(dict.fromkeys(self.control_of(name, joint) for joint in seen[1]))

    def skin_place(self, at: QPointF) -> Floats | None:
        """The place of the chosen figure's skin nearest to a point of the widget, the front one of those (3,)."""
        figure = self.session.figure
        if figure is None:
            return None
        item = item_of(figure, self.session.stance())
        places = skinned(figure, item.world, item.amounts)
        if not len(places):
            return None
        seen = self.view.project(places, (self.size.width(), self.size.height()))
        near = np.flatnonzero(np.hypot(seen[:, 0] - at.x(), seen[:, 1] - at.y()) < NEAR)
        return np.asarray(places[near[seen[near, 2].argmin()]]) if len(near) else None


def _corners(item: Item) -> Floats:
    """The lowest and the highest corner of an item (2, 3); of one without a mesh those of its joints."""
    if not item.figure.model.triangle_count:
        places = item.world[:, :3, 3]
        return np.array([places.min(0), places.max(0)])
    return np.array(shared_renderer().drawable(item.figure).bounds(item))
