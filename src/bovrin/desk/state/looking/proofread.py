"""The proof while it is looked at: read beside the window after every edit; the note that is picked, and a remedy on trial."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from bovrin.craft.proofing import leave, listed_again, with_limit
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.measure.proof import Note, Reader, is_left
from bovrin.shot import Rig, Shot

SOON = 120
"""Milliseconds after an edit until the shot is read again."""
Wait = Callable[[str, Callable[[], Shot]], Shot | None]


class Proofread(QObject):
    """Reads while somebody watches. `wait` does a work beside the window and waits for it."""

    changed = pyqtSignal()
    asked = pyqtSignal()
    """The proof is asked for: whoever shows it comes forward."""

    def __init__(self, session: Session, wait: Wait) -> None:
        super().__init__(session)
        self.session, self._wait = session, wait
        self._reader, self._watchers = Reader(), 0
        self._read: Shot | None = None
        self._found: list[Note] = []
        self._trial: tuple[Note, Shot] | None = None
        self._step = 0
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._begin)
        session.document.committed.connect(self._on_committed)

    # -- what is known ------------------------------------------------------------------------------------------------

    @property
    def notes(self) -> list[Note]:
        """The notes on the shot as it was read last, without those that are left."""
        return [note for note in self._here() if not is_left(self.session.shot, note)]

    @property
    def left(self) -> list[Note]:
        """The notes that are left as they are."""
        return [note for note in self._here() if is_left(self.session.shot, note)]

    def _here(self) -> list[Note]:
        """Those of figures that are still in the shot, which may not have been read again yet."""
        names = {figure.name for figure in self.session.shot.cast}
        return [note for note in self._found if note.figure in names]

    @property
    def up_to_date(self) -> bool:
        """Whether the shot was read as it is."""
        return self._read is self.session.shot

    @property
    def picked(self) -> Note | None:
        """The note that is looked at."""
        return self.session.looking.note

    @property
    def trying(self) -> Note | None:
        """The note whose remedy is seen, not kept yet."""
        return None if self._trial is None else self._trial[0]

    # -- reading ------------------------------------------------------------------------------------------------------

    def watch(self, *, on: bool) -> None:
        """Somebody looks at the proof, or no longer does."""
        self._watchers = max(self._watchers + (1 if on else -1), 0)
        if on and not self.up_to_date:
            self._soon.start(0)

    def _on_committed(self) -> None:
        self._trial = None
        if self._watchers:
            self._soon.start(SOON)
        self.changed.emit()

    def _begin(self) -> None:
        shot, session = self.session.shot, self.session
        if self._read is shot or not self._watchers:
            return

        def work() -> list[Note]:
            return self._reader.notes(shot, going=lambda _share: session.shot is shot)

        session.background.latest("proof", work, lambda notes: self._on_read(shot, notes))

    def _on_read(self, shot: Shot, notes: list[Note]) -> None:
        if shot is not self.session.shot:
            self._soon.start(0)
            return
        self._read, self._found = shot, notes
        picked = self.picked
        if picked is not None and picked not in notes:
            again = [note for note in notes if note.left.hides(picked.left)]
            self.session.change_looking(note=again[0] if again else None)
        self.changed.emit()
        if self._step:
            by, self._step = self._step, 0
            self.step(by)

    # -- what is done with notes --------------------------------------------------------------------------------------

    def pick(self, note: Note | None) -> None:
        """Go where a note is and show it on the stage."""
        if note is not self.trying:
            self.drop()
        session = self.session
        session.change_looking(note=note)
        if note is not None:
            if not note.start <= session.frame <= note.end:
                session.go_to(max(note.start, session.shot.first))
            controls = controls_of(session.shot.figure(note.figure).rig, note)
            session.choose(note.figure, controls or (session.controls if session.figure_name == note.figure else ()))
        self.changed.emit()

    def step(self, by: int) -> None:
        """Pick the next note, or the one before; as soon as the shot has been read."""
        notes = self.notes
        self.asked.emit()
        if not self.up_to_date:
            self._step = by
            self._soon.start(0)
            return
        if not notes:
            self.session.voice.tell("The proof has nothing to note.")
            return
        at = notes.index(self.picked) + by if self.picked in notes else (0 if by > 0 else -1)
        self.pick(notes[at % len(notes)])

    def try_remedy(self, note: Note) -> None:
        """Show what a note's remedy does; it is kept or dropped then."""
        from bovrin.craft.remedies import remedied  # noqa: PLC0415 - all of them are many, and none is needed at the start

        self.drop()
        shot = self.session.shot
        try:
            made = self._wait(f"{str(note.remedy).capitalize()}…", lambda: remedied(shot, note))
        except BovrinError as error:
            self.session.voice.fail(error)
            return
        if made is None or self.session.shot is not shot:
            return
        self.pick(note)
        self._trial = note, self.session.unlocked(made)
        self.session.preview(self._trial[1])
        self.changed.emit()

    def keep(self) -> None:
        """Keep the remedy that is on trial: one undo step."""
        if self._trial is None:
            return
        note, made = self._trial
        self._trial = None
        self.session.preview(None)
        self.session.commit(f"{str(note.remedy).capitalize()}: {note.words}", made)
        self.changed.emit()

    def drop(self) -> None:
        """Back to how it was before the trial."""
        if self._trial is not None:
            self._trial = None
            self.session.preview(None)
            self.changed.emit()

    def leave(self, note: Note) -> None:
        """A note is left as it is."""
        self.drop()
        if self.session.do(f"Leave it: {note.words}", lambda shot: leave(shot, note)) and self.picked == note:
            self.session.change_looking(note=None)

    def list_again(self, note: Note) -> None:
        """A note that was left is listed again."""
        self.session.do(f"List again: {note.words}", lambda shot: listed_again(shot, note))

    def set_limit(self, kind: str, limit: float | None) -> None:
        """A threshold of the shot's own; None: the usual one."""
        self.session.do("Change a threshold of the proof", lambda shot: with_limit(shot, kind, limit))


def controls_of(rig: Rig, note: Note) -> list[int]:
    """The controls that a note is about."""
    names = {word.partition("/")[0] for word in note.at}
    goals = [limb.goal for limb in rig.limbs if limb.name in names]
    joints = {n for n, joint in enumerate(rig.joints) if joint.name in names}
    own = [c for c, what in enumerate(rig.controls) if what.name in names]
    if goals or own:
        return list(dict.fromkeys([*goals, *own]))
    return [c for c, what in enumerate(rig.controls) if what.joint in joints][:1]
