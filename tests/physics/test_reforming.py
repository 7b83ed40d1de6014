"""Old reservoirs behind a resistor: against an independent integration of rectifier, capacitor and leak."""

import datetime as dt
import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from plinth.builds.build import Build
from plinth.demo import shelf
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.judging import reading_for_step
from plinth.guide.schools import reforming as school
from plinth.guide.step import Step
from plinth.guide.watching import noted, watched
from plinth.judge.state import State
from plinth.physics.numbers.preferred import E12, E24, nearest
from plinth.physics.rails.reforming import held_v, mean_current_a, sound_leakage_a
from plinth.predict.reforming import hours_at_each, reforming
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from tests.sample_builds import linear

AT = dt.datetime(2026, 10, 12, 9, 0, tzinfo=dt.UTC)


@pytest.mark.parametrize(
    ("crest", "c", "r", "bleeder", "leak"),
    [(37.0, 1e-3, 56.0, 2200.0, 0.004), (12.0, 2e-3, 180.0, 1000.0, 0.0), (45.0, 1e-3, 82.0, None, 0.010)],
)
def test_a_reservoir_settles_where_an_integration_puts_it(
    crest: float, c: float, r: float, bleeder: float | None, leak: float
) -> None:
    g = 0.0 if bleeder is None else 1.0 / bleeder
    omega = 2.0 * math.pi * 50.0

    def slope(t: float, v: np.ndarray) -> list[float]:
        charge = max(crest * abs(math.sin(omega * t)) - v[0], 0.0) / r
        return [(charge - g * v[0] - leak) / c]

    begin = held_v(crest, r, bleeder, leak)
    found = solve_ivp(slope, (0.0, 2.0), [begin * 0.98], max_step=2e-4, rtol=1e-7, dense_output=True)
    t = np.linspace(1.9, 2.0, 4001)
    v = found.sol(t)[0]
    assert begin == pytest.approx(float(np.mean(v)), rel=0.01)
    dropped = float(np.mean(np.maximum(crest * np.abs(np.sin(omega * t)) - v, 0.0)))
    assert r * mean_current_a(crest, begin, r) == pytest.approx(dropped, rel=0.03)


def test_a_sound_can_leaks_what_the_standard_allows() -> None:
    # 10 mF, 50 V: 0.01 uA per uF and volt.
    assert sound_leakage_a(10e-3, 50.0, 50.0) == pytest.approx(5e-3 + 3e-6)
    assert sound_leakage_a(10e-3, 50.0, 25.0) == pytest.approx(0.5 * (5e-3 + 3e-6))
    assert held_v(30.0, 56.0, 2200.0, 10.0) == 0.0
    assert mean_current_a(30.0, 31.0, 56.0) == 0.0


def test_values_that_resistors_are_made_in() -> None:
    assert [nearest(one) for one in (0.105, 57.3, 995.0, 5100.0)] == [0.1, 56.0, 1000.0, 4700.0]
    assert nearest(5100.0, E24) == 5100.0
    assert len(E12) == 12
    assert len(E24) == 24
    for value in np.geomspace(1.0, 1e6, 97):
        assert abs(math.log(nearest(float(value)) / value)) <= 0.5 * math.log(10.0) / 12.0 + 0.03


def test_older_cans_are_held_longer_and_an_unknown_year_is_said() -> None:
    assert [hours_at_each(age) for age in (1.0, 5.0, 20.0, 40.0)] == [0.25, 1.0, 2.0, 4.0]
    assert reforming(REHEARSAL_ROOM, 2026).age_estimated
    supply = REHEARSAL_ROOM.supply
    assert supply.kind == "linear"
    dated = supply.model_copy(update={"reservoir": supply.reservoir.model_copy(update={"year": 1988})})
    known = reforming(REHEARSAL_ROOM.model_copy(update={"supply": dated}), 2026)
    assert not known.age_estimated
    assert known.age_years == 38.0
    assert known.hours_each == 4.0


