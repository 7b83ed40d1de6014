"""The search in the diaries: by word, number, unit, date, outcome and part, whatever is typed."""

import datetime as dt

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.judge.state import State
from plinth.record.diary import DiaryEntry
from plinth.record.reading import Reading
from plinth.report.diary_index import DiaryIndex

AT = dt.datetime(2026, 10, 12, 12, 0, tzinfo=dt.UTC)


def note(words: str, day: int = 0) -> DiaryEntry:
    return DiaryEntry(AT + dt.timedelta(days=day), "note", "note", words)


def read(value: float, unit: str, state: State, label: str, day: int = 0) -> DiaryEntry:
    at = AT + dt.timedelta(days=day)
    reading = Reading(
        "test/left/gain:out_left", label, f"{value} {unit}", value=value, unit=unit, u=0.02, instrument="bench scope",
        taken_at=at, state=state, low=1.0, high=3.0,
    )  # fmt: skip
    return DiaryEntry(at, "reading", reading.subject, label, reading)


@pytest.fixture
def index() -> DiaryIndex:
    made = DiaryIndex()
    made.add(1, STAGE_PAIR, 0, [
        note("Transformer borrowed from the hall"), read(1.94, "V", State.CLEAR, "Left, output", 1),
        read(3.31, "V", State.OVER, "Left, output", 2), note("Hum at the café, 100 Hz", 3),
    ])  # fmt: skip
    made.add(2, REHEARSAL_ROOM, 0, [note("transformers compared", 4), read(33.5, "A", State.CLOSE, "Bias warm", 5)])
    return made


def places(index: DiaryIndex, text: str) -> list[tuple[int, int]]:
    return [(hit.build_id, hit.line) for hit in index.find(text)]


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("transformer", [(2, 0), (1, 0)]), ("TRANSFORMER hall", [(1, 0)]), ("transf", [(2, 0), (1, 0)]),
        ("1.94", [(1, 1)]), ("1.94 V", [(1, 1)]), ("output over", [(1, 2)]), ("over", [(1, 2)]), ("close", [(2, 1)]),
        ("2026-10-14", [(1, 2)]), ("cafe", [(1, 3)]), ("bench scope left", [(2, 1), (1, 2), (1, 1)]),
        ('"borrowed from"', [(1, 0)]), ('"from borrowed"', []), ("reading", [(2, 1), (1, 2), (1, 1)]),
        ("nothing like it", []), ("", []), ("  ", []), ('"', []), ("* OR -", []), ("A", [(2, 1)]),
        ("rehearsal transformers", [(2, 0)]),
    ],
)  # fmt: skip
def test_every_word_counts_and_the_newest_comes_first(
    index: DiaryIndex, text: str, expected: list[tuple[int, int]]
) -> None:
    assert places(index, text) == expected


def test_it_grows_and_forgets(index: DiaryIndex) -> None:
    index.add(1, STAGE_PAIR, 4, [note("hall again", 9)])
    assert places(index, "hall") == [(1, 4), (1, 0)]
    index.forget(1)
    assert places(index, "hall") == []
    assert places(index, "transformer") == [(2, 0)]
    assert len(index.find("transformers", 0)) == 0


@settings(max_examples=150, deadline=None)
@given(st.text(max_size=40))
def test_whatever_is_typed_is_no_command_and_never_falls(text: str) -> None:
    made = DiaryIndex()
    made.add(1, STAGE_PAIR, 0, [note("one line")])
    made.find(text)
