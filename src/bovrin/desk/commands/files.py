"""Commands about files, and what they ask before anything is left or written over."""

from __future__ import annotations

from pathlib import Path

from bovrin import cast
from bovrin.desk.commands.command import Command, Run
from bovrin.desk.commands.port import Port
from bovrin.desk.kit.asking import Answer
from bovrin.desk.state.files.bringing import bring, bring_as_clips
from bovrin.desk.state.settings import keep_versions, kept_versions
from bovrin.formats.bringing import ENDINGS as BROUGHT
from bovrin.formats.files import real_path
from bovrin.formats.project.versions import KEPT
from bovrin.measure.ground_path import travels

MARKERS = "Markers (*.srt *.vtt *.csv);;All files (*)"
CLIP_FILES = "Projects and motions (*.bovrin.json *.glb *.gltf *.bvh);;All files (*)"
PROJECTS = "Bovrin projects (*.bovrin.json);;All files (*)"
BOOKS = "Pose books (*.poses.json);;All files (*)"


def may_leave(port: Port) -> bool:
    """Ask about unsaved work; says whether to go on."""
    if port.session.document.undo_stack.isClean():
        return True
    answer = port.ask.unsaved(port.session.shot.title)
    return save(port) if answer == Answer.Save else answer == Answer.Discard


def save(port: Port) -> bool:
    """Save where the shot came from; a new shot, or the shipped demo, asks where."""
    path = port.session.document.path
    if not port.files.is_kept or path is None:
        return save_as(port)
    if not port.files.changed_on_disk():
        return port.files.save(path)
    words = f"{path.name} was changed elsewhere since it was opened here."
    answers = ("Keep both", "Take theirs", "Write over theirs")
    found = port.ask.which("Changed elsewhere", words, answers)
    if found == 0:
        return port.files.save(_free_beside(path))
    return found is not None and (port.files.open(path) if found == 1 else port.files.save(path))


def _free_beside(path: Path) -> Path:
    """A name beside a project that no file has."""
    stem = path.name.removesuffix(".bovrin.json")
    return next(p for n in range(2, 9999) if not (p := path.with_name(f"{stem} {n}.bovrin.json")).exists())


def save_as(port: Port) -> bool:
    """Ask where to save."""
    start = port.files.folder() / f"{port.session.shot.title.lower().replace(' ', '-')}.bovrin.json"
    path = port.ask.file_to_write("Save the project", start, PROJECTS)
    if path is None:
        return False
    own = port.session.document.path
    if port.files.is_kept and own is not None and real_path(own) == real_path(path):
        return save(port)  # as if it had not been asked where: what somebody else wrote there is not lost
    return port.files.save(path)


def open_project(port: Port) -> None:
    """Let the animator choose a project."""
    if may_leave(port):
        path = port.ask.file_to_open("Open a project", port.files.folder(), PROJECTS)
        if path is not None and not offered_to_bring(port, path):
            port.files.open(path)


def open_path(port: Port, path: Path) -> bool:
    """Open a project that was chosen elsewhere; says whether it is there now."""
    return not offered_to_bring(port, path) and may_leave(port) and port.files.open(path)


def offered_to_bring(port: Port, path: Path) -> bool:
    """Whether a file is a figure or a motion, no project: then it is offered to bring it."""
    if path.suffix.lower() not in BROUGHT:
        return False
    words = f"{path.name} is a figure or a motion, not a project."
    port.session.voice.offer(words, ("Bring it…", lambda: bring_as_project(port, path)))
    return True


def bring_as_project(port: Port, source: Path) -> bool:
    """Ask where the project shall lie that a file becomes, and make it."""
    target = port.ask.file_to_write("Keep it as a project", source.with_suffix(".bovrin.json"), PROJECTS)
    if target is None or not bring(
        port.files, source, target, lambda own, usual: _rate(port, own, usual), port.how_large
    ):
        return False
    session = port.session
    session.change_looking(follow=travels(session.shot, session.figure_name))
    port.stage.fit()
    return True


def _rate(port: Port, own: float, usual: float) -> float | None:
    """The frames a second of a project that is made of a file with others."""
    answers = (f"{usual:g}, on whole frames", f"{own:g} as it is")
    words = f"The motion has {own:g} frames a second. At {usual:g} it is as fast, with a pose on every whole frame."
    found = port.ask.which("Frames a second", words, answers)
    return None if found is None else (usual, own)[found]


