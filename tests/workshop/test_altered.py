"""Workshops that another hand altered: a byte, a number, a row, a cell sealed anew, a file overwritten in place."""

import os
import shutil
import sqlite3
from pathlib import Path

import pytest

from plinth.record.clock import now
from plinth.record.diary import DiaryEntry
from plinth.record.kept_capture import CaptureFacts, CaptureSource
from plinth.workshop.errors import DamagedWorkshopError, NotKeptError, OutOfReachError, WorkshopError
from plinth.workshop.salvage import salvage
from plinth.workshop.store import open_workshop
from tests.demo_copy import demo_copy
from tests.turns import in_turn
from tests.workshop.resealing import reseal

CAPTURED = CaptureFacts("tone", CaptureSource.FILE, seconds=1.5, sample_rate_hz=96e3, channels=("ch1",))
NOTE = DiaryEntry(now(), "note", "note", "heard nothing")


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> Path:
    workshop = demo_copy(tmp_path_factory.mktemp("whole"))
    part = workshop.items()[0].number
    workshop.add_paper(part, "sheet.txt", b"ten volts", "ten volts")
    workshop.add_paper(part, "other.txt", b"nine volts")
    for name in ("one.png", "two.png"):
        workshop.add_photo(1, "bringup/left/bias", now(), name, b"content", b"scaled")
        workshop.add_capture(1, "note", now(), name.replace("png", "wav"), name.encode(), CAPTURED)
    workshop.set_setting("kept_for_a_test", {"volts": 9})
    workshop.close()
    return workshop.path


@pytest.fixture
def path(whole: Path, tmp_path: Path) -> Path:
    return Path(shutil.copy(whole, tmp_path / "shed.plinth"))


def alter(path: Path, *statements: str) -> None:
    with sqlite3.connect(path) as connection:
        for statement in statements:
            connection.execute(statement)
    connection.close()


def bad_byte(table: str, column: str, row: str) -> str:
    return f"UPDATE {table} SET {column} = CAST(x'ff' || CAST({column} AS BLOB) AS TEXT) WHERE {row}"


@pytest.mark.parametrize("number", ["0090", "", "five"])
def test_an_altered_migration_number_is_damage_in_a_sentence(path: Path, number: str) -> None:
    alter(path, f"UPDATE alembic_version SET version_num = '{number}'")
    with pytest.raises(DamagedWorkshopError, match="its own version was altered"):
        open_workshop(path)
    assert salvage(path, path.with_name("saved.plinth")).builds > 0


def test_a_byte_that_is_no_text_hides_its_own_row_only(path: Path) -> None:
    sound = open_workshop(path)
    parts, papers, photos = len(sound.items()), len(sound.papers()), len(sound.photos(1))
    builds = len(sound.builds())
    sound.close()
    alter(
        path, bad_byte("parts", "document", "id = 3"), bad_byte("papers", "note", "name = 'sheet.txt'"),
        bad_byte("photos", "name", "id = 1"), bad_byte("settings", "value", "key = 'kept_for_a_test'"),
        bad_byte("builds", "name", "id = 2"),
    )  # fmt: skip
    workshop = open_workshop(path)
    assert len(workshop.builds()) == builds - 1
    assert [one.id for one in workshop.locked] == [2]
    assert len(workshop.items()) == parts - 1
    assert "sheet.txt" not in [one.name for one in workshop.papers()]
    assert len(workshop.papers()) == papers - 1
    assert [one.name for one in workshop.photos(1)] == ["two.png"]
    assert photos == 2
    assert workshop.setting("kept_for_a_test") is None
    said = " ".join(workshop.notices)
    for words in ("Part 3 on the shelf", "(sheet.txt)", "Photo 1", "'kept_for_a_test' is not as it was written"):
        assert words in said
    said.encode("utf-8")
    # What is damaged can be set anew.
    workshop.set_setting("kept_for_a_test", {"volts": 8})
    assert workshop.setting("kept_for_a_test") == {"volts": 8}
    workshop.close()
    open_workshop(path).close()


@pytest.mark.parametrize(
    ("table", "words"),
    [("builds", "build"), ("versions", "version of a build"), ("parts", "part on the shelf"), ("papers", "paper"),
     ("photos", "photo"), ("captures", "capture"), ("settings", "setting")],
)  # fmt: skip
def test_a_row_that_is_gone_is_noticed_whichever_it_was(path: Path, table: str, words: str) -> None:
    keys = {"settings": "key = 'kept_for_a_test'"}
    alter(path, f"DELETE FROM {table} WHERE {keys.get(table, f'id = (SELECT max(id) FROM {table})')}")
    with pytest.raises(DamagedWorkshopError, match=f"1 {words} is missing"):
        open_workshop(path)
    saved = salvage(path, path.with_name("saved.plinth"))
    assert any(f"1 {words} is missing" in one for one in saved.lost)


