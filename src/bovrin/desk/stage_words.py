"""The words on and under the stage."""

from __future__ import annotations

from bovrin.craft import posing
from bovrin.craft.body import anchored, follows_a_drag
from bovrin.craft.modes import limb_of_control
from bovrin.craft.unkeyed import unkeyed_at
from bovrin.desk.session import Session
from bovrin.figure.plan import special_column
from bovrin.shot import HandleKind


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
    words = [chosen_words(session), f"keys {_scope_words(session)}"]
    held = anchored(session.stance())
    if held:
        names = [figure.rig.joints[joint].name for joint in held]
        words.insert(1, "anchored: " + (", ".join(names) if len(names) < 4 else f"{len(names)} joints"))
    return " · ".join(words)


def chosen_words(session: Session) -> str:
    """What is chosen, and in which mode its limb is."""
    figure = session.figure
    if figure is None or not session.controls:
        return "Nothing chosen"
    if len(session.controls) > 1:
        return f"{len(session.controls)} controls"
    control = session.controls[0]
    limb = limb_of_control(figure.rig, control)
    name = figure.rig.controls[control].name.capitalize()
    if limb is None or special_column(figure.rig, figure.rig.limbs[limb].goal, "reach") < 0:
        return name
    return f"{name} · {'reach' if posing.in_reach(session.stance(), limb) else 'joints'}"


def _scope_words(session: Session) -> str:
    there = bool((abs(session.poses.frames - session.frame) < 1e-6).any())
    what = {"whole figure": "the whole figure", "part": "its part", "touched": "only what is touched"}[session.scope]
    if session.only_k:
        waits = unkeyed_at(session.shown, session.figure_name, session.frame) is not None
        return f"{what} when K is pressed" + (" · changed, not keyed (D drops it)" if waits else "")
    if there:
        return f"{what} in the pose at {session.frame:g}"
    kind = "held" if session.key_style.out_kind is HandleKind.STEPPED else "eased"
    return f"{what}: new {kind} pose at {session.frame:g}"


ENDS = "Double click resets. Esc puts it back."


def hint_words(session: Session, grip: str, found: tuple[str, int] | None) -> str:
    """The line at the bottom for what is under the pointer."""
    if grip == "square":
        return _square_words(session)
    if grip in HINTS:
        return HINTS[grip]
    if found is not None:
        rig = session.shown.figure(found[0]).rig
        name = rig.controls[found[1]].name.capitalize()
        if follows_a_drag(rig, rig.controls[found[1]].joint):
            return f"{name}: click to choose, drag and the body follows; anchors hold. Alt keeps its own angle. Shift adds."
        return f"{name}: click to choose, drag to pose. Shift adds to what is chosen."
    return (
        "Drag a box to choose; Shift adds, Ctrl takes away. Middle drag (or Space and drag) turns the view, "
        "with Shift it slides, the wheel goes nearer."
    )


HINTS = {
    "ring": f"Drag round the ring to turn it. Ctrl goes in steps of 15°. {ENDS}",
    "up": "Drag this dot up or down to tip it toward you or away. Ctrl goes in steps of 15°.",
    "down": "Drag this dot up or down to tip it toward you or away. Ctrl goes in steps of 15°.",
    "left": "Drag this dot left or right to spin it. Ctrl goes in steps of 15°.",
    "right": "Drag this dot left or right to spin it. Ctrl goes in steps of 15°.",
    "size": f"Drag outward to make it larger. Shift makes it longer, its volume kept. Ctrl goes in steps of 10 %. {ENDS}",
    "x": f"Drag along this axis only. Ctrl goes in steps of 5 cm. {ENDS}",
    "y": f"Drag along this axis only. Ctrl goes in steps of 5 cm. {ENDS}",
    "z": f"Drag along this axis only. Ctrl goes in steps of 5 cm. {ENDS}",
}


def _square_words(session: Session) -> str:
    figure = session.figure
    assert figure is not None
    rig, control = figure.rig, session.controls[-1]
    joint = posing.limb_joint(rig, control)
    if joint is None:
        if posing.can_move(rig, control):
            return f"Drag the square to move it. Shift keeps one direction, Ctrl goes in steps of 5 cm. {ENDS}"
        return f"Drag the square to aim the bone at the pointer. {ENDS}"
    limb = next(limb for limb in rig.limbs if joint in (limb.upper, limb.middle, limb.end))
    if joint == limb.end:
        turn = "lets it follow its bone" if limb.foot is not None else "keeps its own angle"
        return (
            f"Drag the square to place it by its limb alone. Shift stretches the limb, Alt {turn}, Ctrl steps. {ENDS}"
        )
    return (
        f"Drag the square to place this joint alone; the others stay. Shift lets the bones stretch, Ctrl steps. {ENDS}"
    )
