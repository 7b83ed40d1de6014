"""Tests at the bench run by a script, without a window: order, doubts, stops, refusals, and going on afterwards."""

import datetime as dt
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from plinth.bench.clip_cell import ClipCell
from plinth.bench.every_sheet import SHEETS, SheetKind
from plinth.bench.frequency_response import FREQUENCIES_HZ, REFERENCE_HZ
from plinth.guide.judging import reading_for_step
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.session.listeners import Telling
from plinth.session.power_port import Feed
from plinth.session.procedure.bring_up import REASON_WANTED, BringUpListener, BringUpProcedure, noted_words
from plinth.session.procedure.clip_test import ClipListener, ClipProcedure
from plinth.session.procedure.response_test import ResponseListener, ResponseProcedure
from plinth.session.procedure.sheet_test import SheetListener, SheetProcedure
from plinth.session.procedure.taking import Procedure, Taken
from plinth.session.session import Session
from tests.bench.typed_bench import middle, spoken
from tests.demo_copy import demo_copy
from tests.desk.inspected import inspect_all
from tests.guide.answers import inside
from tests.session.running import AtOnce
from tests.turns import in_turn

CHANNEL = "right"


def nobody(*_said: object) -> None:
    return


class Later(AtOnce):
    """Runs jobs only when it is told to, as a busy machine does."""

    def __init__(self) -> None:
        self.waiting: list[Callable[[], None]] = []

    def ask(
        self, name: str, work: Callable[[Any], object], done: Callable[[object], None], failed: Any = None, *,
        long: bool = False,  # there is one lane
        bench: bool = False,
    ) -> None:  # fmt: skip
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


def test_whoever_begins_at_another_source_stays_there_until_it_is_read(session: Session) -> None:
    test = clip_of(session)
    highest = test.cells[-1].source
    places = [place for place, cell in enumerate(test.cells) if cell.source == highest and test.kept(cell) is None]
    together = next(place for place in places if test.cells[place].driven == "all")
    test.choose(together)
    visited = []
    for _ in places:
        cell = test.cell
        assert cell is not None
        visited.append((cell.source, cell.driven))
        assert test.take(level(cell)) is Taken.KEPT
    assert {source for source, _ in visited} == {highest}
    assert [driven for _, driven in visited] == sorted((driven for _, driven in visited), key="all one".index)
    assert test.cell is not None
    assert test.cell.source != highest


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


