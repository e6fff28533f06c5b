"""The curve desk's commands of the one command table."""

from __future__ import annotations

from bovrin.desk.commands import curves
from bovrin.desk.commands.command import Command, Run, has_figure


def _row(id_: str, words: str, key: str, tip: str, run: Run, group: str = "Curves") -> Command:
    return Command(id_, group, words, key, tip, run, has_figure)


CURVES: tuple[Command, ...] = (
    _row(
        "keys.insert",
        "Insert a key",
        "I",
        "A key more on the shown channels here; no value changes",
        curves.insert_here,
    ),
    _row(
        "keys.dissolve",
        "Remove, keeping the shape",
        "Ctrl+Del",
        "Remove the chosen keys; the curves stay as near as they can",
        curves.dissolve,
    ),
    _row("keys.copy", "Copy keys", "", "Copy the chosen keys (Ctrl+C over the curves)", curves.copy_keys),
    _row(
        "keys.paste",
        "Paste keys",
        "",
        "Paste the copied keys from this frame on (Ctrl+V over the curves)",
        curves.paste_keys,
    ),
    _row(
        "keys.paste_in_place",
        "Paste keys in place",
        "",
        "Paste the copied keys on the frames they had",
        lambda d: curves.paste_keys(d, in_place=True),
    ),
    _row(
        "keys.paste_as_offset",
        "Paste keys as offset",
        "",
        "Paste the copied keys here, going on from the values there are",
        lambda d: curves.paste_keys(d, offset=True),
    ),
    _row(
        "keys.raise",
        "Keys higher",
        "Alt+Up",
        "The chosen keys a centimetre, a degree or a percent higher",
        curves.raised(1),
    ),
    _row(
        "keys.lower",
        "Keys lower",
        "Alt+Down",
        "The chosen keys a centimetre, a degree or a percent lower",
        curves.raised(-1),
    ),
    _row("keys.raise_ten", "Keys much higher", "Alt+Shift+Up", "Ten times as far as a step", curves.raised(1, 10)),
    _row("keys.lower_ten", "Keys much lower", "Alt+Shift+Down", "Ten times as far as a step", curves.raised(-1, 10)),
    _row(
        "keys.longer",
        "Longer handles",
        "Ctrl++",
        "Both handles of the chosen keys evenly longer: more hang",
        curves.longer(1.25),
    ),
    _row(
        "keys.shorter",
        "Shorter handles",
        "Ctrl+-",
        "Both handles of the chosen keys evenly shorter",
        curves.longer(0.8),
    ),
    _row(
        "keys.same_slope",
        "One slope",
        "",
        "Give the chosen keys of each channel one slope, the mean of theirs",
        curves.even_slope,
    ),
    _row(
        "keys.bounce",
        "Bounce",
        "",
        "The chosen keys are contacts: throws to the tops that are keyed between them, or by gravity",
        curves.bounce_chosen,
    ),
    _row(
        "keys.bounce_by_gravity",
        "Bounce by gravity",
        "",
        "The chosen keys are contacts: every throw between them as high as gravity has it",
        curves.bounce_by_gravity,
    ),
    _row(
        "keys.sharp",
        "Sharp contact",
        "Shift+Y",
        "Split the chosen keys, both handles aimed at the neighbours, however they move",
        curves.sharpen,
    ),
    _row(
        "keys.snap",
        "Snap…",
        "Y",
        "Leave at once and arrive at once, on every channel of the chosen parts that moves; asks how long to hold",
        lambda d: d.open("snap"),
    ),
    _row(
        "channels.motionless",
        "Remove still channels",
        "",
        "Take the keys of channels that never move, and say which",
        curves.remove_motionless,
    ),
    _row(
        "channels.hide_still",
        "Hide still channels",
        "",
        "List only channels that change; again: all",
        lambda d: d.curves.toggle_still(),
    ),
    _row(
        "trace.keep",
        "Keep a trace",
        "Ctrl+T",
        "Keep the curves as they are, to compare with and to go back to (snapshot)",
        curves.keep_here,
    ),
    _row(
        "curves.one_height",
        "One height",
        "",
        "Draw all curves at one height, to read metres and degrees together",
        lambda d: d.curves.toggle_one_height(),
    ),
    _row(
        "curves.speed",
        "Speed strip",
        "",
        "How far it goes on each frame, under the curves",
        lambda d: d.curves.toggle_speed(),
    ),
)
