"""The words on and under the stage."""

from __future__ import annotations

from bovrin.craft.hanging.offsets import held_at
from bovrin.craft.keying.edits import Scope
from bovrin.craft.keying.unkeyed import unkeyed_at
from bovrin.craft.pose import posing
from bovrin.craft.pose.body import anchored, follows_a_drag
from bovrin.craft.pose.modes import limb_of_control
from bovrin.craft.takes import frame_in_step
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.compared import other_take
from bovrin.figure.solve.plan import special_column
from bovrin.shot import ChannelRole, ControlKind, HandleKind
from bovrin.shot.curve import SAME_FRAME


def frame_words(session: Session) -> str:
    """Frame, time and rate; the frame of the take that is compared with."""
    shot = session.shown
    passed = session.frame - shot.first
    other = other_take(shot, session.looking.compared)
    beside = "" if other is None else f"take {other.name} f {frame_in_step(shot, other, session.frame):g} · "
    return f"{beside}f {session.frame:g} · {passed / shot.frame_rate:.2f} s · {shot.frame_rate:g} fps"


def chip_words(session: Session) -> str:
    """What is chosen and what an edit here keys, said before it happens."""
    figure, pencil = session.figure, session.looking.pencil
    if pencil.on:
        return "Rubber: drag over lines" if pencil.rubber else f"Pencil: {pencil.colour}, on the {pencil.onto}"
    if figure is None:
        return "No figure in this shot"
    if not session.controls:
        return "Click a part of a figure to pose it"
    if all(figure.rig.controls[c].kind is ControlKind.FOLLOWER for c in session.controls):
        return f"{chosen_words(session)} · a rule: what it is told stands in Followers"
    words = [chosen_words(session), _hangs_words(session) or f"keys {_scope_words(session)}"]
    anchors = anchored(session.stance())
    if anchors:
        names = [figure.rig.joints[joint].name for joint in anchors]
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
    if limb is None or special_column(figure.rig, figure.rig.limbs[limb].goal, ChannelRole.REACH) < 0:
        return name
    return f"{name} · {'reach' if posing.in_reach(session.stance(), limb) else 'joints'}"


def _hangs_words(session: Session) -> str:
    """What the one chosen control hangs on here, and what a drag of it changes; "" where it does not hang."""
    if len(session.controls) != 1 or not session.shown.attachments(session.figure_name):
        return ""
    held = [h for h in held_at(session.shown, session.figure_name, session.frame) if h.control == session.controls[0]]
    if not held:
        return ""
    onto = [hook.attachment.onto for hook, share in zip(held[0].hooks, held[0].share, strict=True) if share > 0]
    total = held[0].share.sum()
    if total > 1.0 - SAME_FRAME:
        return f"hangs on {' and '.join(onto)}: a drag changes how it hangs"
    return f"hangs {total * 100:.0f} % on {' and '.join(onto)} · keys {_scope_words(session)}"


def _scope_words(session: Session) -> str:
    there = bool((abs(session.poses.cards.frames - session.frame) < SAME_FRAME).any())
    what = SCOPES[session.keying.scope]
    if session.keying.only_k:
        waits = unkeyed_at(session.shown, session.figure_name, session.frame) is not None
        return f"{what} when K is pressed" + (" · changed, not keyed (D drops it)" if waits else "")
    if there:
        return f"{what} in the pose at {session.frame:g}"
    kind = "held" if session.keying.style_in(session.pass_).out_kind is HandleKind.STEPPED else "eased"
    return f"{what}: new {kind} pose at {session.frame:g}"


SCOPES = {Scope.WHOLE: "the whole figure", Scope.PART: "its part", Scope.TOUCHED: "only what is touched"}
ENDS = "Double click resets. Esc puts it back."


def grip_words(session: Session, grip: str) -> str:
    """The line at the bottom for a grip of the handle."""
    return _square_words(session) if grip == "square" else HINTS[grip]


def skin_words(session: Session, figure: str, control: int) -> str:
    """The line at the bottom for a figure's skin."""
    rig = session.shown.figure(figure).rig
    name = rig.controls[control].name.capitalize()
    if follows_a_drag(rig, rig.controls[control].joint):
        return f"{name}: click to choose, drag and the body follows; anchors hold. Alt keeps its own angle. Shift adds."
    return f"{name}: click to choose, drag to pose. Shift adds to what is chosen."


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
        if posing.swings(rig, control) and posing.can_move(rig, control):
            return (
                f"Drag the square to turn the part toward the pointer. Alt pulls it off its joint, Ctrl steps. {ENDS}"
            )
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
