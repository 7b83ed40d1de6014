"""A large file opens without its pictures having been looked at; they are looked at behind, and damage is told."""

import random
import sqlite3
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.demo import shelf
from plinth.demo.builds import REHEARSAL_ROOM
from plinth.record.kept_capture import CaptureFacts, CaptureSource
from plinth.session.listeners import Telling
from plinth.session.session import Session
from plinth.workshop import checks
from plinth.workshop.contents_check import damaged_contents
from plinth.workshop.errors import DamagedWorkshopError
from plinth.workshop.kept_chunks import CHUNK_BYTES
from plinth.workshop.store import create_workshop, open_workshop
from tests.session.running import AtOnce
from tests.workshop.writer import AT

CAPTURED = CaptureFacts("tone", CaptureSource.FILE, seconds=1.5, sample_rate_hz=96e3, channels=("ch1",))
LARGE = random.Random(6).randbytes(2 * CHUNK_BYTES + 5)
DAMAGE = {
    "UPDATE chunks SET content = zeroblob(5) WHERE place = 2": "photo 1 (large.jpg)",
    "DELETE FROM chunks WHERE place = 0 AND length(content) > 7": "photo 1 (large.jpg)",
    "UPDATE photos SET content = x'00' WHERE id = 2": "photo 2 (small.jpg)",
    "UPDATE photos SET scaled = x'00' WHERE id = 2": "photo 2 (small.jpg)",
    "UPDATE chunks SET content = x'00' WHERE length(content) = 7": "capture 1 (tone.wav)",
    "DELETE FROM chunks WHERE length(content) = 7": "capture 1 (tone.wav)",
    "UPDATE papers SET content = x'00'": "paper 1 (sheet.txt)",
}


@pytest.fixture
def path(tmp_path: Path) -> Path:
    workshop = create_workshop(tmp_path / "own.plinth")
    workshop.add_build(REHEARSAL_ROOM, Situation(), "begun")
    (item,) = workshop.add_parts([shelf.RING_160])
    workshop.add_paper(item.number, "sheet.txt", b"ten volts")
    workshop.add_photo(1, "note", AT, "large.jpg", LARGE, b"scaled")
    workshop.add_photo(1, "note", AT, "small.jpg", b"content", b"scaled")
    workshop.add_capture(1, "note", AT, "tone.wav", b"samples", CAPTURED)
    workshop.close()
    return workshop.path


def altered(path: Path, statement: str) -> None:
    connection = sqlite3.connect(path)
    with connection:
        connection.execute(statement)
    connection.close()


def test_of_a_whole_file_nothing_is_told(path: Path) -> None:
    shares: list[float] = []
    assert damaged_contents(path, shares.append) == []
    assert shares == pytest.approx([0.25, 0.5, 0.75, 1.0])


@pytest.mark.parametrize("statement", DAMAGE)
def test_what_is_not_as_it_was_written_is_told_by_its_name(path: Path, statement: str) -> None:
    altered(path, statement)
    assert damaged_contents(path) == [f"{DAMAGE[statement]} is not as it was written"]


def test_a_file_that_another_holds_is_not_called_damaged(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    holder = sqlite3.connect(path, isolation_level=None)
    opened = sqlite3.connect

    def impatient(*given: object, **more: object) -> sqlite3.Connection:
        connection: sqlite3.Connection = opened(*given, **{**more, "timeout": 0.01})  # type: ignore[call-overload]
        return connection

    def hold(_share: float) -> None:
        # After the first paper: what follows cannot be read now.
        if not holder.in_transaction:
            holder.execute("BEGIN EXCLUSIVE")

    monkeypatch.setattr(sqlite3, "connect", impatient)
    try:
        assert damaged_contents(path, hold) == []
    finally:
        holder.execute("ROLLBACK")
        holder.close()


def test_a_large_file_opens_and_tells_of_its_pictures_afterwards(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert not checks.check_contents(path).unchecked
    monkeypatch.setattr(checks, "LOOKED_AT_WHOLE_BYTES", path.stat().st_size - 1)
    altered(path, "UPDATE photos SET content = x'00' WHERE id = 2")
    workshop = open_workshop(path)
    assert workshop.unchecked
    told: list[str] = []
    session = Session(workshop, AtOnce(), Telling(trouble=told.append))
    assert not workshop.unchecked
    (sentence,) = told
    assert "photo 2 (small.jpg) is not as it was written" in sentence
    assert "save what is whole" in sentence
    assert sentence in session.notices
    session.close()


def test_of_a_large_file_all_but_its_pictures_is_looked_at_before_it_opens(
    path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(checks, "LOOKED_AT_WHOLE_BYTES", path.stat().st_size - 1)
    altered(path, "UPDATE builds SET document = replace(document, 'Rehearsal', 'Recital')")
    workshop = open_workshop(path)
    assert [one.why for one in workshop.locked] or not workshop.builds()
    workshop.close()
    connection = sqlite3.connect(path)
    with connection:
        # An index that does not fit its table is nothing that a seal tells of.
        connection.execute("PRAGMA writable_schema = ON")
        index = "CREATE INDEX entries_by_build ON entries (subject)"
        connection.execute("UPDATE sqlite_master SET sql = ? WHERE name = 'entries_by_build'", (index,))
    connection.close()
    with pytest.raises(DamagedWorkshopError, match="entries_by_build"):
        open_workshop(path)
