"""What the posing commands do: plain functions of the port, named in the command table."""

from __future__ import annotations

from bovrin.craft.curves.rotation import jumps, set_rotation_order, unroll
from bovrin.craft.keying.edits import Scope, fence, prepared
from bovrin.craft.keying.mirror_keys import mirror_keys, mirror_range
from bovrin.craft.pose import posing
from bovrin.craft.pose.body import anchored
from bovrin.craft.pose.mirror import mirror
from bovrin.craft.pose.modes import limb_of_control, match_limb, set_mode
from bovrin.craft.pose.pose_copies import default_pose, pasted_values, pose_of
from bovrin.desk.commands.port import Port
from bovrin.desk.state.choosing.clipboard import tell_system, told_pose
from bovrin.desk.state.choosing.keying import Place
from bovrin.desk.state.document.editing import chosen_parts, chosen_scope, do_edit, edit, pose_here
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.looking import AXES
from bovrin.errors import BadMotion
from bovrin.figure.body.bends import ancestors
from bovrin.figure.solve.fit import LimbMode
from bovrin.shot import Figure, Pose, Shot

NOTHING = "Choose a part of the figure first."
EVERYTHING = {"hidden": frozenset[str](), "hidden_parts": frozenset[Place](), "alone": None}


def _figure(session: Session) -> Figure:
    figure = session.figure
    if figure is None:
        raise BadMotion("there is no figure in this shot.", advice="Open a shot with a figure.")
    return figure


# -- choosing ---------------------------------------------------------------------------------------------------------


def choose_up(port: Port) -> None:
    """The control above in the hierarchy."""
    session = port.session
    figure = _figure(session)
    if not session.controls:
        session.choose(figure.name, (0,))
        return
    above = _above(figure, session.controls[-1])
    if above is not None:
        session.choose(figure.name, (above,))


def _above(figure: Figure, control: int) -> int | None:
    values = range(len(figure.rig.controls))
    for joint in ancestors(figure.rig, figure.rig.controls[control].joint)[1:]:
        for index in values:
            if figure.rig.controls[index].joint == joint and posing.is_own(figure.rig, index):
                return index
    return None


def choose_down(port: Port) -> None:
    """The first control below in the hierarchy."""
    session = port.session
    figure = _figure(session)
    if not session.controls:
        session.choose(figure.name, (0,))
        return
    below = posing.controls_below(session.stance(), session.controls[-1])
    if below:
        session.choose(figure.name, (below[0],))


def choose_branch(port: Port) -> None:
    """What is chosen and everything below it."""
    session = port.session
    figure = _figure(session)
    if not session.controls:
        session.voice.tell(NOTHING)
        return
    wanted = list(session.controls)
    for control in session.controls:
        wanted += posing.controls_below(session.stance(), control, whole=True)
    session.choose(figure.name, wanted)


def choose_part(port: Port) -> None:
    """All controls of the chosen parts."""
    session = port.session
    figure = _figure(session)
    if not session.controls:
        session.voice.tell(NOTHING)
        return
    parts = dict.fromkeys(figure.rig.part_of(c) for c in session.controls)
    found = [c for part in parts if part >= 0 for c in figure.rig.parts[part].controls]
    session.choose(figure.name, [*found, *(c for c in session.controls if c not in found)])


# -- mirror, copy, paste ----------------------------------------------------------------------------------------------


def mirror_pose(port: Port, how: str) -> None:
    """Mirror the pose here: the whole figure, or the parts that "Keys go on" stands for."""
    session = port.session
    figure, parts, keying = _figure(session), _mirror_parts(session), session.keying
    style = keying.style_in(session.pass_)

    def change(shot: Shot) -> Shot:
        ready = prepared(shot, figure.name, session.frame, [], keying.scope, style) if parts is None else shot
        plane, keep = keying.mirror_about, not keying.mirror_place
        return mirror(ready, figure.name, session.frame, parts, how, plane, keep_place=keep, style=style)

    if do_edit(session, f"Mirror: {how}", change) and not figure.rig.pairs:
        session.voice.tell(f"'{figure.name}' has no left and right, so it was mirrored in place.")


def _mirror_parts(session: Session) -> list[str] | None:
    if session.keying.scope is Scope.WHOLE or not session.controls:
        return None
    return chosen_parts(session)


