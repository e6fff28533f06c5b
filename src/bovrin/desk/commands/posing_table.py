"""The posing commands of the one command table."""

from __future__ import annotations

from bovrin.desk.commands import book, curves, posing
from bovrin.desk.commands.command import Command, Run, has_choice, has_figure


def _mirrored(how: str) -> Run:
    return lambda port: posing.mirror_pose(port, how)


POSING: tuple[Command, ...] = (
    Command(
        "pose.default_figure",
        "Pose",
        "Whole figure to the default pose",
        "",
        "Take every part to the default pose, where the figure stands",
        posing.to_default,
        has_figure,
    ),
    Command("pose.mirror", "Pose", "Mirror", "M", "Swap the sides of the pose here", _mirrored("swap"), has_figure),
    Command(
        "pose.mirror_to_right",
        "Pose",
        "Copy left to right",
        "",
        "Pose the right side as the left one is, mirrored",
        _mirrored("left to right"),
        has_figure,
    ),
    Command(
        "pose.mirror_to_left",
        "Pose",
        "Copy right to left",
        "",
        "Pose the left side as the right one is, mirrored",
        _mirrored("right to left"),
        has_figure,
    ),
    Command(
        "pose.mirror_keys",
        "Pose",
        "Mirror keys",
        "Shift+M",
        "Swap sides on the chosen keys, or on every key of the shot's range, handles and all",
        posing.mirror_chosen,
        has_figure,
    ),
    Command(
        "pose.copy",
        "Pose",
        "Copy pose",
        "Ctrl+C",
        "Copy the pose here, or over the curves the chosen keys",
        curves.copy,
        has_figure,
    ),
    Command(
        "pose.paste",
        "Pose",
        "Paste pose",
        "Ctrl+V",
        "Paste the copied pose here, or over the curves the copied keys",
        curves.paste,
        has_figure,
    ),
    Command(
        "pose.paste_mirrored",
        "Pose",
        "Paste pose mirrored",
        "Ctrl+Shift+V",
        "Paste the copied pose here with its sides swapped",
        lambda d: posing.paste(d, mirrored=True),
        has_figure,
    ),
    Command(
        "pose.keep",
        "Pose",
        "Keep in the pose book",
        "Ctrl+B",
        "Keep the pose here as a card of the pose book",
        book.keep,
        has_figure,
    ),
    Command(
        "pose.mode",
        "Pose",
        "Joint or reach",
        "J",
        "Pose the chosen limb by its joints (FK), or by its end, in reach (IK), from here on; it does not jump",
        lambda d: posing.switch_mode(d.session),
        has_choice,
    ),
    Command(
        "pose.mode_span",
        "Pose",
        "Joint or reach in this span",
        "",
        "Change the mode up to the next pose only; every frame is matched",
        lambda d: posing.switch_mode(d.session, span=True),
        has_choice,
    ),
    Command(
        "pose.match",
        "Pose",
        "Match the other mode",
        "",
        "Bring the other mode's channels to where the limb is; the mode stays",
        posing.match_modes,
        has_choice,
    ),
    Command(
        "pose.anchor",
        "Pose",
        "Anchor or let go",
        "R",
        "Anchor what is chosen in this pose, or let go of it",
        posing.toggle_anchor,
        has_choice,
    ),
    Command(
        "pose.release",
        "Pose",
        "Let go of all anchors",
        "Shift+R",
        "Let go of every anchor of this pose",
        posing.release_all,
        has_figure,
    ),
    Command(
        "pose.fence",
        "Pose",
        "Fence this frame",
        "F",
        "Key this frame and its neighbours as they are, so that a change here spoils nothing around it",
        posing.fence_here,
        has_figure,
    ),
    Command(
        "pose.unroll",
        "Pose",
        "Unroll",
        "",
        "Take whole turns out of rotation curves that jump",
        posing.unroll_chosen,
        has_figure,
    ),
)

CHOOSING: tuple[Command, ...] = (
    Command(
        "choose.up", "Choose", "Up the hierarchy", "PgUp", "Choose the control above", posing.choose_up, has_figure
    ),
    Command(
        "choose.down",
        "Choose",
        "Down the hierarchy",
        "PgDown",
        "Choose the control below",
        posing.choose_down,
        has_figure,
    ),
    Command(
        "choose.branch",
        "Choose",
        "Whole branch",
        "Shift+PgDown",
        "Choose everything below as well",
        posing.choose_branch,
        has_figure,
    ),
    Command(
        "choose.part",
        "Choose",
        "All of the part",
        "Shift+PgUp",
        "Choose the whole part",
        posing.choose_part,
        has_figure,
    ),
    Command(
        "handle.axes", "Choose", "Next axes", "Q", "Handles go along view, world, parent or own axes", posing.next_axes
    ),
    Command(
        "handle.pivot",
        "Choose",
        "Borrow a pivot",
        "P",
        "Turn and size about any point for this one edit; again: the own pivot",
        posing.borrow_pivot,
        has_figure,
    ),
    Command(
        "handle.together",
        "Choose",
        "One pivot for all",
        "Shift+P",
        "Turn several controls about one point, or each about its own",
        lambda d: d.session.change_looking(pivot_for_all=not d.session.looking.pivot_for_all),
    ),
)

SHOWING: tuple[Command, ...] = (
    Command(
        "show.joints",
        "View",
        "Joints through the mesh",
        "Shift+J",
        "See the joints of the figure through its mesh",
        lambda d: d.session.change_looking(joints=not d.session.looking.joints),
    ),
    Command(
        "show.balance",
        "View",
        "Balance",
        "Shift+W",
        "Where the weight of the chosen figure and of what hangs on it is, what bears it, and the way that it goes",
        lambda d: d.session.change_looking(balance=not d.session.looking.balance),
    ),
    Command(
        "show.alone",
        "View",
        "Chosen parts alone",
        "U",
        "Draw only the chosen parts; again: all",
        posing.show_alone,
        has_figure,
    ),
    Command("show.hide", "View", "Hide the part", "", "Hide or show the chosen parts", posing.hide_parts, has_choice),
    Command("show.lock", "View", "Lock the part", "", "Lock or unlock the chosen parts", posing.lock_parts, has_choice),
    Command("show.all", "View", "Show everything", "", "Show all that is hidden", posing.show_everything),
)
