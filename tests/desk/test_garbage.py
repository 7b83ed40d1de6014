"""Garbage is looked for between events, on the thread of the window, and not while Qt is in the middle of something."""

import gc
import threading
import weakref
from collections.abc import Iterator

import pytest
from PySide6.QtCore import QObject
from pytestqt.qtbot import QtBot

from plinth.desk.garbage import GarbageBetweenEvents, collect_due


class Ring:
    """Something that only a search finds: it holds itself."""

    def __init__(self) -> None:
        self.me = self


@pytest.fixture
def thresholds() -> Iterator[None]:
    before = gc.get_threshold()
    gc.set_threshold(500, 5, 5)
    yield
    gc.set_threshold(*before)
    gc.disable()


def ring() -> "weakref.ref[Ring]":
    return weakref.ref(Ring())


@pytest.mark.usefixtures("thresholds")
def test_nothing_is_looked_for_until_the_events_come_round(qtbot: QtBot) -> None:
    gc.collect()
    garbage = GarbageBetweenEvents(every_ms=5)
    lost = ring()
    kept = [QObject() for _ in range(2000)]
    assert not gc.isenabled()
    assert lost() is not None, "many objects were made, and nobody looked"
    qtbot.waitUntil(lambda: lost() is None, timeout=60_000)
    garbage.end()
    assert gc.isenabled()
    assert len(kept) == 2000


@pytest.mark.usefixtures("thresholds")
def test_a_thread_that_computes_looks_for_none(qtbot: QtBot) -> None:
    gc.collect()
    garbage = GarbageBetweenEvents(every_ms=60_000)
    lost = ring()
    thread = threading.Thread(target=lambda: [Ring() for _ in range(5000)])
    thread.start()
    thread.join()
    assert lost() is not None
    collect_due()
    assert lost() is None
    garbage.end()


@pytest.mark.usefixtures("thresholds")
def test_older_generations_come_round_more_seldom() -> None:
    gc.disable()
    gc.collect()
    seen: list[int] = []

    def note(phase: str, told: dict[str, int]) -> None:
        if phase == "start":
            seen.append(told["generation"])

    gc.callbacks.append(note)
    try:
        for _ in range(60):
            made = [Ring() for _ in range(600)]
            collect_due()
            del made
    finally:
        gc.callbacks.remove(note)
    assert seen.count(0) > seen.count(1) > seen.count(2) > 0
    collect_due()
