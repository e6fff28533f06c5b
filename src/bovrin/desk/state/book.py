"""The pose book that is open: its poses and the file they are kept in."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection
from itertools import chain, count
from pathlib import Path

from PyQt6.QtCore import QObject, QStandardPaths, pyqtSignal

from bovrin.errors import BovrinError
from bovrin.formats.side.pose_book import load_book, save_book
from bovrin.shot import Pose


def own_book() -> Path:
    """Where the book lies that is open when no other is."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericDataLocation)
    return Path(folder) / "bovrin" / "pose-book.poses.json"


class Book(QObject):
    """Every change is written at once; one that cannot be written is told, and the poses stay in the window."""

    changed = pyqtSignal()

    def __init__(self, tell: Callable[[str], None]) -> None:
        super().__init__()
        self._tell = tell
        self.path = own_book()
        self.poses: tuple[Pose, ...] = ()
        self._read: tuple[Pose, ...] = ()
        if self.path.exists():
            self.open(self.path)

    def open(self, path: Path) -> bool:
        """Use the poses of another file; a fault is told and the book that is open stays."""
        try:
            self.poses = load_book(path)
        except BovrinError as error:
            self._tell(error.sentence)
            if path == self.path:  # never write over a book that could not be read
                self.path = path.with_name(path.name.replace(".poses.json", "-new.poses.json"))
            return False
        self.path, self._read = path, self.poses
        self.changed.emit()
        return True

    def save_as(self, path: Path) -> bool:
        """Keep the poses in another file from now on."""
        before, self.path = (self.path, self._read), path
        if self._write(merge=False):
            return True
        self.path, self._read = before
        return False

    def put(self, poses: tuple[Pose, ...]) -> bool:
        """Take over changed poses and write them; whether they lie in the file now."""
        self.poses = poses
        self.changed.emit()
        return self._write()

    def _write(self, *, merge: bool = True) -> bool:
        """Write the poses; what another window wrote meanwhile is taken along."""
        try:
            if merge and self.path.exists():
                self.poses = merged(self._read, self.poses, load_book(self.path))
            self.path.parent.mkdir(parents=True, exist_ok=True)
            save_book(self.poses, self.path)
        except (BovrinError, OSError) as error:
            words = error.sentence if isinstance(error, BovrinError) else f"the pose book cannot be written: {error}."
            self._tell(words)
            return False
        if self.poses is not self._read:
            self._read = self.poses
            self.changed.emit()
        return True

    def free_name(self, wanted: str) -> str:
        """A name that no other pose has."""
        names = {pose.name for pose in self.poses}
        return _free(wanted, names)


def _free(wanted: str, taken: Collection[str]) -> str:
    return next(name for name in chain([wanted], (f"{wanted} {n}" for n in count(2))) if name not in taken)


def merged(before: tuple[Pose, ...], mine: tuple[Pose, ...], theirs: tuple[Pose, ...]) -> tuple[Pose, ...]:
    """Mine, with what they added, changed or took away since both were `before`; where both changed a pose mine stays, and where
    both made one under one name mine gets a name that is free."""
    if theirs == before:
        return mine
    was, own, other = (_by_name(poses) for poses in (before, mine, theirs))
    taken = {pose.name for pose in (*mine, *theirs)}
    for name in own.keys() & other.keys() - was.keys():
        if _content(own[name]) != _content(other[name]):
            free = _free(name[1], taken)
            taken.add(free)
            own[name[0], free, 0] = own.pop(name).named(free)

    def kept(name: Named) -> Pose | None:
        return other.get(name) if _content(own.get(name)) == _content(was.get(name)) else own.get(name)

    names = dict.fromkeys([*own, *other])
    return tuple(pose for name in names if (pose := kept(name)) is not None)


def _content(pose: Pose | None) -> dict[str, object] | None:
    return None if pose is None else vars(pose)


Named = tuple[str, str, int]


def _by_name(poses: tuple[Pose, ...]) -> dict[Named, Pose]:
    """Poses by their figure, name, and which of that name they are."""
    counts: Counter[tuple[str, str]] = Counter()
    found = {}
    for pose in poses:
        key = pose.figure, pose.name
        found[(*key, counts[key])] = pose
        counts[key] += 1
    return found