def test_what_is_held_back_or_refused_stays_current(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
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
        refusing.setattr(session.records, "keep", lambda _record: False)
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
    assert test.take(level(cell), draw="seventy") is Taken.SECOND_NOT_UNDERSTOOD
    assert (test.kept(cell), test.kept_draw(cell)) == (None, None)
    keep = session.records.keep
    with monkeypatch.context() as refusing:
        refusing.setattr(session.records, "keep", lambda record: "clip_draw" not in record.subject and keep(record))
        assert test.take(level(cell), draw="400 W") is Taken.FIRST_KEPT
    assert test.cell is not None
    assert test.cell.subject == cell.subject, "the draw is still to be kept"
    assert test.take("", draw="400 W") is Taken.SECOND_KEPT
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
    while (asked := test.request) is not None and test.last(asked) is None and steps < 60:
        steps += 1
        if asked.form == "course" or (asked.window is None and asked.unit != "V"):
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
    asked = test.request
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
    asked = test.request
    assert asked is not None
    assert asked.window is not None
    text = spoken(asked, middle(asked.window))
    session.plan.what_if(live=False, mains_v_rms=207.0)
    test.make()
    assert not test.is_current
    assert test.take(text) is Taken.HELD
    later.run()
    assert test.is_current
    session.close()


def test_a_script_sees_all_three_alike(session: Session) -> None:
    for asking in (clip_of(session), sheet_of(session, SHEETS[0])):
        assert asking.answer("nonsense", 0) is Taken.NOT_UNDERSTOOD
        assert asking.answer("1", 9) is Taken.NOT_UNDERSTOOD
    tests: list[Procedure] = [clip_of(session), response_of(session), sheet_of(session, SHEETS[0])]
    for test in tests:
        before = test.counts()[0]
        assert test.subject
        assert test.said("").words
        assert test.take("nonsense") is Taken.NOT_UNDERSTOOD
        assert test.counts()[0] == before


# First power


class Bench:
    """A bench supply of an instrument: may refuse, counts what it was told, and a clock that is hurried."""

    def __init__(self) -> None:
        self.at = dt.datetime(2026, 11, 3, 8, 0, tzinfo=dt.UTC)
        self.refuses, self.sticks = "", ""
        self.on, self.made_safe = False, 0
        self.limits: list[float | None] = []

    def now(self) -> dt.datetime:
        return self.at

    def switch_on(self, feed: Feed) -> str:
        if self.refuses:
            return self.refuses
        self.on = True
        self.limits.append(feed.limit_a)
        return ""

    def switch_off(self) -> str:
        self.on = self.on and bool(self.sticks)
        return self.sticks

    def is_on(self) -> bool | None:
        return self.on

    def make_safe(self) -> None:
        self.made_safe += 1
        self.on = False


class FirstPower:
    """A channel of a build brought up by a script."""

    def __init__(self, folder: Path, name: str, school: str) -> None:
        self.bench, self.troubles = Bench(), list[str]()
        self.session = Session(
            demo_copy(folder), AtOnce(), Telling(trouble=self.troubles.append), clock=self.bench.now
        )  # fmt: skip
        self.session.power.port = self.bench
        self.session.switch(next(stored.id for stored in self.session.builds if stored.build.name == name))
        inspect_all(self.session)
        self.session.bring_up.choose_school(school)
        self.test = BringUpProcedure(self.session, BringUpListener(nobody, nobody, nobody, nobody))
        self.test.to_due()

    @property
    def step(self) -> Step:
        assert self.test.step is not None
        return self.test.step

    def make_ready(self) -> None:
        """Power as the step wants it, and the time waited that it asks for."""
        may = self.test.allowed
        assert may is not None
        if may.why_not:
            self.test.stop()
        may = self.test.allowed
        if may is not None and may.switch_on:
            assert self.test.switch_on()
        self.bench.at += dt.timedelta(seconds=self.step.wait_s + 60.0 + self.step.due_after_s)
        self.test.count_down(self.step.wait_s)

    def text(self) -> str:
        return "" if self.step.window is None else inside(self.step)


@pytest.mark.parametrize("school", in_turn(["limited_supply", "series_lamp", "variable_transformer", "reforming"], 2))
def test_a_whole_school_is_gone_through_by_a_script(tmp_path: Path, school: str) -> None:
    power = FirstPower(tmp_path, "Foyer", school)
    test, visited = power.test, []
    while test.counts()[0] < test.counts()[1]:
        step = power.step
        visited.append(step.subject)
        power.make_ready()
        # Nothing is read with power on that wants it off, nor the other way round.
        assert power.bench.on == step.power, step.key
        assert test.take(power.text()) is Taken.KEPT, (step.key, test.said(power.text()))
        assert visited.count(step.subject) <= step.rounds, (step.key, test.stand)
    again = [stand.step.subject for stand in test.stands for _ in range(stand.step.rounds)]
    assert sorted(visited) == sorted(again), "each once, and as often as it wants to be read"
    wanted = [stand.step.limit_a for stand in test.stands if stand.step.power]
    assert set(power.bench.limits) <= set(wanted), "each limit is one that a step asks for"
    assert power.session.bring_up.brought_up(test.channel.name)
    test.stop()
    assert not power.bench.on
    power.session.close()
    assert power.bench.made_safe == 1


def test_power_that_is_refused_leaves_nothing_on_and_the_step_current(tmp_path: Path) -> None:
    power = FirstPower(tmp_path, "Foyer", "limited_supply")
    while not power.step.power:
        power.make_ready()
        assert power.test.take(power.text()) is Taken.KEPT
    step = power.step
    power.bench.refuses = "the supply's interlock is open."
    assert not power.test.switch_on()
    assert power.session.power.live is None
    assert not power.bench.on
    assert power.bench.made_safe == 1
    assert power.troubles == ["Not switched on: the supply's interlock is open."]
    assert power.test.take(power.text()) is Taken.HELD, "read without power it says nothing"
    assert power.step.key == step.key
    # As it is after a restart: the diary says that it never came on.
    assert [line.kind for line in power.session.records.diary_lines()][-2:] == ["power_on", "power_off"]
    power.bench.refuses = ""
    assert power.test.switch_on()
    power.bench.sticks = "the relay does not open."
    power.test.stop()
    assert power.session.power.live is not None, "what does not go off is not said to be off"
    assert "Pull the mains plug" in power.troubles[-1]
    power.bench.sticks = ""
    power.test.stop()
    assert (power.session.power.live, power.bench.on) == (None, False)


class Deaf(Bench):
    """Says that it did what it was told, and did not."""

    def switch_on(self, feed: Feed) -> str:
        self.limits.append(feed.limit_a)
        return ""

    def switch_off(self) -> str:
        return ""


def test_a_port_is_believed_only_as_far_as_its_outputs_say_so(tmp_path: Path) -> None:
    power = FirstPower(tmp_path, "Foyer", "limited_supply")
    while not power.step.power:
        power.make_ready()
        assert power.test.take(power.text()) is Taken.KEPT
    deaf = Deaf()
    power.session.power.port = deaf
    assert not power.test.switch_on()
    assert power.session.power.live is None
    assert deaf.made_safe == 1
    assert power.troubles[-1] == "Not switched on: it was told to, and says that its outputs are still off."
    deaf.on = True
    assert power.test.switch_on()
    power.test.stop()
    assert power.session.power.live is not None, "it is on while its outputs say so"
    assert "its outputs are still on. Pull the mains plug." in power.troubles[-1]
    deaf.on = False
    power.test.stop()
    assert power.session.power.live is None


def test_a_reading_that_cannot_be_is_asked_about_once_and_one_outside_holds_its_step(tmp_path: Path) -> None:
    power = FirstPower(tmp_path, "Foyer", "limited_supply")
    test = power.test
    while power.step.most is None or not power.step.power or power.step.key != "low_current":
        power.make_ready()
        assert test.take(power.text()) is Taken.KEPT
    step = power.step
    power.make_ready()
    beyond = f"{50.0 * (step.most or 0.0):.6g} {step.unit}"
    before = len(power.session.records.diary_lines())
    assert test.take(beyond) is Taken.ASKED
    assert "more than there can be" in test.words
    assert test.take("much") is Taken.NOT_UNDERSTOOD
    assert len(power.session.records.diary_lines()) == before
    test.take(beyond)
    kept = power.session.records.reading(step.subject)
    assert kept is not None
    assert kept.state is State.OVER
    assert power.step.key == step.key, "it holds its step"
    assert test.stand is not None
    assert not test.stand.settled
    assert test.pass_over("  ") == REASON_WANTED
    assert test.repaired("solder") == "Found the power still on, expected it off: press Stop (Esc) first."
    test.stop()
    assert test.repaired("a bridge of solder") == ""
    assert power.step.key != step.key, "the cold steps of the board come again"


def test_a_step_is_passed_over_only_with_a_reason(tmp_path: Path) -> None:
    power = FirstPower(tmp_path, "Foyer", "limited_supply")
    first = power.step.key
    assert power.test.pass_over("a") == REASON_WANTED
    assert power.step.key == first
    assert power.test.pass_over("measured yesterday") == ""
    assert power.step.key != first
    assert power.test.counts()[0] == 1


def test_what_still_stands_outside_long_after_it_should_rest_is_no_transient(tmp_path: Path) -> None:
    power = FirstPower(tmp_path, "Foyer", "limited_supply")
    while power.step.watch is None or not power.step.watch.transient or not power.step.hints:
        power.make_ready()
        assert power.test.take(power.text()) is Taken.KEPT
    step = power.step
    assert step.watch is not None
    assert step.window is not None
    side = next(hint.side for hint in step.hints if hint.side)
    value = 3.0 * (step.window.high or 1.0) if side > 0 else 0.1 * (step.window.low or 1.0)
    said = {}
    for taus in (5.0, 7.0):
        reading = reading_for_step(
            step, f"{value:.6g} {step.unit}", power.session.kit, power.bench.at, 0.0, taus * step.watch.tau_s
        )  # fmt: skip
        assert reading.state is State.OVER
        said[taus] = noted_words(step, reading)
    assert "Watch on" in said[5.0]
    assert said[7.0].startswith("Noted, and outside: ")
