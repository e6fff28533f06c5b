"""What the docs promise."""

import re
from pathlib import Path

import pytest

from bovrin import script

ROOT = Path(__file__).parents[1]


def test_the_scripting_example_runs(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    text = (ROOT / "docs" / "scripting.md").read_text()
    (example,) = re.findall(r"```python\n(.*?)```", text, re.S)
    monkeypatch.chdir(tmp_path)
    exec(compile(example, "scripting.md", "exec"), {})
    low, high = re.findall(r"[\d.]+(?= m)", capsys.readouterr().out)
    assert float(low) < float(high)
    again = script.load(tmp_path / "carry-on.bovrin.json")
    assert script.keys(again, "porter", "hips/up")[-3:] == [151, 156, 162]
    assert (tmp_path / "carry-on.glb").stat().st_size > 0


def test_every_scripting_name_is_documented() -> None:
    text = (ROOT / "docs" / "scripting.md").read_text()
    assert [name for name in script.__all__ if f"`{name}(" not in text and f"{name}(" not in text] == []


def test_links_lead_somewhere() -> None:
    for doc in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        for target in re.findall(r"\]\(([^)#]+)\)", doc.read_text()):
            assert (doc.parent / target).exists(), (doc.name, target)


def test_the_example_project_of_the_format_page_opens(tmp_path: Path) -> None:
    (example,) = re.findall(r"```json\n(.*?)```", (ROOT / "docs" / "format.md").read_text(), re.S)
    path = tmp_path / "example.bovrin.json"
    path.write_text(example)
    shot = script.load(path)
    assert script.values(shot, "porter", 105)["left hand/up"] == -0.035
