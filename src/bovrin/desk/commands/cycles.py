"""What the cycle commands do."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.cycle.half import mirror_half
from bovrin.craft.cycle.plant import plant
from bovrin.craft.cycle.rounds import close_loop, opened
from bovrin.craft.cycle.spot import on_the_spot, to_the_root, travelling
from bovrin.desk.state.session import Session
from bovrin.measure.gait.slide import slide_of

MM = 1000.0


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
    name, ways = session.figure_name, session.keying.travel
    session.do("On the spot", lambda shot: on_the_spot(shot, name, ways), in_step=False)


def travel(session: Session) -> None:
    """Put the travel back."""
    name, ways = session.figure_name, session.keying.travel
    session.do("Travel", lambda shot: travelling(shot, name, ways), in_step=False)


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


def chosen_feet(session: Session) -> list[str] | None:
    """The legs with a foot that are chosen; None: all of them."""
    figure = session.figure
    if figure is None:
        return None
    own = {limb.name for limb in figure.rig.limbs if limb.foot is not None}
    found = [
        figure.rig.limbs[figure.rig.controls[c].limb].name for c in session.controls if figure.rig.controls[c].limb >= 0
    ]
    legs = [name for name in dict.fromkeys(found) if name in own]
    return legs or None
