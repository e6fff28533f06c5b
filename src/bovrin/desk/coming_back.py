"""A project opens as it was left; one that nothing is known of is seen whole."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from bovrin.desk.bottom import Bottom
from bovrin.desk.passes.registry import PASSES
from bovrin.desk.stage.front_glass import StageArea
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.files.as_left import AsLeft, as_left, keep_as_left
from bovrin.desk.state.files.files import Files
from bovrin.desk.state.player import Player
from bovrin.errors import BovrinError


class ComingBack(QObject):
    """Keeps how projects are left when they are, and puts it back when they come again."""

    def __init__(self, session: Session, files: Files, stage: StageArea, bottom: Bottom, player: Player) -> None:
        super().__init__(session)
        self._session, self._files, self._stage, self._bottom, self._player = session, files, stage, bottom, player
        files.leaving.connect(self.keep)
        files.opened.connect(self.restore)

    def keep(self) -> None:
        """The project is left now."""
        path = self._session.document.path
        if self._files.is_kept and path is not None and path.is_file():
            keep_as_left(path, self._now())

    def _now(self) -> AsLeft:
        session, glass, scale = self._session, self._stage.glass, self._bottom.scale
        figure, curves = session.figure, self._bottom.made_curves
        names = () if figure is None else tuple(figure.rig.controls[i].name for i in session.controls)
        return AsLeft(
            view=self._stage.main.scene.view,
            glass=glass.stage.scene.view,
            glass_open=glass.isVisibleTo(self._stage),
            glass_large=glass.large,
            follow=session.looking.follow,
            pass_name=session.pass_.name,
            frame=session.frame,
            frames=scale.fitted,
            scale=(scale.first, scale.per_frame),
            values=None if curves is None else curves.seen_values(),
            figure=session.figure_name,
            controls=names,
            lanes=self._bottom.strip.places.opened,
            second=self._player.second,
        )

    def restore(self) -> None:
        """The project that is shown now, as it was left; else all of it is seen."""
        path = self._session.document.path
        if not self._files.is_kept or path is None:
            return
        left = as_left(path)
        if left is None:
            self._stage.main.see_all()
        else:
            self._restore(left)

    def _restore(self, left: AsLeft) -> None:
        session, stage, bottom = self._session, self._stage, self._bottom
        self._choose(left)
        wanted = next((one.pass_ for one in PASSES if one.pass_.name == left.pass_name), None)
        if wanted is not None:
            session.set_pass(wanted)
        if left.frame is not None:
            session.go_to(left.frame)
        session.change_looking(follow=left.follow)
        if left.view is not None:
            stage.main.look_from(left.view)
        stage.glass.put_back(left.glass, open_=left.glass_open, large=left.glass_large)
        bottom.strip.places.opened = left.lanes
        if left.frames is not None:
            bottom.scale.show_range(*left.frames)
        elif left.scale is not None:
            bottom.scale.see(*left.scale)
        if left.values is not None and bottom.made_curves is not None:
            bottom.curves.see_values(left.values)
        if self._player.second != left.second and session.shot.second is not None:
            self._player.toggle_second()
        bottom.strip.update()

    def _choose(self, left: AsLeft) -> None:
        """What was chosen, as far as it is still there."""
        session = self._session
        try:
            rig = session.shot.figure(left.figure).rig
        except BovrinError:
            return
        known = {control.name: i for i, control in enumerate(rig.controls)}
        session.choose(left.figure, [known[name] for name in left.controls if name in known])