def test_all_builds_gone_do_not_leave_their_diary_to_a_new_one(path: Path) -> None:
    alter(path, "DELETE FROM builds")
    with pytest.raises(DamagedWorkshopError, match="builds are missing"):
        open_workshop(path)


@pytest.mark.parametrize("table", ["parts", "papers", "photos", "captures", "builds"])
def test_a_row_under_another_number_is_noticed_and_saved_all_the_same(path: Path, table: str) -> None:
    sound = open_workshop(path)
    parts = len(sound.items())
    sound.close()
    alter(path, f"UPDATE {table} SET id = {2**52 + 3} WHERE id = 1")
    with pytest.raises(DamagedWorkshopError, match="the number of one of its"):
        open_workshop(path)
    saved = salvage(path, path.with_name("saved.plinth"))
    again = open_workshop(saved.path)
    assert len(again.items()) == parts
    again.close()


@pytest.mark.parametrize(
    "change",
    ["INSERT INTO parts SELECT id + 100000, kind, document, stock, seal FROM parts WHERE id = 2",
     "DELETE FROM settings WHERE key = 'rows'", "UPDATE settings SET value = '{' WHERE key = 'rows'"],
)  # fmt: skip
def test_a_row_that_nobody_wrote_and_a_count_that_is_lost_are_noticed(path: Path, change: str) -> None:
    alter(path, change)
    with pytest.raises(DamagedWorkshopError):
        open_workshop(path)


def test_counts_follow_whatever_is_kept_changed_and_taken_away(path: Path) -> None:
    workshop = open_workshop(path)
    item = workshop.items()[0]
    added = workshop.add_items([(item.part, item.stock)] * 3)
    workshop.remove_items([added[0].number, added[2].number, 10**9])
    workshop.change_item(added[1])
    paper = workshop.add_paper(added[1].number, "x.txt", b"x")
    workshop.note_paper(paper.number, "seen")
    workshop.remove_paper(paper.number)
    photo = workshop.add_photo(1, "note", now(), "x.png", b"x", b"y")
    workshop.change_photo(photo.number, "words", ())
    workshop.remove_photo(photo.number)
    capture = workshop.add_capture(1, "note", now(), "x.wav", b"x", CAPTURED)
    workshop.change_capture(capture.number, "test/left/gain", "words")
    workshop.remove_capture(capture.number)
    workshop.set_setting("kept_for_a_test", {"volts": 7})
    workshop.keep_entry(1, NOTE)
    stored = workshop.builds()[0]
    workshop.save_build(stored, "changed")
    workshop.close()
    again = open_workshop(path)
    assert again.notices == []
    again.close()


@pytest.mark.parametrize("how", ["other workshop", "rubbish", "older copy"])
def test_a_file_overwritten_in_place_is_noticed_before_the_next_word_kept(path: Path, tmp_path: Path, how: str) -> None:
    workshop = open_workshop(path)
    older = path.read_bytes()
    workshop.keep_entry(1, NOTE)
    other = demo_copy(tmp_path / "other")
    other.close()
    content = {"other workshop": other.path.read_bytes(), "rubbish": os.urandom(len(older)), "older copy": older}[how]
    with path.open("r+b") as file:
        file.truncate(0)
        file.write(content)
    with pytest.raises(NotKeptError, match="was overwritten by another program"):
        workshop.keep_entry(1, NOTE)
    assert path.read_bytes() == content, "nothing was written into what is not this workshop"
    workshop.close()


def test_a_file_that_was_only_touched_goes_on(path: Path) -> None:
    workshop = open_workshop(path)
    os.utime(path, (1.0, 1.0))
    workshop.keep_entry(1, NOTE)
    os.utime(path, (2.0, 2.0))
    workshop.keep_entry(1, NOTE)
    workshop.close()


