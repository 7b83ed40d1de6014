"""Tests and first power read by the instruments of the simulated bench, through the real link to them."""

import math
import os
import signal
from pathlib import Path

import pytest

from plinth.bench.every_sheet import SHEETS
from plinth.guide.progress import Stand
from plinth.judge.state import State
from plinth.record.origin import Giver
from plinth.record.reading import Reading
from plinth.session.beginning import begin_workshop
from plinth.session.instruments.instruments import PRACTICE_ALONE
from plinth.session.runs.subjects import BringUpSubject, ClipSubject, SheetSubject
from plinth.session.session import Session
from tests.session.instruments.practice import INTERRUPTED, MOST_TRIES, NAMES, practice
from tests.session.running import AtOnce
from tests.turns import in_turn

SHEET = {kind.key: kind for kind in SHEETS}
ON_MAINS = [name for name in NAMES if name != "street-box"]


@pytest.mark.parametrize("name", in_turn(NAMES, 3))
def test_first_power_goes_through_and_every_step_is_read_inside(name: str, tmp_path: Path) -> None:
    with practice(name, tmp_path) as own:
        steps = own.bring_up()
        reached = [stand for stand in steps.stands if not stand.step.key.startswith(("soak", "good_"))]
        assert [stand.step.title for stand in reached if stand.stand is not Stand.DONE] == []
        readings = own.readings()
        assert {reading.origin.giver for reading in readings} == {Giver.SIMULATED}
        assert {reading.state for reading in readings} <= {State.CLEAR, State.CLOSE}
        # Most are instruments', and each says which.
        assert sum("hand" not in reading.origin.instrument_id for reading in readings) >= 5
        assert own.session.power.live is None
        assert own.session.instruments.are_on() == ()


def _clipping_lies_where_the_bench_has_it(name: str, folder: Path, most: int) -> None:
    with practice(name, folder) as own:
        test = own.read_clipping(most)
        cells = [cell for cell in test.cells if test.kept(cell) is not None]
        assert own.run.left == []
        assert len(cells) >= min(most, len(test.cells))
        off = []
        for cell in cells:
            kept, draw = test.kept(cell), test.kept_draw(cell)
            assert kept is not None
            assert draw is not None
            assert kept.state is State.CLEAR
            assert kept.u is not None
            assert (kept.number("levels") or 0.0) >= 4.0
            # The bench is solved for the nominal values, as the prediction is.
            off.append((kept.value - cell.power.value) / kept.u)
        within = sum(abs(each) <= 2.0 for each in off)
        assert within >= 0.95 * len(off), off
        assert own.session.power.live is None
        assert own.session.instruments.are_on() == ()


@pytest.mark.parametrize("name", in_turn(ON_MAINS, 4, offset=1))
def test_clipping_onsets_lie_where_the_bench_has_them(name: str, tmp_path: Path) -> None:
    _clipping_lies_where_the_bench_has_it(name, tmp_path, 2)


@pytest.mark.slow
@pytest.mark.parametrize("name", ON_MAINS)
def test_clipping_onsets_of_every_cell_lie_where_the_bench_has_them(name: str, tmp_path: Path) -> None:
    _clipping_lies_where_the_bench_has_it(name, tmp_path, 1000)


def test_what_no_instrument_switches_is_left_to_a_hand(tmp_path: Path) -> None:
    with practice("street-box", tmp_path) as own:
        test = own.read_clipping()
        assert all(test.kept(cell) is None for cell in test.cells)
        assert len(own.run.left) == len(test.cells)
        assert "battery" in own.run.left[0].why
        assert own.session.instruments.are_on() == ()


def test_the_sheets_are_read_as_far_as_instruments_read_them(tmp_path: Path) -> None:
    with practice("stage-pair", tmp_path) as own:
        counts = {}
        for kind in SHEETS:
            sheet = own.read_sheet(kind)
            kept = {asked.key: sheet.last(asked) for asked in sheet.asked}
            counts[kind.key] = sum(reading is not None for reading in kept.values())
            for reading in kept.values():
                # No overshoot at all is close to where a window of it begins.
                assert reading is None or reading.state is not State.OVER, reading
                assert reading is None or reading.origin.giver is Giver.SIMULATED
            if kind.key == "heat":
                course = sheet.readings.get("on_the_way", ())
                assert all(reading.state is State.CLEAR for reading in course)
        assert counts["rails"] >= 12
        assert counts["gain"] >= 2
        assert counts["impedance"] >= 2
        assert counts["mains"] == 11
        assert counts["hum"] == 4
        assert counts["heat"] == 2
        # What nobody connected reads says so, and is left.
        assert counts["square"] >= 3
        assert counts["protection"] == 0


