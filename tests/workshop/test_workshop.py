import datetime as dt
import os
import shutil
import sqlite3
import stat
import subprocess
import sys
from pathlib import Path

import pytest
import sqlalchemy as sa

from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.builds.supply_parts import Transformer
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import SHELF
from plinth.demo.workshop import make_demo
from plinth.judge.state import State
from plinth.record.diary import DiaryEntry
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.reading import Confirmation, Override, Reading, Record
from plinth.workshop.errors import (
    DamagedWorkshopError,
    NewerWorkshopError,
    NotAWorkshopError,
    NotKeptError,
    ReadOnlyWorkshopError,
    WorkshopInUseError,
)
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.schema import SCHEMA_VERSION, Base
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.turns import in_turn
from tests.workshop.writer import reading

ROOT = Path(__file__).parents[2]
AT = dt.datetime(2026, 10, 10, 12, 0, tzinfo=dt.UTC)


@pytest.fixture
def path(tmp_path: Path) -> Path:
    path = tmp_path / "shed.plinth"
    workshop = create_workshop(path)
    workshop.add_build(STAGE_PAIR, Situation(), "made")
    workshop.close()
    return path


def test_everything_kept_comes_back_as_it_was(path: Path) -> None:
    workshop = open_workshop(path)
    stored = workshop.builds()[0]
    kept: list[Record] = [
        reading(1),
        Override("bringup/left/bias", "trimmer glued", AT),
        Confirmation("bringup/left/trimmer", AT),
        Reading(
            "s",
            "l",
            "1",
            1.0,
            "V",
            None,
            "m",
            AT,
            State.OVER,
            None,
            2.0,
            origin=ReadingOrigin(Giver.SIMULATED),
            facts={"form": "pp", "claim_w": 45.0},
            said="z",
        ),
    ]
    for record in kept:
        workshop.keep_record(stored.id, record)
    workshop.keep_entry(stored.id, DiaryEntry(AT, "note", "note", "buzz gone"))
    changed = StoredBuild(stored.id, REHEARSAL_ROOM, Situation(load_ohm=8.0))
    workshop.save_build(changed, "exchanged")
    workshop.add_parts(SHELF)
    workshop.set_setting("desk", {"build": stored.id})
    workshop.close()

    again = open_workshop(path)
    assert again.builds() == [changed]
    assert again.records(stored.id) == kept
    assert [e.kind for e in again.diary(stored.id)] == [
        "made", "reading", "override", "confirmed", "reading", "note", "changed",
    ]  # fmt: skip
    assert again.shelf(Transformer) == [p for p in SHELF if isinstance(p, Transformer)]
    assert again.setting("desk") == {"build": stored.id}
    assert again.setting("none") is None
    assert again.bench().of(Role.METER).accuracy is None
    again.close()


def test_what_is_kept_is_in_the_one_file_and_written_synchronously(path: Path, tmp_path: Path) -> None:
    workshop = open_workshop(path)
    with workshop.engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA journal_mode").scalar() == "delete"
        assert connection.exec_driver_sql("PRAGMA synchronous").scalar() == 3
        assert connection.exec_driver_sql("PRAGMA foreign_keys").scalar() == 1
    workshop.keep_reading(1, reading(7))
    # On a stick, while the window is open: the one file has it all.
    stick = tmp_path / "stick.plinth"
    shutil.copyfile(path, stick)
    copied = open_workshop(stick)
    assert [r.subject for r in copied.records(1)] == ["kill/7"]
    copied.close()
    workshop.close()
    assert sorted(one.name for one in tmp_path.iterdir() if one.is_file()) == ["shed.plinth", "stick.plinth"]
    assert stat.S_IMODE(path.stat().st_mode) == 0o600


