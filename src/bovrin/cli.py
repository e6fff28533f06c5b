"""The command line: the window, and the same operations without one.

Exit 0; 1 where `check` or `proof` found something; 2 with one plain sentence where a command could not be done.
"""

from __future__ import annotations

import argparse
import gc
import json
import os
import re
import sys
import tempfile
from collections.abc import Callable
from contextlib import nullcontext
from dataclasses import asdict
from pathlib import Path
from typing import Any, NoReturn, TextIO

from bovrin import __version__, cast, script
from bovrin.craft.keying.lag import poses
from bovrin.errors import BovrinError, CannotWrite
from bovrin.formats.files import with_ending
from bovrin.log import begin_log, log, log_file
from bovrin.measure.proof import Note
from bovrin.shot import Shot


class UsageProblem(BovrinError):
    """Words on the command line that are not understood."""


PIPE_CLOSED = 141
"""The exit code of a program whose reader has gone, as shells tell it."""
SMALLEST, LARGEST = 1e-5, 1e4
"""Metres that a unit of a file can be."""


class Parser(argparse.ArgumentParser):
    """A parser that raises instead of leaving. commands: the names of those it knows."""

    commands: frozenset[str] = frozenset()

    def error(self, message: str) -> NoReturn:
        raise UsageProblem(f"{message}.", advice="Try 'bovrin --help'.")


def build_parser() -> Parser:
    """All commands and their options."""
    about = "A light table for acting. Without a command it opens the window; with a file alone it opens that."
    parser = Parser(prog="bovrin", description=about)
    parser.add_argument("--version", action="version", version=f"Bovrin {__version__}")
    parser.add_argument("--verbose", action="store_true", help=f"say what happens, here and in {log_file()}")
    parser.add_argument("--picture", type=Path, help="write a picture of the window to this PNG and leave")
    parser.set_defaults(run=open_window)
    commands = parser.add_subparsers(title="commands", metavar="COMMAND")

    def command(name: str, run: Callable[[argparse.Namespace], int], *, file: bool = True) -> argparse.ArgumentParser:
        words = (run.__doc__ or "").strip()
        sub = commands.add_parser(name, help=words, description=words)
        sub.set_defaults(run=run)
        if file:
            sub.add_argument("file", type=Path, help="a Bovrin project, or what is brought")
        return sub

    def writes(sub: argparse.ArgumentParser) -> None:
        sub.add_argument("-o", "--output", type=Path, required=True, help="where to write; - is standard output")

    demo = command("demo", open_demo, file=False)
    demo.add_argument("--path", action="store_true", help="only print where the demo project lies")
    for sub in (demo, command("open", open_file)):
        sub.add_argument("--picture", type=Path, help="write a picture of the window to this PNG and leave")
    command("describe", describe).add_argument("--json", action="store_true", help="as JSON")
    sampling = command("sample", sample)
    sampling.add_argument("--figure", help="only this figure")
    writes(sampling)
    drawing = command("picture", picture)
    drawing.add_argument("--frame", type=float, default=101.0, help="the frame (101)")
    drawing.add_argument("--view", default="three-quarter", help="three-quarter, front, side or top")
    drawing.add_argument("--size", default="860x520", help="width x height in pixels (860x520)")
    drawing.add_argument("--drawings", action="store_true", help="with what is drawn on the stage")
    writes(drawing)
    exporting = command("export", export)
    exporting.add_argument("--rate", type=float, help="samples a second in a .glb (the shot's frame rate)")
    exporting.add_argument(
        "--as", dest="kind", help="glb, usda, usdc, usdz or bvh, where the name does not end in it, as with -o -"
    )
    exporting.add_argument("--metres", action="store_true", help="even where a figure came in other units")
    exporting.add_argument("--clip", help="that clip alone")
    exporting.add_argument("--no-travel", action="store_true", help="whole figures stay where they begin")
    exporting.add_argument("--figure", action="append", help="this figure alone; say it again for more")
    exporting.add_argument("--take", help="this take alone")
    exporting.add_argument("--range", nargs=2, type=float, metavar=("FIRST", "LAST"), help="these frames alone")
    exporting.add_argument("--each-take", action="store_true", help="a file for each take, named by it")
    writes(exporting)
    bringing = command("bring", bring)
    bringing.add_argument("--scale", type=float, help="metres in one unit of the file (guessed)")
    bringing.add_argument("--rate", type=float, help="frames a second of the project (24)")
    bringing.add_argument("--keep-rate", action="store_true", help="leave the motion at the file's own rate")
    writes(bringing)
    command("check", check)
    proving = command("proof", proof)
    proving.add_argument("--figure", help="only this figure")
    proving.add_argument("--take", help="this take (the one that is worked on)")
    proving.add_argument("--json", action="store_true", help="as JSON")
    parser.commands = frozenset(commands.choices)
    return parser


