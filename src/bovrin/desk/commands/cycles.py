"""What the cycle commands do."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bovrin.craft.clips.instead import is_instead, keys_instead
from bovrin.craft.clips.keeping import keep_clip
from bovrin.craft.clips.laying import (
    INSTEAD,
    LET_GO,
    ON_TOP,
    changed_laid,
    crossfade,
    keys_under,
    lay_clip,
    missing_channels,
    with_laid,
)
from bovrin.craft.clips.naming import free_name, places_of, removed_clip
from bovrin.craft.clips.sidestep import ROUND, sidestep
from bovrin.craft.clips.weights import weight_at, with_weight_key
from bovrin.craft.cycle.half import mirror_half
from bovrin.craft.cycle.plant import plant
from bovrin.craft.cycle.rounds import close_loop, opened
from bovrin.craft.cycle.spot import on_the_spot, to_the_root, travelling
from bovrin.craft.stride_ruler import plain_ruler, stride_ruler, turned_ruler
from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.session import Session
from bovrin.errors import BadMotion
from bovrin.measure.gait.contacts import contacts
from bovrin.measure.gait.slide import slide_of
from bovrin.shot import Figure, Pose, Shot

MM = 1000.0
FADE = 0.67
"""Seconds that a fade takes, unless it is dragged."""


def toggle_mirror(session: Session) -> None:
    """Halves mirror one another from now on, or no longer; every key stays where it is."""
    name, cycle = session.figure_name, session.shot.cycle(session.figure_name)
    if cycle is None:
        session.voice.tell("There is no cycle to mirror. Lay one out, or let the motion go round.")
    elif cycle.mirrored:
        session.do("Halves apart", lambda shot: shot.with_cycle(name, replace(cycle, mirrored=False)))
    else:
        session.do("Mirror halves", lambda shot: mirror_half(shot, name, cycle.first, cycle.last))


def toggle_round(session: Session) -> None:
    """The motion goes round over the range, or holds at its ends again."""
    name, shot = session.figure_name, session.shot
    if shot.cycle(name) is not None:
        session.do("Open the loop", lambda s: opened(s, name))
        return
    ends = [(c.frames[0], c.frames[-1]) for c in shot.curves(name).curves if len(c) > 1]
    start = min((float(a) for a, _ in ends), default=shot.first)
    end = max((float(b) for _, b in ends), default=shot.last)
    session.do("Close the loop", lambda s: close_loop(s, name, start, end))


def go_on_the_spot(session: Session) -> None:
    """Take the travel out, in the directions that are chosen."""
    name, ways, steady = session.figure_name, session.keying.travel, session.keying.travel_steady
    session.do("On the spot", lambda shot: on_the_spot(shot, name, ways, steady=steady), in_step=False)


def travel(session: Session) -> None:
    """Put the travel back."""
    name, ways, steady = session.figure_name, session.keying.travel, session.keying.travel_steady
    session.do("Travel", lambda shot: travelling(shot, name, ways, steady=steady), in_step=False)


def to_root(session: Session) -> None:
    """Travel of the hips becomes that of the whole figure."""
    name, ways = session.figure_name, session.keying.travel
    if not session.do("Travel to the root", lambda shot: to_the_root(shot, name, ways), in_step=False):
        session.voice.tell("The hips do not travel: it is the whole figure that goes.")


def plant_feet(session: Session) -> None:
    """Feet stay where they are down; says how far they slid, and slide still."""
    name, blend = session.figure_name, session.keying.plant_blend
    before = max(slide_of(session.shot, name).values(), default=0.0)
    feet = chosen_feet(session)
    if session.do("Plant feet", lambda shot: plant(shot, name, feet, blend)):
        left = max(slide_of(session.shot, name).values(), default=0.0)
        session.voice.tell(f"Planted: feet slid {before * MM:.1f} mm, now {left * MM:.1f} mm.")
    elif before < 1e-3:
        session.voice.tell(f"Feet stay already: they slide {before * MM:.1f} mm at most.")


def toggle_ground(session: Session) -> None:
    """Feet stand on the set's mesh, or on flat ground again."""
    session.do("What feet stand on", lambda shot: replace(shot, on_set=not shot.on_set))
    session.voice.tell(
        "Feet stand on the set and on what stands still: plant them to bring them there."
        if session.shot.on_set
        else "Feet stand on flat ground."
    )


