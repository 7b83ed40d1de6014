"""Tests at the bench run by a script, without a window: order, doubts, stops, refusals, and going on afterwards."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from plinth.bench.clipping import ClipCell
from plinth.bench.every_sheet import SHEETS, SheetKind
from plinth.bench.frequency_response import FREQUENCIES_HZ, REFERENCE_HZ
from plinth.judge.state import State
from plinth.session.procedure.clip_test import ClipListener, ClipProcedure
from plinth.session.procedure.response_test import ResponseListener, ResponseProcedure
from plinth.session.procedure.sheet_test import SheetListener, SheetProcedure
from plinth.session.procedure.taking import Procedure, Taken
from plinth.session.session import Session
from tests.bench.typed_bench import middle, spoken
from tests.demo_copy import demo_copy
from tests.session.running import AtOnce

CHANNEL = "right"


def nobody(*_said: object) -> None:
    return


class Later(AtOnce):
    """Runs jobs only when it is told to, as a busy machine does."""

    def __init__(self) -> None:
        self.waiting: list[Callable[[], None]] = []

    def ask(self, name: str, work: Callable[[Any], object], done: Callable[[object], None], failed: Any = None) -> None:
        self.waiting.append(lambda: AtOnce.ask(self, name, work, done, failed))

    def run(self) -> None:
        while self.waiting:
            self.waiting.pop(0)()


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    made = Session(demo_copy(tmp_path), AtOnce())
    yield made
    made.close()


def clip_test(session: Session, *, typing: bool = False) -> ClipProcedure:
    return ClipProcedure(session, ClipListener(nobody, nobody, nobody, nobody, lambda: typing))


def clip_of(session: Session) -> ClipProcedure:
    test = clip_test(session)
    test.show_channel(CHANNEL)
    return test


def level(cell: ClipCell) -> str:
    """What a scope says where the prediction is right; at a distortion what a meter says."""
    if cell.definition == "onset":
        return f"{2.0 * cell.v_peak.value:.4g}pp"
    return f"{(cell.power.value * cell.load.r_ohm) ** 0.5:.4g} rms"


def test_the_matrix_is_read_cell_by_cell_each_source_and_who_plays_in_turn(session: Session) -> None:
    test = clip_of(session)
    visited = []
    while test.counts()[0] < test.counts()[1]:
        cell = test.cell
        assert cell is not None
        assert test.kept(cell) is None, "what was read is not asked for again"
        assert test.take(level(cell)) is Taken.KEPT
        visited.append((cell.source, cell.driven, cell.load.name))
        kept = test.kept(cell)
        assert kept is not None
        assert kept.value == pytest.approx(cell.power.value, rel=2e-3)
    assert len(visited) == len(set(visited)) == test.counts()[1]
    # Nothing is wired anew before it must be: a source, and who plays in it, is gone through before the next.
    for turns in ([source for source, _, _ in visited], [(source, driven) for source, driven, _ in visited]):
        changes = [here for here, before in zip(turns[1:], turns, strict=False) if here != before]
        assert len(changes) == len(set(turns)) - 1
    assert test.needed(CHANNEL) == (session.build.channels if test.driven == "all" else (CHANNEL,))


def test_a_level_of_two_meanings_is_kept_only_as_it_was_answered(session: Session) -> None:
    test = clip_of(session)
    cell = test.cell
    assert cell is not None
    bare = f"{cell.v_peak.value:.3g}"
    said = test.said(bare)
    assert said.state is State.UNKNOWN
    assert len(said.choices) >= 2
    assert test.take(bare) is Taken.ASKED
    assert test.kept(cell) is None
    place = next(k for k, words in enumerate(said.choices) if words.startswith("peak:"))
    assert test.answer(bare, place) is Taken.KEPT
    kept = test.kept(cell)
    assert kept is not None
    assert kept.value == pytest.approx(cell.v_peak.value**2 / (2.0 * cell.load.r_ohm), rel=5e-3)
    assert test.cell is not cell


def test_what_is_held_back_or_refused_stays_in_hand(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    test = clip_of(session)
    cell, row = test.cell, test.row
    assert cell is not None
    test.blocked = "not brought up"
    assert test.take(level(cell)) is Taken.HELD
    assert test.answer(level(cell), 0) is Taken.HELD
    test.blocked = ""
    assert test.take("twelve") is Taken.NOT_UNDERSTOOD
    assert test.said("twelve").words == "Not understood"
    assert test.take("") is Taken.NOTHING
    with monkeypatch.context() as refusing:
        refusing.setattr(session, "keep", lambda _record: False)
        assert test.take(level(cell)) is Taken.NOT_KEPT
    assert (test.row, test.kept(cell)) == (row, None)
    assert test.take(level(cell)) is Taken.KEPT
    # Somebody who begins again tomorrow goes on where it stopped.
    again = clip_of(session)
    assert again.kept(again.cells[again.row]) is None
    assert again.counts()[0] == test.counts()[0]


def test_level_and_draw_are_kept_together_or_not_at_all(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    test = clip_of(session)
    cell = test.cell
    assert cell is not None
    assert test.take(level(cell), "seventy") is Taken.SECOND_NOT_UNDERSTOOD
    assert (test.kept(cell), test.kept_draw(cell)) == (None, None)
    keep = session.keep
    with monkeypatch.context() as refusing:
        refusing.setattr(session, "keep", lambda record: "clip_draw" not in record.subject and keep(record))
        assert test.take(level(cell), "400 W") is Taken.FIRST_KEPT
    assert test.cell is not None
    assert test.cell.subject == cell.subject, "the draw is still to be kept"
    assert test.take("", "400 W") is Taken.SECOND_KEPT
    draw = test.kept_draw(cell)
    assert draw is not None
    assert draw.value == pytest.approx(400.0)


def test_powers_at_a_distortion_are_other_readings(session: Session) -> None:
    test = clip_of(session)
    test.show_definition("thd_10")
    cell = test.cell
    assert cell is not None
    assert "true rms" in test.words
    assert test.said("20pp").words == "Not understood", "a height tells no power where the wave is cut"
    assert test.take(level(cell)) is Taken.KEPT
    assert cell.power.value > test.onset[0].power.value
    test.show_definition("onset")
    assert test.kept(test.onset[0]) is None
    assert test.at_other_definitions(0).startswith("10 % ")


def test_cells_of_a_build_that_was_left_meanwhile_are_forgotten(tmp_path: Path) -> None:
    later = Later()
    session = Session(demo_copy(tmp_path), later)
    test = clip_of(session)
    assert test.counts() == (0, 0)
    assert test.take("20pp") is Taken.HELD
    test.show_channel("left")
    later.run()
    assert {cell.channel for cell in test.cells} == {"left"}
    session.close()


def response_of(session: Session) -> ResponseProcedure:
    test = ResponseProcedure(session, ResponseListener(nobody, nobody))
    test.show_channel(CHANNEL)
    return test


def test_a_response_is_read_from_1_khz_on_and_its_corner_told(session: Session) -> None:
    test = response_of(session)
    assert test.f_hz == REFERENCE_HZ
    visited = []
    while test.counts()[0] < test.counts()[1]:
        f = test.f_hz
        visited.append(f)
        # A low corner at 20 Hz alone: -3 dB there, whatever stands beside it.
        assert test.take(f"{2.0 * (f / 20.0) / (1.0 + (f / 20.0) ** 2) ** 0.5:.5g}") is Taken.KEPT
    assert sorted(visited) == list(FREQUENCIES_HZ)
    (crossing,) = test.measured().minus_3_db
    assert crossing.f_hz == pytest.approx(20.0, rel=0.01)
    assert test.take("low") is Taken.NOT_UNDERSTOOD
    test.blocked = "not brought up"
    assert test.take("2.0") is Taken.HELD


def test_another_run_is_another_set_of_points(session: Session) -> None:
    test = response_of(session)
    assert test.take("2.0") is Taken.KEPT
    test.add_run("controls up")
    assert (test.f_hz, test.volts()) == (REFERENCE_HZ, {})
    assert test.take("3.0") is Taken.KEPT
    test.show_run("")
    assert test.volts() == {REFERENCE_HZ: 2.0}
    assert {curve.name for curve in test.curves().curves} >= {"predicted", "read", "controls up"}


def sheet_of(session: Session, kind: SheetKind) -> SheetProcedure:
    test = SheetProcedure(session, kind, SheetListener(nobody, nobody, nobody))
    test.channel.take(CHANNEL)
    test.make()
    return test


@pytest.mark.parametrize("kind", SHEETS, ids=lambda kind: kind.key)
def test_a_sheet_is_gone_through_once_and_says_what_follows(session: Session, kind: SheetKind) -> None:
    test = sheet_of(session, kind)
    begun, steps = test.counts()[0], 0
    while (asked := test.in_hand) is not None and test.last(asked) is None and steps < 60:
        steps += 1
        if asked.reads == "course" or (asked.window is None and asked.unit != "V"):
            # Skipped with nothing typed, as one does at the bench.
            assert test.take("") is Taken.NOTHING
            continue
        text = "0.5 mV" if asked.window is None else spoken(asked, middle(asked.window))
        said = test.said(text)
        assert not said.choices, (asked.title, text, said)
        assert said.state is not State.OVER, (asked.title, text, said)
        assert test.take(text) is Taken.KEPT
        assert test.last(asked) is not None
    assert test.counts()[0] > begun
    assert test.outcomes()


def test_a_slip_at_a_sheet_is_asked_about_and_kept_as_answered(session: Session) -> None:
    test = sheet_of(session, SHEETS[0])
    asked = test.in_hand
    assert asked is not None
    assert asked.window is not None
    volts = middle(asked.window)
    text = f"{10.0 * volts:.3g}"
    assert test.take(text) is Taken.ASKED
    choices = test.said(text).choices
    tenth = next(place for place, words in enumerate(choices) if words.startswith("a tenth"))
    assert test.answer(text, tenth) is Taken.KEPT
    kept = test.last(asked)
    assert kept is not None
    assert kept.value == pytest.approx(volts, rel=5e-3)
    test.blocked = "not brought up"
    assert test.take(text) is Taken.HELD


def test_no_reading_is_kept_against_the_windows_of_another_build(tmp_path: Path) -> None:
    later = Later()
    session = Session(demo_copy(tmp_path), later)
    test = sheet_of(session, SHEETS[0])
    later.run()
    asked = test.in_hand
    assert asked is not None
    assert asked.window is not None
    text = spoken(asked, middle(asked.window))
    session.what_if(live=False, mains_v_rms=207.0)
    test.make()
    assert not test.current
    assert test.take(text) is Taken.HELD
    later.run()
    assert test.current
    session.close()


def test_a_script_sees_all_three_alike(session: Session) -> None:
    tests: list[Procedure] = [clip_of(session), response_of(session), sheet_of(session, SHEETS[0])]
    for test in tests:
        before = test.counts()[0]
        assert test.subject
        assert test.said("").words
        assert test.take("nonsense") is Taken.NOT_UNDERSTOOD
        assert test.counts()[0] == before
