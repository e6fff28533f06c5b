"""The setup sheet: what a brought figure's joints were taken for, on a picture of it; every row can be corrected and tried."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from bovrin.craft.recorded.new_setup import rig_with, with_setup
from bovrin.craft.recorded.travel import all_travel_to_whole
from bovrin.desk.kit.widgets import Pills, title
from bovrin.desk.sheets.setup_picture import SetupPicture
from bovrin.desk.sheets.setup_rows import JointField, SetupRows
from bovrin.desk.sheets.setup_travel import TravelRow
from bovrin.desk.state.document.session import Session
from bovrin.errors import BadFigure, BovrinError
from bovrin.figure.brought.guess import Guess, guess_build
from bovrin.figure.making.roles import LimbRole, Roles, guess_from, roles_of, with_limb
from bovrin.figure.making.setup import taken_for
from bovrin.figure.solve.plan import columns, plan_of, special_column
from bovrin.formats.figures.files import keep_beside
from bovrin.formats.figures.kept_setups import keep_guess
from bovrin.shot import ChannelRole, Figure, Rig


class SetupSheet(QDialog):
    """Roles of joints in rows beside the picture. Nothing changes in the shot until it is kept."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        figure = session.figure
        assert figure is not None
        self.session, self.figure = session, figure
        self.setWindowTitle(f"Set up {figure.name}")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(1200, 680)
        self.guess: Guess = taken_for(figure.rig)
        self.roles: Roles = roles_of(self.guess)
        self.trial: Rig = figure.rig
        self.tried = ""
        self._names = [joint.name for joint in figure.rig.joints[1:]]
        self.fields: dict[str, JointField] = {}
        self._asked: JointField | None = None
        self._build()
        self._fill()
        self._show()
        self._look_from(self._clearest_view())

    # -- how it is laid out -------------------------------------------------------------------------------------------

    def _build(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 14, 14, 14)
        row.setSpacing(14)
        left, right = QVBoxLayout(), QVBoxLayout()
        self.picture = SetupPicture(self.put_joint)
        self.views = Pills(
            ("front", "side", "three-quarter"), self._look_from, ("From the front", "From its left", "From between")
        )
        left.addWidget(self.picture, 1)
        left.addWidget(self.views)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.fault = QLabel()
        self.fault.setObjectName("Fault")
        self.fault.setWordWrap(True)
        right.addWidget(title(f"What the joints of {self.figure.name} are"))
        right.addWidget(self.words)
        right.addWidget(self.area, 1)
        self.travel = TravelRow(self.session.shot, self.figure.name)
        right.addWidget(self.travel)
        right.addWidget(self.fault)
        right.addLayout(self._buttons())
        row.addLayout(left, 4)
        row.addLayout(right, 7)

    def _buttons(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.add = QPushButton("Add a limb")
        self.add.setToolTip("One limb more, from a joint with two below it")
        self.add.clicked.connect(self.add_limb)
        self.anew = QPushButton("Guess anew")
        self.anew.setToolTip("Forget all corrections")
        self.anew.clicked.connect(self.guess_anew)
        self.keep = QPushButton("Keep")
        self.keep.setToolTip(
            "Use this setup, save it with the figure, and know it again for files with the same joints"
        )
        self.keep.clicked.connect(self.keep_it)
        leave = QPushButton("Leave as it was")
        leave.clicked.connect(self.reject)
        for button in (self.add, self.anew):
            line.addWidget(button)
        line.addStretch(1)
        for button in (leave, self.keep):
            line.addWidget(button)
        return line

    def _fill(self) -> None:
        """All rows anew."""
        self.rows = SetupRows(self, self._names)
        self.fields = self.rows.fields
        for field in self.fields.values():
            field.installEventFilter(self)
        self.area.setWidget(self.rows)

    # -- what is done with it -----------------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.FocusIn and isinstance(watched, JointField):
            self._asked = watched
            self._show()
        return super().eventFilter(watched, event)

    def put_joint(self, joint: int) -> None:
        """A joint that was clicked on the picture goes into the field that had the focus last."""
        if self._asked is not None and self._asked in self.fields.values():
            self._asked.put(joint)

    def change(self, roles: Roles) -> bool:
        """Other roles; when they cannot be so, the sentence says why and the picture stays."""
        self.roles = roles
        try:
            guess = guess_from(self.figure.rig.joints, roles)
            self.trial = rig_with(self.figure, guess)
        except BadFigure as error:
            self.fault.setText(error.sentence)
            self.keep.setEnabled(False)
            return False
        self.guess = guess
        self.fault.setText("")
        self.keep.setEnabled(True)
        self.tried = ""
        self._show()
        return True

    def set_limb(self, number: int, **changes: object) -> None:
        """A limb is something else, or has other joints."""
        limbs = list(self.roles.limbs)
        limbs[number] = replace(limbs[number], sure=1.0, **changes)  # type: ignore[arg-type]
        self.change(replace(self.roles, limbs=tuple(limbs)))

    def set_tail(self, number: int, joint: int) -> None:
        """A tail begins elsewhere; -1: there is none."""
        tails = list(self.roles.tails)
        tails[number] = joint
        self.change(replace(self.roles, tails=tuple(j for j in tails if j >= 0)))

    def drop_limb(self, number: int) -> None:
        """Not a limb after all."""
        limbs = tuple(x for n, x in enumerate(self.roles.limbs) if n != number)
        self.change(replace(self.roles, limbs=limbs))
        self._fill()

    def add_limb(self) -> None:
        """One more, from the joint of the field that had the focus last if that can be, else from the first that can."""
        taken = {j for x in self.guess.limbs for j in x.joints} | {
            self.guess.hips,
            self.guess.head,
            *self.guess.spine,
            *self.guess.neck,
        }
        for joint in range(1, len(self.figure.rig.joints)):
            if joint in taken:
                continue
            try:
                roles = with_limb(self.figure.rig.joints, replace(self.roles, tails=()), joint, "arm")
                guess_from(self.figure.rig.joints, roles)
            except BadFigure:
                continue
            self.change(roles)
            self._fill()
            return
        self.fault.setText("There are no three joints in a row that are nothing else yet. Take a limb away first.")

    def guess_anew(self) -> None:
        """What the joints say by themselves."""
        self.change(roles_of(guess_build(self.figure.rig.joints)))
        self._fill()

    def try_out(self, key: str) -> None:
        """Bend a limb, or turn a joint of the trunk; again puts it back."""
        self.tried = "" if self.tried == key else key
        if key in self.fields:
            self._asked = self.fields[key]
        self._show()

    def _clearest_view(self) -> str:
        """From the front; of a figure that is longer than wide, from between front and side."""
        size = np.ptp(plan_of(self.figure.rig).rest_world[1:, :3, 3], axis=0)
        return "three-quarter" if size[2] > 1.2 * size[0] else "front"

    def _look_from(self, name: str) -> None:
        self.views.show_chosen(name)
        self.picture.look_from(name)

    def _show(self) -> None:
        legs = "" if self.guess.build == "other" else f" {self.guess.build}"
        self.words.setText(
            f"Taken for a{legs} figure. Click a joint on the picture to put it into the field you are in."
        )
        shown = replace(self.figure, rig=self.trial)
        self.picture.show_figure(shown, self.guess, self._pose(), self._marked())

    def _marked(self) -> tuple[int, ...]:
        key = next((k for k, field in self.fields.items() if field is self._asked), "")
        number, _, _what = key.partition(" ")
        if number.isdigit() and int(number) < len(self.roles.limbs):
            limb = self.roles.limbs[int(number)]
            return limb.upper, limb.middle, limb.end
        joint = {"hips": self.roles.hips, "chest": self.roles.chest, "head": self.roles.head}.get(key, -1)
        return (joint,) if joint >= 0 else ()

    def _pose(self) -> np.ndarray:
        """The rest pose, with what is tried bent."""
        rig = self.trial
        values = np.array(rig.defaults)
        number, _, _what = self.tried.partition(" ")
        if number.isdigit():
            _bend(rig, self.roles.limbs[int(number)], values)
        elif self.tried:
            joint = getattr(self.roles, self.tried)
            for index, control in enumerate(rig.controls):
                cols = columns(rig, index, "rotate")
                if control.joint == joint and min(cols) >= 0:
                    values[cols] = (0.3, 0.4, 0.0)
                    break
        return values

    def keep_it(self) -> None:
        """The setup goes into the shot as one undo step, into the figure's file, and is known from now on."""
        session, name = self.session, self.figure.name
        try:
            changed = with_setup(session.shot, name, self.guess)
            if self.travel.ways():
                changed = all_travel_to_whole(changed, name, self.travel.ways())
            folder = session.document.path.parent if session.document.path is not None else Path.home()
            figure = keep_beside(changed.figure(name), folder)
            keep_guess(self.figure.rig.joints, self.guess)
        except (BovrinError, OSError) as error:
            self.fault.setText(error.sentence if isinstance(error, BovrinError) else f"It could not be kept ({error}).")
            return
        cast = tuple(figure if f.name == name else f for f in changed.cast)
        session.commit(f"Set up {name}", replace(changed, cast=cast))
        session.choose(name, ())
        session.voice.tell(f"{name}: {_told(figure)}. Files with the same joints will be set up like this.")
        self.accept()


def _bend(rig: Rig, limb: LimbRole, values: np.ndarray) -> None:
    """Bring a limb's end a good part of the way to where it begins."""
    for own in rig.limbs:
        if (own.upper, own.middle, own.end) == (limb.upper, limb.middle, limb.end):
            places = plan_of(rig).rest_world[:, :3, 3]
            way = 0.4 * (places[own.upper] - places[own.end])
            cols = columns(rig, own.goal, "translate")
            values[cols] += way
            values[special_column(rig, own.goal, ChannelRole.REACH)] = 1.0


def _told(figure: Figure) -> str:
    parts = [part.name for part in figure.rig.parts]
    return f"parts {', '.join(parts[:-1])} and {parts[-1]}" if len(parts) > 1 else f"one part, {parts[0]}"