def keep_ruler(session: Session) -> None:
    """The stride lies on the ground as a ruler; a metre where there is no stride."""
    shot, name, frame, why = session.shot, session.figure_name, session.frame, ""
    try:
        ruler = stride_ruler(shot, name, frame)
    except BadMotion as error:
        ruler, why = plain_ruler(shot, name, frame), error.what
    session.do("Keep the ruler", lambda shot: replace(shot, ruler=ruler))
    if why:
        session.voice.tell(f"No stride is measured: {why} A ruler of {ruler.length * 100:.0f} cm lies on the ground.")


def turn_ruler(session: Session) -> None:
    """A quarter turn, for a step aside."""
    session.do("Turn the ruler", turned_ruler)


def put_ruler_away(session: Session) -> None:
    """No ruler lies on the ground."""
    session.do("Put the ruler away", lambda shot: replace(shot, ruler=None))


def chosen_feet(session: Session) -> list[str] | None:
    """The legs with a foot that are chosen, and the arms whose hand is ever down; None: all feet."""
    figure = session.figure
    if figure is None:
        return None
    own = set(contacts(session.shot, figure.name))
    found = [
        figure.rig.limbs[figure.rig.controls[c].limb].name for c in session.controls if figure.rig.controls[c].limb >= 0
    ]
    legs = [name for name in dict.fromkeys(found) if name in own]
    return legs or None


def keep_a_clip(session: Session) -> None:
    """Keep the cycle, or else the second range or the range, as a clip under a name of its own."""
    name, shot = session.figure_name, session.shot
    cycle = shot.cycle(name)
    start, end = shot.second or (shot.first, shot.last)
    loop = cycle is not None
    if cycle is not None:
        start, end = cycle.first, cycle.last
    words = free_name(shot, (cycle.gait if cycle is not None else "") or "clip")
    if session.do(f"Keep '{words}'", lambda s: keep_clip(s, name, words, start, end, loop=loop)):
        session.shelf.choose_clip(words)
        session.voice.tell(f"Kept as '{words}', {end - start:g} frames. Double click its name to change it.")


def lay_the_clip(session: Session) -> None:
    """Lay the clip that is chosen from the current frame on, on the lane that is chosen, or the lowest."""
    shot, shelf, name = session.shot, session.shelf, session.figure_name
    clip = shelf.clip if any(own.name == shelf.clip for own in shot.clips) else next((c.name for c in shot.clips), "")
    if not clip:
        session.voice.tell("There is no clip yet. Keep one first.")
        return
    lane, at = shelf.place.lane if shelf.place is not None else 0, session.frame
    under = keys_under(shot, name, clip, at)
    if not _laid(session, clip, at, min(lane, len(shot.lanes(name))), LET_GO):
        return
    if under:
        _offer_keys(session, clip, at, min(lane, len(shot.lanes(name))), under)
        return
    lacks = missing_channels(shot, name, clip)
    if lacks:
        session.voice.tell(f"'{name}' lacks {len(lacks)} of its channels, such as '{lacks[0]}'.")


def _laid(session: Session, clip: str, at: float, lane: int, keys: str) -> bool:
    """Lay a clip, and choose it where it lies."""
    name = session.figure_name
    done = session.do(f"Lay '{clip}'", lambda s: stretched(lay_clip(s, name, clip, at, lane, keys), name))
    if done:
        session.shelf.follow(next(one for one in session.shot.lanes(name)[lane].laid if one.at == at), lane)
    return done


