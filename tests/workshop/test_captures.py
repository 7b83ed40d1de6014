"""Captures in the workshop: whole again after reopening, changed, taken out, saved from a damaged file, tidied up."""

import random
import sqlite3
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM
from plinth.record.kept_capture import CaptureFacts, CaptureSource
from plinth.workshop.errors import NotKeptError
from plinth.workshop.kept_chunks import CHUNK_BYTES
from plinth.workshop.salvage import salvage
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.workshop.writer import AT

LARGE = random.Random(9).randbytes(2 * CHUNK_BYTES + 11)
FACTS = CaptureFacts(
    "levels", CaptureSource.INSTRUMENT, seconds=2.5, sample_rate_hz=192e3, channels=("drive", "out"),
    stated={"load_ohm": 8.06}, figures={"out": {"onset_rms_v": 9.3}}, conditions={"load": "Dummy 8"},
)  # fmt: skip


@pytest.fixture
def workshop(tmp_path: Path) -> Workshop:
    made = create_workshop(tmp_path / "own.plinth")
    made.add_build(REHEARSAL_ROOM, Situation(), "begun")
    return made


def reopened(workshop: Workshop) -> Workshop:
    workshop.close()
    return open_workshop(workshop.path)


def chunks(path: Path) -> int:
    connection = sqlite3.connect(path)
    (count,) = connection.execute("SELECT count(*) FROM chunks").fetchone()
    connection.close()
    return int(count)


def test_a_capture_is_there_again_with_all_that_is_known_of_it(workshop: Workshop) -> None:
    kept = workshop.add_capture(1, "clip/left/one/Dummy 8", AT, "levels.wav", LARGE, FACTS)
    assert kept.size == len(LARGE)
    again = reopened(workshop)
    assert again.captures(1) == [kept]
    assert again.captures(2) == []
    assert again.capture_content(kept.number) == LARGE
    again.change_capture(kept.number, "note", "the second evening")
    (changed,) = reopened(again).captures(1)
    assert (changed.subject, changed.words, changed.title) == ("note", "the second evening", "the second evening")
    assert changed.facts == FACTS


def test_two_files_of_one_name_and_of_one_content_are_two_captures(workshop: Workshop) -> None:
    first = workshop.add_capture(1, "note", AT, "scope.csv", LARGE, FACTS)
    second = workshop.add_capture(1, "note", AT, "scope.csv", LARGE[:-1], FACTS)
    third = workshop.add_capture(1, "note", AT, "scope.csv", LARGE, FACTS)
    assert len({first.number, second.number, third.number}) == 3
    workshop.remove_capture(first.number)
    again = reopened(workshop)
    assert [capture.number for capture in again.captures(1)] == [second.number, third.number]
    assert again.capture_content(second.number) == LARGE[:-1]
    assert again.capture_content(third.number) == LARGE


def test_samples_that_belong_to_nobody_are_tidied_up_and_no_others(workshop: Workshop) -> None:
    owned = workshop.add_capture(1, "note", AT, "levels.wav", LARGE, FACTS)
    workshop.put_aside(LARGE[1:])
    again = reopened(workshop)
    assert chunks(again.path) == 3
    assert again.capture_content(owned.number) == LARGE
    again.remove_capture(owned.number)
    assert chunks(reopened(again).path) == 0


def test_nothing_is_tidied_up_while_a_capture_is_not_as_it_was_written(workshop: Workshop) -> None:
    workshop.add_capture(1, "note", AT, "levels.wav", LARGE, FACTS)
    workshop.close()
    connection = sqlite3.connect(workshop.path)
    with connection:
        connection.execute("UPDATE captures SET digest = '00'")
    connection.close()
    again = open_workshop(workshop.path)
    assert again.captures(1) == []
    assert again.notices == ["Capture 1 (levels.wav) is not as it was written. It is left out and stays in the file."]
    assert chunks(again.path) == 3


def test_what_is_whole_is_saved_and_what_is_not_is_named(workshop: Workshop, tmp_path: Path) -> None:
    workshop.add_capture(1, "note", AT, "levels.wav", LARGE, FACTS, "the first")
    workshop.add_capture(1, "note", AT, "tone.wav", b"samples", FACTS)
    workshop.close()
    connection = sqlite3.connect(workshop.path)
    with connection:
        connection.execute("UPDATE chunks SET content = x'00' WHERE length(content) = 7")
    connection.close()
    saved = salvage(workshop.path, tmp_path / "saved.plinth")
    assert saved.lost == ("capture 2 (tone.wav): its samples are not as they were written",)
    other = open_workshop(saved.path)
    (capture,) = other.captures(1)
    assert (capture.title, capture.facts, other.capture_content(capture.number)) == ("the first", FACTS, LARGE)
    assert open_workshop(workshop.path).capture_content(2) is None


def test_figures_that_are_no_numbers_are_not_kept(workshop: Workshop) -> None:
    endless = CaptureFacts("tone", CaptureSource.FILE, float("inf"), 96e3, ("ch1",))
    with pytest.raises(ValueError, match="JSON"):
        workshop.add_capture(1, "note", AT, "tone.wav", b"samples", endless)
    assert workshop.captures(1) == []


def test_a_workshop_that_is_gone_is_said_of_the_capture(workshop: Workshop) -> None:
    workshop.path.rename(workshop.path.with_name("elsewhere.plinth"))
    with pytest.raises(NotKeptError, match=r"The capture"):
        workshop.add_capture(1, "note", AT, "levels.wav", LARGE, FACTS)