@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM], ids=lambda build: build.name)
def test_a_leak_that_falls_is_on_its_way_and_one_that_stays_is_outside(build: Build) -> None:
    steps = school.SCHOOL.steps(build, build.channels[0], idle_rail_v(build), {})
    held: list[Step] = [one for one in steps if one.key.startswith("reform_") and one.window is not None]
    assert len(held) == 5
    assert [one.conditions["mains_v"] for one in held] == sorted(float(one.conditions["mains_v"]) for one in held)
    step = held[2]
    window = step.window
    assert window is not None
    assert window.low is not None
    assert window.high is not None
    sound = 0.5 * (window.low + window.high)
    assert reading_for_step(step, f"{sound:.4f} V", shelf.BENCH, AT).state is State.CLEAR
    assert reading_for_step(step, f"{2.0 * window.high:.4f} V", shelf.BENCH, AT).state is State.OVER
    # A bleeder that is open is below, and is no sign of a good can.
    assert reading_for_step(step, f"{0.3 * window.low:.4f} V", shelf.BENCH, AT).state is State.OVER
    # An exponential fall from ten times the leak, of which the guide sees four readings.
    tau, end, start = 0.8 * step.wait_s / 3.0, sound, 3.0 * window.high
    kept = []
    for minutes in (5.0, 20.0, 45.0, 80.0):
        value = end + (start - end) * math.exp(-60.0 * minutes / tau)
        at = AT + dt.timedelta(minutes=minutes)
        reading = reading_for_step(
            step, f"{value:.4f} V", shelf.BENCH, at, step.wait_s - 60.0 * minutes, 60.0 * minutes
        )
        kept.append(noted(step, reading))
    found = watched(step, RecordBook(kept))
    assert found is not None
    assert found.fit is not None
    assert found.fit.end == pytest.approx(end, rel=0.1)
    assert found.words.startswith("Falls by")


def test_on_low_mains_the_first_steps_are_those_of_what_is_turned() -> None:
    """A fifth of 120 V is below any house's mains, and is what the transformer is turned to all the same."""
    supply, mains = REHEARSAL_ROOM.supply, REHEARSAL_ROOM.mains
    assert supply.kind == "linear"
    assert mains is not None
    part = supply.transformer.model_copy(update={"v_primary_rms": 120.0})
    low = REHEARSAL_ROOM.model_copy(
        update={
            "mains": mains.model_copy(update={"v_nominal_rms": 120.0}),
            "supply": supply.model_copy(update={"transformer": part}),
        }
    )
    here, there = reforming(low, 2026).steps, reforming(REHEARSAL_ROOM, 2026).steps
    assert [one.mains_v for one in here] == pytest.approx([24.0, 48.0, 72.0, 96.0, 120.0])
    assert [one.rail_v for one in here] == pytest.approx([one.rail_v for one in there], rel=1e-6)


def test_the_most_that_drops_is_of_a_can_as_large_as_its_tolerance_allows() -> None:
    """A larger can leaks more, by the standard: the step allows for it, and the resistor is chosen by it."""
    supply = linear(STAGE_PAIR)
    for tolerance in (0.05, 0.4):
        can = supply.reservoir.model_copy(update={"c_tol": tolerance})
        build = STAGE_PAIR.model_copy(update={"supply": supply.model_copy(update={"reservoir": can})})
        plan = reforming(build, 2026)
        top = plan.steps[-1]
        crest = math.sqrt(plan.p_w * plan.r_ohm)
        leak = sound_leakage_a(can.c_f * (1.0 + tolerance), can.v_rated, crest)
        wet = held_v(crest, plan.r_ohm, can.r_bleeder_ohm, leak)
        assert top.dropped_most_v == pytest.approx(plan.r_ohm * mean_current_a(crest, wet, plan.r_ohm), rel=1e-6)
        bleeder = 0.0 if can.r_bleeder_ohm is None else crest / can.r_bleeder_ohm
        assert plan.r_ohm == nearest(0.03 * crest / (bleeder + leak))
