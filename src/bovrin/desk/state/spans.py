"""From which frame to which a tool of the polish pass works."""

from __future__ import annotations

from bovrin.desk.state.document.session import Session
from bovrin.shot import Shot


def chosen_span(session: Session) -> tuple[float | None, float | None]:
    """From the first to the last chosen key; none where there are not two."""
    frames = session.keys.frames()
    return (float(frames[0]), float(frames[-1])) if len(frames) > 1 else (None, None)


def hold_span(session: Session) -> tuple[float, float]:
    """From the first to the last chosen key; else from the pose here to the next."""
    start, end = chosen_span(session)
    if start is not None and end is not None:
        return start, end
    poses, here = session.poses.cards, session.frame
    first, after = poses.held_at(here), poses.after(here)
    return (here if first is None else first), (session.shot.last if after is None else after)


def work_span(session: Session, shot: Shot) -> tuple[float, float]:
    """From the first to the last chosen key; else the second range; else from the pose before to the pose after."""
    start, end = chosen_span(session)
    if start is not None and end is not None:
        return start, end
    if shot.second is not None:
        return shot.second
    poses, here = session.poses.cards, session.frame
    before, after = poses.before(here), poses.after(here)
    return (shot.first if before is None else before), (shot.last if after is None else after)
