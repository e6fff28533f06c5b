"""Commands of the polish pass: arcs."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.spots import forget_spots, keep_spot
from bovrin.desk.commands.command import Command, changing, has_choice, has_figure
from bovrin.desk.commands.port import Port
from bovrin.desk.state.arcs import spot_of
from bovrin.desk.state.session import Session
from bovrin.shot import Shot


def _toggle(port: Port) -> None:
    arcs = port.session.looking.arcs
    port.session.change_looking(arcs=replace(arcs, on=not arcs.on))


def _shown(port: Port) -> None:
    if not port.session.looking.arcs.on:
        _toggle(port)


def _spot(port: Port) -> None:
    _shown(port)
    port.stage.place_spot()
    port.session.voice.tell("Click a spot on a figure: its arc is kept with the shot. Escape: none.")


def _keep(shot: Shot, session: Session) -> Shot:
    figure = session.figure
    assert figure is not None
    for control in session.controls:
        shot = keep_spot(shot, spot_of(figure, control))
    return shot


ARCS = (
    Command(
        "arcs.show", "Motion", "Arcs", "A", "See the paths of what is chosen, a dot for each frame", _toggle, has_figure
    ),
    Command(
        "arcs.keep",
        "Motion",
        "Keep this arc",
        "",
        "Keep the arcs of what is chosen with the shot, in pencils of their own",
        changing("Keep an arc", _keep),
        has_choice,
    ),
    Command(
        "arcs.spot", "Motion", "Arc of a spot…", "", "The next click on a figure says of which spot", _spot, has_figure
    ),
    Command(
        "arcs.forget",
        "Motion",
        "Forget the kept arcs",
        "",
        "Let go of every arc that is kept with the shot",
        changing("Forget the kept arcs", lambda shot, _session: forget_spots(shot, shot.spots)),
        lambda session: bool(session.shot.spots),
    ),
)
