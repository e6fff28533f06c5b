"""Writes docs/keys.md from the command table."""

from __future__ import annotations

from pathlib import Path

from bovrin.desk.table import TABLE

PAGE = Path(__file__).parents[1] / "docs" / "keys.md"


def page() -> str:
    """The page's text."""
    lines = ["# All keys", "", "Made from the program's command table by `python -m tools.keys_page`.", ""]
    for group in dict.fromkeys(command.group for command in TABLE):
        lines += [f"## {group}", "", "| command | key | what it does |", "|---|---|---|"]
        lines += [f"| {c.words} | {c.key} | {c.tip} |" for c in TABLE if c.group == group]
        lines.append("")
    return "\n".join(lines)


if __name__ == "__main__":
    PAGE.write_text(page())
