"""Real starts on workshops whose cells another hand altered and sealed: a window, or a sentence, and no traceback."""

import shutil
from pathlib import Path

import pytest
from PySide6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from plinth.desk import app, opening
from plinth.desk.opening import CannotOpen
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.opening import DamagedWorkshopError, Workshop, WorkshopError, opened
from tests.demo_copy import demo_copy
from tests.desk.driver import STAGE_KEYS
from tests.turns import in_turn
from tests.workshop.resealing import reseal
from tests.workshop.test_altered import WRONG, alter, whole

__all__ = ["whole"]


@pytest.mark.parametrize("cell", in_turn(WRONG, 12))
def test_a_window_stands_or_a_sentence_does(whole: Path, tmp_path: Path, qtbot: QtBot, cell: str) -> None:
    path = Path(shutil.copy(whole, tmp_path / "shed.plinth"))
    alter(path, WRONG[cell])
    reseal(path)
    try:
        workshop = opened(path)
    except WorkshopError as error:
        told = str(error)
    else:
        told = ""
        try:
            window = PlinthWindow(BenchSession(workshop, threaded=False))
        except WorkshopError as error:
            told = str(error)
            workshop.close()
        else:
            qtbot.addWidget(window)
            window.show()
            for stage in STAGE_KEYS:
                window.show_stage(stage)
            window.close()
    assert told == "" or told.endswith(".")


def test_a_start_on_what_cannot_be_understood_asks_for_another_workshop(
    whole: Path, tmp_path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = Path(shutil.copy(whole, tmp_path / "shed.plinth"))
    asked: list[CannotOpen] = []

    def answer(dialog: CannotOpen) -> None:
        asked.append(dialog)
        dialog.choice = "demo"

    def session_of(workshop: Workshop) -> BenchSession:
        if workshop.path == path:
            raise DamagedWorkshopError(path, ["what is kept in it cannot be understood: a trombone"])
        return BenchSession(workshop, threaded=False)

    monkeypatch.setattr(opening, "ask", answer)
    monkeypatch.setattr(opening, "demo_workshop", lambda: demo_copy(tmp_path / "demo"))
    monkeypatch.setattr(app, "BenchSession", session_of)
    window = app.window_of(opening.open_or_ask(path))
    assert window is not None
    qtbot.addWidget(window)
    assert len(asked) == 1
    assert any("a trombone" in one.text() for one in asked[0].findChildren(QLabel))
    assert "save" in asked[0].buttons
    assert window.session.workshop.path.parent == tmp_path / "demo"
    window.close()
    # What was refused is let go: it can be opened again.
    opened(path).close()


def test_a_diary_that_cannot_be_read_counts_for_nothing_and_is_said(whole: Path, tmp_path: Path, qtbot: QtBot) -> None:
    path = Path(shutil.copy(whole, tmp_path / "shed.plinth"))
    alter(path, "UPDATE readings SET state = 'purple'")
    reseal(path)
    window = PlinthWindow(BenchSession(opened(path), threaded=False))
    qtbot.addWidget(window)
    window.show()
    assert window.session.records.diary_size == (0, 0)
    assert any("cannot be understood: 'purple'" in one.text() for one in window.findChildren(QLabel))
    window.close()
