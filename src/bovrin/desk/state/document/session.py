"""The state of the desk: the document, what is chosen, how it is keyed and looked at. It changes once, then views repaint."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from bovrin.craft.curves.splining import seen_stepped
from bovrin.craft.cycle.half import kept_in_step
from bovrin.craft.keying.unkeyed import keep
from bovrin.craft.pose.body import LastPull
from bovrin.desk.kit.background import Background
from bovrin.desk.state.choosing.choice import Choice
from bovrin.desk.state.choosing.clipboard import Clipboard
from bovrin.desk.state.choosing.key_choice import KeyChoice
from bovrin.desk.state.choosing.keying import Keying
from bovrin.desk.state.document.document import Document
from bovrin.desk.state.document.locks import guarded
from bovrin.desk.state.looking.going import Going
from bovrin.desk.state.looking.looking import Looking
from bovrin.desk.state.passes import BLOCK, Pass
from bovrin.desk.state.poses import ShownPoses
from bovrin.desk.state.shelf import Shelf
from bovrin.desk.state.voice import Voice
from bovrin.errors import BovrinError
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import stance
from bovrin.shot import CurveSet, Figure, Shot


class Session(QObject):
    """What the desk shows and changes. Views connect to its parts' signals and never to each other."""

    pass_changed = pyqtSignal()
    keying_changed = pyqtSignal()
    looking_changed = pyqtSignal()

    def __init__(self, shot: Shot, path: Path | None = None) -> None:
        super().__init__()
        self.document = Document(shot, path)
        self.document.setParent(self)
        self.voice = Voice(self)
        self.background = Background(self)
        self.choice = Choice(self.document)
        self.choice.changed.connect(self._on_choice_changed)
        self.keys = KeyChoice(self.document, self.choice)
        self.poses = ShownPoses(self.choice)
        self.going = Going(self.document, self.choice, self)
        self.shelf = Shelf(self.document, self.choice, self)
        self.keying, self.looking, self.clipboard, self.pulled = Keying(), Looking(), Clipboard(), LastPull()
        self.pass_: Pass = BLOCK
        self.playing = False

    def end(self) -> None:
        """The window closes: nothing goes on beside it, and views hear nothing more."""
        self.background.end()
        self.document.end()

    # -- what there is ------------------------------------------------------------------------------------------------

    @property
    def shot(self) -> Shot:
        """The shot that is worked on."""
        return self.document.shot

    @property
    def shown(self) -> Shot:
        """The shot with a drag's preview in it."""
        return self.document.shown

    @property
    def seen(self) -> Shot:
        """The shot as the stage shows it: stepped when it is looked at stepped."""
        return seen_stepped(self.shown) if self.looking.stepped else self.shown

    @property
    def frame(self) -> float:
        """The current frame."""
        return self.document.frame

    @property
    def figure_name(self) -> str:
        """The chosen figure's name; "" when there is none."""
        return self.choice.name

    @property
    def controls(self) -> tuple[int, ...]:
        """The chosen controls, the one chosen last stands last."""
        return self.choice.controls

    @property
    def figure(self) -> Figure | None:
        """The chosen figure."""
        return self.choice.figure

    @property
    def curves(self) -> CurveSet | None:
        """The chosen figure's curves as shown."""
        return self.choice.curves

    def stance(self) -> Stance:
        """What the chosen figure does at the current frame, as the stage shows it."""
        return stance(self.seen, self.figure_name, self.frame)

    # -- what changes -------------------------------------------------------------------------------------------------

    def do(self, words: str, change: Callable[[Shot], Shot], *, in_step: bool = True) -> bool:
        """Make a change one undo step. A BovrinError is told, and nothing changes. in_step: loops are kept in step with it,
        unless it knows about loops itself."""
        try:
            new = change(self.shot)
        except BovrinError as error:
            self.document.preview(None)
            self.voice.fail(error)
            return False
        return self.commit(words, new, in_step=in_step)

    def commit(self, words: str, new: Shot, *, in_step: bool = True) -> bool:
        """Take over a shot as one undo step; says whether anything changed. What is locked stays as it was.

        Changes that were not keyed yet are keyed with it when curves change, so that nothing is lost.
        """
        new = self.unlocked(new, in_step=in_step)
        if new.unkeyed and _moves_otherwise(self.shot, new):
            frames = ", ".join(f"{u.frame:g}" for u in new.unkeyed)
            self.voice.tell(f"What was changed on {frames} is keyed now as well.")
            new = keep(new)
        return self.document.take_over(words, new)

    def unlocked(self, new: Shot, *, in_step: bool = True) -> Shot:
        """A shot in which what is locked is as it was; it is said what was held back. Loops stay loops."""
        held, words = guarded(self.shot, kept_in_step(self.shot, new) if in_step else new, self.keying)
        if words:
            self.voice.tell(words)
        return held

    def preview(self, shot: Shot | None) -> None:
        """Show a provisional shot while dragging, or None to put everything back."""
        held = None if shot is None else guarded(self.shot, kept_in_step(self.shot, shot), self.keying)[0]
        self.document.preview(held)

    def go_to(self, frame: float) -> None:
        """Make a frame the current one, within the range."""
        self.document.go_to(frame)

    def choose(self, figure: str, controls: Iterable[int] = ()) -> None:
        """Choose controls of a figure."""
        self.choice.choose(figure, controls)

    def set_pass(self, wanted: Pass) -> None:
        """Work in another pass."""
        if wanted is not self.pass_:
            self.pass_ = wanted
            self.pass_changed.emit()

    def change_keying(self, **changes: object) -> None:
        """Key otherwise from now on."""
        self.keying = replace(self.keying, **changes)  # type: ignore[arg-type]
        self.keying_changed.emit()

    def change_looking(self, **changes: object) -> None:
        """Look at the shot otherwise."""
        stepped = self.looking.stepped
        self.looking = replace(self.looking, **changes)  # type: ignore[arg-type]
        self.looking_changed.emit()
        if stepped != self.looking.stepped:
            self.document.changed.emit()

    def change_clipboard(self, **changes: object) -> None:
        """Something was copied."""
        self.clipboard = replace(self.clipboard, **changes)  # type: ignore[arg-type]

    def replace(self, shot: Shot, path: Path | None) -> None:
        """Another document: all that belonged to the last one is let go of here."""
        self.looking, self.keying = self.looking.for_another_shot(), self.keying.for_another_shot()
        self.keys.clear()
        self.choice.forget()
        self.document.replace(shot, path)
        self.looking_changed.emit()
        self.keying_changed.emit()

    def _on_choice_changed(self) -> None:
        """A borrowed pivot and chosen keys belong to what was chosen before."""
        self.keys.clear()
        if self.looking.borrowed is not None:
            self.change_looking(borrowed=None)


def _moves_otherwise(old: Shot, new: Shot) -> bool:
    """Whether a figure with a change that is not keyed yet has other curves now."""
    return any(new.take.curves.get(u.figure) is not old.take.curves.get(u.figure) for u in new.unkeyed)
