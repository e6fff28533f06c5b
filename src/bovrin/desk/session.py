"""The state of the window: the shot, what is chosen, the current frame. It changes once, then everyone repaints."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.key_clips import KeyClip
from bovrin.craft.keys import SCOPES, KeyStyle, Poses, card_poses_of, edited, poses_of, scope_parts, whole_poses_of
from bovrin.craft.posing import reset
from bovrin.craft.splining import seen_stepped
from bovrin.craft.unkeyed import as_unkeyed, drop, keep, unkeyed_at
from bovrin.desk.key_choice import KeyChoice
from bovrin.desk.light_table import LightTable
from bovrin.desk.passes import BLOCK, Pass
from bovrin.desk.shot_keeper import ShotKeeper
from bovrin.desk.showing import Showing
from bovrin.errors import BovrinError
from bovrin.figure.staging import stance
from bovrin.figure.stance import Stance
from bovrin.motion.evaluate import MANY
from bovrin.shot import CurveSet, Figure, HandleKind, Pose, Shot, Unit

Floats = NDArray[np.float64]

AXES = ("view", "world", "parent", "own")
"""What a handle moves and turns along."""


class Session(ShotKeeper):
    """What the window shows and changes. Views connect to the signals and never to each other."""

    def __init__(self, shot: Shot, path: Path | None = None) -> None:
        super().__init__(shot, path)
        self.figure_name = shot.cast[0].name if shot.cast else ""
        self.controls: tuple[int, ...] = ()
        self.pass_: Pass = BLOCK
        self.scope = SCOPES[0]
        self.only_k = False
        self.look_stepped = False
        self.clean = False
        self.playing = False
        self.showing = Showing()
        self.light_table = LightTable()
        self.axes = AXES[0]
        self.pivot_for_all = False
        self.borrowed: Floats | None = None
        self.copied: Pose | None = None
        self.copied_keys: KeyClip | None = None
        self.new_kinds: dict[str, HandleKind] = {}
        self.whole_frames = True
        self.keys = KeyChoice(self)

    def drags_in_a_long_shot(self) -> bool:
        """Whether a drag is under way in a figure of so many keys that what can wait should wait."""
        return self.previewing and self.curves is not None and sum(map(len, self.curves.curves)) >= MANY

    def commit_edit(self, words: str, new: Shot) -> bool:
        """Take over a change of the pose on the current frame; when only K keys, it is shown and still to be kept."""
        if self.only_k:
            new = as_unkeyed(self.shot, new, self.figure_name, self.frame)
        return self._take_over(words, new)

    def do_edit(self, words: str, change: Callable[[Shot], Shot]) -> bool:
        """Make a change of the pose on the current frame one undo step."""
        try:
            new = change(self.shot)
        except BovrinError as error:
            self.fail(error)
            return False
        return self.commit_edit(words, new)

    def replace(self, shot: Shot, path: Path | None) -> None:
        """Another document."""
        self.undo_stack.clear()
        self._preview = None
        self.shot, self.path = shot, path
        self.figure_name = shot.cast[0].name if shot.cast else ""
        self.controls = ()
        self.frame = float(shot.first)
        for signal in (self.shot_changed, self.committed, self.frame_changed, self.choice_changed, self.file_changed):
            signal.emit()

    # -- what is chosen -----------------------------------------------------------------------------------------------

    @property
    def figure(self) -> Figure | None:
        """The chosen figure."""
        return next((f for f in self.shown.cast if f.name == self.figure_name), None)

    @property
    def curves(self) -> CurveSet | None:
        """The chosen figure's curves as shown."""
        return self.shown.take.curves.get(self.figure_name)

    @property
    def seen(self) -> Shot:
        """The shot as the stage shows it: stepped when it is looked at stepped."""
        return seen_stepped(self.shown) if self.look_stepped else self.shown

    def stance(self) -> Stance:
        """What the chosen figure does at the current frame."""
        return stance(self.seen, self.figure_name, self.frame)

    def values(self) -> Floats:
        """All channels of the chosen figure at the current frame (C,)."""
        return self.stance().values.copy()

    @property
    def poses(self) -> Poses:
        """The chosen figure's poses as shown."""
        return poses_of(self.curves if self.curves is not None else CurveSet(()))

    @property
    def whole_poses(self) -> Poses:
        """Those poses that most of the figure shares."""
        return whole_poses_of(self.curves if self.curves is not None else CurveSet(()))

    @property
    def card_poses(self) -> Poses:
        """Those poses that have a card."""
        return card_poses_of(self.curves if self.curves is not None else CurveSet(()))

    @property
    def key_style(self) -> KeyStyle:
        """What a new key is in this pass, with the handle kind that was chosen for it."""
        style = self.pass_.style
        return replace(style, out_kind=self.new_kinds.get(self.pass_.name, style.out_kind))

    def choose(self, figure: str, controls: Iterable[int]) -> None:
        """Choose controls of a figure."""
        wanted = tuple(dict.fromkeys(controls))
        if (figure, wanted) != (self.figure_name, self.controls):
            self.figure_name, self.controls = figure, wanted
            self.borrowed = None
            self.keys.clear()
            self.choice_changed.emit()

    def _mend_choice(self) -> None:
        if self.shot.cast and self.figure_name not in {f.name for f in self.shot.cast}:
            self.choose(self.shot.cast[0].name, ())

    # -- time and passes ----------------------------------------------------------------------------------------------

    def go_to(self, frame: float) -> None:
        """Make a frame the current one, within the range."""
        wanted = float(min(max(round(frame), self.shot.first), self.shot.last))
        if wanted == self.frame:
            return
        left = unkeyed_at(self.shot, self.figure_name, self.frame)
        self.frame = wanted
        self.frame_changed.emit()
        if left is not None and not self.playing:
            words = f"The change on {left.frame:g} stays shown but is not keyed yet."
            self.offered.emit(words, f"Keep {left.frame:g}", lambda: self.keep_change(left.frame))

    def keep_change(self, frame: float) -> bool:
        """Key the change that a frame shows; says whether there was one."""
        return self._take_over("Keep the change", keep(self.shot, self.figure_name, frame))

    def set_pass(self, wanted: Pass) -> None:
        """Work in another pass."""
        if wanted is not self.pass_:
            self.pass_ = wanted
            self.pass_changed.emit()

    def set_scope(self, scope: str) -> None:
        """What an edit keys."""
        if scope != self.scope:
            self.scope = scope
            self.look_changed.emit()

    def keep_all(self) -> None:
        """Key every change that waits."""
        if self.shot.unkeyed:
            self._take_over("Keep the changes", keep(self.shot))

    def drop_change(self, frame: float) -> bool:
        """Put back what was there before the change that a frame shows."""
        return self._take_over("Drop the change", drop(self.shot, self.figure_name, frame))

    def set_only_k(self, only: bool) -> None:
        """Whether changes are keyed only when K is pressed."""
        self.only_k = only
        self.look_changed.emit()

    def set_look_stepped(self, on: bool) -> None:
        """Look at everything as stepped; the shot is not changed."""
        self.look_stepped = on
        self.look_changed.emit()
        self.shot_changed.emit()

    def set_light_table(self, table: LightTable) -> None:
        """What lies on the light table."""
        self.light_table = table
        self.look_changed.emit()

    def set_axes(self, axes: str) -> None:
        """Which axes handles go along."""
        self.axes = axes
        self.look_changed.emit()

    def set_pivot(self, *, for_all: bool | None = None, borrowed: Floats | None = None) -> None:
        """Turn each control about its own pivot, all about one, or all about a place (3,) borrowed for this choice."""
        self.pivot_for_all = self.pivot_for_all if for_all is None else for_all
        self.borrowed = borrowed
        self.look_changed.emit()

    def change_showing(self, **changes: object) -> None:
        """Show, hide or lock."""
        self.showing = replace(self.showing, **changes)  # type: ignore[arg-type]
        self.look_changed.emit()

    def locked_channels(self) -> list[int]:
        """The channels of the chosen figure that are locked, by themselves or with their part."""
        figure = self.figure
        if figure is None:
            return []
        names = {part for name, part in self.showing.locked if name == figure.name}
        alone = {channel for name, channel in self.showing.locked_channels if name == figure.name}
        return [
            *(i for n, part in enumerate(figure.rig.parts) if part.name in names for i in figure.rig.part_channels(n)),
            *(figure.rig.channel(channel) for channel in alone),
        ]

    def unlocked(self, controls: Iterable[int]) -> bool:
        """Whether all of some controls may be changed; if not, that is said."""
        figure = self.figure
        found = None if figure is None else self.showing.locked_control(figure, controls)
        if figure is None or found is None:
            return True
        part = figure.rig.parts[figure.rig.part_of(found)].name
        self.tell(f"The part '{part}' is locked. Unlock it with a right click on the figure map to pose it.")
        return False

    def set_clean(self, on: bool) -> None:
        """Hide handles and words on the stage."""
        self.clean = on
        self.look_changed.emit()

    # -- posing by keys and numbers -----------------------------------------------------------------------------------

    def edit(self, words: str, values: dict[int, float]) -> bool:
        """Key channels of the chosen figure at the current frame, with all that the scope asks for."""
        figure = self.figure
        touched = (
            []
            if figure is None
            else [c for c in range(len(figure.rig.controls)) if values.keys() & set(figure.rig.span(c))]
        )
        if not self.unlocked(touched):
            return False
        locked = set(self.locked_channels())
        if locked & values.keys():
            values = {i: value for i, value in values.items() if i not in locked}
            if not values:
                self.tell("That channel is locked. Unlock it with a right click in the curve desk's list.")
                return False
        return self.do_edit(
            words, lambda shot: edited(shot, self.figure_name, self.frame, values, self.scope, self.key_style)
        )

    def reset_chosen(self, *only: str) -> None:
        """Take the chosen controls to the default pose; `only`: what their channels' technical names begin with."""
        figure = self.figure
        if figure is None or not self.controls:
            self.tell("Choose what to take to the default pose first.")
            return
        channels = figure.rig.channels
        values = {
            i: v
            for i, v in reset(figure.rig, list(self.controls)).items()
            if channels[i].technical.startswith(only or ("",)) and channels[i].unit is not Unit.SWITCH
        }
        if values:
            self.edit("To the default pose", values)

    def scope_controls(self) -> list[int]:
        """The controls that "Keys go on" stands for: the whole figure's, those of the chosen parts, or the chosen ones."""
        figure = self.figure
        if figure is None:
            return []
        parts = scope_parts(figure.rig, self.controls, self.scope)
        if parts is None or not self.controls:
            return list(range(len(figure.rig.controls)))
        if parts:
            return [c for part in figure.rig.parts if part.name in parts for c in part.controls]
        return list(self.controls)

    def scope_channels(self) -> list[int] | None:
        """The channels that "Keys go on" stands for; None: all of the figure's."""
        figure = self.figure
        if figure is None or self.scope == SCOPES[0] or not self.controls:
            return None
        return [i for c in self.scope_controls() for i in figure.rig.span(c)]
