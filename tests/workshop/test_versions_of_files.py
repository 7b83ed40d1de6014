"""A file of any version of before is brought to this one, whichever it was, with all that is in it."""

import shutil
import sqlite3
from pathlib import Path

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.config import Config

from plinth.workshop.schema import HEAD_REVISION, SCHEMA_VERSION
from plinth.workshop.store import open_workshop

FILES = Path(__file__).parent / "files"


def brought_to(path: Path, version: int) -> None:
    """What Plinth of that version would have made of the file."""
    engine = sa.create_engine(sa.URL.create("sqlite", database=str(path)))
    with engine.begin() as connection:
        config = Config()
        config.set_main_option("script_location", "plinth:workshop/migrations")
        config.set_main_option("path_separator", "os")
        config.attributes["connection"] = connection
        command.upgrade(config, f"{version:04d}")
        connection.exec_driver_sql(f"PRAGMA user_version = {version}")
    engine.dispose()


@pytest.mark.parametrize("version", range(1, SCHEMA_VERSION + 1))
def test_it_opens_with_every_reading(tmp_path: Path, version: int) -> None:
    path = tmp_path / "old.plinth"
    shutil.copy(FILES / "demo-1.plinth", path)
    before = sqlite3.connect(path)
    readings = before.execute("SELECT count(*) FROM readings").fetchone()[0]
    before.close()
    assert readings > 5
    if version > 1:
        brought_to(path, version)
    workshop = open_workshop(path)
    try:
        kept = [line.reading for one in workshop.builds() for line in workshop.diary(one.id) if line.reading]
        assert len(kept) == readings
        workshop.keep_reading(workshop.builds()[0].id, kept[0])
        assert workshop.photos(workshop.builds()[0].id) == []
    finally:
        workshop.close()
    # Once more: it is of this version now, and left as it is.
    after = sqlite3.connect(path)
    assert after.execute("PRAGMA user_version").fetchone() == (SCHEMA_VERSION,)
    assert after.execute("SELECT version_num FROM alembic_version").fetchone() == (HEAD_REVISION,)
    after.close()
    open_workshop(path).close()
