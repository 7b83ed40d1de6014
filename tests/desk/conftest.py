"""A window on a fresh demo workshop, with the look put back afterwards."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from pytestqt.qtbot import QtBot

from plinth.desk import window as desk_window
from plinth.desk.look import load_fonts, look
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow, let_go
from plinth.workshop.store import open_workshop
from tests.demo_copy import demo_as_made


@pytest.fixture(scope="session")
def demo_file() -> Path:
    """One demo for all tests, each of which works on its own copy."""
    return demo_as_made()


def as_at_first() -> None:
    """The look of a first start; nobody is told where it is so already."""
    if (look.dark, look.scale) != (False, 1.0):
        look.set(dark=False, scale=1.0)


@pytest.fixture
def session(qtbot: QtBot, tmp_path: Path, demo_file: Path) -> Iterator[BenchSession]:
    load_fonts()
    as_at_first()
    copy = tmp_path / "theatre.plinth"
    shutil.copy(demo_file, copy)
    session = BenchSession(open_workshop(copy), threaded=False)
    yield session
    session.close()
    as_at_first()


@pytest.fixture
def window(qtbot: QtBot, session: BenchSession, monkeypatch: pytest.MonkeyPatch) -> Iterator[PlinthWindow]:
    # Pages that nobody asks for need not be made: one that is asked for is made at once.
    monkeypatch.setattr(desk_window, "AFTER_FIRST_SIGHT_MS", 3_600_000)
    window = PlinthWindow(session)
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    yield window
    window.close()
    let_go()
    # Without an event loop nothing that is "deleted later" ever is, and each look change would restyle it again.
    window.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
