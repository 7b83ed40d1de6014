"""What happens to a workshop outside of Plinth: flipped bits, torn files, names, links, other programs, full disks."""

import os
import random
import shutil
import sqlite3
from pathlib import Path

import pytest

from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.builds.supply_parts import Transformer
from plinth.demo.builds import FOYER, STAGE_PAIR
from plinth.record.clock import now
from plinth.record.diary import DiaryEntry
from plinth.record.reading import Reading
from plinth.report.reading_words import sentence_of
from plinth.session.beginning import complete
from plinth.workshop import seals
from plinth.workshop.errors import (
    DamagedWorkshopError,
    NotAWorkshopError,
    NotKeptError,
    OutOfReachError,
    WorkshopError,
    WorkshopInUseError,
)
from plinth.workshop.salvage import salvage
from plinth.workshop.schema import SCHEMA_VERSION
from plinth.workshop.seals import broken_lines
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.workshop.writer import FILES, reading


def fill(workshop: Workshop) -> None:
    for build in (STAGE_PAIR, FOYER):
        workshop.add_build(build, Situation(), "made")
    for number in range(1, 40):
        workshop.keep_reading(1 + number % 2, reading(number))
    workshop.keep_entry(1, DiaryEntry(now(), "note", "note", "buzz gone"))


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("whole") / "shed.plinth"
    create_workshop(path, fill).close()
    return path


@pytest.fixture
def path(whole: Path, tmp_path: Path) -> Path:
    return Path(shutil.copy(whole, tmp_path / "shed.plinth"))


def contents(path: Path) -> dict[int, tuple[object, list[object]]]:
    workshop = open_workshop(path)
    try:
        return {one.id: (one, list(workshop.diary(one.id))) for one in workshop.builds()}
    finally:
        workshop.close()


def test_seals_are_what_they_always_were() -> None:
    # Kept files rest on these; another interpreter must come to the same.
    facts = (1, 2, "2026-10-10 12:00:00.000000", "note", None, 0.25, -3, b"\xc2\xb5", 2**40)
    assert seals.line_seal(b"", facts) == "f103e01fd3ab3ebde10af569094887d8"
    assert seals.line_seal(b"x", facts) == "980d3c50f94d8303bdb2890958744ec5"
    assert seals.text_seal(("µ", "{}")) == seals.text_seal(("µ".encode(), b"{}"))


def test_a_hundred_single_flipped_bits_change_nothing_unnoticed_and_never_end_in_a_traceback(
    path: Path, whole: Path
) -> None:
    before, content, pick = contents(whole), whole.read_bytes(), random.Random(5)
    for _ in range(100):
        at = pick.randrange(len(content) * 8)
        flipped = bytearray(content)
        flipped[at // 8] ^= 1 << at % 8
        path.write_bytes(flipped)
        try:
            found = contents(path)
        except WorkshopError:
            assert path.read_bytes() == bytes(flipped), "a damaged file is left as it is"
            continue
        # A build may be locked; whatever is shown is as it was written.
        assert all(found[key] == before[key] for key in found), f"bit {at} changed something unnoticed"
        workshop = open_workshop(path)
        assert len(workshop.builds()) + len(workshop.locked) == len(before)
        workshop.close()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ("UPDATE readings SET value = value + 1 WHERE id = 3", "line 5 of the diary"),
        ("UPDATE entries SET words = 'better' WHERE id = 4", "line 4 of the diary"),
        ("UPDATE readings SET giver = 'simulated' WHERE id = 7", "line 9 of the diary"),
        ("DELETE FROM entries WHERE id = 8", "line 9 of the diary"),
        ("DELETE FROM entries WHERE id = (SELECT max(id) FROM entries)", "lines at the end of the diary are missing"),
        ("DELETE FROM settings WHERE key = 'chain'", "the diary's end was altered"),
        ("DROP TABLE parts", "table parts is missing"),
    ],
)
def test_a_line_changed_or_taken_away_behind_its_back_is_noticed(path: Path, change: str, words: str) -> None:
    with sqlite3.connect(path) as connection:
        connection.execute(change)
    connection.close()
    with pytest.raises(DamagedWorkshopError, match=words):
        open_workshop(path)


