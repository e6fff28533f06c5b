"""Menus: their lines, and where they open."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QMenu, QWidget


def add_action(menu: QMenu, words: str, run: Callable[[], object], *, ticked: bool | None = None) -> None:
    """One line of a menu."""
    action = menu.addAction(words)
    assert action is not None
    if ticked is not None:
        action.setCheckable(True)
        action.setChecked(ticked)
    action.triggered.connect(lambda _checked: run())


def add_menu(menu: QMenu, words: str) -> QMenu:
    """A menu in a menu."""
    inner = menu.addMenu(words)
    assert inner is not None
    return inner


def popup(menu: QMenu, at: QPoint, parent: QWidget) -> None:
    """Open a menu of a widget at a place of the screen; it is gone when it closes."""
    menu.setParent(parent, menu.windowFlags())
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    menu.popup(at)


def put_at_pointer(popover: QWidget) -> None:
    """Put what opens at the pointer there, within the window that it belongs to."""
    popover.adjustSize()
    window = popover.parentWidget()
    assert window is not None
    low, high = window.mapToGlobal(QPoint(0, 0)), window.mapToGlobal(QPoint(window.width(), window.height()))
    at = QCursor.pos()
    x = min(max(at.x(), low.x()), high.x() - popover.width())
    popover.move(x, min(max(at.y(), low.y()), high.y() - popover.height()))
