"""What is on the desk in each pass: the registry. A pass more is one line here, and its own files."""

from __future__ import annotations

from bovrin.desk.commands.flat_table import is_flat
from bovrin.desk.commands.port import Port
from bovrin.desk.kit.widgets import Panel
from bovrin.desk.panels.arcs_panel import ArcsPanel
from bovrin.desk.panels.attachments_panel import AttachmentsPanel
from bovrin.desk.panels.body_panel import BodyPanel
from bovrin.desk.panels.breakdown_panel import BreakdownPanel
from bovrin.desk.panels.cycles.clips_panel import ClipsPanel
from bovrin.desk.panels.cycles.cycle_panel import CyclePanel
from bovrin.desk.panels.cycles.travel_panel import TravelPanel
from bovrin.desk.panels.followers_panel import FollowersPanel
from bovrin.desk.panels.keys_panel import KeysPanel
from bovrin.desk.panels.light_panel import LightPanel
from bovrin.desk.panels.markers_panel import MarkersPanel
from bovrin.desk.panels.overlap_panel import OverlapPanel
from bovrin.desk.panels.pencil_panel import PencilPanel
from bovrin.desk.panels.pose_book_panel import PoseBookPanel
from bovrin.desk.panels.proof_panel import ProofPanel
from bovrin.desk.panels.shapers_panel import ShapersPanel
from bovrin.desk.panels.span_panel import SpanPanel
from bovrin.desk.panels.traces_panel import TracesPanel
from bovrin.desk.panels.values_panel import ValuesPanel
from bovrin.desk.passes.kinds import OnDesk, PanelKind
from bovrin.desk.stage.overlays.note_mark import NoteMark
from bovrin.desk.stage.overlays.stride_mark import StrideMark
from bovrin.desk.state.passes import BLOCK, BREAK_DOWN, CYCLE, PLAN, POLISH, SPLINE, Pass


def _flat(name: str, port: Port) -> Panel:
    """A panel of flat figures, which most shots never need."""
    from bovrin.desk.panels.flat.drawings_panel import DrawingsPanel  # noqa: PLC0415
    from bovrin.desk.panels.flat.order_panel import OrderPanel  # noqa: PLC0415

    return (DrawingsPanel if name == "drawings" else OrderPanel)(port.session, port.run)


ATTACHMENTS = PanelKind("attachments", "Attachments", lambda port: AttachmentsPanel(port.session, port.run))
ARCS = PanelKind("arcs", "Arcs", lambda port: ArcsPanel(port.session, port.run))
DRAWINGS = PanelKind("drawings", "Drawings", lambda port: _flat("drawings", port), is_flat)
ORDER = PanelKind("in front", "In front", lambda port: _flat("in front", port), is_flat)
FOLLOWERS = PanelKind("followers", "Followers", lambda port: FollowersPanel(port.session, port.run))
BODY = PanelKind("body", "Body", lambda port: BodyPanel(port.session))
BREAKDOWN = PanelKind("breakdown", "Breakdown", lambda port: BreakdownPanel(port.session, port.favours))
CLIPS = PanelKind("clips", "Clips", lambda port: ClipsPanel(port.session, port.pictures, port.run))
CYCLE_WHEEL = PanelKind("cycle", "Cycle wheel", lambda port: CyclePanel(port.session, port.pictures, port.run))
KEYS = PanelKind("keys", "Keys go on", lambda port: KeysPanel(port.session))
LIGHT = PanelKind("light", "Light table", lambda port: LightPanel(port.session))
MARKERS = PanelKind("markers", "Markers", lambda port: MarkersPanel(port.session, port.run))
OVERLAP = PanelKind("overlap", "Overlap", lambda port: OverlapPanel(port.session, port.run))
PENCIL = PanelKind("pencil", "Pencil", lambda port: PencilPanel(port.session, port.run))
POSES = PanelKind("poses", "Pose book", lambda port: PoseBookPanel(port.session, port.book, port.pictures, port.run))
PROOF = PanelKind("proof", "Proof", lambda port: ProofPanel(port.proofread, port.run))
SHAPERS = PanelKind("shapers", "Shapers", lambda port: ShapersPanel(port.session))
SPAN = PanelKind("span", "Span", lambda port: SpanPanel(port.session))
TRACES = PanelKind("traces", "Traces", lambda port: TracesPanel(port.session, port.run))
TRAVEL = PanelKind("travel", "Travel and feet", lambda port: TravelPanel(port.session, port.run))
VALUES = PanelKind("values", "Values", lambda port: ValuesPanel(port.session))

FLAT = (DRAWINGS, ORDER)
"""What comes first where a flat figure is chosen."""

PASSES: tuple[OnDesk, ...] = (
    OnDesk(PLAN, (PENCIL, MARKERS, POSES, VALUES, KEYS)),
    OnDesk(BLOCK, (*FLAT, KEYS, VALUES, POSES, SPAN, ATTACHMENTS, FOLLOWERS, MARKERS)),
    OnDesk(BREAK_DOWN, (*FLAT, BREAKDOWN, KEYS, SPAN, POSES, MARKERS)),
    OnDesk(SPLINE, (*FLAT, SPAN, TRACES, VALUES, KEYS, ATTACHMENTS, FOLLOWERS, MARKERS), curves=True),
    OnDesk(
        POLISH,
        (*FLAT, PROOF, SHAPERS, ARCS, OVERLAP, SPAN, TRACES, ATTACHMENTS, FOLLOWERS, VALUES, KEYS),
        curves=True,
        overlays=(NoteMark,),
    ),
    OnDesk(
        CYCLE,
        (*FLAT, CYCLE_WHEEL, CLIPS, BODY, TRAVEL, FOLLOWERS, POSES, SPAN, TRACES, VALUES, KEYS),
        overlays=(StrideMark,),
        shelf=True,
    ),
)


def on_desk(wanted: Pass) -> OnDesk:
    """What is on the desk in a pass."""
    return next(one for one in PASSES if one.pass_ is wanted)
