"""What a picture of the live page and of the live spectrum costs the window: ten a second leave its thread mostly free.

Both read the simulated bench meanwhile; a picture under 40 ms leaves the thread free for 60 % of its time.
"""

import itertools
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from pytest_benchmark.fixture import BenchmarkFixture
from pytestqt.qtbot import QtBot
from tests.demo_copy import demo_copy

from plinth.desk import window as windows
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow


@pytest.fixture
def at_bench(qtbot: QtBot, tmp_path: Path) -> Iterator[PlinthWindow]:
    windows.hold(PlinthWindow(BenchSession(demo_copy(tmp_path))))
    begun = windows.held()
    assert begun is not None
    begun.show()
    begun.instrument_actions.try_simulated()
    window = windows.held()
    assert window is not None
    qtbot.waitUntil(lambda: window.session.instruments.connected, timeout=60_000)
    yield window
    window.close_anyway = window.close_without_photos = True
    window.close()
    windows.let_go()
    window.deleteLater()


def test_alone_picture_of_the_live_page(benchmark: BenchmarkFixture, at_bench: PlinthWindow, qtbot: QtBot) -> None:
    at_bench.instrument_actions.show_live()
    page = at_bench.instrument_actions.live
    qtbot.waitUntil(lambda: all(len(page.reader.course(value.title)) > 20 for value in page.reader.values))

    def picture() -> None:
        page.refresh()
        page.repaint()

    benchmark.pedantic(picture, rounds=40)  # type: ignore[no-untyped-call]
    page.close()


def test_alone_picture_of_the_live_spectrum(benchmark: BenchmarkFixture, at_bench: PlinthWindow, qtbot: QtBot) -> None:
    at_bench.instrument_actions.show_spectrum()
    page = at_bench.instrument_actions.spectrum
    qtbot.waitUntil(lambda: page.frame is not None and page.plot.is_drawn)

    def picture() -> None:
        page.refresh()
        page.plot.repaint()

    def another() -> None:
        count = page.frame.number if page.frame else 0
        for _ in itertools.takewhile(lambda _: page.frame is None or page.frame.number == count, range(400)):
            time.sleep(0.01)

    benchmark.pedantic(picture, setup=another, rounds=40)  # type: ignore[no-untyped-call]
    page.close()