def _offer_keys(session: Session, clip: str, at: float, lane: int, under: int) -> None:
    """Say how many keys gave way to a clip that was just laid, and offer to have them back on top of it or instead of it."""
    stack = session.document.undo_stack
    made, step = session.shot, stack.index()

    def otherwise(keys: str) -> None:
        if session.shot is not made or stack.index() != step:
            session.voice.tell("Something else was done since. Undo that first, then lay the clip again.")
            return
        stack.undo()
        _laid(session, clip, at, lane, keys)

    gone = "One key gave" if under == 1 else f"{under} keys gave"
    session.voice.offer(
        f"{gone} way to '{clip}', which moves what they moved.",
        ("Keep them on top", lambda: otherwise(ON_TOP)),
        ("Keep them instead", lambda: otherwise(INSTEAD)),
    )


def stretched(shot: Shot, figure: str) -> Shot:
    """The shot with a range that holds all that is laid for a figure."""
    end = max((one.end for lane in shot.lanes(figure) for one in lane.laid), default=shot.last)
    return replace(shot, last=max(shot.last, float(np.ceil(end))))


def take_off(session: Session) -> None:
    """Take the chosen clip off its lane."""
    laid, place, name = session.shelf.laid(), session.shelf.place, session.figure_name
    if laid is None or place is None:
        session.voice.tell("Choose a clip on the shelf first.")
        return
    session.do("Take the clip off", lambda s: changed_laid(s, name, place.lane, laid, lambda _one: None))
    session.shelf.choose(None)


def key_weight(session: Session) -> None:
    """The weight of the chosen clip on the shelf has a key on the current frame, as heavy as it is there."""
    laid, place, name, frame = session.shelf.laid(), session.shelf.place, session.figure_name, session.frame
    if laid is None or place is None:
        session.voice.tell("Choose a clip on the shelf first.")
        return
    if not laid.at <= frame <= laid.end:
        session.voice.tell(f"'{laid.clip}' lies from frame {laid.at:g} to {laid.end:g}: go there first.")
        return
    new = with_weight_key(laid, frame, weight_at(laid, frame))
    if session.do("Key the weight", lambda shot: changed_laid(shot, name, place.lane, laid, lambda _old: new)):
        session.shelf.follow(new, place.lane)


def fade_here(session: Session) -> None:
    """The clip that follows fades in from the current frame on, over half a round of the one before."""
    name, place = session.figure_name, session.shelf.place
    lane = 0 if place is None else place.lane
    lanes = session.shot.lanes(name)
    if lane >= len(lanes) or len(lanes[lane].laid) < 2:
        session.voice.tell("A fade needs two clips on a lane, one after another.")
        return
    frames = FADE * session.shot.frame_rate
    session.do("Fade", lambda s: crossfade(s, name, lane, session.frame, frames))


def to_keys(port: Port, *, every_frame: bool = False) -> None:
    """Clips and keys told by keys alone, over the second range where there is one."""
    from bovrin.craft.clips.to_keys import clips_to_keys  # noqa: PLC0415 - kept out of the window's start

    name, (start, end) = port.session.figure_name, port.session.shot.second or (None, None)
    port.files.change(
        "Clips to keys",
        f"Telling the clips of {name} by keys…",
        lambda shot: clips_to_keys(shot, name, start, end, every_frame=every_frame),
    )


def toggle_instead(session: Session) -> None:
    """Keys of the chosen controls count instead of the clips under them, or are added to those again."""
    name, frame, channels = session.figure_name, session.frame, session.choice.channels
    if not session.controls:
        session.voice.tell("Choose the controls whose keys shall count instead of clips.")
        return
    on = not is_instead(session.shot, name, channels)
    if session.do("Keys instead" if on else "Keys added", lambda s: keys_instead(s, name, channels, frame, instead=on)):
        session.voice.tell(
            "Their keys count instead of the clips under them." if on else "Their keys are added to the clips again."
        )