def _window(path: Path | None, picture: Path | None) -> int:
    # The window is loaded only when asked for: every other command runs where there is no Qt and no display.
    from bovrin.screen import check_screen  # noqa: PLC0415

    check_screen()
    gc.disable()  # nothing that is loaded or made for the window becomes garbage; the window turns it on again
    from bovrin.desk.application import run  # noqa: PLC0415

    return run(path, picture)


def open_window(arguments: argparse.Namespace) -> int:
    """Open the window."""
    return _window(None, arguments.picture)


def open_demo(arguments: argparse.Namespace) -> int:
    """Open the window with the ferry-landing demo."""
    if arguments.path:
        say(cast.DEMO)
        return 0
    return _window(cast.DEMO, arguments.picture)


def open_file(arguments: argparse.Namespace) -> int:
    """Open the window with a project."""
    return _window(arguments.file, arguments.picture)


def describe(arguments: argparse.Namespace) -> int:
    """Say what is in a project."""
    facts = _facts(_loaded(arguments.file))
    if arguments.json:
        say(json.dumps(facts, indent=1, ensure_ascii=False))
        return 0
    span = f"frames {facts['first']:g} to {facts['last']:g} at {facts['frame_rate']:g} fps"
    say(f"{facts['title']}, take {facts['take']}: {span}")
    for figure in facts["figures"]:
        at = ", ".join(f"{frame:g}" for frame in figure["poses"]) or "none"
        counts = f"{figure['joints']} joints, {figure['channels']} channels, {figure['keys']} keys"
        say(f"  {figure['name']}: {counts}; poses at {at}")
    for marker in facts["markers"]:
        say(f"  marker {marker['start']:g} to {marker['end']:g}: {marker['words']}")
    return 0


def _facts(shot: Shot) -> dict[str, Any]:
    figures = [
        {
            "name": figure.name,
            "file": figure.source,
            "joints": len(figure.rig.joints),
            "channels": len(figure.rig.channels),
            "keys": sum(len(curve) for curve in shot.curves(figure.name).curves),
            "triangles": figure.model.triangle_count,
            "parts": [part.name for part in figure.rig.parts],
            "limbs": [limb.name for limb in figure.rig.limbs],
            "poses": [float(frame) for frame in poses(shot, figure.name).frames],
        }
        for figure in shot.cast
    ]
    return {
        "title": shot.title,
        "take": shot.take.name,
        "first": shot.first,
        "last": shot.last,
        "frame_rate": shot.frame_rate,
        "figures": figures,
        "markers": [{"start": m.start, "end": m.end, "words": m.words} for m in shot.markers],
    }


def sample(arguments: argparse.Namespace) -> int:
    """Write every joint on every frame as CSV, world space, metres."""
    from bovrin.formats.side.table import write_table  # noqa: PLC0415 - kept out of the window's start

    shot = _loaded(arguments.file)
    names = [shot.figure(arguments.figure).name] if arguments.figure is not None else script.figures(shot)
    write_table(shot, arguments.output, names)
    return 0


def picture(arguments: argparse.Namespace) -> int:
    """Write a picture of one frame as PNG."""
    from bovrin.formats.files import write_atomically  # noqa: PLC0415 - kept out of the window's start
    from bovrin.picture.png import png_bytes  # noqa: PLC0415

    match = re.fullmatch(r"(\d{1,5})[xX×](\d{1,5})", arguments.size)
    if match is None:
        raise UsageProblem(f"'{arguments.size}' is not a size.", advice="Write it as 860x520.")
    size = int(match[1]), int(match[2])
    pixels = script.picture(_loaded(arguments.file), arguments.frame, arguments.view, size, arguments.drawings)
    write_atomically(arguments.output, png_bytes(pixels))
    return 0


def export(arguments: argparse.Namespace) -> int:
    """Hand the shot on as glTF 2.0 (.glb) or USD (.usda), or the motion of one figure as .bvh."""
    shot = _loaded(arguments.file)
    first, last = arguments.range or (None, None)
    how = arguments.rate, arguments.metres, not arguments.no_travel, arguments.clip
    given = *how, arguments.figure, first, last, arguments.take
    if arguments.kind is None:
        if str(arguments.output) == "-":
            raise UsageProblem("standard output has no ending.", advice="Say what is written, such as --as glb.")
        script.export(shot, arguments.output, *given, arguments.each_take)
        return 0
    if arguments.each_take:
        raise UsageProblem(
            "several files have several names.", advice="Leave --as out: the ending says what is written."
        )
    from bovrin.formats.files import write_atomically  # noqa: PLC0415 - kept out of the start of other commands

    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / f"shot.{arguments.kind.lower().lstrip('.')}"
        script.export(shot, made, *given)
        write_atomically(arguments.output, made.read_bytes())
    return 0


def _loaded(path: Path) -> Shot:
    """What a file holds: a project, or the figure or motion that can be brought from it."""
    from bovrin.formats.bringing import ENDINGS, bring_file  # noqa: PLC0415 - kept out of the window's start

    shot = bring_file(path)[0] if path.suffix.lower() in ENDINGS else script.load(path)
    _read_again(shot, path)
    return shot


