"""Titles of panels that are put away: a click opens one."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial

from PyQt6.QtWidgets import QWidget

from bovrin.desk.kit.flow import Flow
from bovrin.desk.kit.widgets import title_button

GAP, HIGH = 5, 24


class PutAway(QWidget):
    """Titles side by side, in as many rows as they need."""

    def __init__(self, on_click: Callable[[str], object]) -> None:
        super().__init__()
        self._on_click = on_click
        self._flow = Flow(self, GAP)
        self._shown: dict[str, str] = {}

    def show_titles(self, titles: Mapping[str, str]) -> None:
        """These titles by name, in their order."""
        if dict(titles) == self._shown:
            return
        self._shown = dict(titles)
        while (item := self._flow.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for name, title in titles.items():
            button = title_button(title, f"Open {title.lower()} before all others")
            button.setObjectName("Put")
            button.clicked.connect(partial(self._clicked, name))
            self._flow.addWidget(button)
            button.show()  # hidden ones count as having no size
        self._flow.invalidate()
        self.setFixedHeight(max(self._flow.heightForWidth(self.width()), 0))
        self.setVisible(bool(titles))

    def _clicked(self, name: str, _checked: bool) -> None:
        self._on_click(name)

    def names(self) -> list[str]:
        """The titles that stand here."""
        return list(self._shown)

    def height_for(self, names: Sequence[str], width: int) -> int:
        """Pixels that the titles need at the most when that many are put away."""
        per_row = max(width // 92, 1)
        return -(-len(names) // per_row) * (HIGH + GAP) if names else 0
