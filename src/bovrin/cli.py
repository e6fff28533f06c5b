"""The command line: the window, and the same operations without one. Exit 0, or 1 with one plain sentence."""

from __future__ import annotations

import json
import re
import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from bovrin import __version__, cast, script
from bovrin.craft.keys import poses
from bovrin.errors import BovrinError, CannotWrite
from bovrin.formats.files import write_atomically
from bovrin.formats.table import write_table
from bovrin.measure.soundness import unsound
from bovrin.picture.png import png_bytes
from bovrin.shot import Shot

app = typer.Typer(
    name="bovrin",
    help="A light table for acting. Without a command it opens the window.",
    add_completion=False,
    pretty_exceptions_enable=False,
    no_args_is_help=False,
)

UsageError: Any = typer.BadParameter.__bases__[0]
"""What typer raises for words it does not understand, whichever parser it carries."""

File = Annotated[Path, typer.Argument(help="A Bovrin project.")]
Out = Annotated[Path, typer.Option("-o", "--output", help="Where to write.")]
Picture = Annotated[Path | None, typer.Option(help="Write a picture of the window to this PNG and leave.")]


def _window(path: Path | None, picture: Path | None) -> None:
    # The window is loaded only when asked for: every other command runs where there is no Qt and no display.
    from bovrin.desk.application import run  # noqa: PLC0415

    raise typer.Exit(run(path, picture))


@app.callback(invoke_without_command=True)
def start(
    context: typer.Context,
    picture: Picture = None,
    version: Annotated[bool, typer.Option("--version", help="Print the version and leave.")] = False,
) -> None:
    """Open the window."""
    if version:
        typer.echo(f"Bovrin {__version__}")
        raise typer.Exit(0)
    if context.invoked_subcommand is None:
        _window(None, picture)


@app.command()
def demo(
    path: Annotated[bool, typer.Option("--path", help="Only print where the demo project lies.")] = False,
    picture: Picture = None,
) -> None:
    """Open the window with the ferry-landing demo."""
    if path:
        typer.echo(str(cast.DEMO))
        return
    _window(cast.DEMO, picture)


@app.command("open")
def open_(file: File, picture: Picture = None) -> None:
    """Open the window with a project."""
    script.load(file)
    _window(file, picture)


@app.command()
def describe(file: File, as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False) -> None:
    """Say what is in a project."""
    facts = _facts(script.load(file))
    if as_json:
        typer.echo(json.dumps(facts, indent=1, ensure_ascii=False))
        return
    typer.echo(
        f"{facts['title']}, take {facts['take']}: frames {facts['first']:g} to {facts['last']:g} at {facts['frame_rate']:g} fps"
    )
    for figure in facts["figures"]:
        at = ", ".join(f"{frame:g}" for frame in figure["poses"]) or "none"
        typer.echo(
            f"  {figure['name']}: {figure['joints']} joints, {figure['channels']} channels, {figure['keys']} keys; poses at {at}"
        )
    for marker in facts["markers"]:
        typer.echo(f"  marker {marker['start']:g} to {marker['end']:g}: {marker['words']}")


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


@app.command()
def sample(
    file: File, output: Out, figure: Annotated[str | None, typer.Option(help="Only this figure.")] = None
) -> None:
    """Write every joint on every frame as CSV, world space, metres."""
    shot = script.load(file)
    names = [shot.figure(figure).name] if figure is not None else script.figures(shot)
    write_table(shot, output, names)


@app.command()
def picture(
    file: File,
    output: Out,
    frame: Annotated[float, typer.Option(help="The frame.")] = 101,
    view: Annotated[str, typer.Option(help="three-quarter, front, side or top.")] = "three-quarter",
    size: Annotated[str, typer.Option(help="Width x height in pixels.")] = "860x520",
) -> None:
    """Write a picture of one frame as PNG."""
    match = re.fullmatch(r"(\d{1,5})[xX×](\d{1,5})", size)
    if match is None:
        raise BovrinError(f"'{size}' is not a size.", advice="Write it as 860x520.")
    pixels = script.picture(script.load(file), frame, view, (int(match[1]), int(match[2])))
    write_atomically(output, png_bytes(pixels))


@app.command()
def export(file: File, output: Out) -> None:
    """Hand the shot on as glTF 2.0 (.glb)."""
    script.export(script.load(file), output)


@app.command()
def check(file: File) -> None:
    """Say whether a project is sound, and what is not."""
    faults = unsound(script.load(file))
    for fault in faults:
        typer.echo(fault)
    if faults:
        raise typer.Exit(1)
    typer.echo("The shot is sound.")


def main() -> None:
    """Run the command line."""
    sys.exit(run_command(sys.argv[1:]))


def run_command(arguments: list[str]) -> int:
    """Run one command; returns the exit code 0 or 1."""
    try:
        result = app(arguments, standalone_mode=False, prog_name="bovrin")
    except BovrinError as error:
        print(error.sentence, file=sys.stderr)
        return 1
    except typer.Exit as leaving:
        return 1 if leaving.exit_code else 0
    except UsageError as error:
        print(f"{error.format_message()} Try 'bovrin --help'.", file=sys.stderr)
        return 1
    except (KeyboardInterrupt, typer.Abort):
        print("Stopped.", file=sys.stderr)
        return 1
    except OSError as error:
        print(CannotWrite(f"the system refused ({error.strerror or error}).").sentence, file=sys.stderr)
        return 1
    return result if isinstance(result, int) else 0
