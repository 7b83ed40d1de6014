"""Large contents in chunks: kept from another thread, known by their digest, gone when nobody owns them."""

import random
import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM
from plinth.workshop.errors import NotKeptError
from plinth.workshop.kept_chunks import CHUNK_BYTES, digest_of
from plinth.workshop.salvage import salvage
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.workshop.writer import AT, reading

LARGE = random.Random(5).randbytes(3 * CHUNK_BYTES + 17)
SCALED = b"scaled" * 50


@pytest.fixture
def workshop(tmp_path: Path) -> Iterator[Workshop]:
    made = create_workshop(tmp_path / "own.plinth")
    made.add_build(REHEARSAL_ROOM, Situation(), "begun")
    yield made
    made.close()


def rows(path: Path) -> list[tuple[int, int]]:
    connection = sqlite3.connect(path)
    try:
        return connection.execute("SELECT place, length(content) FROM chunks ORDER BY digest, place").fetchall()
    finally:
        connection.close()


def altered(path: Path, statement: str) -> None:
    connection = sqlite3.connect(path)
    with connection:
        connection.execute(statement)
    connection.close()


def test_a_large_photo_stands_in_chunks_and_is_there_again_whole(workshop: Workshop) -> None:
    kept = workshop.add_photo(1, "note", AT, "large.jpg", LARGE, SCALED)
    small = workshop.add_photo(1, "note", AT, "small.jpg", LARGE[:CHUNK_BYTES], SCALED)
    assert rows(workshop.path) == [(0, CHUNK_BYTES), (1, CHUNK_BYTES), (2, CHUNK_BYTES), (3, 17)]
    path = workshop.path
    workshop.close()
    again = open_workshop(path)
    assert [one.size for one in again.photos(1)] == [len(LARGE), CHUNK_BYTES]
    assert again.photo_picture(kept.number, whole=True) == LARGE
    assert again.photo_picture(kept.number, whole=False) == SCALED
    assert again.photo_picture(small.number, whole=True) == LARGE[:CHUNK_BYTES]
    assert again.notices == []
    # The same picture once more takes no more room.
    again.add_photo(1, "note", AT, "again.jpg", LARGE, SCALED)
    assert len(rows(path)) == 4
    again.close()


def test_readings_are_kept_while_a_large_content_is_written(workshop: Workshop) -> None:
    shares: list[float] = []
    turn, kept = threading.Event(), threading.Event()

    def go_on(share: float) -> None:
        # After each chunk the window has its turn, in the middle of the content.
        shares.append(share)
        turn.set()
        assert kept.wait(60.0)
        kept.clear()

    failed: list[BaseException] = []

    def write() -> None:
        try:
            workshop.put_aside(LARGE, go_on)
        except BaseException as error:  # noqa: BLE001  # told by the test itself
            failed.append(error)

    writer = threading.Thread(target=write)
    writer.start()
    for number in range(4):
        assert turn.wait(60.0)
        turn.clear()
        workshop.keep_reading(1, reading(number))
        kept.set()
    writer.join()
    assert failed == []
    assert shares == [0.25, 0.5, 0.75, 1.0]
    assert [line.subject for line in workshop.diary(1) if line.reading] == [f"kill/{number}" for number in range(4)]
    photo = workshop.add_photo(1, "note", AT, "large.jpg", LARGE, SCALED)
    assert workshop.photo_picture(photo.number, whole=True) == LARGE


def test_a_file_that_another_holds_keeps_the_writer_waiting_and_not_the_window(workshop: Workshop) -> None:
    holder = sqlite3.connect(workshop.path, isolation_level=None, check_same_thread=False)
    held, failed = threading.Event(), list[BaseException]()

    def hold(_share: float) -> None:
        # Once, after the first chunk: the writer then finds the file held.
        if not held.is_set():
            holder.execute("BEGIN EXCLUSIVE")
            held.set()

    def write() -> None:
        try:
            workshop.put_aside(LARGE, hold)
        except BaseException as error:  # noqa: BLE001  # told by the test itself
            failed.append(error)

    writer = threading.Thread(target=write)
    writer.start()
    assert held.wait(60.0)
    # The window is told at once, again and again; if it waited for the writer, nobody would let the file go.
    for number in range(4):
        with pytest.raises(NotKeptError, match="Another program holds the file"):
            workshop.keep_reading(1, reading(number))
    holder.execute("ROLLBACK")
    holder.close()
    writer.join()
    assert failed == []
    assert len(rows(workshop.path)) == 4
    workshop.keep_reading(1, reading(9))