def test_an_index_that_hides_lines_is_noticed(path: Path) -> None:
    with sqlite3.connect(path) as connection:
        (root,) = connection.execute("SELECT rootpage FROM sqlite_master WHERE name = 'entries_by_build'").fetchone()
    connection.close()
    content = bytearray(path.read_bytes())
    # One key of the index now names another build.
    page = content[(root - 1) * 4096 : root * 4096]
    cell = int.from_bytes(page[8:10], "big")
    assert content[(root - 1) * 4096 + cell + 2] == 9, "the constant 1"
    content[(root - 1) * 4096 + cell + 2] ^= 0x01
    path.write_bytes(content)
    with pytest.raises(DamagedWorkshopError, match=r"damaged \(.*index"):
        open_workshop(path)


def test_what_is_whole_is_saved_as_a_new_file_with_the_list_of_what_is_not(path: Path, tmp_path: Path) -> None:
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE readings SET value = 9e9 WHERE id = 3")
        connection.execute("UPDATE entries SET words = 'better' WHERE id = 20")
        connection.execute("UPDATE builds SET document = '{' WHERE id = 2")
    connection.close()
    before = path.read_bytes()
    saved = salvage(path, tmp_path / "saved.plinth")
    assert path.read_bytes() == before
    assert (saved.builds, len(saved.lost)) == (1, 1 + 1 + 1 + 20)
    assert "line 5 of the diary is not as it was written" in saved.lost
    assert "build 2 (Foyer): its text is not as it was written" in saved.lost
    again = open_workshop(tmp_path / "saved.plinth")
    kept = again.records(1)
    assert saved.lines == len(again.diary(1))
    assert not any(isinstance(r, Reading) and r.value > 1e6 for r in kept)
    assert {r.subject for r in kept} >= {"kill/2", "kill/38"}
    again.close()
    with pytest.raises(FileExistsError):
        salvage(path, tmp_path / "saved.plinth")


def test_pages_that_cannot_be_read_lose_only_what_is_on_them(path: Path, tmp_path: Path) -> None:
    with sqlite3.connect(path) as connection:
        (leaf,) = (
            connection.execute(
                "SELECT pageno FROM dbstat WHERE name = 'readings' AND pagetype = 'leaf' LIMIT 1"
            ).fetchone()
            if _has_dbstat(connection)
            else (None,)
        )
    connection.close()
    if leaf is None:
        pytest.skip("this SQLite tells nothing of its pages")
    content = bytearray(path.read_bytes())
    content[(leaf - 1) * 4096 : leaf * 4096] = b"\xa5" * 4096
    path.write_bytes(content)
    with pytest.raises(DamagedWorkshopError):
        open_workshop(path)
    saved = salvage(path, tmp_path / "saved.plinth")
    assert saved.builds == 2
    assert saved.lines > 0
    assert saved.lost
    open_workshop(tmp_path / "saved.plinth").close()


def _has_dbstat(connection: sqlite3.Connection) -> bool:
    try:
        connection.execute("SELECT count(*) FROM dbstat")
    except sqlite3.Error:
        return False
    return True


@pytest.mark.parametrize("document", ["{", "[" * 5000, "{}", '{"name": "x", "load": 3}', "null", '{"v": NaN}'])
def test_a_broken_build_is_locked_and_the_others_are_not(path: Path, document: str) -> None:
    workshop = open_workshop(path)
    with workshop.engine.begin() as connection:
        name, situation = connection.exec_driver_sql("SELECT name, situation FROM builds WHERE id = 2").one()
        seal = seals.text_seal((name, document, situation))
        connection.exec_driver_sql("UPDATE builds SET document = ?, seal = ? WHERE id = 2", (document, seal))
    workshop.close()
    again = open_workshop(path)
    assert [one.build.name for one in again.builds()] == ["Stage pair"]
    (locked,) = again.locked
    assert (locked.id, locked.name) == (2, "Foyer")
    assert locked.why.startswith("Build 2 (Foyer): ")
    assert "pydantic" not in locked.why
    assert "validation" not in locked.why
    again.close()


def test_a_broken_part_or_setting_is_left_out_and_said(tmp_path: Path) -> None:
    path = tmp_path / "demo.plinth"
    path.write_bytes((FILES / "demo-1.plinth").read_bytes())
    open_workshop(path).close()
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE parts SET document = replace(document, '225', '228') WHERE kind = 'Transformer'")
        connection.execute("UPDATE settings SET value = '7' WHERE key = 'bench'")
    connection.close()
    workshop = open_workshop(path)
    before = len(workshop.shelf(Transformer))
    assert workshop.bench().of(Role.METER).accuracy is None
    assert any("left out" in one for one in workshop.notices)
    assert any("'bench'" in one for one in workshop.notices)
    assert before >= 1
    workshop.close()


