"""What the commands of time and spacing do: plain functions of the port, named in the command table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from bovrin.craft.between.breakdown import breakdown, fill_breakdowns, measured_favour, neighbours
from bovrin.craft.between.push import push_past, settle
from bovrin.craft.keying import pose_keys
from bovrin.craft.keying.edits import Scope
from bovrin.craft.keying.key_sets import keys_on, move_keys, remove_keys, set_role, shifted_keys, spread, spread_keys
from bovrin.craft.keying.timing import insert_frames, remove_frames, slide
from bovrin.craft.keying.unkeyed import unkeyed_at
from bovrin.craft.keying.whole_cast import move_keys_for_all
from bovrin.desk.commands.command import Run, changing
from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.editing import chosen_parts, drop_change, keep_change, scope_channels
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.passes import BREAK_DOWN
from bovrin.errors import BadMotion
from bovrin.shot import KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME

ON = {4: "fours", 3: "threes", 2: "twos"}


def go(pick: Callable[[Session], float | None]) -> Run:
    """To the frame that is picked, if there is one."""

    def run(port: Port) -> None:
        frame = pick(port.session)
        if frame is not None:
            port.session.go_to(frame)

    return run


def with_role(role: KeyRole, *, after: bool) -> Callable[[Session], float | None]:
    """The next pose of a role, or the one before."""

    return lambda session: session.poses.beside(session.frame, after=after, role=role)


# -- keying -----------------------------------------------------------------------------------------------------------


def key_here(port: Port) -> None:
    """Key what is there; a change that was not keyed yet is kept by that."""
    session = port.session
    if unkeyed_at(session.shot, session.figure_name, session.frame) is not None:
        keep_change(session, session.frame)
        return
    keyed = pose_keys.key_pose(session.shot, session.figure_name, session.frame, channels=scope_channels(session))
    if keyed is session.shot:
        session.voice.tell(f"Frame {session.frame:g} is keyed as it is already.")
        return
    session.commit("Key pose", keyed)


def drop_here(port: Port) -> None:
    """Put back what was there before a change that was not keyed."""
    session = port.session
    if unkeyed_at(session.shot, session.figure_name, session.frame) is None:
        session.voice.tell("Nothing on this frame waits to be keyed.")
        return
    drop_change(session, session.frame)


def next_scope(port: Port) -> None:
    """Keys go on the whole figure, its part, or only what is touched."""
    session = port.session
    scopes = list(Scope)
    session.change_keying(scope=scopes[(scopes.index(session.keying.scope) + 1) % len(scopes)])
    session.voice.tell(f"Keys go on: {session.keying.scope.value}.")


def toggle_only_k(port: Port) -> None:
    """Whether changes are keyed only when K is pressed."""
    session = port.session
    session.change_keying(only_k=not session.keying.only_k)
    session.voice.tell(
        "Only K keys now; changes are shown until then." if session.keying.only_k else "Every change is keyed again."
    )


def toggle_for_all(port: Port) -> None:
    """Retiming a pose takes the whole cast along, or the figure alone again."""
    session = port.session
    session.do("What retiming takes", lambda shot: replace(shot, retimes_all=not shot.retimes_all))
    session.voice.tell(
        "Retiming a pose takes the whole cast and the markers along."
        if session.shot.retimes_all
        else "Retiming a pose takes this figure alone."
    )


def hold_here(shot: Shot, session: Session) -> Shot:
    """The pose before, repeated on this frame."""
    return pose_keys.hold(shot, session.figure_name, session.frame, scope_channels(session))


def breakdown_here(port: Port) -> None:
    """The breakdown that the panel shows, or in other passes the favour that the motion has now."""
    session = port.session
    if session.pass_ is BREAK_DOWN and port.favours.between is not None:
        port.favours.commit()
        return

    def change(shot: Shot) -> Shot:
        before, after = neighbours(shot, session.figure_name, session.frame)
        favour = measured_favour(shot, session.figure_name, session.frame)
        share = (session.frame - before) / (after - before) if favour < 1e-9 else favour
        return breakdown(shot, session.figure_name, session.frame, share, channels=scope_channels(session))

    session.do("Breakdown", change)


def remove(port: Port) -> None:
    """The chosen keys, else the pose on this frame."""
    session = port.session
    if session.keys:
        chosen = session.keys.by_channel
        session.do("Remove keys", lambda shot: remove_keys(shot, session.figure_name, chosen))
        return
    if session.poses.cards.held_at(session.frame) != session.frame:
        session.voice.tell("There is no pose on this frame to remove. Go to one with Up or Down.")
        return
    channels = scope_channels(session)
    session.do("Remove the pose", lambda s: pose_keys.delete_keys(s, session.figure_name, session.frame, channels))


# -- spans ------------------------------------------------------------------------------------------------------------


def fill(every: int) -> Run:
    """Breakdowns on every so many frames of the span that the current frame lies in."""

    def change(shot: Shot, session: Session) -> Shot:
        before, after = key_span(session)
        return fill_breakdowns(shot, session.figure_name, before, after, every, channels=scope_channels(session))

    return changing(f"Fill on {ON[every]}", change)


def key_span(session: Session) -> tuple[float, float]:
    """The key poses at or before and after the current frame; BadMotion says so when there are not two."""
    poses = session.poses.whole
    keyed = poses.frames[poses.roles == KeyRole.KEY_POSE]
    before, after = keyed[keyed <= session.frame + SAME_FRAME], keyed[keyed > session.frame + SAME_FRAME]
    if not len(before) or not len(after):
        raise BadMotion(
            f"frame {session.frame:g} lies in no span between two key poses.",
            advice="Go to a frame between two of them.",
        )
    return float(before[-1]), float(after[0])


def push(port: Port) -> None:
    """Carry the pose at (or before) this frame on past where it was meant to go."""
    session = port.session
    session.do("Push past", lambda shot: push_past(shot, session.figure_name, session.frame))


def settle_here(port: Port) -> None:
    """A settling pose on this frame, after one that was pushed past."""
    session = port.session
    session.do("Settle", lambda shot: settle(shot, session.figure_name, session.frame))


# -- chosen keys ------------------------------------------------------------------------------------------------------


def later(by: int) -> Callable[[Port], None]:
    """The chosen keys, or else all keys of the chosen part, later by frames."""

    def run(port: Port) -> None:
        session = port.session
        if session.keys:
            move_chosen(session, by)
        else:
            words = "Slide the part"
            session.do(words, lambda s: slide(s, session.figure_name, by, chosen_parts(session)))

    return run


def move_chosen(session: Session, by: float) -> None:
    """The chosen keys later by frames, as far as there is room; they stay chosen."""
    chosen, before = session.keys.by_channel, session.curves
    move = move_keys_for_all if session.shot.retimes_all else move_keys
    if before is None or not session.do("Move keys", lambda s: move(s, session.figure_name, chosen, by)):
        return
    channel, frames = next(iter(chosen.items()))
    at, curves = before[channel].index_at(float(frames[0])), session.curves
    if at is not None and curves is not None:
        session.keys.choose_there(shifted_keys(chosen, float(curves[channel].frames[at] - before[channel].frames[at])))


def spread_chosen(session: Session) -> None:
    """The chosen keys at even distances; they stay chosen."""
    if not session.keys:
        session.voice.tell("Choose keys on the strip first: cards, or a box over the lanes.")
        return
    chosen, before = session.keys.by_channel, session.curves
    if before is not None and session.do(
        "Spread keys evenly", lambda shot: spread_keys(shot, session.figure_name, chosen)
    ):
        session.keys.choose_there(spread(before, chosen))


def call(role: KeyRole, words: str) -> Callable[[Port], None]:
    """Give the chosen keys, or else those on this frame, a role."""

    def run(port: Port) -> None:
        session = port.session
        chosen = session.keys.by_channel or session.keys.on_frame(session.frame)
        if not chosen:
            session.voice.tell("There is no key on this frame, and none is chosen.")
            return
        session.do(f"Call it {words}", lambda shot: set_role(shot, session.figure_name, chosen, role))

    return run


def choose_side(low: float | None, high: float | None) -> Callable[[Port], None]:
    """Choose keys from the current frame plus `low` to it plus `high` (None: without end), in what is chosen of the figure."""

    def run(port: Port) -> None:
        session, curves = port.session, port.session.curves
        if curves is None:
            return
        channels = scope_channels(session) or range(len(curves))
        start = -np.inf if low is None else session.frame + low
        end = np.inf if high is None else session.frame + high
        session.keys.choose_there(keys_on(curves, channels, start, end))
        session.voice.tell(f"{len(session.keys)} keys chosen." if session.keys else "There are no keys there.")

    return run


def insert_part(shot: Shot, session: Session) -> Shot:
    """An empty frame after this one, for the chosen parts."""
    return insert_frames(shot, session.frame, 1, session.figure_name, chosen_parts(session))


def take_out_part(shot: Shot, session: Session) -> Shot:
    """The empty frame after this one taken out, for the chosen parts."""
    return remove_frames(shot, session.frame, 1, session.figure_name, chosen_parts(session))
