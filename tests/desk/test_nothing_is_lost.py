"""Saving under hard conditions: two windows, files changed, moved, removed and damaged underneath, figures gone, links."""

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from tests.formats import gltf_maker

from bovrin import script
from bovrin.desk.commands.files import save, save_as, turn_versions
from bovrin.desk.state.book import Book, merged
from bovrin.desk.state.files.bringing import bring
from bovrin.desk.window import Window
from bovrin.errors import BovrinError
from bovrin.formats.figures import files as figure_files
from bovrin.formats.project import text as project_text
from bovrin.formats.project.versions import version_of, versions
from bovrin.formats.side.pose_book import load_book
from bovrin.shot import Pose, Shot


def raised(window: Window, by: float) -> None:
    window.session.do("Raise", lambda shot: script.set_values(shot, "porter", 119, {"hips/up": by}))


def height(path: Path) -> float:
    return script.values(script.load(path), "porter", 119)["hips/up"]


@pytest.fixture
def kept(window: Window, tmp_path: Path) -> Path:
    path = tmp_path / "shot.bovrin.json"
    assert window.files.save(path)
    return path


@pytest.fixture
def answers(window: Window, monkeypatch: pytest.MonkeyPatch) -> Callable[[int | None], list[str]]:
    """What is answered when it is asked which; returns the list of what was asked."""

    def give(number: int | None) -> list[str]:
        asked: list[str] = []
        monkeypatch.setattr(window.ask, "which", lambda title, *_rest: asked.append(title) or number)
        return asked

    return give


def test_what_another_window_saved_is_not_written_over_without_a_word(
    window: Window, make: Callable[[Shot], Window], kept: Path, answers: Callable[[int | None], list[str]]
) -> None:
    other = make(script.demo())
    assert other.files.open(kept)
    assert "open in another window" in other.notice.label.text()
    raised(other, 0.03)
    assert other.files.save(kept)
    raised(window, 0.07)
    asked = answers(None)
    assert not save(window) and asked == ["Changed elsewhere"] and height(kept) == pytest.approx(0.03)
    answers(0)
    assert save(window) and height(kept) == pytest.approx(0.03)
    assert height(kept.with_name("shot 2.bovrin.json")) == pytest.approx(0.07)


@pytest.mark.parametrize(("answer", "here", "on_disk"), [(1, 0.03, 0.03), (2, 0.07, 0.07)])
def test_theirs_is_taken_or_written_over_when_that_is_chosen(
    window: Window, kept: Path, answers: Callable[[int | None], list[str]], answer: int, here: float, on_disk: float
) -> None:
    theirs = script.set_values(script.load(kept), "porter", 119, {"hips/up": 0.03})
    script.save(theirs, kept)
    raised(window, 0.07)
    answers(answer)
    assert save(window)
    assert script.values(window.session.shot, "porter", 119)["hips/up"] == pytest.approx(here)
    assert height(kept) == pytest.approx(on_disk)
    assert answers(None) == [] and save(window), "nothing is asked twice"
    if answer == 2:
        assert height(version_of(kept, 1)) == pytest.approx(0.03), "and what was theirs is kept as a version"


def test_a_file_that_was_only_touched_is_saved_without_asking(
    window: Window, kept: Path, answers: Callable[[int | None], list[str]]
) -> None:
    kept.write_bytes(kept.read_bytes())
    raised(window, 0.07)
    asked = answers(None)
    assert save(window) and asked == []


def test_a_change_is_noticed_by_what_is_in_the_file(
    window: Window, kept: Path, answers: Callable[[int | None], list[str]]
) -> None:
    """As many bytes, and the same time: what is in it is another."""
    when, text = kept.stat(), kept.read_text()
    title = script.load(kept).title
    kept.write_text(text.replace(title, title[::-1], 1))
    os.utime(kept, ns=(when.st_atime_ns, when.st_mtime_ns))
    assert kept.stat().st_size == when.st_size and kept.stat().st_mtime_ns == when.st_mtime_ns
    asked = answers(None)
    raised(window, 0.07)
    assert not save(window) and asked == ["Changed elsewhere"]


