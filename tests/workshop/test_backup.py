"""Daily copies: whole while the workshop is written, thinned out by age and room, never over another file."""

import datetime as dt
import sqlite3
import threading
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM
from plinth.record.diary import DiaryEntry
from plinth.workshop import backup
from plinth.workshop.backup import BackupCopy, back_up, copies, copy_to, folder_for, superfluous
from plinth.workshop.errors import NotKeptError, OutOfReachError
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.workshop.writer import AT

MONDAY = dt.date(2026, 6, 1)


@pytest.fixture
def workshop(tmp_path: Path) -> Workshop:
    made = create_workshop(tmp_path / "own.plinth")
    made.add_build(REHEARSAL_ROOM, Situation(), "begun")
    return made


def lines(path: Path) -> list[str]:
    opened = open_workshop(path)
    try:
        return [entry.words for entry in opened.diary(1)]
    finally:
        opened.close()


def test_a_copy_is_the_workshop_of_that_moment_and_opens(workshop: Workshop, tmp_path: Path) -> None:
    workshop.keep_entry(1, DiaryEntry(AT, "note", "note", "before"))
    shares: list[float] = []
    copy_to(workshop.path, tmp_path / "copy.plinth", shares.append)
    workshop.keep_entry(1, DiaryEntry(AT, "note", "note", "after"))
    assert lines(tmp_path / "copy.plinth")[-1] == "before"
    assert shares[-1] == 1.0
    assert (tmp_path / "copy.plinth").stat().st_mode & 0o777 == 0o600
    assert [path.name for path in tmp_path.iterdir() if path.name.startswith(".")] == []


def test_it_is_whole_while_somebody_writes(workshop: Workshop, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(backup, "_PAGES", 3)
    kept: list[str] = []

    def write(_share: float) -> None:
        # The window keeps readings while it is copied.
        if len(kept) < 5:
            kept.append(f"line {len(kept)}")
            writer = threading.Thread(
                target=workshop.keep_entry, args=(1, DiaryEntry(AT, "note", "note", kept[-1]))
            )  # fmt: skip
            writer.start()
            writer.join()

    copy_to(workshop.path, tmp_path / "copy.plinth", write)
    assert len(kept) == 5
    # Sealed and chained: it opens, which a torn copy would not, and holds every line that came before its end.
    assert lines(tmp_path / "copy.plinth")[-5:] == kept


def test_nothing_is_written_over_and_nothing_is_left_behind(workshop: Workshop, tmp_path: Path) -> None:
    taken = tmp_path / "letter.txt"
    taken.write_text("dear all")
    with pytest.raises(FileExistsError, match="choose another name"):
        copy_to(workshop.path, taken)
    assert taken.read_text() == "dear all"
    with pytest.raises(FileExistsError):
        copy_to(workshop.path, workshop.path)
    with pytest.raises(OutOfReachError):
        copy_to(workshop.path, taken / "copy.plinth")
    with pytest.raises(NotKeptError, match="was not copied"):
        copy_to(tmp_path / "gone.plinth", tmp_path / "copy.plinth")
    assert sorted(path.name for path in tmp_path.iterdir()) == ["letter.txt", "own.plinth"] or (
        {"letter.txt", "own.plinth"} <= {path.name for path in tmp_path.iterdir()}
        and not (tmp_path / "copy.plinth").exists()
    )


def test_one_a_day_and_no_second(workshop: Workshop, tmp_path: Path) -> None:
    folder = tmp_path / "copies"
    first = back_up(workshop.path, folder, MONDAY)
    assert first is not None
    assert first.size == first.path.stat().st_size > 0
    before = first.path.stat().st_mtime_ns
    assert back_up(workshop.path, folder, MONDAY) is None
    assert first.path.stat().st_mtime_ns == before
    back_up(workshop.path, folder, MONDAY + dt.timedelta(days=1))
    assert [copy.day.day for copy in copies(folder)] == [2, 1]


def made_up(*days_ago: int, size: int = 10) -> list[BackupCopy]:
    return [BackupCopy(Path(f"{days}.plinth"), MONDAY - dt.timedelta(days=days), size) for days in sorted(days_ago)]


def test_seven_days_and_four_weeks_are_kept() -> None:
    every = made_up(*range(60))
    gone = superfluous(every)
    kept = [copy for copy in every if copy not in gone]
    days = [(MONDAY - copy.day).days for copy in kept]
    # Seven days back from Monday, the 1st; of this week and the three before it the last day, Sundays.
    assert days == [0, 1, 2, 3, 4, 5, 6, 8, 15]
    assert [copy.day.isoweekday() for copy in kept if (MONDAY - copy.day).days > 6] == [7, 7]
    # Of a workshop that is opened once a month each copy is one of its week.
    assert superfluous(made_up(0, 30, 60, 90)) == []
    assert len(superfluous(made_up(*range(0, 300, 10)))) == 30 - 7


def test_together_they_take_no_more_than_their_bound_but_the_newest_stays() -> None:
    every = made_up(0, 1, 2, 3, size=400)
    assert [copy.path.stem for copy in superfluous(every, most_bytes=1000)] == ["2", "3"]
    assert superfluous(every, most_bytes=1200) == every[3:]
    assert superfluous(every, most_bytes=100) == every[1:]


def test_what_is_no_copy_is_left_alone(workshop: Workshop, tmp_path: Path) -> None:
    folder = tmp_path / "copies"
    folder.mkdir()
    for name in ("notes.txt", "2026-13-45.plinth", "own.plinth"):
        (folder / name).write_text("mine")
    for day in range(12):
        back_up(workshop.path, folder, MONDAY + dt.timedelta(days=day))
    names = {path.name for path in folder.iterdir()}
    assert {"notes.txt", "2026-13-45.plinth", "own.plinth"} <= names
    # The last seven days; the Sunday among them is the last of its week.
    assert len(copies(folder)) == 7
    assert copies(tmp_path / "nowhere") == []


def test_two_workshops_of_one_name_have_folders_of_their_own(tmp_path: Path) -> None:
    one, other = tmp_path / "a" / "own.plinth", tmp_path / "b" / "own.plinth"
    assert folder_for(one, tmp_path).name.startswith("own-")
    assert folder_for(one, tmp_path) != folder_for(other, tmp_path)
    assert folder_for(one, tmp_path) == folder_for(one, tmp_path)


def test_a_disk_that_fills_leaves_the_older_copies(
    workshop: Workshop, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "copies"
    for day in range(9):
        back_up(workshop.path, folder, MONDAY + dt.timedelta(days=day))
    before = copies(folder)

    def full(*_given: object, **_named: object) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr(backup, "_told", full)
    with pytest.raises(NotKeptError, match="disk is full"):
        back_up(workshop.path, folder, MONDAY + dt.timedelta(days=9))
    assert copies(folder) == before
    assert lines(before[0].path) == lines(workshop_copy(workshop, tmp_path, monkeypatch))


def workshop_copy(workshop: Workshop, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.undo()
    copy_to(workshop.path, tmp_path / "again.plinth")
    return tmp_path / "again.plinth"
