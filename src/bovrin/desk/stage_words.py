"""The words on and under the stage."""

from __future__ import annotations

from bovrin.craft import posing
from bovrin.desk.session import Session
from bovrin.shot import ControlKind, HandleKind


def frame_words(session: Session) -> str:
    """Frame, time and rate."""
    shot = session.shown
    passed = session.frame - shot.first
    return f"f {session.frame:g} · {passed / shot.frame_rate:.2f} s · {shot.frame_rate:g} fps"


def chip_words(session: Session) -> str:
    """What is chosen and what an edit here keys, said before it happens."""
    figure = session.figure
    if figure is None:
        return "No figure in this shot"
    if not session.controls:
        return "Click a part of a figure to pose it"
    chosen = session.controls
    control = figure.rig.controls[chosen[-1]]
    name = control.name.capitalize() if len(chosen) == 1 else f"{len(chosen)} controls"
    if len(chosen) == 1 and control.kind is ControlKind.GOAL:
        name += " · reach"
    return f"{name} · keys {_scope_words(session)}"


def _scope_words(session: Session) -> str:
    there = bool((abs(session.poses.frames - session.frame) < 1e-6).any())
    what = {"whole figure": "the whole figure", "part": "its part", "touched": "only what is touched"}[session.scope]
    if there:
        return f"{what} in the pose at {session.frame:g}"
    kind = "held" if session.key_style.out_kind is HandleKind.STEPPED else "eased"
    return f"{what}: new {kind} pose at {session.frame:g}"


def hint_words(session: Session, grip: str, found: tuple[str, int] | None) -> str:
    """The line at the bottom for what is under the pointer."""
    if grip == "square":
        figure = session.figure
        assert figure is not None
        if posing.can_move(figure.rig, session.controls[-1]):
            return (
                "Drag the square to move it. Shift keeps one direction, Ctrl goes in steps of 5 cm. "
                "Double click resets. Esc puts it back."
            )
        return "Drag the square to aim the bone at the pointer. Double click resets. Esc puts it back."
    if grip == "ring":
        return "Drag round the ring to turn it. Ctrl goes in steps of 15°. Double click resets. Esc puts it back."
    if grip in ("up", "down"):
        return "Drag this dot up or down to tip it toward you or away. Ctrl goes in steps of 15°."
    if grip in ("left", "right"):
        return "Drag this dot left or right to spin it. Ctrl goes in steps of 15°."
    if found is not None:
        rig = session.shown.figure(found[0]).rig
        return (
            f"{rig.controls[found[1]].name.capitalize()}: click to choose, drag to pose. Shift adds to what is chosen."
        )
    return "Middle drag (or Space and drag) turns the view, with Shift it slides, the wheel goes nearer."