def test_saved_as_onto_its_own_path_it_asks_as_a_save_does(
    window: Window, kept: Path, answers: Callable[[int | None], list[str]], monkeypatch: pytest.MonkeyPatch
) -> None:
    script.save(script.set_values(script.load(kept), "porter", 119, {"hips/up": 0.03}), kept)
    raised(window, 0.07)
    roundabout = kept.parent / ".." / kept.parent.name / kept.name
    monkeypatch.setattr(window.ask, "file_to_write", lambda *_a: roundabout)
    asked = answers(None)
    assert not save_as(window) and asked == ["Changed elsewhere"] and height(kept) == pytest.approx(0.03)


def test_another_project_opened_while_one_is_saved_is_not_taken_for_changed(
    window: Window, kept: Path, tmp_path: Path, answers: Callable[[int | None], list[str]]
) -> None:
    other = tmp_path / "other.bovrin.json"
    script.save(script.demo("goat"), other)
    raised(window, 0.07)
    real = window.files.wait

    def opened_meanwhile(*given: Any) -> Any:
        made = real(*given)
        window.files.wait = real
        window.session.document.undo_stack.setClean()
        assert window.files.open(other)
        return made

    window.files.wait = opened_meanwhile
    window.files.save(kept)
    assert window.session.document.path == other
    asked = answers(None)
    window.run("pose.key")
    assert save(window) and asked == []
    assert height(kept) == pytest.approx(0.07)


