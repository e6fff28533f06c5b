"""What a right click on the strip offers. Everything here is also a command, or in the right column."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Protocol

from PyQt6.QtWidgets import QMenu

from bovrin.craft.between.chart import PRESETS
from bovrin.craft.between.easing import ease_span
from bovrin.craft.between.ladder import Ladder
from bovrin.craft.markers import change_marker, remove_marker
from bovrin.desk.commands.menus import add_commands
from bovrin.desk.commands.table import BY_ID
from bovrin.desk.kit.menus import add_action, add_menu
from bovrin.desk.state.document.session import Session
from bovrin.shot import MARKER_KINDS, PENCILS, Marker


class StripMenuHost(Protocol):
    """What menus of the strip need of it."""

    session: Session
    run: Callable[[str], object]

    def rename_card(self, frame: float) -> None: ...

    def new_marker(self, frame: float) -> None: ...

    def edit_marker(self, marker: Marker) -> None: ...

    def apply_preset(self, ladder: Ladder, name: str, strength: float = 0.5) -> None: ...

    def paste_chart(self, ladder: Ladder) -> None: ...


STRENGTHS = (0.25, 0.5, 0.75, 1.0)
BY_STRENGTH = ("slow out", "slow in", "slow out and in")


def card_menu(strip: StripMenuHost, frame: float) -> QMenu:
    """Name, role, held or eased, removed."""
    menu = QMenu()
    add_action(menu, "Name this pose…\tF2", lambda: strip.rename_card(frame))
    add_commands(menu, strip.run, "role.key_pose", "role.breakdown")
    menu.addSeparator()
    following = strip.session.poses.cards.after(frame)
    if following is not None:
        span = (frame, following)
        _add_commands_at(menu, strip, frame, "motion.step_span", "motion.spline_span")
        for words, sides in (("Ease out", "out"), ("Ease in", "in"), ("Ease out and in", "both")):
            inner = add_menu(menu, words)
            for strength in (0.0, *STRENGTHS):
                add_action(inner, f"{strength:.0%}", lambda s=sides, k=strength: _ease(strip, span, s, k))  # type: ignore[misc]
        menu.addSeparator()
    _add_commands_at(menu, strip, frame, "pose.push")
    add_commands(menu, strip.run, "keys.before", "keys.after")
    menu.addSeparator()
    add_commands(menu, strip.run, "pose.remove")
    return menu


def _add_commands_at(menu: QMenu, strip: StripMenuHost, frame: float, *ids: str) -> None:
    """Commands that work on the current frame, which the card's becomes."""

    def run(command: str) -> None:
        strip.session.go_to(frame)
        strip.run(command)

    for one in ids:
        add_action(menu, BY_ID[one].words, lambda c=one: run(c))  # type: ignore[misc]


def _ease(strip: StripMenuHost, span: tuple[float, float], side: str, strength: float) -> None:
    out = strength if side in ("out", "both") else None
    into = strength if side in ("in", "both") else None
    name = strip.session.figure_name
    strip.session.do(f"Ease {side}", lambda shot: ease_span(shot, name, *span, out, into))


def chart_menu(strip: StripMenuHost, ladder: Ladder) -> QMenu:
    """Charts by name, those that have one by a strength; copy and paste."""
    menu = QMenu()
    for name in PRESETS:
        words = name.replace("start", f"{ladder.start:g}").replace("to end", f"to {ladder.end:g}").capitalize()
        if name in BY_STRENGTH:
            inner = add_menu(menu, words)
            for strength in STRENGTHS:
                run = lambda n=name, k=strength: strip.apply_preset(ladder, n, k)
                add_action(inner, f"{strength:.0%}", run)
        else:
            add_action(menu, words, lambda n=name: strip.apply_preset(ladder, n))  # type: ignore[misc]
    menu.addSeparator()
    session = strip.session
    add_action(menu, "Copy this chart", lambda: session.change_clipboard(chart=tuple(ladder.shares.tolist())))
    if session.clipboard.chart is not None:
        add_action(menu, "Paste the chart here", lambda: strip.paste_chart(ladder))
    return menu


def keys_menu(strip: StripMenuHost) -> QMenu:
    """What is done to chosen keys."""
    menu = QMenu()
    if strip.session.keys:
        add_commands(menu, strip.run, "keys.later", "keys.sooner", "keys.spread")
        add_commands(menu, strip.run, "role.key_pose", "role.breakdown", "role.in_between", "pose.remove")
        menu.addSeparator()
    add_commands(menu, strip.run, "keys.here", "keys.before", "keys.after", "keys.all")
    menu.addSeparator()
    add_commands(menu, strip.run, "motion.insert", "motion.take_out", "motion.insert_part", "motion.take_out_part")
    return menu


def marker_menu(strip: StripMenuHost, marker: Marker | None, frame: float) -> QMenu:
    """Add one, or change the one there is."""
    menu = QMenu()
    if marker is None:
        add_action(menu, "Add a marker here", lambda: strip.new_marker(frame))
        return menu
    session = strip.session

    def change(words: str, **changes: str) -> None:
        session.do(words, lambda shot: change_marker(shot, marker, replace(marker, **changes)))  # type: ignore[arg-type]

    add_action(menu, "Go there", lambda: session.go_to(marker.start))
    add_action(menu, "Words…", lambda: strip.edit_marker(marker))
    menu.addSeparator()
    for kind in MARKER_KINDS:
        add_action(menu, kind.capitalize(), lambda k=kind: change("Kind of marker", kind=k), ticked=kind == marker.kind)  # type: ignore[misc]
    colours = add_menu(menu, "Pencil")
    for pencil in PENCILS:
        run = lambda p=pencil: change("Colour of a marker", pencil=p)
        add_action(colours, pencil.capitalize(), run, ticked=pencil == marker.pencil)
    menu.addSeparator()
    add_action(menu, "Remove", lambda: session.do("Remove a marker", lambda shot: remove_marker(shot, marker)))
    return menu
