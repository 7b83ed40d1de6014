"""Cells, rows and counts of a workshop altered by another hand, sealed anew or not; then a real start on it."""

import random
import shutil
import sqlite3
import tempfile
from pathlib import Path

from PySide6.QtWidgets import QApplication

from plinth.desk.look import load_fonts
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.record.clock import now
from plinth.session.opening import WorkshopError, opened
from plinth.workshop.salvage import salvage
from plinth.workshop.seals import TEXTS
from tests.demo_copy import demo_copy
from tests.desk.driver import STAGE_KEYS
from tests.workshop.resealing import reseal

_whole: list[Path] = []
_KEPT = tempfile.TemporaryDirectory(prefix="attack-whole-")
TABLES = (*TEXTS, "entries", "readings")
VALUES = ("''", "NULL", "'{'", "'[]'", "'null'", "3", "-1", "9e999", "x'ff00'", "'purple'", "'2026-13-99'",
          "'{\"x\": NaN}'", f"'{'y' * 5000}'", str(2**62))  # fmt: skip


def attack(folder: Path, seed: int) -> str:
    pick = random.Random(seed)
    QApplication.instance() or QApplication([])
    load_fonts()
    path = Path(shutil.copy(_sound(), folder / "altered.plinth"))
    told = [_alter(path, pick) for _ in range(pick.choice((1, 1, 2, 5)))]
    if pick.random() < 0.6:
        try:
            reseal(path)
            told.append("sealed anew")
        except (ValueError, TypeError, AttributeError, sqlite3.Error):
            told.append("not sealed")
    try:
        workshop = opened(path)
    except WorkshopError as error:
        fell = "" if str(error).endswith(".") else f"{told}: no sentence: {error}"
        return fell or _saved(path, folder, told)
    try:
        window = PlinthWindow(BenchSession(workshop, threaded=False))
    except WorkshopError as error:
        workshop.close()
        return "" if str(error).endswith(".") else f"{told}: no sentence: {error}"
    window.show()
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        QApplication.processEvents()
    window.close_anyway = window.close_without_photos = True
    window.close()
    window.deleteLater()
    QApplication.processEvents()
    return ""


def _sound() -> Path:
    """A whole workshop, made once; its folder goes with this program."""
    if not _whole:
        workshop = demo_copy(Path(_KEPT.name))
        part = workshop.items()[0].number
        workshop.add_paper(part, "sheet.txt", b"ten volts", "ten volts")
        workshop.add_photo(1, "bringup/left/bias", now(), "one.png", b"content", b"scaled")
        workshop.close()
        _whole.append(workshop.path)
    return _whole[0]


def _alter(path: Path, pick: random.Random) -> str:
    """One change: a cell, a row taken away, a row under another number."""
    table = pick.choice(TABLES)
    with sqlite3.connect(path) as connection:
        columns = [row[1] for row in connection.execute(f"PRAGMA table_info({table})")]
        rows = [row[0] for row in connection.execute(f"SELECT rowid FROM {table}")]
        if not rows:
            return "nothing"
        row, column = pick.choice(rows), pick.choice(columns)
        statement = pick.choice((
            f"UPDATE {table} SET {column} = {pick.choice(VALUES)} WHERE rowid = {row}",
            f"UPDATE {table} SET {column} = {pick.choice(VALUES)} WHERE rowid = {row}",
            f"UPDATE {table} SET {column} = CAST(x'ff' || CAST({column} AS BLOB) AS TEXT) WHERE rowid = {row}",
            f"DELETE FROM {table} WHERE rowid = {row}",
            f"UPDATE {table} SET rowid = {pick.choice((2**40, -5, 999))} WHERE rowid = {row}",
        ))  # fmt: skip
        try:
            connection.execute(statement)
        except sqlite3.Error as error:
            statement = f"{statement}: {error}"
    connection.close()
    return statement


def _saved(path: Path, folder: Path, told: list[str]) -> str:
    """What was refused is saved as far as it is whole, or a sentence says why not."""
    try:
        opened(salvage(path, folder / "saved.plinth").path).close()
    except WorkshopError as error:
        return "" if str(error).endswith(".") else f"{told}: no sentence: {error}"
    return ""
