"""Files written for people: never over a workshop, never over what is read-only, nothing left behind."""

import os
import sqlite3
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from plinth.report.file_out import write_whole
from plinth.session.beginning import begin_workshop
from plinth.workshop.store import open_workshop


@pytest.fixture
def workshop_path(tmp_path: Path) -> Path:
    path = tmp_path / "mine.plinth"
    begin_workshop(path).close()
    return path


def test_a_workshop_is_never_replaced_whatever_it_is_called(tmp_path: Path, workshop_path: Path) -> None:
    before = workshop_path.read_bytes()
    plain, link, hard = tmp_path / "table.csv", tmp_path / "page.html", tmp_path / "bill.csv"
    link.symlink_to(workshop_path)
    os.link(workshop_path, hard)
    other_name = tmp_path / "copied.csv"
    other_name.write_bytes(before)
    for target in (workshop_path, link, hard, other_name, tmp_path / "." / "mine.plinth"):
        with pytest.raises(OSError, match=r"workshop"):
            write_whole(target, "watts over volts")
        assert target.read_bytes() == before
    write_whole(plain, "watts over volts")
    write_whole(plain, "once more")
    assert plain.read_text(encoding="utf-8") == "once more"
    open_workshop(workshop_path).close()


@pytest.mark.parametrize(
    "name", ["new.plinth", "NEW.PLINTH", "mine.plinth-journal", "mine.plinth-wal", "mine.plinth-shm"]
)
def test_names_of_workshops_are_not_taken_by_exports(tmp_path: Path, name: str) -> None:
    with pytest.raises(OSError, match="belongs to a workshop"):
        write_whole(tmp_path / name, "page")
    assert not (tmp_path / name).exists()
    write_whole(tmp_path / "mine.plinth.html", "page")
    assert (tmp_path / "mine.plinth.html").exists()


def test_an_open_workshop_is_not_replaced_and_goes_on(workshop_path: Path) -> None:
    workshop = open_workshop(workshop_path)
    try:
        with pytest.raises(OSError, match="workshop"):
            write_whole(workshop_path, "page")
        workshop.set_setting("school_of", {"1": "series_lamp"})
        assert workshop.setting("school_of") == {"1": "series_lamp"}
    finally:
        workshop.close()


def test_another_database_is_not_replaced(tmp_path: Path) -> None:
    path = tmp_path / "somebody.db"
    connection = sqlite3.connect(path)
    connection.execute("CREATE TABLE notes (text)")
    connection.commit()
    connection.close()
    with pytest.raises(OSError, match="database"):
        write_whole(path, "page")


def test_a_read_only_file_is_not_replaced(tmp_path: Path) -> None:
    path = tmp_path / "kept.csv"
    path.write_text("mine", encoding="utf-8")
    path.chmod(0o444)
    with pytest.raises(PermissionError, match="read-only"):
        write_whole(path, "yours")
    assert path.read_text(encoding="utf-8") == "mine"


def test_exports_are_for_their_owner_and_keep_the_rights_that_they_had(tmp_path: Path) -> None:
    path = tmp_path / "report.html"
    write_whole(path, "page")
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    path.chmod(0o640)
    write_whole(path, "page")
    assert stat.S_IMODE(path.stat().st_mode) == 0o640


def test_what_a_killed_writer_left_is_taken_away_later(tmp_path: Path) -> None:
    gone = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, check=True)
    number = int(gone.stdout)
    old, young, alive = (tmp_path / name for name in (
        f".plinth-{number}-old.part", f".plinth-{number}-young.part", f".plinth-{os.getpid()}-alive.part",
    ))  # fmt: skip
    somebody = tmp_path / ".download.part"
    for one in (old, young, alive, somebody):
        one.write_text("half", encoding="utf-8")
    for one in (old, alive, somebody):
        os.utime(one, (1e9, 1e9))
    write_whole(tmp_path / "page.html", "page")
    assert sorted(one.name for one in tmp_path.iterdir() if one.is_file()) == sorted(
        [young.name, alive.name, somebody.name, "page.html"]
    )