def mirror_chosen(port: Port) -> None:
    """Mirror the chosen keys, or else every key of the shot's range, or of the chosen parts in it."""
    session = port.session
    name, chosen = _figure(session).name, session.keys.by_channel
    plane, keep = session.keying.mirror_about, not session.keying.mirror_place

    def change(shot: Shot) -> Shot:
        if chosen:
            return mirror_keys(shot, name, chosen, plane=plane, keep_place=keep)
        parts = _mirror_parts(session)
        return mirror_range(shot, name, shot.first, shot.last, parts, plane=plane, keep_place=keep)

    session.do("Mirror the chosen keys" if chosen else "Mirror all keys", change)


def copied_pose(session: Session) -> Pose:
    """The pose that copying takes: of the controls that "Keys go on" stands for."""
    figure = _figure(session)
    words = f"pose {session.frame:g}"
    return pose_of(figure.rig, pose_here(session), chosen_scope(session), words, figure.name)


def copy(port: Port) -> None:
    """Copy the pose here."""
    session = port.session
    pose = copied_pose(session)
    session.change_clipboard(pose=pose, told=tell_system(pose))
    session.voice.tell(f"Copied the pose at {session.frame:g}: {len(pose.controls)} controls.")


def paste(port: Port, *, mirrored: bool) -> None:
    """Paste the copied pose here, onto the chosen figure."""
    session = port.session
    pose = told_pose(session.clipboard.told) or session.clipboard.pose
    if pose is None:
        session.voice.tell("There is no copied pose yet. Copy one with Ctrl+C.")
        return
    apply_pose(session, pose, "Paste mirrored" if mirrored else "Paste", mirrored=mirrored)


def apply_pose(session: Session, pose: Pose, words: str, *, mirrored: bool = False, place: bool | None = None) -> bool:
    """Put a pose on the current frame of the chosen figure; what it lacks is told."""
    figure = _figure(session)
    changes = pasted_values(session.shot, figure.name, session.frame, pose, mirrored=mirrored, place=place)
    done = edit(session, words, changes, anew=True)
    missing = pose.controls - {c.name for c in figure.rig.controls}
    if done and missing:
        session.voice.tell(f"'{figure.name}' has no {', '.join(sorted(missing)[:3])}; the rest was posed.")
    return done


def to_default(port: Port) -> None:
    """The whole figure to its default pose, where it stands."""
    session = port.session
    apply_pose(session, default_pose(_figure(session).rig), "To the default pose", place=False)


# -- modes and anchors ------------------------------------------------------------------------------------------------


def _chosen_limbs(session: Session) -> list[int]:
    figure = _figure(session)
    limbs = dict.fromkeys(limb_of_control(figure.rig, c) for c in session.controls)
    return [limb for limb in limbs if limb is not None]


def switch_mode(session: Session, *, span: bool = False) -> None:
    """Joint or reach for the limbs that are chosen, from here on or in this span only."""
    figure = _figure(session)
    limbs = _chosen_limbs(session)
    if not limbs:
        session.voice.tell("Choose a part of a limb (an arm or a leg) first; other parts have one mode only.")
        return
    now = session.stance()
    after = session.poses.cards.after(session.frame)
    end = (after - 1 if after is not None else session.shot.last) if span else None

    def change(shot: Shot) -> Shot:
        for limb in limbs:
            mode = LimbMode.JOINTS if posing.in_reach(now, limb) else LimbMode.REACH
            shot = set_mode(shot, figure.name, limb, session.frame, mode, end)
        return shot

    if session.do("Joint or reach", change):
        session.choose(figure.name, _same_joints(figure, session))


def _same_joints(figure: Figure, session: Session) -> list[int]:
    """The controls that pose the same joints in the mode there is now."""
    now = session.stance()
    return [
        posing.control_for_joint(now, figure.rig.controls[c].joint) if limb_of_control(figure.rig, c) is not None else c
        for c in session.controls
    ]


def match_modes(port: Port) -> None:
    """Bring the channels of the other mode to where the limb is; the switch stays."""
    session = port.session
    figure = _figure(session)
    limbs = _chosen_limbs(session)
    if not limbs:
        session.voice.tell("Choose a part of a limb (an arm or a leg) first.")
        return
    now = session.stance()

    def change(shot: Shot) -> Shot:
        for limb in limbs:
            mode = LimbMode.JOINTS if posing.in_reach(now, limb) else LimbMode.REACH
            shot = match_limb(shot, figure.name, limb, session.frame, mode)
        return shot

    session.do("Match the other mode", change)


