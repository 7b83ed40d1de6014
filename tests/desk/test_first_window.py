"""A second start asks the first one to show its window."""

import os
import subprocess
import sys

import pytest
from pytestqt.qtbot import QtBot

from plinth.desk import first_window
from plinth.desk.first_window import FrontCalls, brought_to_front

FIRST = """
import sys
from PySide6.QtCore import QCoreApplication
from plinth.desk.first_window import FrontCalls
app = QCoreApplication([])
came = []
def come():
    came.append(1)
    print("came", flush=True)
calls = FrontCalls(come)
print("listens", flush=True)
app.exec()
"""


def test_it_is_asked_by_the_number_of_its_process(qtbot: QtBot) -> None:
    with subprocess.Popen([sys.executable, "-c", FIRST], stdout=subprocess.PIPE, text=True) as first:
        try:
            assert first.stdout is not None
            assert first.stdout.readline() == "listens\n"
            for _ in range(2):
                assert brought_to_front(first.pid)
                assert first.stdout.readline() == "came\n"
        finally:
            first.kill()
    assert not brought_to_front(first.pid), "it is gone"


def test_nobody_answers_where_the_system_tells_no_process_or_it_is_no_plinth(qtbot: QtBot) -> None:
    assert not brought_to_front(None)
    assert not brought_to_front(os.getppid())


def test_one_that_hangs_is_not_waited_for(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    came: list[int] = []
    calls = FrontCalls(lambda: came.append(1))
    monkeypatch.setattr(first_window, "ANSWER_MS", 50)
    # This very process cannot answer while it waits: as one whose window is busy.
    assert not brought_to_front(os.getpid())
    assert came == []
    calls.end()
    assert not brought_to_front(os.getpid())
