import pytest
from tests.strategies import chain_figure

from bovrin.errors import BadFigure, BadMotion, UnknownName
from bovrin.shot import Control, ControlKind, Joint, Rig, Shot, Take


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"first": 20.0, "last": 10.0}, "before it begins"),
        ({"frame_rate": 0.0}, "frame rate"),
        ({"frame_rate": float("nan")}, "finite"),
        ({"last": float("inf")}, "finite"),
        ({"frame_rate": 1e6}, "frame rate"),
    ],
)
def test_ranges_and_rates_that_make_no_sense(change: dict[str, float], words: str) -> None:
    with pytest.raises(BadMotion, match=words):
        Shot("x", **change)


def test_a_figure_joins_without_motion() -> None:
    figure = chain_figure()
    shot = Shot("x").with_figure(figure)
    assert shot.figure("rod") is figure
    assert len(shot.curves("rod")) == len(figure.rig.channels)
    with pytest.raises(UnknownName, match="rod"):
        shot.figure("goat")


def test_two_figures_of_one_name_are_refused() -> None:
    with pytest.raises(BadMotion, match="share a name"):
        Shot("x").with_figure(chain_figure()).with_figure(chain_figure())


def test_curves_must_fit_the_rig() -> None:
    with pytest.raises(BadMotion, match="fit its rig"):
        Shot("x", cast=(chain_figure(),), take=Take("A", {}))


def test_the_old_shot_stays_when_curves_change() -> None:
    shot = Shot("x").with_figure(chain_figure())
    other = shot.with_curves("rod", chain_figure().no_motion())
    assert other is not shot
    assert shot.with_curves("rod", shot.curves("rod")) is shot
    with pytest.raises(TypeError):
        shot.take.curves["rod"] = other.curves("rod")  # type: ignore[index]


def test_names_lead_to_channels_and_back() -> None:
    rig = chain_figure().rig
    for index, name in enumerate(rig.channel_names):
        assert rig.channel(name) == index
    assert [rig.channel_names[i] for i in rig.span(1)] == ["link 1/turn", "link 1/tilt", "link 1/roll"]
    assert rig.part_channels(rig.part("links")) == tuple(range(6, 12))
    with pytest.raises(UnknownName, match="link 1/tilt"):
        rig.channel("link 1/twist")
    with pytest.raises(UnknownName):
        rig.control("link 9")
    with pytest.raises(UnknownName, match="links"):
        rig.part("tail")


def test_rigs_that_do_not_hold_together_are_refused() -> None:
    joints = (Joint("a", -1, (0, 0, 0)), Joint("b", 0, (0, 1, 0)))
    with pytest.raises(BadFigure, match="circle"):
        Rig((Joint("a", 0, (0, 0, 0)),), (), ())
    with pytest.raises(BadFigure, match="share a name"):
        Rig((joints[0], Joint("a", 0, (0, 1, 0))), (), ())
    with pytest.raises(BadFigure, match="not there"):
        Rig(joints, (Control("c", ControlKind.JOINT, 7, ()),), ())
    with pytest.raises(BadFigure, match="order"):
        Rig(joints, (Control("c", ControlKind.JOINT, 1, (), order="XXZ"),), ())


def test_the_porter_pairs_left_and_right(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    left = rig.control("left hand")
    assert rig.controls[rig.other_side(left) or 0].name == "right hand"
    assert rig.other_side(rig.other_side(left) or 0) == left
    assert rig.other_side(rig.control("chest")) is None