def test_a_gain_and_a_response_are_those_of_the_module(tmp_path: Path) -> None:
    with practice("foyer", tmp_path) as own:
        module = own.session.build.module
        response = own.read_response()
        volts = response.volts()
        assert set(volts) == set(response.frequencies)
        # First order at both ends (IEC 60268-3, 14.11): -3 dB at each stated corner.
        middle = volts[1000.0]
        for f_hz, reading in volts.items():
            low = 1.0 / math.sqrt(1.0 + ((module.f_low_hz or 0.0) / f_hz) ** 2)
            high = 1.0 / math.sqrt(1.0 + (f_hz / (module.f_high_hz or 1e9)) ** 2)
            assert reading / middle == pytest.approx(low * high, rel=0.02), f_hz


def test_only_a_practice_workshop_has_a_simulated_bench(tmp_path: Path) -> None:
    session = Session(begin_workshop(tmp_path / "real.plinth"), AtOnce())
    said: list[str] = []
    session.instruments.try_simulated(said.append)
    assert said == [PRACTICE_ALONE]
    assert not session.instruments.connected
    session.close()


def test_an_unknown_fault_is_answered_with_a_sentence(tmp_path: Path) -> None:
    with practice("stage-pair", tmp_path) as own:
        said: list[str] = []
        own.session.instruments.try_simulated(said.append, fault="gremlin")
        assert said == ["Found the fault 'gremlin', expected one of the catalogue."]
        assert own.session.instruments.connected


def test_a_step_that_is_held_is_not_switched_on(tmp_path: Path) -> None:
    with practice("market-box", tmp_path) as own:
        # Nothing was looked at yet.
        steps = own.bring_up(rounds=0)
        steps.choose(next(place for place, stand in enumerate(steps.stands) if stand.step.power))
        assert steps.step is not None
        assert steps.step.power
        said: list[str] = []
        own.session.tell = type(own.session.tell)(trouble=said.append)
        assert not steps.switch_on()
        assert "waits for" in said[0]
        assert own.session.instruments.are_on() == ()


def test_a_load_that_would_not_stand_it_is_spared(tmp_path: Path) -> None:
    with practice("stage-pair", tmp_path) as own:
        session = own.session
        for load in (session.build.load, *session.build.loads):
            assert load.p_carried_w is not None
        why = session.instruments.may_take(8.11, 40000.0)
        assert "expected it to stand" in why
        # What went into it already counts: a joule less to come for each.
        assert session.instruments.may_take(8.11, 400.0) == ""
        assert "expected it to stand" in session.instruments.may_take(8.11, 400.0, 1e6)
        assert session.instruments.may_take(8.11, 20.0) == ""
        # Nobody states what 100 ohm stands: for a moment only.
        assert session.instruments.may_take(100.0, 20.0, 100.0) == ""
        assert "without a rating" in session.instruments.may_take(100.0, 20.0, 501.0)
        # What is ahead counts as well: 2 s of it at the least, and hours of a heat run.
        assert session.instruments.may_take(100.0, 249.0) == ""
        assert "without a rating" in session.instruments.may_take(100.0, 251.0)
        assert "without a rating" in session.instruments.may_take(100.0, 1.0, for_s=math.inf)
        rated = session.instruments.load_of(8.11)
        assert rated is not None
        assert rated.p_carried_w is not None
        assert session.instruments.may_take(8.11, rated.p_carried_w, for_s=math.inf) == ""
        assert "its rating of" in session.instruments.may_take(8.11, 1.01 * rated.p_carried_w, for_s=math.inf)


def test_stopped_on_the_way_it_keeps_what_was_kept_and_all_is_off(tmp_path: Path) -> None:
    with practice("stage-pair", tmp_path) as own:
        asked = 0

        def before() -> None:
            nonlocal asked
            asked += 1
            if asked == 4:
                own.run.stop()

        own.jobs.before = before
        for _ in range(MOST_TRIES):
            asked = 0
            own.run.begin(SheetSubject(own.session, own.sheet(SHEET["rails"])))
            if own.run.fault not in INTERRUPTED:
                break
        assert own.run.kept <= 3
        assert "Stopped" in own.run.words
        assert own.session.instruments.are_on() == ()
        assert own.session.power.live is None
        kept = own.readings()
        # Begun again it goes on where it was.
        own.jobs.before = lambda: None
        own.read_sheet(SHEET["rails"])
        assert len(own.readings()) > len(kept) + 3


