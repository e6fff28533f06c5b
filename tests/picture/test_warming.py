"""What the machine draws with is loaded beside the rest of a start; where that fails, whoever draws says so."""

import pytest

from bovrin.picture import warming
from bovrin.picture.graphics import graphics_context


@pytest.mark.parametrize("library", ["libEGL.so.1", "libnothing.so.0", "libc.so.6"])
def test_warmed_up_or_not_a_context_is_made(monkeypatch: pytest.MonkeyPatch, library: str) -> None:
    monkeypatch.setattr(warming, "EGL", library)
    monkeypatch.setattr(warming, "_warming", [])
    warming.warm_up()
    warming.warm_up()
    assert len(warming._warming) == 1
    warming.warmed_up()
    assert not warming._warming[0].is_alive()
    assert graphics_context().version_code >= 330
