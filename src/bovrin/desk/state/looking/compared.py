"""Another take seen with the one that is worked on: over it as an outline, or beside it."""

from __future__ import annotations

from bovrin.craft.takes import frame_in_step
from bovrin.frozen import frozen_equal
from bovrin.shot import Shot, Take


@frozen_equal
class Compared:
    """The take's name; beside: it stands to the right of this one, as it is looked at; else it lies over it."""

    take: str
    beside: bool = False


def other_take(shot: Shot, compared: Compared | None) -> Take | None:
    """The take that is compared with; None where it is gone, or is the one that is worked on."""
    return next((take for take in shot.takes if compared is not None and take.name == compared.take), None)


class Counterpart:
    """The shot as another take has it. One shot is kept, so that what is known of its poses stays known."""

    def __init__(self) -> None:
        self._of: Shot | None = None
        self._take: Take | None = None
        self._shot: Shot | None = None

    def at(self, shot: Shot, compared: Compared | None, frame: float) -> tuple[Shot, float] | None:
        """The other take and its frame in step with this one's; None where there is nothing to compare with."""
        take = other_take(shot, compared)
        if take is None:
            return None
        if self._shot is None or self._of is not shot or self._take is not take:
            self._of, self._take, self._shot = shot, take, shot.showing(take)
        return self._shot, frame_in_step(shot, take, frame)


def take_to_compare(shot: Shot, compared: Compared | None) -> str | None:
    """The take that is compared with when none is named: the last one, else the one that follows this."""
    names = [take.name for take in shot.all_takes]
    if compared is not None and compared.take in names and compared.take != shot.take.name:
        return compared.take
    return names[(names.index(shot.take.name) + 1) % len(names)] if len(names) > 1 else None
