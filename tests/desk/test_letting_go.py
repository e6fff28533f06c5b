"""Another document lets go of what the last one had: nothing that is worked out from a shot keeps it alive."""

import gc
import weakref
from pathlib import Path

from PyQt6.QtCore import QCoreApplication, QEvent
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from bovrin import script
from bovrin.desk.table import TABLE
from bovrin.desk.window import Window
from bovrin.shot import Shot

PASSES = [command.id for command in TABLE if command.id.startswith("pass.")]


def settle(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not window.session.background._futures, timeout=20_000)
    for _ in range(3):
        QApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()


def worked_on(window: Window, project: Path, qtbot: QtBot) -> list[weakref.ref]:
    """Work of many kinds on a project; what its shots were made of."""
    session = window.session
    assert window.files.open(project)
    found = []
    for name in PASSES:
        window.run(name)
        for frame in (103, 115, 127):
            session.go_to(frame)
            session.do("Nudge", lambda shot, f=frame: script.set_values(shot, "porter", f, {"head/turn": 0.2}))
            session.preview(script.set_values(session.shot, "porter", 120, {"hips/up": 0.01}))
            QApplication.processEvents()
            session.preview(None)
            found += [weakref.ref(session.shot), weakref.ref(session.shot.curves("porter"))]
    window.run("proof.next")
    settle(window, qtbot)
    return found


def test_another_document_lets_go_of_the_last(window: Window, tmp_path: Path, qtbot: QtBot) -> None:
    for name, demo in (("one", "heave"), ("two", "goat")):
        script.save(script.demo(demo), tmp_path / f"{name}.bovrin.json")
    old = worked_on(window, tmp_path / "one.bovrin.json", qtbot)
    assert any(one() is not None for one in old)
    window.session.document.undo_stack.setClean()
    assert window.files.open(tmp_path / "two.bovrin.json")
    settle(window, qtbot)
    left = [one() for one in old if one() is not None]
    assert not [one for one in left if isinstance(one, Shot)]
    assert len({id(one) for one in left}) <= 1, "a row out of sight remembers the curves that it showed last"
