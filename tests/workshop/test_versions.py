"""A build has versions, and every line of its diary belongs to one."""

import sqlite3
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.builds.stations import with_part
from plinth.demo import shelf
from plinth.demo.builds import FOYER, STAGE_PAIR
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.kept_versions import version_at
from plinth.workshop.lock import WorkshopLock
from plinth.workshop.salvage import salvage
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.workshop.writer import reading


def fill(workshop: Workshop) -> None:
    for build in (STAGE_PAIR, FOYER):
        workshop.add_build(build, Situation(), "made")
    workshop.keep_reading(1, reading(1))
    other = with_part(STAGE_PAIR, "supply.reservoir", shelf.SMALL_4M7_35)
    workshop.save_build(StoredBuild(1, other, Situation()), "exchanged")
    workshop.keep_reading(1, reading(2))
    # A slider is no version, and neither is a change that leaves the build as it was.
    workshop.save_build(StoredBuild(1, other, Situation(level=0.5)))
    workshop.save_build(StoredBuild(1, other, Situation(level=0.5)), "what if")
    workshop.keep_reading(1, reading(3))
    workshop.save_build(StoredBuild(1, STAGE_PAIR, Situation()), "undone")
    workshop.keep_reading(1, reading(4))


@pytest.fixture
def path(tmp_path: Path) -> Path:
    path = tmp_path / "shed.plinth"
    create_workshop(path, fill).close()
    return path


def of_readings(workshop: Workshop) -> list[int]:
    return [entry.version for entry in workshop.diary_by_version(1) if entry.reading is not None]


def test_a_reading_belongs_to_the_version_it_was_taken_on(path: Path) -> None:
    workshop = open_workshop(path)
    assert [one.number for one in workshop.versions(1)] == [1, 2, 3]
    assert of_readings(workshop) == [1, 2, 2, 3]
    first, second, third = (one.build for one in workshop.versions(1))
    assert first == third == STAGE_PAIR
    assert second is not None
    assert second.supply.reservoir == shelf.SMALL_4M7_35
    assert [one.build for one in workshop.versions(2)] == [FOYER]
    # A page of the diary counts as the whole of it does.
    whole = workshop.diary_by_version(1)
    assert workshop.diary_by_version(1, 3, 2) == whole[3:5]
    workshop.close()


def test_what_had_been_exchanged_is_known_of_each_version_and_of_a_damaged_one_not(path: Path) -> None:
    workshop = open_workshop(path)
    marked = STAGE_PAIR.with_mark("module", "fe12")
    workshop.save_build(StoredBuild(1, marked, Situation()), "exchanged")
    assert workshop.fitted_by_version(1) == {1: (), 2: (), 3: (), 4: marked.fitted}
    assert workshop.fitted_by_version(2) == {1: ()}
    workshop.close()
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE versions SET document = replace(document, 'fe12', 'fe13')")
    connection.close()
    workshop = Workshop(path, WorkshopLock(path))
    assert workshop.fitted_by_version(1) == {1: (), 2: (), 3: ()}
    workshop.close()


def test_a_line_older_than_what_was_kept_belongs_to_no_version() -> None:
    assert [version_at([4, 9], line) for line in (1, 3, 4, 8, 9, 30)] == [0, 0, 1, 1, 2, 2]
    assert version_at([], 7) == 0


def test_versions_are_saved_from_a_damaged_file(path: Path, tmp_path: Path) -> None:
    with sqlite3.connect(path) as connection:
        # The line that a version holds from is lost: it then holds from the line before it.
        connection.execute("UPDATE entries SET words = 'x' WHERE words = 'exchanged'")
    connection.close()
    saved = salvage(path, tmp_path / "saved.plinth")
    assert len(saved.lost) == 1
    workshop = open_workshop(saved.path)
    assert [one.build for one in workshop.versions(1)][0::2] == [STAGE_PAIR, STAGE_PAIR]
    assert of_readings(workshop)[1:] == [2, 2, 3]
    workshop.close()


def test_a_version_that_was_altered_is_not_believed(path: Path) -> None:
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE versions SET document = replace(document, 'Stage', 'Stagf') WHERE id = 1")
    connection.close()
    workshop = open_workshop(path)
    assert [one.build is None for one in workshop.versions(1)] == [True, False, False]
    assert of_readings(workshop) == [1, 2, 2, 3]
    workshop.close()