def bring_markers(port: Port) -> None:
    """Ask for a file of markers and add them."""
    path = port.ask.file_to_open("Bring markers", port.files.folder(), MARKERS)
    if path is not None:
        port.files.import_markers(path)


def bring_clips(port: Port) -> None:
    """Ask for a project and add its clips, or for a file whose motions become clips of the chosen figure."""
    path = port.ask.file_to_open("Bring clips", port.files.folder(), CLIP_FILES)
    if path is None:
        return
    if path.suffix.lower() in BROUGHT:
        bring_as_clips(port.files, path, port.how_large)
    else:
        port.files.import_clips(path)


def write_markers(port: Port) -> None:
    """Ask where to write the markers."""
    path = port.ask.file_to_write("Markers as CSV", port.files.folder() / "markers.csv", "Tables (*.csv)")
    if path is not None:
        port.files.export_markers(path)


def open_book(port: Port) -> None:
    """Let the animator choose another pose book."""
    path = port.ask.file_to_open("Open a pose book", port.book.path.parent, BOOKS)
    if path is not None and port.book.open(path):
        port.session.voice.tell(f"{len(port.book.poses)} poses from {path.name}.")


def write_book(port: Port) -> None:
    """Ask where to keep the poses from now on."""
    path = port.ask.file_to_write("Keep the pose book", port.book.path, BOOKS)
    if path is not None and port.book.save_as(path):
        port.session.voice.tell(f"The pose book is now {path.name}.")


def _row(id_: str, words: str, key: str, tip: str, run: Run) -> Command:
    return Command(id_, "Shot", words, key, tip, run)


FILES = (
    _row("shot.open", "Open…", "Ctrl+O", "Open a project", open_project),
    _row(
        "shot.start",
        "Start page",
        "",
        "Shots to try, and the last projects, with pictures",
        lambda port: port.open("start"),
    ),
    _row("shot.demo", "Open the demo", "", "Open the ferry-landing demo", lambda port: open_path(port, cast.DEMO)),
    _row(
        "shot.demo_walk",
        "Open the demo: across the landing",
        "",
        "Open the demo of clips: the porter and the goat walk",
        lambda port: open_path(port, cast.ACROSS),
    ),
    _row(
        "shot.demo_carry",
        "Open the demo: carry the crate",
        "",
        "Open the demo of weight: both hands hang on the crate, the crate on the chest, and a buoy drops",
        lambda port: open_path(port, cast.CARRY),
    ),
    _row(
        "shot.demo_heron",
        "Open the demo: the heron takes the fish",
        "",
        "Open the demo of flat figures: drawings are swapped, a neck bends, the beak strikes",
        lambda port: open_path(port, cast.HERON),
    ),
    _row("shot.save", "Save", "Ctrl+S", "Save the project", save),
    _row("shot.save_as", "Save as…", "Ctrl+Shift+S", "Save the project under another name", save_as),
    _row(
        "shot.export",
        "Hand on…",
        "Ctrl+E",
        "Write the shot as glTF or USD, or one figure's motion as BVH (export)",
        lambda port: port.open("hand on"),
    ),
)


def turn_versions(port: Port) -> None:
    """Keep earlier versions of projects beside them, or not."""
    on = not kept_versions()
    keep_versions(on)
    words = (
        f"The last {KEPT} saved versions of a project are kept beside it." if on else "No earlier versions are kept."
    )
    port.session.voice.tell(words)


SIDE_FILES = (
    _row(
        "shot.versions",
        "Keep earlier versions",
        "",
        f"Keep the last {KEPT} saved versions of a project beside it, or none (backup)",
        turn_versions,
    ),
    _row("book.open", "Open a pose book…", "", "Use another file of poses (pose library)", open_book),
    _row("book.save_as", "Pose book as…", "", "Keep the poses in another file", write_book),
    _row("markers.import", "Bring markers…", "", "Add markers from a .srt, .vtt or .csv file", bring_markers),
    _row("markers.export", "Markers as CSV…", "", "Write the markers as a table", write_markers),
    _row("shot.quit", "Leave", "Ctrl+Q", "Close the window", lambda port: port.close()),
)
