"""What is done to chosen parts of flat figures: drawings shown, order, the other side, joints."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import ChannelRole, Figure, Shot


def flat_figure(session: Session) -> Figure | None:
    """The chosen figure, if it is made of drawn parts."""
    figure = session.figure
    return figure if figure is not None and figure.model.is_flat else None


def chosen_parts(session: Session) -> list[str]:
    """The drawn parts that are chosen, by name; a goal or a pole stands for the part that it places."""
    figure = flat_figure(session)
    if figure is None:
        return []
    rig = figure.rig
    parts = {c.joint: c.name for c in rig.controls if _has(c.channels, ChannelRole.ORDER)}
    chosen = (rig.controls[c].joint for c in session.controls)
    return list(dict.fromkeys(parts[joint] for joint in chosen if joint in parts))


def parts_with_drawings(session: Session) -> dict[str, tuple[str, ...]]:
    """The parts whose drawings are shown, and what those are called: of the chosen parts those that have several, or else all
    that have."""
    figure = flat_figure(session)
    if figure is None:
        return {}
    several = {
        control.name: channel.choices
        for control in figure.rig.controls
        for channel in control.channels
        if channel.technical == ChannelRole.DRAWING
    }
    chosen = {name: several[name] for name in chosen_parts(session) if name in several}
    return chosen or several


def _has(channels: Sequence[object], role: ChannelRole) -> bool:
    return any(getattr(channel, "technical", "") == role for channel in channels)


def show_drawing(session: Session, part: str, drawing: str) -> bool:
    """Show a drawing of a part from the current frame on."""
    from bovrin.craft.flat.drawings import swap  # noqa: PLC0415 - kept out of the window's start

    name, frame = session.figure_name, session.frame
    return session.do(f"{part}: {drawing}", lambda shot: swap(shot, name, part, frame, drawing))


def lay_run(session: Session, part: str, drawings: Sequence[str], every: float) -> bool:
    """Show drawings of a part one after another from the current frame on."""
    from bovrin.craft.flat.drawings import swap_run  # noqa: PLC0415 - kept out of the window's start

    name, frame = session.figure_name, session.frame
    done = session.do(
        f"{part}: a run of {len(drawings)}", lambda shot: swap_run(shot, name, part, frame, drawings, every)
    )
    if done:
        end = frame + every * len(drawings)
        session.voice.tell(f"{part}: {', '.join(drawings)}, and from {end:g} on what was there.")
    return done


def step_drawing(session: Session, by: int) -> bool:
    """Show the next drawing, or the one before, of every chosen part that has several."""
    from bovrin.craft.flat.drawings import drawing_at, swap  # noqa: PLC0415 - kept out of the window's start

    name, frame = session.figure_name, session.frame
    parts = parts_with_drawings(session)
    chosen = [part for part in chosen_parts(session) if part in parts]
    if not chosen:
        session.voice.tell("Choose a part that has several drawings.")
        return False

    def change(shot: Shot) -> Shot:
        for part in chosen:
            names = parts[part]
            now = names.index(drawing_at(shot, name, part, frame))
            shot = swap(shot, name, part, frame, names[(now + by) % len(names)])
        return shot

    return session.do("Next drawing" if by > 0 else "Drawing before", change)


def stack_chosen(session: Session, how: str, *, branch: bool = False) -> bool:
    """Put the chosen parts in front or behind, from the current frame on."""
    parts = chosen_parts(session)
    if not parts:
        session.voice.tell("Choose the parts to put in front or behind.")
        return False
    return stack_parts(session, parts, how, branch=branch)


def stack_parts(session: Session, parts: Sequence[str], how: str, *, branch: bool = False) -> bool:
    """Put parts somewhere in the order, from the current frame on."""
    from bovrin.craft.flat.stacking import stack  # noqa: PLC0415 - kept out of the window's start

    name, frame = session.figure_name, session.frame
    words = {"front": "to the front", "back": "to the back"}.get(how, how)
    what = parts[0] if len(parts) == 1 else f"{len(parts)} parts"
    return session.do(f"{what} {words}", lambda shot: stack(shot, name, parts, frame, how, branch=branch))


def flip_chosen(session: Session) -> bool:
    """Turn the chosen parts over, from the current frame on."""
    from bovrin.craft.flat.shaping import flip  # noqa: PLC0415 - kept out of the window's start

    parts, name, frame = chosen_parts(session), session.figure_name, session.frame
    if not parts:
        session.voice.tell("Choose the parts to turn over.")
        return False

    def change(shot: Shot) -> Shot:
        for part in parts:
            shot = flip(shot, name, part, frame)
        return shot

    return session.do("Flip", change)


def rejoin_parts(session: Session, *, everything: bool = False) -> bool:
    """Put the chosen parts, or all, on their joints again on the current frame."""
    from bovrin.craft.flat.shaping import loose_parts, rejoin  # noqa: PLC0415 - kept out of the window's start

    name, frame = session.figure_name, session.frame
    loose = {session.shot.figure(name).rig.controls[c].name for c in loose_parts(session.shot, name, frame)}
    parts = sorted(loose) if everything else [part for part in chosen_parts(session) if part in loose]
    if not parts:
        session.voice.tell("Every part is on its joint." if not loose else "The chosen parts are on their joints.")
        return False
    return session.do("Rejoin", lambda shot: rejoin(shot, name, frame, parts))


def draw_anew(session: Session) -> bool:
    """Take over what the chosen figure's drawing looks like now."""
    from bovrin.script import reload  # noqa: PLC0415 - kept out of the window's start

    name = session.figure_name
    done = session.do(f"{name} drawn anew", lambda shot: reload(shot, name), in_step=False)
    if done:
        session.voice.tell(f"{name} is drawn anew.")
    return done


def bend_chosen(session: Session) -> bool:
    """Let the chosen parts bend by points."""
    from bovrin.craft.flat.bends import bend_along  # noqa: PLC0415 - kept out of the window's start

    parts, name = chosen_parts(session), session.figure_name
    if not parts:
        session.voice.tell("Choose the part that shall bend: a neck, an arm, a hat.")
        return False

    def change(shot: Shot) -> Shot:
        for part in parts:
            shot = bend_along(shot, name, part)
        return shot

    done = session.do(f"Bend {parts[0]}", change)
    if done:
        session.voice.tell(f"{parts[0]} bends now: its points are in its lane, to be moved, turned and keyed.")
    return done


def write_svg(session: Session, path: Path) -> bool:
    """Write the chosen figure's picture on the current frame."""
    from bovrin.script import frame_svg  # noqa: PLC0415 - kept out of the window's start

    try:
        frame_svg(session.shot, path, session.figure_name, session.frame)
    except BovrinError as error:
        session.voice.fail(error)
        return False
    session.voice.tell(f"{path.name} is written.")
    return True


def take_pose(session: Session, path: Path) -> bool:
    """Another drawing of the chosen figure's parts becomes a key pose on the current frame."""
    from bovrin.script.flat import pose_from  # noqa: PLC0415 - kept out of the window's start

    name, frame, told = session.figure_name, session.frame, list[str]()

    def change(shot: Shot) -> Shot:
        made = pose_from(shot, name, path, frame)
        told.extend(made.told)
        return made.shot

    done = session.do(f"Pose from {path.name}", change)
    if done:
        session.voice.tell(" ".join([f"The pose of {path.name} is keyed on {frame:g}.", *told]))
    return done