def forget_clip(session: Session) -> None:
    """Let go of the chosen clip, wherever it lies."""
    clip = session.shelf.clip
    if not any(own.name == clip for own in session.shot.clips):
        session.voice.tell("Choose a clip in the list first.")
        return
    times = places_of(session.shot, clip)
    if session.do(f"Forget '{clip}'", lambda s: removed_clip(s, clip)) and times:
        session.voice.tell(f"'{clip}' lay on {times} places, and is gone from them. Undo brings it back.")


def step_aside(session: Session, way: str) -> None:
    """The chosen clip another way, from the current frame on: what took it forward muted, and keyed anew above."""
    name, clip = session.figure_name, session.shelf.clip
    if not any(own.name == clip for own in session.shot.clips):
        session.voice.tell("Choose a forward walk or run in the list of clips first.")
        return
    if session.do(f"Step {way}", lambda s: stretched(sidestep(s, name, clip, way, session.frame, repeats=2.0), name)):
        where = f"its way bent to the {way.split()[1]}" if way in ROUND else f"the way {way}"
        session.voice.tell(
            f"'{clip}' runs from its end to its beginning, on a lane of its own."
            if way == "backward"
            else f"Two lanes: '{clip}' with its way forward muted, and {where} above it."
        )


def mute_chosen(session: Session) -> None:
    """The chosen controls are moved no longer by the chosen clip, or are again."""
    laid, place, figure = session.shelf.laid(), session.shelf.place, session.figure
    if laid is None or place is None or figure is None or not session.controls:
        session.voice.tell("Choose a clip on the shelf, and the parts that it shall not move.")
        return
    names = {figure.rig.controls[c].name for c in session.controls}
    mute = tuple(sorted(set(laid.mute) - names if names <= set(laid.mute) else set(laid.mute) | names))
    session.do("Mute in the clip", lambda s: with_laid(s, figure.name, place.lane, laid, mute=mute))


def from_reference(figure: Figure, poses: tuple[Pose, ...]) -> list[Pose]:
    """The poses of the book that fit a figure and know their frame of the reference, in its order."""
    known = {control.name for control in figure.rig.controls}
    found = [pose for pose in poses if pose.reference is not None and pose.controls & known]
    return sorted(found, key=lambda pose: pose.reference or 0.0)


def lay_out_reference(port: Port) -> None:
    """Ask how many frames a round has, and lay the poses of the book out as a cycle, as far apart as the reference has them."""
    from bovrin.craft.cycle.lay_out import reference_frames, spread_out  # noqa: PLC0415 - kept out of the window's start

    session = port.session
    assert session.figure is not None
    poses = from_reference(session.figure, port.book.poses)
    if len(poses) < 2:
        session.voice.tell("Two cards of the pose book at least need a reference frame. Type it in the card's details.")
        return
    counts = reference_frames(poses)
    gap = (counts[-1] - counts[0]) / (len(poses) - 1)
    whole = counts[-1] - counts[0] + gap
    words = f"{len(poses)} poses, {counts[0]:g} to {counts[-1]:g} in the reference. Frames from the first pose to itself again:"
    frames = port.ask.number("Lay out a cycle", words, max(round(whole), len(poses)), len(poses), 2000)
    if frames is None:
        return
    at = spread_out([*counts, counts[-1] + gap], session.shot.first, float(frames))
    name = session.figure_name
    if session.do("Lay out from reference", lambda shot: _laid_out(shot, name, poses, at), in_step=False):
        session.going.laid_out.emit()


def _laid_out(shot: Shot, name: str, poses: list[Pose], at: list[float]) -> Shot:
    """The figure's motion is the cycle, and nothing else of it; of a shot that holds only that, the range too."""
    from bovrin.craft.cycle.lay_out import lay_out  # noqa: PLC0415 - kept out of the window's start

    bare = shot.with_curves(name, shot.figure(name).no_motion()).with_cards(name, ()).with_contacts(name, {})
    made = lay_out(bare.with_cycle(name, None), name, poses, at)
    others = any(len(c) for n, own in made.take.curves.items() if n != name for c in own.curves)
    return replace(made, last=max(made.last, at[-1] - 1) if others else at[-1] - 1, loops=made.loops or not others)