def toggle_anchor(port: Port) -> None:
    """Anchor what is chosen, or let go of it when all of it is anchored."""
    session = port.session
    figure = _figure(session)
    columns = _anchor_columns(figure, session)
    if not columns:
        session.voice.tell(
            "Choose a part that can be anchored first: a hand, a foot, an elbow, the head, the chest, the hips."
        )
        return
    values = session.stance().values
    on = not all(values[c] >= 0.5 for c in columns)
    edit(session, "Anchor" if on else "Let go of the anchor", {c: float(on) for c in columns})


def _anchor_columns(figure: Figure, session: Session) -> list[int]:
    found = []
    for control in session.controls:
        own = posing.anchor_column(figure.rig, control)
        other = posing.anchor_control(figure.rig, figure.rig.controls[control].joint)
        if own < 0 and other is not None:
            own = posing.anchor_column(figure.rig, other)
        if own >= 0:
            found.append(own)
    return list(dict.fromkeys(found))


def release_all(port: Port) -> None:
    """Let go of every anchor of this pose."""
    session = port.session
    figure = _figure(session)
    controls = [posing.anchor_control(figure.rig, joint) for joint in anchored(session.stance())]
    changes = {posing.anchor_column(figure.rig, c): 0.0 for c in controls if c is not None}
    if changes:
        edit(session, "Let go of all anchors", changes)
    else:
        session.voice.tell("Nothing is anchored in this pose.")


# -- this frame, turns, handles, showing ------------------------------------------------------------------------------


def fence_here(port: Port) -> None:
    """Key this frame and its neighbours as they are."""
    session = port.session
    controls = chosen_scope(session)
    session.do("Fence this frame", lambda shot: fence(shot, _figure(session).name, session.frame, controls))


def unroll_chosen(port: Port) -> None:
    """Take jumps between neighbouring frames out of the rotation curves of what is chosen, or of the whole figure."""
    session = port.session
    figure, before = _figure(session), session.shot
    controls = session.controls or range(len(figure.rig.controls))
    if not session.do("Unroll", lambda shot: unroll(shot, figure.name, controls)):
        session.voice.tell(
            "No rotation curve here jumps between neighbouring frames. Turns between keys stay as they are."
        )
        return
    count = jumps(before, session.shot, figure.name)
    session.voice.tell(f"{count} jump{'s' if count != 1 else ''} taken out. Turns between keys stay as they are.")


def change_order(session: Session, control: str, order: str) -> None:
    """Write a control's rotations in another order; the motion stays."""
    session.do(f"Rotation order {order}", lambda shot: set_rotation_order(shot, session.figure_name, control, order))


def next_axes(port: Port) -> None:
    """Handles go along the next kind of axes."""
    session = port.session
    session.change_looking(axes=AXES[(AXES.index(session.looking.axes) + 1) % len(AXES)])
    session.voice.tell(f"Handles go along {session.looking.axes} axes.")


def borrow_pivot(port: Port) -> None:
    """The next click on the stage is where the chosen parts turn about; again: their own pivot."""
    session = port.session
    if not session.controls:
        session.voice.tell(NOTHING)
    elif session.looking.borrowed is not None:
        session.change_looking(borrowed=None)
        session.voice.tell("Back to its own pivot.")
    else:
        port.stage.ask_place("pivot")
        session.voice.hint("Click where the chosen parts shall turn about. Esc leaves it.")


def show_alone(port: Port) -> None:
    """Only the chosen parts are drawn; again: everything."""
    session = port.session
    if session.looking.alone is not None:
        session.change_looking(alone=None)
        return
    figure = _figure(session)
    parts = frozenset(chosen_parts(session))
    if parts:
        session.change_looking(alone=(figure.name, parts))
    else:
        session.voice.tell(NOTHING)


def hide_parts(port: Port) -> None:
    """Hide the chosen parts; if they are hidden, show them."""
    session = port.session
    session.change_looking(hidden_parts=_toggled(session, session.looking.hidden_parts))


def lock_parts(port: Port) -> None:
    """Lock the chosen parts; if they are locked, unlock them."""
    session = port.session
    session.change_keying(locked=_toggled(session, session.keying.locked))


def _toggled(session: Session, now: frozenset[Place]) -> frozenset[Place]:
    """Places with the chosen parts among them, or without them when all of them are there."""
    name = _figure(session).name
    places = frozenset((name, part) for part in chosen_parts(session))
    if not places:
        session.voice.tell(NOTHING)
    return now - places if places <= now else now | places


def show_everything(port: Port) -> None:
    """Nothing is hidden or alone any more; locks stay."""
    session = port.session
    session.change_looking(**EVERYTHING)