def test_migrations_make_just_the_tables_of_the_schema(path: Path) -> None:
    connection = sqlite3.connect(path)
    tables = {r[0] for r in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    assert tables == set(Base.metadata.tables) | {"alembic_version"}
    for name, table in Base.metadata.tables.items():
        columns = {r[1]: bool(r[3]) for r in connection.execute(f"PRAGMA table_info({name})")}
        assert set(columns) == {c.name for c in table.columns}
        for column in table.columns:
            if not column.primary_key:
                assert columns[column.name] != column.nullable
    connection.close()


@pytest.mark.parametrize("kills", in_turn([7, 35], 2))
def test_no_moment_of_any_life_at_which_a_kill_loses_what_was_said_to_be_kept(tmp_path: Path, kills: int) -> None:
    run = subprocess.run(
        [sys.executable, "-m", "tests.workshop.writer", str(tmp_path), str(kills), "11"],
        cwd=ROOT, capture_output=True, text=True, timeout=600, check=False,
    )  # fmt: skip
    assert run.returncode == 0, run.stdout + run.stderr
    assert run.stdout.split() == ["killed", str(kills), "lost", "0"]


def digest(path: Path) -> bytes:
    return path.read_bytes()


def test_a_foreign_file_is_left_as_it_is(tmp_path: Path) -> None:
    for name, content in (("text.plinth", b"hello" * 100), ("empty.plinth", b""), ("short.plinth", b"SQLite")):
        path = tmp_path / name
        path.write_bytes(content)
        with pytest.raises(NotAWorkshopError, match="left as it is"):
            open_workshop(path)
        assert digest(path) == content
    other = tmp_path / "other.db"
    connection = sqlite3.connect(other)
    connection.execute("CREATE TABLE t (x)")
    connection.commit()
    connection.close()
    before = digest(other)
    with pytest.raises(NotAWorkshopError, match="database of another program"):
        open_workshop(other)
    assert digest(other) == before
    with pytest.raises(NotAWorkshopError, match="no file"):
        open_workshop(tmp_path / "none.plinth")
    with pytest.raises(NotAWorkshopError, match="folder"):
        open_workshop(tmp_path)


def test_a_newer_file_is_left_as_it_is(path: Path) -> None:
    connection = sqlite3.connect(path)
    connection.execute(f"PRAGMA user_version = {SCHEMA_VERSION + 1}")
    connection.commit()
    connection.close()
    before = digest(path)
    with pytest.raises(NewerWorkshopError, match="newer Plinth"):
        open_workshop(path)
    assert digest(path) == before


@pytest.mark.parametrize("where", [0.3, 0.6, 0.9])
def test_a_damaged_file_is_left_as_it_is(path: Path, where: float) -> None:
    content = bytearray(path.read_bytes())
    at = max(4096, int(len(content) * where) // 4096 * 4096)
    content[at : at + 4096] = b"\xa5" * 4096
    path.write_bytes(content)
    with pytest.raises(DamagedWorkshopError, match=r"damaged .*left as it is"):
        open_workshop(path)
    assert digest(path) == bytes(content)


def test_a_torn_file_is_called_damaged(path: Path) -> None:
    path.write_bytes(path.read_bytes()[:6000])
    with pytest.raises(DamagedWorkshopError, match="damaged"):
        open_workshop(path)


def test_a_file_that_may_not_be_written_is_left_as_it_is(path: Path) -> None:
    path.chmod(0o444)
    before = digest(path)
    with pytest.raises(ReadOnlyWorkshopError, match=r"may .*not.* written.*Make a copy"):
        open_workshop(path)
    assert digest(path) == before


def test_a_second_window_is_told_and_can_open_it_later(path: Path) -> None:
    first = open_workshop(path)
    with pytest.raises(WorkshopInUseError, match=f"process {os.getpid()}"):
        open_workshop(path)
    first.close()
    open_workshop(path).close()


def keep_many(workshop: Workshop, build_id: int) -> None:
    for number in range(2, 3000):
        workshop.keep_reading(build_id, reading(number))


def test_a_full_disk_says_so_and_keeps_what_was_kept(path: Path) -> None:
    workshop = open_workshop(path)
    build_id = workshop.builds()[0].id
    workshop.keep_reading(build_id, reading(1))
    with workshop.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(NotKeptError, match=r"could not be kept.*full.*still on the screen.*Free some space"):
        keep_many(workshop, build_id)
    with workshop.engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA max_page_count = 100000")
    before = len(workshop.records(build_id))
    workshop.keep_reading(build_id, reading(9999))
    assert len(workshop.records(build_id)) == before + 1
    workshop.close()


def test_a_failed_disk_is_said_in_the_same_way(path: Path) -> None:
    workshop = open_workshop(path)

    def broken(*_args: object) -> None:
        raise sqlite3.OperationalError("disk I/O error")

    sa.event.listen(workshop.engine, "before_cursor_execute", broken)
    with pytest.raises(NotKeptError, match="disk I/O error"):
        workshop.set_setting("a", {})
    sa.event.remove(workshop.engine, "before_cursor_execute", broken)
    workshop.close()


def test_new_workshops_never_overwrite(path: Path) -> None:
    before = digest(path)
    with pytest.raises(FileExistsError, match="choose another name"):
        create_workshop(path)
    assert digest(path) == before


def test_each_demo_is_a_fresh_copy_and_leaves_earlier_ones_alone(tmp_path: Path) -> None:
    first = make_demo(tmp_path)
    first.keep_entry(1, DiaryEntry(AT, "note", "note", "mine"))
    first.close()
    second = make_demo(tmp_path)
    assert second.path != first.path
    assert not any(e.words == "mine" for e in second.diary(1))
    second.close()
    again = open_workshop(first.path)
    assert any(e.words == "mine" for e in again.diary(1))
    again.close()


def test_the_demo_tells_its_story(tmp_path: Path) -> None:
    workshop: Workshop = make_demo(tmp_path)
    stage, *others = workshop.builds()
    assert stage.build.name == "Stage pair"
    names = ["Rehearsal room", "Foyer", "Street box", "Market box", "Stage pair, cooler"]
    assert [one.build.name for one in others] == names
    diary = workshop.diary(stage.id)
    states = [e.reading.state for e in diary if e.reading]
    assert states.count(State.OVER) == 1
    assert not any(e.reading.simulated for e in diary if e.reading)
    assert sum(e.subject.startswith("clip/") for e in diary) == 2
    assert not any("/right/" in e.subject for e in diary)
    assert [e.at for e in diary] == sorted(e.at for e in diary)
    workshop.close()