def _read_again(shot: Shot, path: Path) -> None:
    """The figures' files are inputs of this run, whether they were read in it or are known from before."""
    from bovrin.formats.figures.files import used_files  # noqa: PLC0415 - kept out of the window's start
    from bovrin.formats.files import note_input  # noqa: PLC0415

    for one in used_files(shot, path):
        note_input(one)


def bring(arguments: argparse.Namespace) -> int:
    """Bring a figure (.glb, .gltf) or a motion (.bvh) with a rig of its own, into a new project."""
    from bovrin.formats.bringing import bring_file  # noqa: PLC0415 - kept out of the window's start

    scale = arguments.scale
    if scale is not None and not SMALLEST <= scale <= LARGEST:
        raise UsageProblem(
            f"a unit of {scale:g} metres is not possible.",
            advice=f"Use {SMALLEST:g} to {LARGEST:g}, such as 0.01 for cm.",
        )
    if str(arguments.output) == "-":
        raise UsageProblem(
            "a project and its figures' files do not go to standard output.", advice="Name a file with -o."
        )
    shot, left_out = bring_file(arguments.file, scale, arguments.rate, keep_rate=arguments.keep_rate)
    script.save(shot, with_ending(arguments.output))
    report = script.rig_report(shot, shot.cast[0].name)
    say(
        f"{shot.cast[0].name}: {report['build']}, {len(shot.cast[0].rig.joints)} joints, parts {', '.join(report['parts'])}"
    )
    for words in left_out:
        say(f"  {words}")
    return 0


def check(arguments: argparse.Namespace) -> int:
    """Say whether a project is sound, and what is not."""
    from bovrin.measure.soundness import unsound  # noqa: PLC0415 - kept out of the window's start

    faults = unsound(_loaded(arguments.file))
    say("\n".join(faults) if faults else "The shot is sound.")
    return 1 if faults else 0


def proof(arguments: argparse.Namespace) -> int:
    """Read the shot for faults of motion and list them; exits with 1 when there are any."""
    shot = _loaded(arguments.file)
    shot = shot if arguments.take is None else script.use_take(shot, arguments.take)
    notes = script.proof(shot, arguments.figure)
    if arguments.json:
        say(json.dumps([asdict(note) for note in notes], indent=1, ensure_ascii=False))
    else:
        say("\n".join(map(_note_line, notes)) if notes else "Nothing to note.")
    return 1 if notes else 0


def _note_line(note: Note) -> str:
    frames = f"{note.start:g}" if note.start == note.end else f"{note.start:g} to {note.end:g}"
    return f"{note.figure}, {frames}: {note.words}" + (f" -> {note.remedy}" if note.remedy else "")


def _with_open(arguments: list[str], parser: Parser) -> list[str]:
    """A file alone is opened: its first word is no command and looks like a file; what follows -- is a file whatever it is."""
    if "--" in arguments and not (set(arguments[: arguments.index("--")]) & parser.commands):
        before = arguments.index("--")
        return [*arguments[:before], "open", *arguments[before:]]
    at = next((n for n, word in enumerate(arguments) if not word.startswith("-")), None)
    if at is None or (at > 0 and arguments[at - 1] == "--picture") or arguments[at] in parser.commands:
        return arguments
    path = Path(arguments[at])
    project = with_ending(path)
    if not path.exists() and project.exists():
        return [*arguments[:at], "open", str(project), *arguments[at + 1 :]]
    return [*arguments[:at], "open", *arguments[at:]] if path.exists() or path.suffix else arguments


WINDOWS = (open_window, open_demo, open_file)
"""Commands whose file may be saved again."""


def main() -> None:
    """Run the command line."""
    sys.exit(run_command(sys.argv[1:]))


def say(words: object, file: TextIO | None = None) -> None:
    """Print words; what names from files would do to a terminal is shown instead."""
    out = file or sys.stdout
    told = "".join(c if c.isprintable() or c == "\n" else f"\\x{ord(c):02x}" for c in str(words))
    print(told.encode(out.encoding or "utf-8", "replace").decode(out.encoding or "utf-8", "replace"), file=out)


def run_command(arguments: list[str]) -> int:
    """Run one command; returns the exit code."""
    try:
        parser = build_parser()
        parsed = parser.parse_args(_with_open(arguments, parser))
        begin_log(verbose=parsed.verbose)
        from bovrin.formats.files import inputs_stay  # noqa: PLC0415 - after the log is there

        with nullcontext() if parsed.run in WINDOWS else inputs_stay():
            result: int = parsed.run(parsed)
        sys.stdout.flush()
        return result
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)  # who was to read has gone; what is left is not told as an error
        return PIPE_CLOSED
    except BovrinError as error:
        log.info("%s", error.sentence)
        say(error.sentence.replace("\n", " "), file=sys.stderr)
    except OSError as error:
        say(CannotWrite(f"the system refused ({error.strerror or error}).").sentence, file=sys.stderr)
    except KeyboardInterrupt:
        say("Stopped.", file=sys.stderr)
    return 2
