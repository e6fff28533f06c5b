"""Commands of cycles."""

from __future__ import annotations

from bovrin.craft.clips.sidestep import WAYS
from bovrin.desk.commands import cycles
from bovrin.desk.commands.command import Command, has_figure
from bovrin.desk.commands.files import bring_clips
from bovrin.desk.commands.port import Port
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.passes import CYCLE as CYCLE_PASS
from bovrin.figure.ground.feet import footholds


def _has_feet(session: Session) -> bool:
    return session.figure is not None and bool(footholds(session.figure.rig))


def _has_lanes(session: Session) -> bool:
    return session.figure is not None and bool(session.shot.lanes(session.figure_name))


def _has_ruler(session: Session) -> bool:
    return session.shot.ruler is not None


def _new(port: Port) -> None:
    port.session.set_pass(CYCLE_PASS)
    port.session.going.form_asked.emit()


STEPS = ("left", "right", "backward")
CYCLES = (
    Command(
        "cycle.new",
        "Cycle",
        "New cycle…",
        "",
        "Lay out a walk, a run or a trot: feet where the gait puts them",
        _new,
        _has_feet,
    ),
    Command(
        "cycle.lay_out",
        "Cycle",
        "Lay out from reference…",
        "",
        "Poses of the book that know their reference frame become a cycle, as far apart as they were",
        cycles.lay_out_reference,
        has_figure,
    ),
    Command(
        "cycle.close",
        "Cycle",
        "Goes round",
        "",
        "The last pose is the first again and curves go round, or hold again",
        lambda port: cycles.toggle_round(port.session),
        has_figure,
    ),
    Command(
        "cycle.mirror",
        "Cycle",
        "Mirror halves",
        "",
        "The second half is the first mirrored, half a round later, whichever is edited",
        lambda port: cycles.toggle_mirror(port.session),
        has_figure,
    ),
    Command(
        "cycle.plant",
        "Cycle",
        "Plant feet",
        "",
        "Feet stay where they are while they are down; the chosen legs, or all",
        lambda port: cycles.plant_feet(port.session),
        _has_feet,
    ),
    Command(
        "cycle.ground",
        "Cycle",
        "Feet stand on the set",
        "",
        "Feet come down on the meshes of the set and of what stands still, steps and slopes, not on flat ground",
        lambda port: cycles.toggle_ground(port.session),
        has_figure,
    ),
    Command(
        "cycle.ruler",
        "Cycle",
        "Keep the stride as a ruler",
        "",
        "A ruler as long as the stride stays on the ground; joints that are moved near its ends come over them",
        lambda port: cycles.keep_ruler(port.session),
        has_figure,
    ),
    Command(
        "cycle.ruler_turn",
        "Cycle",
        "Turn the ruler by 90°",
        "",
        "Turn the ruler about its beginning, for a step aside",
        lambda port: cycles.turn_ruler(port.session),
        _has_ruler,
    ),
    Command(
        "cycle.ruler_away",
        "Cycle",
        "Put the ruler away",
        "",
        "No ruler lies on the ground any more",
        lambda port: cycles.put_ruler_away(port.session),
        _has_ruler,
    ),
    Command(
        "cycle.spot",
        "Cycle",
        "On the spot",
        "",
        "Take the travel out; it is kept as a trace, and can be put back",
        lambda port: cycles.go_on_the_spot(port.session),
        has_figure,
    ),
    Command(
        "cycle.travel",
        "Cycle",
        "Travelling",
        "",
        "Put the travel back: as it was, or as the planted feet say",
        lambda port: cycles.travel(port.session),
        _has_feet,
    ),
    Command(
        "cycle.root",
        "Cycle",
        "Travel to the root",
        "",
        "What the hips travel becomes the travel of the whole figure; nothing is seen to move",
        lambda port: cycles.to_root(port.session),
        has_figure,
    ),
    Command(
        "clip.keep",
        "Cycle",
        "Keep a clip",
        "",
        "Keep the cycle as a clip under a name; without one, the second range or the shot's range",
        lambda port: cycles.keep_a_clip(port.session),
        has_figure,
    ),
    Command(
        "clip.lay",
        "Cycle",
        "Lay the clip",
        "",
        "Lay the clip that is chosen on the shelf, from the current frame on",
        lambda port: cycles.lay_the_clip(port.session),
        has_figure,
    ),
    Command(
        "clip.fade",
        "Cycle",
        "Fade here",
        "",
        "The clip that follows on the lane fades in from the current frame on, in step",
        lambda port: cycles.fade_here(port.session),
        has_figure,
    ),
    Command(
        "clip.weight",
        "Cycle",
        "Key the clip's weight",
        "",
        "How much of the chosen clip is seen is keyed on the current frame; the line over its bar is dragged by its keys",
        lambda port: cycles.key_weight(port.session),
        has_figure,
    ),
    Command(
        "clip.remove",
        "Cycle",
        "Take the clip off",
        "",
        "Take the chosen clip off its lane; it stays in the list",
        lambda port: cycles.take_off(port.session),
        has_figure,
    ),
    Command(
        "clip.to_keys",
        "Cycle",
        "Clips to keys",
        "",
        "What clips and keys do together is told by keys, as few as will do: over the second range, else over all",
        cycles.to_keys,
        _has_lanes,
    ),
    Command(
        "clip.to_keys_all",
        "Cycle",
        "Clips to keys on every frame",
        "",
        "What clips and keys do together is keyed on every frame: over the second range, or all of it",
        lambda port: cycles.to_keys(port, every_frame=True),
        _has_lanes,
    ),
    Command(
        "clip.instead",
        "Cycle",
        "Keys instead of clips",
        "",
        "Keys of the chosen controls count instead of the clips under them; again: they are added to those",
        lambda port: cycles.toggle_instead(port.session),
        _has_lanes,
    ),
    Command(
        "clip.bring",
        "Cycle",
        "Bring clips…",
        "",
        "The clips of another project, or the motions of a .glb, .gltf or .bvh as clips of the chosen figure",
        bring_clips,
    ),
    Command(
        "cycle.drive",
        "Cycle",
        "Test drive…",
        "",
        "Steer the figure through its clips by keys, as a game would, and see where feet slide",
        lambda port: port.open("test drive"),
        _has_feet,
    ),
    Command(
        "clip.forget",
        "Cycle",
        "Forget the clip",
        "",
        "Let go of the clip chosen in the list, wherever it lies",
        lambda port: cycles.forget_clip(port.session),
    ),
    Command(
        "clip.mute",
        "Cycle",
        "Mute the chosen parts in the clip",
        "",
        "The chosen parts are moved no longer by the chosen clip; again: they are",
        lambda port: cycles.mute_chosen(port.session),
        has_figure,
    ),
    *(
        Command(
            f"clip.{way.replace(' ', '_')}",
            "Cycle",
            f"Step {way}" if way in STEPS else way.capitalize(),
            "",
            f"The chosen clip goes {way}: its way forward is muted, and keyed anew on a lane above, timing kept"
            if way in STEPS
            else f"The chosen clip goes round, {way.split()[1]}, by 45° a round: its way is bent, timing kept",
            lambda port, w=way: cycles.step_aside(port.session, w),  # type: ignore[misc]
            has_figure,
        )
        for way in WAYS
    ),
)
