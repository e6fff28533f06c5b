"""Spans: from the pose here to the next, held or eased, and the whole shot."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.craft.curves.splining import splined, stepped
from bovrin.desk.commands.command import Command, has_figure
from bovrin.desk.state.document.session import Session
from bovrin.shot import Shot

Span = tuple[float, float | None]


def span_here(session: Session) -> Span | None:
    """The pose here and the next one; None before the first pose."""
    poses = session.poses.cards
    start = poses.held_at(session.frame)
    return None if start is None else (start, poses.after(start))


def _whole_cast(words: str, change: Callable[[Shot, str], Shot]) -> Callable[[Session], bool]:
    """A change of one figure made to every figure of the shot."""

    def changed(shot: Shot) -> Shot:
        for figure in shot.cast:
            shot = change(shot, figure.name)
        return shot

    return lambda session: session.do(words, changed)


def _this_span(words: str, change: Callable[[Shot, str, float, float | None], Shot]) -> Callable[[Session], bool]:
    def run(session: Session) -> bool:
        span = span_here(session)
        if span is None:
            session.voice.tell("There is no pose at or before this frame. Make a key pose first.")
            return False
        return session.do(words, lambda shot: change(shot, session.figure_name, *span))

    return run


step_all = _whole_cast("Stepped: whole shot", stepped)
spline_all = _whole_cast("Splined: whole shot", splined)
step_span = _this_span("Stepped: this span", stepped)
spline_span = _this_span("Splined: this span", splined)

SPANS = (
    Command(
        "motion.spline_all",
        "Motion",
        "Spline the whole shot",
        "",
        "Let every pose of the whole cast ease into the next",
        lambda port: spline_all(port.session),
        has_figure,
    ),
    Command(
        "motion.step_all",
        "Motion",
        "Step the whole shot",
        "",
        "Let every pose of the whole cast hold until the next",
        lambda port: step_all(port.session),
        has_figure,
    ),
    Command(
        "motion.spline_span",
        "Motion",
        "Spline this span",
        "",
        "Let the pose here ease into the next",
        lambda port: spline_span(port.session),
        has_figure,
    ),
    Command(
        "motion.step_span",
        "Motion",
        "Step this span",
        "",
        "Let the pose here hold until the next",
        lambda port: step_span(port.session),
        has_figure,
    ),
)
