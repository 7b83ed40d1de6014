"""The search over 20 000 lines of diary, beside SQLite's own answer to the bare query."""

import datetime as dt
import random

import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from plinth.demo.builds import STAGE_PAIR
from plinth.record.diary import DiaryEntry
from plinth.report.diary_index import DiaryIndex

LINES = 20_000
WORDS = ("bias", "rail", "hum", "storm", "warm", "sink", "fuse", "left", "right", "over", "quiet", "borrowed", "tour")


@pytest.fixture(scope="module")
def index() -> DiaryIndex:
    pick, at = random.Random(4), dt.datetime(2026, 1, 1, tzinfo=dt.UTC)
    lines = [
        DiaryEntry(at + dt.timedelta(minutes=k), "note", "note", " ".join(pick.choices(WORDS, k=12)) + f" {k}")
        for k in range(LINES)
    ]
    made = DiaryIndex()
    made.add(1, STAGE_PAIR, 0, lines)
    return made


@pytest.mark.parametrize("text", ["storm", "bias warm 2026-01-07", "15321", "bor"])
def test_search(benchmark: BenchmarkFixture, index: DiaryIndex, text: str) -> None:
    hits = benchmark(index.find, text)
    assert hits
