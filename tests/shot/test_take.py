"""A take carries all that lies in it when time changes or a figure leaves."""

from bovrin import script
from bovrin.shot import Blend, Card, Shot, Take, Trace


def full(demo: Shot) -> Shot:
    """The demo with a card, a blend and a trace."""
    shot = demo.with_cards("porter", [Card(110, "Lift", Blend(101, 119, 0.3, (("left hand", 0.5),)), 0.2)])
    take = shot.take
    return script.set_values(shot, "porter", 120, {"hips/up": 0.1}).with_curves("porter", take.curves["porter"])


def test_mapped_takes_cards_and_what_they_were_made_of_along(demo: Shot) -> None:
    shot = full(demo)
    take = shot.take.mapped(lambda curves: curves, lambda frame: 2 * frame)
    (card,) = take.of("porter").cards
    assert card == Card(220, "Lift", Blend(202, 238, 0.3, (("left hand", 0.5),)), 0.2)
    assert all(take.curves[name] is found for name, found in shot.take.curves.items())


def test_mapped_changes_every_figure_s_curves(demo: Shot) -> None:
    seen = []
    take = demo.take.mapped(lambda curves: seen.append(curves) or curves)  # type: ignore[func-returns-value]
    assert len(seen) == len(demo.cast) and all(own.cards == demo.take.of(n).cards for n, own in take.acting.items())
    assert take.name == demo.take.name


def test_without_a_figure_nothing_of_it_is_left(demo: Shot) -> None:
    shot = full(demo)
    traces = (Trace("one", "porter", shot.curves("porter")), Trace("two", "crate", shot.curves("crate")))
    take = Take(shot.take.name, shot.take.acting, traces).without("porter")
    assert "porter" not in take.acting and "porter" not in take.curves
    assert [trace.figure for trace in take.traces] == ["crate"] and take.curves["crate"] is shot.curves("crate")