@pytest.mark.parametrize("who", in_turn(["talker", "guard", "bench"], 3))
def test_killed_on_the_way_it_says_so_and_keeps_what_was_kept(who: str, tmp_path: Path) -> None:
    with practice("market-box", tmp_path) as own:
        asked = 0
        instruments = own.session.instruments
        process, simulated = instruments._process, instruments.simulated  # noqa: SLF001
        assert process is not None
        assert simulated is not None
        number = {"talker": process.talker, "guard": process.guard, "bench": simulated.process}[who].pid

        def before() -> None:
            nonlocal asked
            asked += 1
            if asked == 4:
                os.kill(number, signal.SIGKILL)

        own.jobs.before = before
        own.run.begin(SheetSubject(own.session, own.sheet(SHEET["rails"])))
        assert own.run.kept <= 4
        assert not own.run.going
        assert len([r for r in own.readings() if isinstance(r, Reading)]) == own.run.kept
        assert own.run.words.count(".") >= 1


def test_what_is_current_elsewhere_meanwhile_is_not_answered(tmp_path: Path) -> None:
    with practice("stage-pair", tmp_path) as own:
        sheet = own.sheet(SHEET["rails"])
        subject = SheetSubject(own.session, sheet)
        sheet.choose(next(k for k, asked in enumerate(sheet.asked) if asked.probe is not None))
        first = sheet.request
        assert first is not None

        def before() -> None:
            # Chosen by somebody between asking and reading.
            sheet.choose(next(k for k, asked in enumerate(sheet.asked) if asked.key != first.key))

        own.jobs.before = before
        own.begin(subject, 1)
        assert own.run.kept == 0
        assert "current now" in own.run.words


def test_who_reads_is_said_beforehand(tmp_path: Path) -> None:
    with practice("stage-pair", tmp_path) as own:
        sheet = own.sheet(SHEET["gain"])
        assert own.run.who_reads(SheetSubject(own.session, sheet)) == "Digitiser at the input reads it."
        hum = own.sheet(SHEET["protection"])
        assert own.run.who_reads(SheetSubject(own.session, hum)) == "No instrument reads this: type it."
        own.session.instruments.disconnect()
        assert own.run.who_reads(SheetSubject(own.session, sheet)).startswith("Nothing connected reads")


def test_one_cell_alone_is_read_where_that_is_asked_for(tmp_path: Path) -> None:
    with practice("rehearsal-room", tmp_path) as own:
        test = own.clipping()
        own.begin(ClipSubject(own.session, test), 1)
        assert own.run.kept == 1
        assert own.run.words == "Read. Everything is off."
        assert own.session.instruments.are_on() == ()


@pytest.mark.parametrize("name", in_turn(ON_MAINS, 4))
def test_a_square_wave_tells_the_corners_of_the_stage(name: str, tmp_path: Path) -> None:
    with practice(name, tmp_path) as own:
        test = own.read_sheet(SHEET["square"])
        read = {asked.key: test.last(asked) for asked in test.asked}
        module = own.session.build.module
        tilt = read["tilt"]
        assert tilt is not None
        # In the steady state the top falls by tanh(pi f_low / 2 f) of the whole step.
        assert tilt.value == pytest.approx(100.0 * math.tanh(0.5 * math.pi * module.f_low_hz / 100.0), rel=0.05)
        rise, over = read["rise"], read["overshoot"]
        assert rise is not None
        assert rise.state is State.CLEAR
        assert over is not None
        if module.output_filter is None:
            # One pole: ln 9 / (2 pi f); its edge never goes beyond its top.
            pole_s = math.log(9.0) / (2.0 * math.pi * module.f_high_hz)
            # A record in which noise stands at the edge says so itself.
            assert rise.value == pytest.approx(pole_s, abs=max(0.03 * pole_s, 2.0 * (rise.u or 0.0)))
            assert (rise.u or 0.0) < 0.06 * pole_s
            assert over.value < 0.2
        # What a digitiser cannot see is left to an eye, once.
        assert [left.title for left in own.run.left].count("Generator alone, rise time") == 1
        assert "steeper" in own.run.left[0].why


def test_steps_under_power_stay_on_between_one_reading_and_the_next(tmp_path: Path) -> None:
    with practice("market-box", tmp_path) as own:
        steps = own.bring_up(rounds=0)
        subject = BringUpSubject(own.session, steps)
        for _ in range(30):
            if steps.step is None or steps.step.key == "low_current":
                break
            if steps.request is None:
                steps.take("done")
            else:
                own.begin(subject, 1)
        assert steps.step is not None
        assert steps.step.key == "low_current"
        live = []
        for _ in range(MOST_TRIES):
            own.begin(subject, 1)
            # A busy machine may have had it switched off, by right; then it is on again since later.
            assert own.run.fault is not None or "Power stays on" in own.run.words
            live.append(own.session.power.live)
            if len(live) > 1 and live[-1] is not None and live[-1] == live[-2]:
                break
        else:
            raise AssertionError(f"it was switched off in between: {live}")
        assert "supply" in (own.session.instruments.are_on() or ())
        own.session.power.switch_off()
        assert own.session.instruments.are_on() == ()