# Files of the version before


def test_a_file_of_version_4_gets_its_photos_and_keeps_all_else(tmp_path: Path) -> None:
    path = tmp_path / "demo.plinth"
    path.write_bytes((FILES / "demo-4.plinth").read_bytes())
    with sqlite3.connect(path) as connection:
        lines = connection.execute("SELECT build_id, kind, subject, words FROM entries ORDER BY id").fetchall()
    connection.close()
    workshop = open_workshop(path)
    found = sorted((n, one.id, e) for one in workshop.builds() for n, e in workshop.numbered(one.id))
    assert [(build, e.kind, e.subject, e.words) for _, build, e in found] == lines
    assert all(workshop.photos(one.id) == [] for one in workshop.builds())
    assert workshop.papers()
    workshop.close()
    with sqlite3.connect(path) as connection:
        assert broken_lines(connection, SCHEMA_VERSION) == []
    connection.close()


@pytest.mark.parametrize("version", [1, 2])
def test_a_file_of_a_version_before_keeps_every_line_and_reading(version: int, tmp_path: Path) -> None:
    """Demo workshops as those versions wrote them, with readings of every channel of every build."""
    path = tmp_path / "demo.plinth"
    path.write_bytes((FILES / f"demo-{version}.plinth").read_bytes())
    with sqlite3.connect(path) as connection:
        lines = connection.execute("SELECT build_id, kind, subject, words FROM entries ORDER BY id").fetchall()
        values = connection.execute(
            "SELECT typed, value, u, unit, low, high, state, sentence FROM readings ORDER BY id"
        ).fetchall()
    connection.close()
    assert len(values) > 40
    workshop = open_workshop(path)
    found = sorted((n, one.id, e) for one in workshop.builds() for n, e in workshop.numbered(one.id))
    assert [(n, e.kind, e.subject, e.words) for _, n, e in found] == lines
    readings = [e.reading for _, _, e in found if e.reading]
    assert [(r.typed, r.value, r.u, r.unit, r.low, r.high, str(r.state), r.said) for r in readings] == values
    # What was said then is said still; conditions are there where that version kept them.
    assert [sentence_of(r) for r in readings] == [said for *_, said in values]
    assert all((r.conditions is None) == (version == 1) for r in readings)
    assert all(r.facts == {} for r in readings)
    assert len(workshop.builds()) == 5
    for one in workshop.builds():
        (kept,) = workshop.versions(one.id)
        assert (kept.number, kept.build) == (1, one.build)
        # Every reading is of the state of today: nothing was changed since.
        assert {e.version for e in workshop.diary_by_version(one.id)} == {1}
    workshop.close()
    with sqlite3.connect(path) as connection:
        assert broken_lines(connection, SCHEMA_VERSION) == []
    connection.close()
    open_workshop(path).close()


def test_what_a_file_of_before_holds_is_saved_when_it_is_damaged(tmp_path: Path) -> None:
    for version in (1, 2):
        damaged, to = tmp_path / f"demo-{version}.plinth", tmp_path / f"saved-{version}.plinth"
        damaged.write_bytes((FILES / f"demo-{version}.plinth").read_bytes())
        with sqlite3.connect(damaged) as connection:
            connection.execute("DROP INDEX entries_by_build")
            (count,) = connection.execute("SELECT count(*) FROM entries").fetchone()
        connection.close()
        saved = salvage(damaged, to)
        assert (saved.builds, saved.lines, saved.lost) == (5, count, ())
        workshop = open_workshop(to)
        readings = [r for one in workshop.builds() for r in workshop.records(one.id) if isinstance(r, Reading)]
        assert all(sentence_of(r) for r in readings)
        workshop.close()


def test_a_first_workshop_killed_while_its_pages_were_still_written_ahead_opens(tmp_path: Path) -> None:
    path = tmp_path / "killed.plinth"
    for name in ("killed.plinth", "killed.plinth-wal"):
        (tmp_path / name).write_bytes((FILES / name.replace("killed", "killed-1", 1)).read_bytes())
    workshop = open_workshop(path)
    complete(workshop)
    assert [one.build.name for one in workshop.builds()] == ["First build"]
    workshop.close()
    assert not (tmp_path / "killed.plinth-wal").exists()


