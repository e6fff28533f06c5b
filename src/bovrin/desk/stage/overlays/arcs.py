"""Arcs on the stage: a dot for each frame, closer is slower; dots are clicked to go there and dragged to pose."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from bovrin.craft.keying.keys import poses_around
from bovrin.craft.keying.lag import card_poses_of
from bovrin.desk.kit.gesture import Modifiers, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.marks import draw_mark
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.stage.drags.arc_drag import ArcDrag, Dot, arc_drag
from bovrin.desk.stage.overlay import HAND, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.desk.state.looking.arcs import FLAT, carrier_of, spot_of
from bovrin.frozen import frozen
from bovrin.measure.arcs import Arc, Walked
from bovrin.picture.theme import PENCIL_ROLES
from bovrin.shot import KeyRole, Shot, Spot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

ROUND = Qt.PenCapStyle.RoundCap
REACH = 7.0
"""Pixels from a dot within which it is under the pointer."""
FAINTEST = 0.4
BANDS = 10
"""Steps of strength in which an arc fades."""
DOT, MARK = 2.4, 4.0
WORDS = "Click goes there; drag moves it (Alt: the whole body; Shift: a breakdown there)"


@frozen
class Drawn:
    """An arc as it is seen: its dots on the screen (F, 2), its places on the stage (F, 3), what lies on its frames."""

    spot: Spot
    arc: Arc
    shown: Floats
    dots: Floats
    roles: dict[float, int]
    colour: QColor
    chosen: bool


class ArcDots:
    """The arcs of what is chosen and of the points that are kept."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session = scene, scene.session
        self._walked = Walked()

    def drawn(self) -> list[Drawn]:
        """What is seen now."""
        session, arcs = self.session, self.session.looking.arcs
        if not arcs.on or session.playing:
            return []
        shot = session.seen
        cycle = None if session.figure is None else shot.cycle(session.figure.name)
        frames = arcs.frames(shot, session.frame, cycle)
        if not len(frames):  # a second range that lies outside the shot
            return []
        return [one for spot, chosen in self._spots() if (one := self._drawn(shot, spot, frames, chosen)) is not None]

    def _spots(self) -> list[tuple[Spot, bool]]:
        """The points, and whether each is one that is chosen now."""
        session, shot = self.session, self.session.seen
        shown = {figure.name: figure for figure in shot.cast if session.looking.shows(figure)}
        chosen = [spot_of(session.figure, c) for c in session.controls] if session.figure is not None else []
        kept = [spot for spot in shot.spots if spot.figure in shown]
        places = {spot[:3] for spot in kept}
        new = [spot for spot in dict.fromkeys(chosen) if spot.figure in shown and spot[:3] not in places]
        bare = {spot[:3] for spot in chosen}
        return [(spot, spot[:3] in bare) for spot in kept] + [(spot, True) for spot in new]

    def _drawn(self, shot: Shot, spot: Spot, frames: Floats, chosen: bool) -> Drawn | None:
        figure = shot.figure(spot.figure)
        carrier = carrier_of(figure, self.session.looking.arcs)
        (found,) = self._walked.arcs(shot, [spot], frames, None if carrier is None else (spot.figure, carrier))
        if found is None:
            return None
        shown = found.position
        if carrier is not None:
            now = self._walked.over(shot, spot.figure, frames).world[self._here(frames), carrier]
            shown = shown @ now[:3, :3].T + now[:3, 3]
        poses = poses_around(card_poses_of(shot.curves(spot.figure)), shot.cycle(spot.figure), self.session.frame)
        told = zip(poses.frames.tolist(), poses.roles.tolist(), strict=True)
        roles = {frame: role for frame, role in told if role != KeyRole.IN_BETWEEN}
        is_kept = spot in shot.spots
        colour = Look.colour(PENCIL_ROLES[spot.pencil]) if is_kept else Look.colour("ink")
        return Drawn(spot, found, shown, self._on_screen(frames, shown), roles, colour, chosen)

    def _here(self, frames: Floats) -> int:
        return int(np.abs(frames - self.session.frame).argmin())

    def _on_screen(self, frames: Floats, places: Floats) -> Floats:
        scene, size = self.scene, (self.scene.size.width(), self.scene.size.height())
        if self.session.looking.arcs.seen != FLAT or not self.session.looking.follow:
            return np.asarray(scene.view.project(places, size)[:, :2])
        views = [scene.view_on(float(frame)) for frame in frames]  # each frame has a view of its own
        rows = [view.project(place, size)[:2] for view, place in zip(views, places, strict=True)]
        return np.array(rows).reshape(-1, 2)

    # -- paint --------------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """Lines first, then dots, the marks of poses, and a ring round the dot of now."""
        for one in self.drawn():
            self._paint(painter, one)

    def _paint(self, painter: QPainter, one: Drawn) -> None:
        frames, here, (xs, ys) = one.arc.frames, self.session.frame, one.dots.T
        far = max(float(np.abs(frames - here).max(initial=1.0)), 1.0)
        strength = 1.0 - (1.0 - FAINTEST) * np.abs(frames - here) / far
        painter.setPen(QPen(Look.colour("raised", 0.75), 5.0, cap=ROUND, join=Qt.PenJoinStyle.RoundJoin))
        painter.drawPolyline(polygon(xs, ys))
        bands, colour = np.round(strength * BANDS).astype(int), QColor(one.colour)
        edges = [0, *(np.flatnonzero(np.diff(bands)) + 1).tolist(), len(bands)]
        for a, b in pairwise(edges):  # a run of frames of one strength
            colour.setAlphaF(min(bands[a] / BANDS, 1.0))
            painter.setPen(QPen(colour, 2.0, cap=ROUND))
            painter.drawPolyline(polygon(xs[a : b + 1], ys[a : b + 1]))
            painter.setPen(QPen(colour, 2 * DOT, cap=ROUND))
            painter.drawPoints(polygon(xs[a:b], ys[a:b]))
        for n in np.flatnonzero(np.isin(frames, list(one.roles))).tolist():
            painter.setOpacity(float(strength[n]))
            draw_mark(painter, QPointF(xs[n], ys[n]), one.roles[float(frames[n])], MARK)
            painter.setOpacity(1.0)
        for n in np.flatnonzero(np.abs(frames - here) < SAME_FRAME).tolist():
            painter.setPen(Look.pen("alert", 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(xs[n], ys[n]), 5.5, 5.5)

    # -- mouse --------------------------------------------------------------------------------------------------------

    def hit(self, at: QPointF) -> Hit | None:
        """The nearest dot; that of now belongs to the handle where its control is chosen."""
        best: Hit | None = None
        for one in self.drawn():
            away = np.hypot(one.dots[:, 0] - at.x(), one.dots[:, 1] - at.y())
            if one.chosen:
                away = np.where(np.abs(one.arc.frames - self.session.frame) < SAME_FRAME, np.inf, away)
            n = int(away.argmin()) if len(away) else 0
            if len(away) and away[n] <= REACH and (best is None or away[n] < best.distance):
                best = Hit(float(away[n]), HAND, _words(one, n), (one, n))
        return best

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """A click goes to the frame; a drag moves the dot."""
        assert isinstance(hit.what, tuple)
        one, n = hit.what
        assert isinstance(one, Drawn)
        session, frame = self.session, float(one.arc.frames[n])
        return Press(self._drag(one, n, at), lambda: session.go_to(frame))

    def _drag(self, one: Drawn, n: int, at: QPointF) -> ArcDrag | None:
        session, frame = self.session, float(one.arc.frames[n])
        view = self.scene.view_on(frame) if session.looking.arcs.seen == FLAT else self.scene.view
        carrier = carrier_of(session.seen.figure(one.spot.figure), session.looking.arcs)
        turn = np.eye(3)
        if carrier is not None:
            worlds = self._walked.over(session.seen, one.spot.figure, one.arc.frames).world[:, carrier, :3, :3]
            turn = worlds[n] @ np.linalg.inv(worlds[self._here(one.arc.frames)])
        return arc_drag(session, Dot(one.spot, frame, one.shown[n], turn), at, view, self.scene.size.height())

    def reset(self, hit: Hit) -> None:
        """The first click has gone there."""


def _words(one: Drawn, n: int) -> str:
    steps = one.arc.steps
    step = f" · {steps[n] * 100:.1f} cm to the next" if n < len(steps) else ""
    return f"{one.spot.joint} on frame {one.arc.frames[n]:g}{step}. {WORDS}"