@pytest.mark.parametrize(
    "damage", ["UPDATE chunks SET content = zeroblob(17) WHERE place = 3", "DELETE FROM chunks WHERE place = 1"]
)
def test_a_damaged_chunk_is_noticed_and_the_rest_saved(workshop: Workshop, tmp_path: Path, damage: str) -> None:
    large = workshop.add_photo(1, "note", AT, "large.jpg", LARGE, SCALED)
    small = workshop.add_photo(1, "note", AT, "small.jpg", b"content", SCALED)
    path = workshop.path
    workshop.close()
    altered(path, damage)
    again = open_workshop(path)
    assert again.photo_picture(large.number, whole=True) is None
    assert again.notices == [f"The picture of photo {large.number} is not as it was written."]
    assert again.photo_picture(large.number, whole=False) == SCALED
    assert again.photo_picture(small.number, whole=True) == b"content"
    again.close()
    saved = salvage(path, tmp_path / "saved.plinth")
    assert any("large.jpg" in one for one in saved.lost)
    other = open_workshop(tmp_path / "saved.plinth")
    assert [one.name for one in other.photos(1)] == ["small.jpg"]
    other.close()


def test_a_whole_large_photo_is_saved_too(workshop: Workshop, tmp_path: Path) -> None:
    workshop.add_photo(1, "note", AT, "large.jpg", LARGE, SCALED)
    workshop.close()
    assert salvage(workshop.path, tmp_path / "saved.plinth").lost == ()
    other = open_workshop(tmp_path / "saved.plinth")
    (photo,) = other.photos(1)
    assert other.photo_picture(photo.number, whole=True) == LARGE
    other.close()


def test_chunks_that_nobody_owns_go_at_the_next_opening_and_no_others(workshop: Workshop) -> None:
    path = workshop.path
    owned = workshop.add_photo(1, "note", AT, "large.jpg", LARGE, SCALED)
    workshop.put_aside(LARGE[::-1])
    assert len(rows(path)) == 8
    workshop.close()
    again = open_workshop(path)
    assert len(rows(path)) == 4
    assert again.photo_picture(owned.number, whole=True) == LARGE
    # Taken off, it can be put back at once; when the workshop is opened again its room is free.
    again.remove_photo(owned.number)
    back = again.add_photo(1, "note", AT, "large.jpg", LARGE, SCALED)
    again.remove_photo(back.number)
    again.close()
    open_workshop(path).close()
    assert rows(path) == []


def test_a_disk_that_takes_nothing_is_no_reason_not_to_open(
    workshop: Workshop, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = workshop.path
    workshop.put_aside(LARGE)
    workshop.close()

    def full(_self: Workshop) -> None:
        raise NotKeptError(path, "the disk is full")

    with monkeypatch.context() as patched:
        patched.setattr(Workshop, "drop_ownerless", full)
        again = open_workshop(path)
        assert len(again.builds()) == 1
        again.close()
    assert len(rows(path)) == 4


def test_nothing_is_taken_away_while_a_photo_is_not_as_it_was_written(workshop: Workshop) -> None:
    workshop.add_photo(1, "note", AT, "large.jpg", LARGE, SCALED)
    path = workshop.path
    workshop.close()
    altered(path, f"UPDATE photos SET digest = '{digest_of(SCALED)} 00'")
    again = open_workshop(path)
    assert again.photos(1) == []
    again.close()
    assert len(rows(path)) == 4, "with the right digest it could be put together again"


def test_a_file_that_is_gone_takes_no_chunk(workshop: Workshop) -> None:
    path = workshop.path
    path.rename(path.with_name("elsewhere.plinth"))
    with pytest.raises(NotKeptError, match="renamed, replaced or deleted"):
        workshop.put_aside(LARGE)
    assert not path.exists()
    assert rows(path.with_name("elsewhere.plinth")) == []
