from pathlib import Path

import pytest

from bovrin import script
from bovrin.errors import FileProblem
from bovrin.formats.side.markers import read_markers, write_markers
from bovrin.shot import Shot

SRT = """1
00:00:00,000 --> 00:00:01,500
The horn <i>sounds</i>

2
00:00:01,000 --> 00:00:02,000
He looks up,
and stops.

3
00:00:05,000 --> 00:00:04,000
Backwards

4
00:00:aa --> 00:00:07,000
Broken

5
00:00:08,000 --> 00:00:09,000

6
00:00:10.5 --> 00:00:11.0
Heave
"""


@pytest.mark.parametrize(
    "encoded",
    [
        SRT.encode(),
        SRT.replace("\n", "\r\n").encode("utf-8-sig"),
        SRT.encode("utf-16"),
        SRT.replace("\n", "\r").encode("cp1252"),
    ],
)
def test_subtitles_in_odd_encodings_with_errors_in_them(tmp_path: Path, encoded: bytes) -> None:
    (tmp_path / "words.srt").write_bytes(encoded)
    found, skipped = read_markers(tmp_path / "words.srt", 24, 101)
    assert [(m.start, m.end, m.words) for m in found] == [
        (101, 137, "The horn sounds"),
        (125, 149, "He looks up, and stops."),
        (353, 365, "Heave"),
    ]
    assert len(skipped) == 3 and all(line.startswith("Line ") for line in skipped)


def test_web_subtitles_and_old_letters(tmp_path: Path) -> None:
    text = (
        "WEBVTT\n\nNOTE made up\n\n00:01.000 --> 00:02.000 align:start\nAhoy, Grüße\n00:02.000 --> 00:03.000\nÉpaule\n"
    )
    (tmp_path / "words.vtt").write_bytes(text.encode("cp1252"))
    found, skipped = read_markers(tmp_path / "words.vtt", 12, 1)
    assert [(m.start, m.words) for m in found] == [(13, "Ahoy, Grüße"), (25, "Épaule")] and skipped == []


def test_tables_go_out_and_come_back(demo: Shot, tmp_path: Path) -> None:
    write_markers(demo, tmp_path / "markers.csv")
    bare = Shot("bare")
    back = script.import_markers(bare, tmp_path / "markers.csv")
    assert script.markers(back) == script.markers(demo)
    assert script.import_markers(back, tmp_path / "markers.csv").markers == back.markers
    (tmp_path / "odd.csv").write_text('start;end;words\n101;105;"horn; far"\nx;3;no\n9;4;back\n110,5;112;step\n')
    found, skipped = read_markers(tmp_path / "odd.csv", 24, 101)
    assert [(m.start, m.words) for m in found] == [(101, "horn; far"), (110.5, "step")] and len(skipped) == 2


def test_files_without_markers_are_explained(tmp_path: Path) -> None:
    (tmp_path / "a.srt").write_text("nothing here")
    (tmp_path / "a.txt").write_text("1,2,x")
    for name, words in (("a.srt", "no marker"), ("a.txt", "not an ending"), ("none.csv", "none.csv")):
        with pytest.raises(FileProblem, match=words):
            read_markers(tmp_path / name, 24, 101)