def test_a_file_that_was_begun_and_never_filled_is_called_empty(tmp_path: Path) -> None:
    path = tmp_path / "empty.plinth"
    connection = sqlite3.connect(path)
    connection.execute("PRAGMA journal_mode = WAL")
    connection.close()
    with pytest.raises(NotAWorkshopError, match="is empty: nothing was ever kept"):
        open_workshop(path)


# Names, links, other programs


@pytest.mark.parametrize("what", ["renamed", "deleted", "replaced"])
def test_a_file_taken_away_under_the_window_is_noticed_before_the_next_word_kept(
    path: Path, tmp_path: Path, what: str
) -> None:
    workshop = open_workshop(path)
    workshop.keep_reading(1, reading(500))
    moved = tmp_path / "moved.plinth"
    path.rename(moved)
    if what == "replaced":
        shutil.copy(moved, path)
    with pytest.raises(NotKeptError, match=r"renamed, replaced or deleted.*keep it again"):
        workshop.keep_reading(1, reading(501))
    if what == "deleted":
        moved.unlink()
        workshop.close()
        return
    path.unlink(missing_ok=True)
    moved.rename(path)
    workshop.keep_reading(1, reading(501))
    workshop.close()
    assert {"kill/500", "kill/501"} <= {r.subject for r in _records(path)}


def _records(path: Path) -> list[Reading]:
    workshop = open_workshop(path)
    found = [r for r in workshop.records(1) if isinstance(r, Reading)]
    workshop.close()
    return found


def test_one_window_whatever_name_the_file_is_opened_by(path: Path, tmp_path: Path) -> None:
    (tmp_path / "soft.plinth").symlink_to(path)
    (tmp_path / "hard.plinth").hardlink_to(path)
    precious = tmp_path / "precious.txt"
    precious.write_text("do not empty me")
    (tmp_path / "shed.plinth.lock").symlink_to(precious)
    workshop = open_workshop(path)
    for name in ("soft.plinth", "hard.plinth"):
        with pytest.raises(WorkshopInUseError, match="open in another Plinth window"):
            open_workshop(tmp_path / name)
    workshop.close()
    assert precious.read_text() == "do not empty me"
    linked = open_workshop(tmp_path / "soft.plinth")
    assert linked.path == path
    linked.close()


@pytest.mark.parametrize("name", ["50%25 off.plinth", "what?.plinth", "a#b.plinth", "file:x.plinth", "ä ö.plinth"])
def test_names_are_names(tmp_path: Path, name: str) -> None:
    path = tmp_path / name
    create_workshop(path, fill).close()
    assert [one.name for one in tmp_path.iterdir() if one.is_file()] == [name]
    workshop = open_workshop(path)
    workshop.keep_reading(1, reading(77))
    workshop.close()
    assert any(r.subject == "kill/77" for r in _records(path))


def test_pipes_devices_and_impossible_names_are_refused_at_once(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.plinth"
    os.mkfifo(pipe)
    for strange in (pipe, Path("/dev/zero"), Path("/dev/null")):
        with pytest.raises(NotAWorkshopError, match="pipe or a device"):
            open_workshop(strange)
    for name in ("x" * 300, "a\0b"):
        with pytest.raises(WorkshopError):
            open_workshop(tmp_path / name)


def test_a_file_held_by_another_program_is_not_called_damaged(path: Path) -> None:
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    with pytest.raises(OutOfReachError, match="held by another program"):
        open_workshop(path)
    other.execute("ROLLBACK")
    other.close()
    open_workshop(path).close()


def test_a_workshop_that_cannot_be_written_leaves_nothing_behind(tmp_path: Path) -> None:
    def full(_workshop: Workshop) -> None:
        raise NotKeptError(tmp_path, "database or disk is full")

    with pytest.raises(NotKeptError):
        create_workshop(tmp_path / "new.plinth", full)
    assert list(tmp_path.glob("*new*")) == list(tmp_path.glob(".*new*")) == []
    with pytest.raises(OutOfReachError, match="could not be begun"):
        create_workshop(Path("/proc/new.plinth"), fill)
