"""The right column's smaller panels: what an edit keys, and stepped or splined."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.craft.keys import SCOPES
from bovrin.craft.splining import splined, stepped
from bovrin.desk.session import AXES, Session
from bovrin.desk.widgets import Panel, Pills, title
from bovrin.shot import Shot

SCOPE_TIPS = (
    "An edit keys the whole figure, so that no old pose leaks in",
    "An edit keys the part it belongs to",
    "An edit keys only the channels it changes",
)


AXES_TIPS = (
    "Handles go along the view",
    "Handles go along the world's axes",
    "Handles go along the axes of what carries the control",
    "Handles go along the control's own axes",
)


class KeysPanel(Panel):
    """What an edit keys, and what handles go along."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column.addWidget(title("Keys go on"))
        self.pills = Pills(list(SCOPES), session.set_scope, SCOPE_TIPS)
        self.column.addWidget(self.pills)
        self.column.addWidget(title("Handles go along"))
        self.axes = Pills(list(AXES), session.set_axes, [f"{tip} (Q)" for tip in AXES_TIPS])
        self.column.addWidget(self.axes)
        session.look_changed.connect(self._on_scope_changed)
        self._on_scope_changed()

    def _on_scope_changed(self) -> None:
        self.pills.show_chosen(self.session.scope)
        self.axes.show_chosen(self.session.axes)


def whole_cast(change: Callable[[Shot, str], Shot]) -> Callable[[Shot], Shot]:
    """A change of one figure made to every figure of the shot."""

    def changed(shot: Shot) -> Shot:
        for figure in shot.cast:
            shot = change(shot, figure.name)
        return shot

    return changed


class SpanPanel(Panel):
    """Stepped or splined: the hold at the current frame, or the whole shot."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column.addWidget(title("Held or eased"))
        for words, tip, on_step, on_spline in (
            ("Whole shot", "every pose of the whole cast", self.step_all, self.spline_all),
            ("This span", "the span from this pose to the next", self.step_span, self.spline_span),
        ):
            host = QWidget()
            row = QHBoxLayout(host)
            row.setContentsMargins(0, 0, 0, 0)
            label = QLabel(words)
            label.setFixedWidth(84)
            row.addWidget(label)
            for name, action, verb in (("Stepped", on_step, "Let hold"), ("Splined", on_spline, "Let ease")):
                button = QPushButton(name)
                button.setToolTip(f"{verb}: {tip}")
                button.clicked.connect(lambda _checked, run=action: run())
                row.addWidget(button)
            row.addStretch(1)
            self.column.addWidget(host)

    def _span(self) -> tuple[float, float | None] | None:
        poses = self.session.poses
        start = poses.held_at(self.session.frame)
        if start is None:
            self.session.tell("There is no pose at or before this frame. Make a key pose first.")
            return None
        return start, poses.after(start)

    def step_all(self) -> None:
        """Every pose holds until the next."""
        self.session.do("Stepped: whole shot", whole_cast(stepped))

    def spline_all(self) -> None:
        """Every pose eases into the next."""
        self.session.do("Splined: whole shot", whole_cast(splined))

    def step_span(self) -> None:
        """The pose here holds until the next."""
        if (span := self._span()) is not None:
            self.session.do("Stepped: this span", lambda shot: stepped(shot, self.session.figure_name, *span))

    def spline_span(self) -> None:
        """The pose here eases into the next."""
        if (span := self._span()) is not None:
            self.session.do("Splined: this span", lambda shot: splined(shot, self.session.figure_name, *span))
