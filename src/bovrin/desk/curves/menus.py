"""What a right click on the curve desk offers. Everything here is also a command, or in the right column."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PyQt6.QtWidgets import QMenu

from bovrin.craft.curves.reshaping import muted, with_ends
from bovrin.desk.commands.menus import add_commands
from bovrin.desk.curves.plot import CurvePlot
from bovrin.desk.kit.menus import add_action, add_menu
from bovrin.desk.state.choosing.channel_rows import Row
from bovrin.desk.state.document.session import Session
from bovrin.shot import EndKind


class CurveMenuHost(Protocol):
    """What menus of the curve desk need of it."""

    session: Session
    plot: CurvePlot
    run: Callable[[str], object]

    def type_value(self, row: Row) -> None: ...


def picked_channels(desk: CurveMenuHost, row: Row | None = None) -> list[int]:
    """What a menu works on: the picked channels when the row is one of them (or there is none), else the row's alone."""
    picked = [r.channel for r in desk.plot.shown_rows()]
    if row is None or (desk.plot.list.picked and row.channel in desk.plot.list.picked):
        return picked
    return [row.channel]


def row_menu(desk: CurveMenuHost, row: Row) -> QMenu:
    """Alone, typed, muted, locked, and what it does outside its keys."""
    menu = QMenu()
    session, name = desk.session, desk.session.figure_name
    channels, curve = picked_channels(desk, row), desk.plot.curve(row.channel)
    place = (name, session.shot.figure(name).rig.channel_names[row.channel])

    def show_alone() -> None:
        desk.plot.list.picked = set()
        desk.plot.list.pick({row.channel})

    def lock() -> None:
        now = session.keying.locked_channels
        session.change_keying(locked_channels=now - {place} if place in now else now | {place})

    add_action(menu, "Only this channel", show_alone)
    add_action(menu, "Type its value…", lambda: desk.type_value(row))
    menu.addSeparator()
    silent = not curve.muted
    words = "Mute" if silent else "Let it move again"
    add_action(menu, words, lambda: session.do(words, lambda shot: muted(shot, name, channels, silent)))
    add_action(menu, "Lock", lock, ticked=place in session.keying.locked_channels)
    menu.addSeparator()
    for side in ("before", "after"):
        inner = add_menu(menu, f"{side.capitalize()} its keys")
        now = getattr(curve, side)
        for kind in EndKind:
            run = lambda s=side, k=kind: session.do(
                f"{k.words.capitalize()} {s} the keys", lambda shot: with_ends(shot, name, channels, **{s: k})
            )
            add_action(inner, kind.words.capitalize(), run, ticked=now is kind)
    menu.addSeparator()
    add_commands(menu, desk.run, "channels.motionless", "channels.hide_still")
    return menu


def curve_menu(desk: CurveMenuHost) -> QMenu:
    """What is done to keys and handles."""
    menu = QMenu()
    if desk.session.keys:
        add_commands(menu, desk.run, "keys.copy", "keys.longer", "keys.shorter", "keys.same_slope")
        add_commands(menu, desk.run, "keys.spread", "keys.dissolve", "pose.remove")
        menu.addSeparator()
    add_commands(menu, desk.run, "keys.insert", "keys.paste", "keys.paste_in_place", "keys.paste_as_offset")
    menu.addSeparator()
    add_commands(menu, desk.run, "keys.here", "keys.before", "keys.after")
    menu.addSeparator()
    add_commands(menu, desk.run, "keys.bounce", "keys.bounce_by_gravity", "keys.sharp", "keys.snap", "trace.keep")
    return menu
