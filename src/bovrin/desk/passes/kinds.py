"""What a pass puts on the desk."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.desk.commands.port import Port
from bovrin.desk.kit.widgets import Panel
from bovrin.desk.stage.overlay import MakeOverlay
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.passes import Pass
from bovrin.frozen import frozen_equal


@frozen_equal
class PanelKind:
    """A panel of the right column: its name, its title, how it is made when it is first needed, and for what is chosen it is
    there at all."""

    name: str
    title: str
    make: Callable[[Port], Panel]
    fits: Callable[[Session], bool] = lambda _session: True


@frozen_equal
class OnDesk:
    """A pass, the panels it puts into the right column, whether curves or the shelf lie under the stage, what lies over it."""

    pass_: Pass
    panels: tuple[PanelKind, ...]
    curves: bool = False
    overlays: tuple[MakeOverlay, ...] = ()
    shelf: bool = False
