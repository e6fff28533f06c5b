"""What can go wrong, in words an animator can act on.

BovrinError
├── FileProblem           a file cannot be read or written
│   ├── BrokenFile        its content is damaged or not what it should be
│   ├── NewerFile         it was made by a newer Bovrin
│   └── CannotWrite       folder read-only, disk full …
├── BadFigure             a figure's mesh or rig does not hold together
├── BadMotion             curves, ranges or rates that make no sense
├── WrongKind             a script gave a number where a text is wanted, or the like
├── UnknownName           no figure, part, channel … of that name
└── NoPicture             this machine cannot draw
"""

from __future__ import annotations

_BREAKS = dict.fromkeys((*range(32), 127, 133, 8232, 8233), " ")
"""What would break a sentence into lines, or steer a terminal; names in files and of files may hold such."""


class BovrinError(Exception):
    """A plain sentence: what went wrong, where, and what to do next."""

    def __init__(self, what: str, *, where: str = "", advice: str = "") -> None:
        self.what = what
        self.where = where
        self.advice = advice
        super().__init__(self.sentence)

    @property
    def sentence(self) -> str:
        """The whole message on one line."""
        head = f"{self.where}: {self.what}" if self.where else self.what
        return f"{head} {self.advice}".translate(_BREAKS).strip()


class FileProblem(BovrinError):
    """A file cannot be read or written."""


class BrokenFile(FileProblem):
    """A file's content is damaged or not what it should be."""


class NewerFile(FileProblem):
    """A file was made by a newer version."""


class CannotWrite(FileProblem):
    """A file or folder refuses to be written."""


class BadFigure(BovrinError):
    """A figure's mesh or rig does not hold together."""


class BadMotion(BovrinError):
    """Curves, ranges or rates that make no sense."""


class WrongKind(BovrinError):
    """A script gave something of another kind than is wanted."""


class UnknownName(BovrinError):
    """There is no figure, part, limb or channel of that name."""


class NoPicture(BovrinError):
    """This machine cannot draw pictures."""
