"""The first minute and coming back, by a hand: start, play, a new shot, a recording brought, closed and opened as it was."""

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from tests.real.conftest import Desk

from bovrin import script
from bovrin.formats.bvh.out import bvh_text

WHOLE = (
    "all(0 <= p.x() <= s.size.width() and 0 <= p.y() <= s.size.height()"
    " for i in s.items() for p in [s.on_screen(m[:3, 3]) for m in i.world])"
)
SEEN = f"(lambda s: {WHOLE})(window.stage.main.scene)"


@pytest.fixture
def recording(tmp_path: Path) -> Path:
    """A project made of a motion that stands 40 m from the middle, as a recording may."""
    shot = script.demo("goat")
    (tmp_path / "far.bvh").write_text(bvh_text(shot).replace("OFFSET 0.000000", "OFFSET 40.000000", 1))
    project = tmp_path / "far.bovrin.json"
    subprocess.run(
        [
            sys.executable,
            "-c",
            "from bovrin.cli import main; main()",
            "bring",
            str(tmp_path / "far.bvh"),
            "-o",
            str(project),
        ],
        check=True,
        stdout=subprocess.DEVNULL,
    )
    return project


def test_the_start_page_then_a_new_shot(start: Callable[..., Desk]) -> None:
    desk = start()
    desk.until("window.opening.start is not None and window.opening.start.isVisible()")
    desk.keys("Escape")
    desk.until("window.opening.start is None or not window.opening.start.isVisible()")
    desk.until("QApplication.focusWidget() is window.stage.main")
    desk.keys("ctrl+n")
    desk.until("QApplication.activePopupWidget() is not None")
    desk.keys("Down", "Down", "Return")
    desk.until("window.session.shot.title == 'New shot' and len(window.session.shot.cast) == 1")
    desk.until("QApplication.focusWidget() is window.stage.main")
    assert desk.ask(SEEN)
    desk.keys("k")
    desk.until("window.session.document.undo_stack.canUndo()")


def test_a_new_shot_from_the_start_page_itself(start: Callable[..., Desk]) -> None:
    desk = start()
    page = "window.opening.start"
    desk.until(f"{page} is not None and {page}.isVisible()")
    desk.click(desk.at(f"{page}.buttons[0]"))
    desk.until("QApplication.activePopupWidget() is not None")
    menu, button = desk.ask("QApplication.activePopupWidget().y()"), desk.at(f"{page}.buttons[0]")[1]
    assert abs(menu - button) < 300, "the menu opens at the button, as far as there is room"
    desk.keys("Down", "Return")
    desk.until(f"{page} is None")
    assert desk.ask("len(window.session.shot.cast)") == 1
    desk.until("QApplication.focusWidget() is window.stage.main")


def test_a_recording_comes_back_as_it_was_left(start: Callable[..., Desk], recording: Path) -> None:
    desk = start(recording)
    assert desk.ask(SEEN)
    desk.keys("4", "Right", "Right", "Right")
    desk.until("window.session.frame == window.session.shot.first + 3")
    desk.drag(desk.at("window.stage.main", "200", "200"), desk.at("window.stage.main", "260", "220"))
    view = desk.ask("window.stage.main.scene.view.target")
    desk.keys("ctrl+q")
    desk.ended()
    again = start(recording)
    again.until("window.session.pass_.name == 'Spline'")
    assert again.ask("window.session.frame - window.session.shot.first") == 3
    assert again.ask("window.stage.main.scene.view.target") == view and again.ask(SEEN)


def test_what_a_first_pull_needs_is_there_before_it(start: Callable[..., Desk]) -> None:
    """The start does without the library of linear algebra; it comes beside the window, so that no hand waits for it."""
    desk = start("demo")
    desk.until("'scipy.linalg' in sys.modules and not window.session.background._futures")
    x, y = desk.ask(
        "[(lambda p: [p.x(), p.y()])(window.stage.main.mapToGlobal(window.stage.main.rect().topLeft()))][0]"
    )
    at = desk.ask(
        "(lambda p: [p.x(), p.y()])(window.stage.main.scene.on_screen(window.session.stance().world[7, :3, 3]))"
    )
    place = round(x + at[0]), round(y + at[1])
    desk.drag(place, (place[0] + 30, place[1] - 20))
    desk.until("window.session.document.undo_stack.canUndo()")
    desk.keys("ctrl+z")
    desk.until("not window.session.document.undo_stack.canUndo()")
