"""What the pose book's cards do: poses kept, and put on a frame by a share."""

from __future__ import annotations

from bovrin.craft.keying.edits import Scope, posed_anew
from bovrin.craft.pose.pose_copies import pasted_values
from bovrin.desk.commands.port import Port
from bovrin.desk.commands.posing import copied_pose
from bovrin.desk.state.document.editing import chosen_scope
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import Pose, Shot
from bovrin.shot.comparing import alike


def keep(port: Port) -> None:
    """Keep the pose here as a new card."""
    pose = copied_pose(port.session)
    if port.book.put((*port.book.poses, pose.named(port.book.free_name(pose.name)))):
        name = next(own.name for own in reversed(port.book.poses) if alike(own.turns, pose.turns))
        port.session.voice.tell(f"Kept '{name}' in the pose book.")


def posed(session: Session, pose: Pose, amount: float, *, mirrored: bool) -> Shot:
    """The shot with a share of a pose on the current frame, for the parts that "Keys go on" stands for."""
    figure = session.figure
    if figure is None:
        raise BovrinError("there is no figure to pose.")
    shot, keying = session.shot, session.keying
    changes = pasted_values(shot, figure.name, session.frame, pose, amount, mirrored=mirrored, place=False)
    if keying.scope is not Scope.WHOLE and session.controls:
        wanted = {i for c in chosen_scope(session) for i in figure.rig.span(c)}
        changes = {i: v for i, v in changes.items() if i in wanted}
    return posed_anew(shot, figure.name, session.frame, changes, keying.scope, keying.style_in(session.pass_))