def test_what_cannot_be_read_again_does_not_take_the_old_files_place(
    window: Window, kept: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = kept.read_bytes()
    raised(window, 0.07)
    text = project_text.shot_to_text
    monkeypatch.setattr(project_text, "shot_to_text", lambda shot, *_a: text(shot)[:-40])
    assert not save(window)
    assert kept.read_bytes() == before and "could not be read again" in window.notice.label.text()
    assert not window.session.document.undo_stack.isClean()
    assert not list(kept.parent.glob(".bovrin-*")), "nothing is left lying about"


def test_the_last_three_versions_are_kept_and_one_is_offered_when_the_file_is_damaged(
    window: Window, kept: Path
) -> None:
    for by in (0.01, 0.02, 0.03, 0.04, 0.05):
        raised(window, by)
        assert save(window)
    assert [round(height(v), 3) for v in versions(kept)] == [0.04, 0.03, 0.02]
    kept.write_text(kept.read_text()[:1000])
    version_of(kept, 1).write_text("{")
    assert not window.files.open(kept)
    assert "A version saved before" in window.notice.label.text()
    window.notice.buttons[0].click()
    assert script.values(window.session.shot, "porter", 119)["hips/up"] == pytest.approx(0.03)
    assert not window.session.document.undo_stack.isClean(), "no file holds it as it is"


def test_versions_can_be_turned_off(window: Window, kept: Path) -> None:
    turn_versions(window)
    raised(window, 0.05)
    assert save(window) and versions(kept) == []
    turn_versions(window)
    raised(window, 0.06)
    assert save(window) and len(versions(kept)) == 1


@pytest.fixture
def brought(window: Window, tmp_path: Path) -> Path:
    """A project with a brought figure, saved and open."""
    (tmp_path / "two.glb").write_bytes(gltf_maker.figure(gltf_maker.TWO_LEGS).glb())
    folder = tmp_path / "kept"
    folder.mkdir()
    assert bring(window.files, tmp_path / "two.glb", folder / "two.bovrin.json")
    return folder / "two.bovrin.json"


def test_a_figure_file_that_is_gone_is_written_anew(window: Window, brought: Path, tmp_path: Path) -> None:
    name = window.session.figure_name
    (figure,) = brought.parent.glob("*.glb")
    data = figure.read_bytes()
    figure.unlink()
    window.session.do("Up", lambda shot: script.set_values(shot, name, 101, {"Kern/up": 0.25}))
    assert save(window) and figure.read_bytes() == data
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    figure.unlink()
    assert window.files.save(elsewhere / "two.bovrin.json")
    assert script.values(script.load(elsewhere / "two.bovrin.json"), name, 101)["Kern/up"] == pytest.approx(0.25)


def test_a_figure_file_that_is_another_now_is_left_alone(window: Window, brought: Path) -> None:
    """The shot keeps the figure that is on the stage, under another name."""
    (figure,) = brought.parent.glob("*.glb")
    stranger = script.demo().figure("crate")
    from bovrin.formats.figures.file import figure_bytes

    figure.write_bytes(figure_bytes(stranger))
    window.session.do("Up", lambda shot: script.set_values(shot, window.session.figure_name, 101, {"Kern/up": 0.25}))
    assert save(window)
    assert figure.read_bytes() == figure_bytes(stranger)
    opened = script.load(brought)
    assert [j.name for j in opened.cast[0].rig.joints] == [j.name for j in window.session.figure.rig.joints]
    window.session.do("Up", lambda shot: script.set_values(shot, window.session.figure_name, 101, {"Kern/up": 0.2}))
    assert save(window) and len(list(brought.parent.glob("*.glb"))) == 2, "once"


@pytest.mark.parametrize("which", ["figure", "project"])
def test_nothing_is_handed_on_over_a_file_that_the_shot_lives_in(window: Window, brought: Path, which: str) -> None:
    (figure,) = brought.parent.glob("*.glb")
    target = figure if which == "figure" else brought
    before = target.read_bytes()
    window.files.export(target)
    assert target.read_bytes() == before and "lives in this file" in window.notice.label.text()


def test_a_link_stays_a_link_and_protection_is_honoured(window: Window, kept: Path, tmp_path: Path) -> None:
    link = tmp_path / "link.bovrin.json"
    link.symlink_to(kept)
    raised(window, 0.05)
    assert window.files.save(link) and link.is_symlink() and height(kept) == pytest.approx(0.05)
    kept.chmod(0o444)
    raised(window, 0.06)
    assert not window.files.save(link)
    assert height(kept) == pytest.approx(0.05) and "protected" in window.notice.label.text()


def pose(name: str, note: str = "") -> Pose:
    return Pose(name, "porter", {}, {}, {}, note)


def test_poses_of_two_windows_come_together(qapp: object, tmp_path: Path) -> None:
    path = tmp_path / "ours.poses.json"
    said: list[str] = []
    one, two = Book(said.append), Book(said.append)
    one.put((pose("stand"), pose("sit")))
    one.save_as(path)
    two.open(path)
    one.put((*one.poses, pose("wave")))
    two.put((pose("stand", "tall"), pose("crouch")))  # changed one, took one away, added one
    one.put((*one.poses, pose("bow")))
    assert {p.name: p.note for p in load_book(path)} == {"stand": "tall", "wave": "", "crouch": "", "bow": ""}
    assert {p.name for p in one.poses} == {"stand", "wave", "crouch", "bow"} and said == []
    one.deleteLater(), two.deleteLater()


def test_mine_stays_where_both_changed_a_pose() -> None:
    was = (pose("stand"),)
    mine, theirs = (pose("stand", "mine"),), (pose("stand", "theirs"),)
    assert merged(was, mine, theirs) == mine and merged(was, (pose("stand"),), theirs) == theirs
    assert merged(was, was, ()) == () and merged((), (), was) == was


def test_two_poses_under_one_new_name_both_stay(qapp: object, tmp_path: Path) -> None:
    path = tmp_path / "ours.poses.json"
    said: list[str] = []
    one, two = Book(said.append), Book(said.append)
    one.put((pose("stand"),))
    one.save_as(path)
    two.open(path)
    for book, note in ((one, "hers"), (two, "his")):
        book.put((*book.poses, pose(book.free_name("pose"), note)))
    assert sorted((p.name, p.note) for p in load_book(path)) == [("pose", "hers"), ("pose 2", "his"), ("stand", "")]
    one.put((*one.poses, pose(one.free_name("pose 2"), "hers again")))
    assert {p.note for p in load_book(path)} == {"", "hers", "his", "hers again"}
    assert len({p.name for p in load_book(path)}) == 4 and said == []
    one.deleteLater(), two.deleteLater()


def test_a_book_that_cannot_be_written_is_not_told_as_kept(window: Window, tmp_path: Path) -> None:
    (tmp_path / "no folder").write_text("a file")
    window.book.path = tmp_path / "no folder" / "ours.poses.json"
    window.run("pose.keep")
    assert "cannot be written" in window.notice.label.text()


def test_the_command_line_spares_them_too(brought: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from bovrin.cli import run_command

    (figure,) = brought.parent.glob("*.glb")
    before = figure.read_bytes()
    assert run_command(["export", str(brought), "-o", str(figure)]) == 2
    assert figure.read_bytes() == before and "read in the same run" in capsys.readouterr().err
    with pytest.raises(BovrinError):
        figure_files.check_free(script.load(brought), brought, brought)
