"""Papers of parts in the file: kept, found again, told when they are not as written, saved from a damaged file."""

import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.demo import shelf
from plinth.demo.builds import REHEARSAL_ROOM
from plinth.shelf.papers import readable_words, size_words
from plinth.workshop.salvage import salvage
from plinth.workshop.store import Workshop, create_workshop, open_workshop

FILES = Path(__file__).parent / "files"
SHEET = b"Ring 225: wound in Little Harbour, regulation as measured at the bench."


def fill(workshop: Workshop) -> None:
    workshop.add_build(REHEARSAL_ROOM, Situation(), "begun")
    items = workshop.add_parts([shelf.RING_160, shelf.RING_225])
    workshop.add_paper(items[1].number, "sheet.txt", SHEET, readable_words(SHEET), "from the box")
    workshop.add_paper(items[1].number, "photo.png", b"\x89PNG\x00" + bytes(range(256)))


@pytest.fixture
def workshop(tmp_path: Path) -> Iterator[Workshop]:
    made = create_workshop(tmp_path / "own.plinth", fill)
    yield made
    made.close()


def test_papers_are_there_after_a_reopening(workshop: Workshop) -> None:
    path = workshop.path
    workshop.close()
    again = open_workshop(path)
    sheet, photo = again.papers()
    assert (sheet.name, sheet.note, sheet.size) == ("sheet.txt", "from the box", len(SHEET))
    assert "Little Harbour" in sheet.words
    assert photo.words == ""
    assert again.paper_content(sheet.number) == SHEET
    again.note_paper(photo.number, "the pads")
    again.remove_paper(sheet.number)
    again.word_paper(photo.number, "read later")
    again.word_paper(sheet.number, "gone by now")
    assert [(one.name, one.note, one.words) for one in again.papers()] == [("photo.png", "the pads", "read later")]
    assert again.paper_content(sheet.number) is None
    again.close()


@pytest.mark.parametrize(
    ("change", "left", "whole"),
    [
        ("UPDATE papers SET note = 'another' WHERE name = 'sheet.txt'", ["photo.png"], True),
        ("UPDATE papers SET content = x'00' WHERE name = 'sheet.txt'", ["sheet.txt", "photo.png"], False),
    ],
)
def test_one_that_is_not_as_written_is_told(workshop: Workshop, change: str, left: list[str], whole: bool) -> None:
    path = workshop.path
    number = workshop.papers()[0].number
    workshop.close()
    with sqlite3.connect(path) as connection:
        connection.execute(change)
    connection.close()
    again = open_workshop(path)
    assert [one.name for one in again.papers()] == left
    if not whole:
        assert again.paper_content(number) is None
    assert any("not as it was written" in one for one in again.notices)
    again.close()


def test_whole_papers_are_saved_from_a_damaged_file_with_their_part(workshop: Workshop, tmp_path: Path) -> None:
    path = workshop.path
    workshop.close()
    with sqlite3.connect(path) as connection:
        connection.execute("DELETE FROM parts WHERE id = 1")
        connection.execute("UPDATE papers SET content = x'00' WHERE name = 'photo.png'")
        connection.execute("DROP INDEX entries_by_build")
    connection.close()
    saved = salvage(path, tmp_path / "saved.plinth")
    assert any("photo.png" in one for one in saved.lost)
    again = open_workshop(saved.path)
    (paper,) = again.papers()
    part = next(item for item in again.items() if item.number == paper.part)
    assert part.part == shelf.RING_225
    assert again.paper_content(paper.number) == SHEET
    again.close()


def test_a_file_of_the_version_before_gains_room_for_papers(tmp_path: Path) -> None:
    path = tmp_path / "demo.plinth"
    path.write_bytes((FILES / "demo-3.plinth").read_bytes())
    with sqlite3.connect(path) as connection:
        lines = connection.execute("SELECT build_id, kind, subject, words FROM entries ORDER BY id").fetchall()
        values = connection.execute("SELECT typed, value, u, unit FROM readings ORDER BY id").fetchall()
        versions = connection.execute("SELECT build_id, entry_id FROM versions ORDER BY id").fetchall()
    connection.close()
    workshop = open_workshop(path)
    found = sorted((n, one.id, e) for one in workshop.builds() for n, e in workshop.numbered(one.id))
    assert [(build, e.kind, e.subject, e.words) for _, build, e in found] == lines
    readings = [e.reading for _, _, e in found if e.reading]
    assert [(r.typed, r.value, r.u, r.unit) for r in readings] == values
    assert sum(bool(r.facts) for r in readings) > 20
    assert sum(len(workshop.versions(one.id)) for one in workshop.builds()) == len(versions)
    assert workshop.papers() == []
    item = workshop.items()[0]
    workshop.add_paper(item.number, "sheet.txt", SHEET)
    workshop.close()
    again = open_workshop(path)
    assert [one.part for one in again.papers()] == [item.number]
    again.close()


def test_words_are_those_of_texts() -> None:
    assert readable_words("Ring 225 für den Wolf\n".encode()) == "Ring 225 für den Wolf"
    assert readable_words("Öse".encode("latin-1")) == "Öse"
    assert readable_words(b"%PDF-1.4 words") == ""
    assert readable_words(b"\x89PNG\r\n\x1a\n\x00\x00") == ""
    assert readable_words(bytes(range(1, 32)) * 20) == ""
    assert [size_words(n) for n in (40, 40_000, 1_200_000)] == ["0.1 kB", "40 kB", "1.2 MB"]
