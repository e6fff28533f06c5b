"""What poses carry besides their keys: names, and how breakdowns were made. It goes with a pose when that is retimed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from bovrin.craft.keying.lag import poses
from bovrin.errors import BadMotion
from bovrin.shot import Blend, Card, Shot
from bovrin.shot.curve import SAME_FRAME


def card_at(shot: Shot, figure: str, frame: float) -> Card:
    """The card of the pose on a frame; a blank one when it carries nothing."""
    return next((card for card in shot.cards(figure) if abs(card.frame - frame) < SAME_FRAME), Card(frame))


def with_card(shot: Shot, figure: str, card: Card) -> Shot:
    """A shot in which the pose on a frame carries this."""
    return shot.with_cards(figure, [*(c for c in shot.cards(figure) if abs(c.frame - card.frame) >= SAME_FRAME), card])


def name_pose(shot: Shot, figure: str, frame: float, name: str) -> Shot:
    """Call the pose on a frame by a name; no words take the name away."""
    if not (abs(poses(shot, figure).frames - frame) < SAME_FRAME).any():
        raise BadMotion(f"there is no pose of '{figure}' on frame {frame:g} to name.", advice="Go to a pose first.")
    return with_card(shot, figure, replace(card_at(shot, figure, frame), name=name.strip()))


def moved_cards(shot: Shot, figure: str, where: Callable[[float], float]) -> Shot:
    """All cards of a figure taken along: `where` says on which frame a pose lies now."""
    return shot.with_cards(figure, [card.moved(where) for card in shot.cards(figure)])


def taken_along(shot: Shot, figure: str, where: Callable[[float], float]) -> Shot:
    """All of a figure besides its keys that lies on frames, taken along when time is made longer or shorter: cards, contacts,
    its loop, clips laid under it, notes left of it."""
    own = shot.take.of(figure).moved(where)
    left = tuple(note.moved(where) if note.figure == figure else note for note in shot.take.left)
    take = replace(shot.take, acting={**shot.take.acting, figure: own}, left=left)
    return replace(shot, take=take).with_cards(figure, own.cards)


def carried_cards(shot: Shot, figure: str, moves: Mapping[float, float]) -> Shot:
    """Cards taken along with keys (old frame: new frame) where the whole pose has gone from its old frame."""
    there = set(poses(shot, figure).frames.tolist())
    gone = {old: new for old, new in moves.items() if new in there and (old not in there or old in moves.values())}
    return moved_cards(shot, figure, lambda frame: gone.get(frame, frame)) if gone else shot


def copied_cards(shot: Shot, figure: str, moves: Mapping[float, float]) -> Shot:
    """Names given to copies (old frame: new frame) as well."""
    made = [Card(moves[c.frame], c.name) for c in shot.cards(figure) if c.frame in moves and c.name]
    return shot.with_cards(figure, [*shot.cards(figure), *made])


def remember_blend(shot: Shot, figure: str, frame: float, blend: Blend | None) -> Shot:
    """Keep how the breakdown on a frame was made."""
    return with_card(shot, figure, replace(card_at(shot, figure, frame), blend=blend))
