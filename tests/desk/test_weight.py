"""Weight in the window: balance over the stage, and a drop asked for by numbers."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtTest import QTest

from bovrin import script
from bovrin.desk.kit.look import Look
from bovrin.desk.window import Window


def red_dots(window: Window) -> int:
    """How many pixels of the stage are as red as a fault is."""
    image: QImage = window.stage.main.grab().toImage()
    alert = Look.colour("alert")
    pixels = (image.pixelColor(x, y) for x in range(0, image.width(), 2) for y in range(0, image.height(), 2))
    return sum(_near(one, alert) for one in pixels)


def _near(one: QColor, other: QColor) -> bool:
    pairs = ((one.red(), other.red()), (one.green(), other.green()), (one.blue(), other.blue()))
    return all(abs(a - b) < 12 for a, b in pairs)


def test_balance_is_seen_and_red_outside(window: Window) -> None:
    session = window.session
    session.choose("porter")
    session.go_to(101)
    window.run("show.balance")
    assert session.looking.balance
    over_its_feet = red_dots(window)
    lean = {"hips/forward": 0.35, "hips/up": -0.2}
    session.do("Lean", lambda shot: script.set_values(shot, "porter", 101, lean))
    assert not script.balance(session.shot, "porter", [101]).inside[0]
    assert red_dots(window) > over_its_feet + 20
    window.run("show.balance")
    assert red_dots(window) <= over_its_feet + 5


def test_a_drop_is_seen_before_it_is_made(window: Window) -> None:
    session = window.session
    session.choose("buoy")
    session.go_to(130)
    before = session.shot
    window.run("motion.drop")
    asked = window.opening.dropped
    assert asked is not None and session.shown is not before, "seen at once"
    asked.fields["height"].taken.emit(60.0)
    assert asked.how.height == 0.6
    asked.fields["bounciness"].taken.emit(150.0)
    assert session.shot is before
    assert session.shown is before, "what cannot be is said, and nothing is shown"
    asked.fields["bounciness"].taken.emit(50.0)
    asked.button.click()
    assert not asked.isVisible() and session.shot is not before
    keys = session.shot.curves("buoy")[1].frames
    assert 130.0 in keys and 121.0 not in keys
    session.document.undo_stack.undo()
    assert session.shot is before
    window.run("motion.drop")
    QTest.keyClick(asked, Qt.Key.Key_Escape)
    assert session.shown is before and asked.how.height == 0.6