# Cells that Plinth never writes so, each with seals that fit.
WRONG = {
    "a build's name that is no text": "UPDATE builds SET name = x'00ff' WHERE id = 1",
    "a build that is a list": "UPDATE builds SET document = '[]' WHERE id = 1",
    "a build without its supply": 'UPDATE builds SET document = \'{"name": "x"}\' WHERE id = 1',
    "a situation of words": "UPDATE builds SET situation = '\"loud\"' WHERE id = 1",
    "a build made at no time": "UPDATE builds SET created_at = 'yesterday' WHERE id = 1",
    "a line at no time": "UPDATE entries SET at = 'soon' WHERE id = 3",
    "a line whose conditions are none": "UPDATE entries SET conditions = 'warm' WHERE id = 3",
    "a line of a build that is not there": "UPDATE entries SET build_id = 77 WHERE id = 3",
    "a line of no kind": "UPDATE entries SET kind = 'sung' WHERE id = 3",
    "a line about nothing": "UPDATE entries SET subject = '' WHERE id = 3",
    "a reading of words": "UPDATE readings SET value = 'much' WHERE id = 1",
    "a reading in no state": "UPDATE readings SET state = 'purple' WHERE id = 1",
    "a reading bound nowhere": "UPDATE readings SET bound = 'sideways' WHERE id = 1",
    "a reading taken at no time": "UPDATE readings SET taken_at = 7 WHERE id = 1",
    "facts that are none": "UPDATE readings SET facts = '[1' WHERE id = 1",
    "a reading of endless volts": "UPDATE readings SET value = 9e999 WHERE id = 1",
    "a part of no kind": "UPDATE parts SET kind = 'Trombone' WHERE id = 1",
    "a stock that is a number": "UPDATE parts SET stock = '3' WHERE id = 1",
    "a photo of no moment": "UPDATE photos SET at = 'noon' WHERE id = 1",
    "marks that are none": "UPDATE photos SET marks = '{' WHERE id = 1",
    "a capture of no moment": "UPDATE captures SET at = 'noon' WHERE id = 1",
    "facts of a capture that are none": "UPDATE captures SET facts = '[]' WHERE id = 1",
    "a capture from nowhere": "UPDATE captures SET facts = replace(facts, '\"file\"', '\"air\"') WHERE id = 1",
    "a paper's words as a number": "UPDATE papers SET words = 3 WHERE id = 1",
    "a version that is a list": "UPDATE versions SET document = '[]' WHERE id = 1",
    "instruments that are none": "INSERT OR REPLACE INTO settings VALUES ('bench', '{\"scope\": 3}', '')",
    "reminders that are none": "INSERT OR REPLACE INTO settings VALUES ('reminders', '{\"due\": 3}', '')",
    "loads driven for ever": "INSERT OR REPLACE INTO settings VALUES ('loads_driven', '{\"driven\": [1]}', '')",
    "schools of numbers": "INSERT OR REPLACE INTO settings VALUES ('schools', '{\"1\": [3]}', '')",
    "the window on a build of words": "INSERT OR REPLACE INTO settings VALUES ('desk', '{\"build\": \"x\"}', '')",
    "variants of nothing": "INSERT OR REPLACE INTO settings VALUES ('variants', '{\"1\": \"x\"}', '')",
    "at hand a list": "INSERT OR REPLACE INTO settings VALUES ('at_hand', '{\"1\": [2]}', '')",
}


@pytest.mark.parametrize("cell", in_turn(WRONG, 2))
def test_a_wrong_cell_that_is_sealed_is_a_sentence_or_left_out(path: Path, cell: str) -> None:
    alter(path, WRONG[cell])
    reseal(path)
    said: list[str] = []
    try:
        workshop = open_workshop(path)
    except WorkshopError as error:
        said.append(str(error))
    else:
        for one in workshop.builds():
            for read in (workshop.diary, workshop.records, workshop.latest_records, workshop.photos, workshop.captures,
                         workshop.versions):  # fmt: skip
                try:
                    read(one.id)
                except DamagedWorkshopError as error:
                    said.append(str(error))
        workshop.items()
        workshop.papers()
        workshop.bench()
        for key in ("reminders", "loads_driven", "schools", "desk", "variants", "at_hand"):
            workshop.setting(key)
        workshop.close()
    for sentence in said:
        assert "cannot be understood" in sentence or "damaged" in sentence
        assert sentence.endswith(".")


def test_a_file_that_another_program_holds_is_told_at_once(path: Path) -> None:
    workshop = open_workshop(path)
    other = sqlite3.connect(path)
    other.execute("BEGIN EXCLUSIVE")
    with pytest.raises(NotKeptError, match="Another program holds the file"):
        workshop.keep_entry(1, NOTE)
    other.rollback()
    other.close()
    workshop.keep_entry(1, NOTE)
    workshop.close()


def test_where_room_is_missing_is_said_with_how_much(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path.with_name(path.name + "-journal").write_bytes(b"left by a kill")

    class Usage:
        free = 3 * 2**20

    monkeypatch.setattr(shutil, "disk_usage", lambda _folder: Usage)
    if path.stat().st_size < Usage.free:
        Usage.free = 1000
    with pytest.raises(OutOfReachError, match=r"needs \d+ MB in .*are free.*TMPDIR"):
        open_workshop(path)
