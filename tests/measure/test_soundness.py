from dataclasses import replace

from tests.strategies import chain_figure

from bovrin import script
from bovrin.measure.soundness import unsound
from bovrin.shot import Marker, Shot


def test_the_demo_is_sound(demo: Shot) -> None:
    assert unsound(demo) == []


def test_what_is_odd_is_said(demo: Shot) -> None:
    assert "no figures" in unsound(Shot("empty"))[0]
    still = unsound(Shot("x").with_figure(chain_figure()))
    assert still == ["'rod' has no keys."]
    rod = script.set_values(Shot("x").with_figure(chain_figure()), "rod", 500, {"whole/up": 1})
    said = " ".join(unsound(replace(rod, markers=(Marker(110, 105, "late"),))))
    assert "outside the range" in said and "no mesh" in said and "'late' ends before it begins" in said
