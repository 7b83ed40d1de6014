"""Readings over time: settling told from a fault, drift and heat bound for their rest, rounds, what falls due when."""

import datetime as dt
import math

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import FOYER, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.guide import board_windows as expect
from plinth.guide.judging import doubt, reading_for_step
from plinth.guide.progress import Stand, StepStand, settling, stands
from plinth.guide.schools import series_lamp
from plinth.guide.schools.every_school import SCHOOLS
from plinth.guide.schools.limited_supply import SCHOOL, plan_steps
from plinth.guide.schools.soak_steps import HOURS
from plinth.guide.step import Step
from plinth.guide.watching import noted, on_the_way, run_of, watched
from plinth.physics.protection.dc_and_coils import dc_trip_s
from plinth.predict.estimates import HOT_DAY_C, USUAL_AIR_C
from plinth.predict.lamp_outlook import one_channel
from plinth.predict.solve import idle_rail_v, solve
from plinth.predict.unloaded_supply import own_rails
from plinth.predict.warm_up import warm_up
from plinth.record.book import RecordBook
from plinth.record.reading import Confirmation, Override, Reading, Record
from plinth.record.subject import Kind, read_subject
from tests.family import DEMO, FAMILY, FEW
from tests.guide.answers import inside
from tests.turns import in_turn

AT = dt.datetime(2026, 10, 12, 9, 0, tzinfo=dt.UTC)
AIR = {"air": 20.0}


def steps_of(build: Build, values: dict[str, float] | None = None) -> dict[str, Step]:
    return {one.key: one for one in plan_steps(build, build.channels[0], idle_rail_v(build), values or {})}


def at(step: Step, value: float, since_s: float, left_s: float = 0.0) -> Reading:
    return reading_for_step(
        step, f"{value:.6g} {step.unit}", BENCH, AT + dt.timedelta(seconds=since_s), left_s, since_s
    )


def before(step: Step, build: Build) -> list[Record]:
    """All steps before it answered."""
    kept: list[Record] = []
    for one in steps_of(build).values():
        if one.key == step.key:
            break
        if one.request is None or one.rounds > 1:
            kept.append(Override(one.subject, "elsewhere", AT, one.conditions))
        else:
            kept.append(reading_for_step(one, inside(one), BENCH, AT))
    return kept


def stand_of(build: Build, key: str, *more: Record) -> StepStand:
    step = steps_of(build)[key]
    found = stands(tuple(steps_of(build).values()), RecordBook([*before(step, build), *more]))
    return next(one for one in found if one.step.key == key)


def test_a_rail_for_a_second_at_switch_on_is_no_fault() -> None:
    step = steps_of(FOYER)["low_dc"]
    assert step.watch is not None
    assert FOYER.module.starts_on_rail
    early = at(step, 17.0, 1.0, step.wait_s - 1.0)
    stand = stand_of(FOYER, "low_dc", early)
    assert settling(step, early)
    assert stand.stand is Stand.DUE
    assert "while it still settled" in stand.stale
    assert stand_of(FOYER, "low_dc", early, at(step, 0.012, 12.0)).stand is Stand.DONE
    # Where it still stands there once the time is over it is a fault.
    late = at(step, 17.0, 12.0)
    assert stand_of(FOYER, "low_dc", early, late).stand is Stand.OUTSIDE
    # An early reading of what is not watched is judged as it is.
    rail = steps_of(FOYER)["mains_rail"]
    assert stand_of(FOYER, "mains_rail", at(rail, 2.0, 1.0, 9.0)).stand is Stand.OUTSIDE


def test_readings_on_the_way_settle_nothing_and_are_kept_apart() -> None:
    step = steps_of(STAGE_PAIR)["warm_bias"]
    one = noted(step, at(step, 0.0335, 60.0, 1000.0))
    assert read_subject(one.subject).kind is Kind.COURSE
    assert read_subject(one.subject).what == "warm_bias"
    assert stand_of(STAGE_PAIR, "warm_bias", one).stand is Stand.DUE
    book = RecordBook([one, at(step, 0.0339, 1300.0)])
    assert [point.t_s for point in run_of(step, book)] == [60.0, 1300.0]


def test_only_the_last_run_under_power_is_looked_at() -> None:
    step = steps_of(STAGE_PAIR)["warm_bias"]
    first = [noted(step, at(step, 0.033, t)) for t in (10.0, 200.0)]
    second = [
        noted(step, reading_for_step(step, "33.1", BENCH, AT + dt.timedelta(hours=1, seconds=t), 0.0, t))
        for t in (30.0, 400.0)
    ]
    assert [one.t_s for one in run_of(step, RecordBook([*first, *second]))] == [30.0, 400.0]
    other_board = step.conditions["module"]
    assert other_board == ""
    moved = STAGE_PAIR.with_mark("module", "b2")
    assert run_of(steps_of(moved)["warm_bias"], RecordBook(second)) == ()


@pytest.mark.parametrize("build", [FOYER, FAMILY["class A on linear"]], ids=lambda build: build.name)
def test_drift_is_bound_for_where_the_thermal_model_ends(build: Build) -> None:
    """The course comes from the thermal network of the engine, the guide knows only the readings."""
    one = one_channel(build)
    course = warm_up(solve(one, Situation(ambient_c=20.0)).solution)
    assert course is not None
    values = {**AIR}
    steps = plan_steps(build, build.channels[0], idle_rail_v(build), values)
    step = next(one for one in steps if one.key == "sink")
    assert step.watch is not None
    tau = step.watch.tau_s
    times = [0.2 * tau, 0.5 * tau, 0.9 * tau, 1.4 * tau]
    kept = [noted(step, at(step, float(np.interp(t, course.t_s, course.sink_c)), t)) for t in times]
    end = float(course.sink_c[-1])
    found = watched(step, RecordBook(kept))
    assert found is not None
    assert found.fit is not None, found.words
    assert found.fit.end == pytest.approx(end, abs=2.0 * found.fit.u_end + 0.3)
    assert found.left_s is not None
    within = step.watch.within
    real = next(t for t, c in zip(course.t_s, course.sink_c, strict=True) if abs(c - end) <= within) - times[-1]
    assert found.left_s == pytest.approx(real, rel=0.45, abs=0.2 * tau)
    assert "comes to rest" in found.words
    # A window of the guide holds what the engine foretells.
    assert step.window is not None
    assert step.window.low is not None
    assert step.window.low < end < (step.window.high or 0.0)
    hot = end + HOT_DAY_C - 20.0
    assert f"In air of {HOT_DAY_C:.0f} °C it is" in found.words
    assert ("below the limit" in found.words) == (hot + 2.0 * math.hypot(found.fit.u_end, 0.6) < build.sink.t_limit_c)


def test_what_rests_is_said_to_rest_and_one_reading_says_when_to_look_again() -> None:
    step = steps_of(STAGE_PAIR)["warm_bias"]
    assert watched(step, RecordBook()) is None
    single = watched(step, RecordBook([noted(step, at(step, 0.033, 60.0))]))
    assert single is not None
    assert "Read again in" in single.words
    assert not single.rests
    flat = watched(step, RecordBook([noted(step, at(step, 0.0339, t)) for t in (900.0, 1200.0, 1500.0)]))
    assert flat is not None
    assert flat.rests
    assert flat.words.startswith("At rest: 33.9")
    climbing = watched(step, RecordBook([noted(step, at(step, 0.033 + 4e-5 * t, t)) for t in (60.0, 200.0, 400.0)]))
    assert climbing is not None
    assert climbing.words.startswith("Rises by 2.4 mV a minute.")


@pytest.mark.parametrize(("apart", "tells"), [(0.04, False), (0.06, True), (0.3, True)])
def test_two_readings_tell_a_course_once_a_twentieth_of_its_time_is_between_them(apart: float, tells: bool) -> None:
    step = steps_of(STAGE_PAIR)["warm_bias"]
    assert step.watch is not None
    times = (60.0, 60.0 + apart * step.watch.tau_s)
    found = watched(step, RecordBook([noted(step, at(step, 0.033, t)) for t in times]))
    assert found is not None
    assert (found.fit is not None or "cannot be told yet" in found.words) is tells
    assert ("Read again in" in found.words) is not tells


def test_how_far_a_room_and_a_rail_s_time_may_be_off() -> None:
    """Air that nobody read may be 8 K off its usual; a rail that fills does so within a factor of three of 5 s."""
    unread, read = steps_of(STAGE_PAIR)["sink"].window, steps_of(STAGE_PAIR, {"air": USUAL_AIR_C})["sink"].window
    assert unread is not None
    assert read is not None
    assert (unread.high or 0.0) - (read.high or 0.0) == pytest.approx(8.0 - 1.0)
    assert (read.low or 0.0) - (unread.low or 0.0) == pytest.approx(8.0 - 1.0)
    mains = next(one for one in series_lamp.SCHOOL.steps(STAGE_PAIR, "left", idle_rail_v(STAGE_PAIR), {})
                 if one.key == "mains_rail")  # fmt: skip
    assert mains.watch is not None
    assert (mains.watch.tau_s, mains.watch.tau_spread) == (5.0, 3.0)


def test_a_trimmed_bias_needs_two_rounds_in_a_row() -> None:
    step = steps_of(STAGE_PAIR)["retrim"]
    good, high = at(step, 0.033, 500.0), at(step, 0.037, 900.0)
    assert high.state.value == "over"
    assert stand_of(STAGE_PAIR, "retrim", good).stand is Stand.DUE
    assert "Round 1 of 2" in stand_of(STAGE_PAIR, "retrim", good).stale
    assert stand_of(STAGE_PAIR, "retrim", good, high).stand is Stand.OUTSIDE
    assert stand_of(STAGE_PAIR, "retrim", good, high, good).stand is Stand.DUE
    assert stand_of(STAGE_PAIR, "retrim", high, good, good).stand is Stand.DONE
    assert stand_of(STAGE_PAIR, "retrim", Override(step.subject, "fixed bias", AT, step.conditions)).settled


def test_the_soak_falls_due_after_the_loudspeaker() -> None:
    speaker = steps_of(STAGE_PAIR)["loudspeaker"]
    allowed = Confirmation(speaker.subject, AT, speaker.conditions)
    kept = [*before(speaker, STAGE_PAIR), allowed]
    found = {one.step.key: one for one in stands(tuple(steps_of(STAGE_PAIR).values()), RecordBook(kept))}
    first = found["soak_1h"]
    assert first.stand is Stand.DUE
    assert first.due_at == AT + dt.timedelta(hours=1)
    assert found["soak_8h"].stand is Stand.HELD
    for hours in HOURS:
        step = steps_of(STAGE_PAIR)[f"soak_{hours:g}h"]
        kept.append(reading_for_step(step, "8 mV", BENCH, AT + dt.timedelta(hours=hours)))
        if f"soak_sink_{hours:g}h" in steps_of(STAGE_PAIR):
            sink = steps_of(STAGE_PAIR)[f"soak_sink_{hours:g}h"]
            kept.append(reading_for_step(sink, "41", BENCH, AT + dt.timedelta(hours=hours)))
    found = {one.step.key: one for one in stands(tuple(steps_of(STAGE_PAIR).values()), RecordBook(kept))}
    assert found["soak_168h"].stand is Stand.DONE
    assert found["soak_168h"].due_at is None
    assert found["good_loudspeaker"].stand is Stand.DUE


@pytest.mark.parametrize(
    "name", in_turn([name for name, build in {**DEMO, **FAMILY}.items() if build.module.bias is not None], 5)
)
def test_the_caution_of_a_warm_sink_goes_with_its_figures(name: str) -> None:
    """No page says both that it comes to 60 degrees and that one stops where a finger cannot stay."""
    steps = {one.key: one for one in plan_steps({**DEMO, **FAMILY}[name], "left", 36.0, {})}
    warm, sink = steps["warm_bias"], steps["sink"]
    assert sink.window is not None
    assert sink.window.low is not None
    assert sink.window.high is not None
    hot = 0.5 * (sink.window.low + sink.window.high) > 48.0
    cool = sink.window.high < 45.0
    if hot:
        assert "finger on it, stop" not in warm.caution
        assert "too hot to hold" in warm.caution
    if cool:
        assert "finger on it, stop" in warm.caution


@pytest.mark.parametrize("share", [0.0, 0.001, 0.5, 0.97, 0.981, 1.0, 3.0])
def test_a_soak_counts_when_its_time_has_passed(share: float) -> None:
    """A week typed within a minute has not played for a week."""
    steps = steps_of(STAGE_PAIR)
    speaker = steps["loudspeaker"]
    kept = [*before(speaker, STAGE_PAIR), Confirmation(speaker.subject, AT, speaker.conditions)]
    early = share < 0.98
    for key in ("soak_1h", "soak_sink_1h", "soak_8h", "soak_24h", "soak_168h", "soak_sink_168h"):
        step = steps[key]
        at = AT + dt.timedelta(seconds=share * step.due_after_s)
        kept.append(reading_for_step(step, "41" if step.unit == "°C" else "8 mV", BENCH, at))
    found = {one.step.key: one for one in stands(tuple(steps.values()), RecordBook(kept))}
    assert (found["soak_1h"].stand is Stand.DUE) == early
    assert (found["good_loudspeaker"].stand is Stand.HELD) == early
    if not early:
        assert found["soak_168h"].stand is Stand.DONE
        return
    assert "settles nothing" in found["soak_1h"].stale
    assert found["soak_1h"].due_at == AT + dt.timedelta(hours=1)
    reason = Override(steps["soak_1h"].subject, "it played all day on the old bench", AT, steps["soak_1h"].conditions)
    passed = {one.step.key: one for one in stands(tuple(steps.values()), RecordBook([*kept, reason]))}
    assert passed["soak_1h"].stand is Stand.PASSED_OVER
    # One that is outside is outside at any time.
    wrong = reading_for_step(steps["soak_1h"], "900 mV", BENCH, AT + dt.timedelta(seconds=30))
    outside = {one.step.key: one for one in stands(tuple(steps.values()), RecordBook([*kept, wrong]))}
    assert outside["soak_1h"].stand is Stand.OUTSIDE


def test_a_sink_that_leaves_no_room_for_a_hot_day_is_outside() -> None:
    step = steps_of(STAGE_PAIR)["soak_sink_1h"]
    limit = STAGE_PAIR.sink.t_limit_c - 15.0
    assert at(step, limit - 4.0, 0.0).state.value in ("clear", "close")
    assert at(step, limit + 4.0, 0.0).state.value == "over"


@pytest.mark.parametrize("name", [*DEMO, *FEW])
def test_every_kind_of_build_meets_its_own_supply_and_its_protection(name: str) -> None:
    build = (DEMO | FAMILY)[name]
    steps = steps_of(build)
    kind = build.supply.kind
    assert ("alone_rail" in steps) == (kind != "direct")
    assert ("mains_known" in steps) == (build.mains is not None and kind != "direct")
    assert ("jumper" in steps) == (kind == "switcher")
    assert ("converter_idle" in steps) == (kind == "battery")
    with_inputs = kind == "linear" and build.supply.input_supply is not None
    assert ("input_rails" in steps) == with_inputs
    order = list(steps)
    if kind != "direct":
        rails, window = own_rails(build, board=False), steps["alone_rail"].window
        assert window is not None
        assert window.low is not None
        assert window.high is not None
        assert window.low < rails.low_v
        assert window.high <= max(build.module.v_rail_max, window.low)
        assert order.index("alone_rail") < order.index("alone_discharged") < order.index("mains_rail")
        # What a gate of the supply holds stands before it is switched on.
        for gate in ("mains_known", "jumper", "converter_idle"):
            assert gate not in steps or order.index(gate) < order.index("alone_rail")
    if build.supply.converter is not None:
        part = build.supply.converter
        idle = part.p_idle_w / build.supply.battery.v_nominal
        window, limit = steps["converter_idle"].window, steps["converter_idle"].limit_a
        assert window is not None
        assert limit is not None
        assert (window.low or 0.0) < idle < (window.high or 0.0) < limit
    assert (
        order.index("dc_trip") < order.index("mains_discharged") < order.index("loudspeaker") < order.index("soak_1h")
    )
    mute = steps["mute_delay"].window
    assert mute is not None
    assert (mute.low or 0.0) < (mute.high or 0.0)
    if build.protection.mute_s > 1.2 * build.module.settling_s:
        assert (mute.low or 0.0) >= build.module.settling_s


def test_the_trip_by_a_battery_is_that_of_the_detector() -> None:
    part = STAGE_PAIR.protection.model_copy(update={"dc_threshold_v": 1.6, "dc_time_constant_s": 0.33})
    step = steps_of(STAGE_PAIR.model_copy(update={"protection": part}))["dc_trip"]
    seconds = dc_trip_s(9.0, 1.6, 0.33)
    assert seconds == pytest.approx(-0.33 * math.log(1.0 - 1.6 / 9.0))
    assert step.window is not None
    assert (step.window.low or 0.0) <= seconds < (step.window.high or 0.0) < 10.0 * seconds + 1.0
    stiff = part.model_copy(update={"dc_threshold_v": 12.0})
    word = steps_of(STAGE_PAIR.model_copy(update={"protection": stiff}))["dc_trip"]
    assert word.request is None
    assert "just above its threshold" in word.ask


def test_a_supply_that_a_module_cannot_bear_is_not_connected() -> None:
    module = STAGE_PAIR.module.model_copy(update={"v_rail_max": 34.0, "v_rail_nominal": 30.0})
    build = STAGE_PAIR.model_copy(update={"module": module})
    step = steps_of(build)["alone_rail"]
    assert "the module bears 34 V" in step.blocked
    # Nearly as much is outside as soon as it is read.
    edge = STAGE_PAIR.module.model_copy(update={"v_rail_max": 37.0})
    edged = steps_of(STAGE_PAIR.model_copy(update={"module": edge}))["alone_rail"]
    assert not edged.blocked
    assert at(edged, 38.5, 5.0).state.value == "over"


@pytest.mark.parametrize("school", SCHOOLS, ids=lambda school: school.key)
def test_heat_at_rest_is_rails_times_what_they_carry(school: object) -> None:
    assert expect.rest_heat_w(STAGE_PAIR, 35.0) == pytest.approx(2 * 35.0 * 0.114)
    single = FAMILY["chips on one rail, bridged on linear"]
    module = single.module
    assert expect.rest_heat_w(single, 30.0) == pytest.approx(
        30.0 * single.modules_per_channel * (module.i_quiescent_a + module.driver_a)
    )
    assert school is not None


def test_left_out_for_want_of_an_instrument_is_passed_over() -> None:
    step = steps_of(STAGE_PAIR)["air"]
    assert step.optional
    left_out = Override(step.subject, "left out: no instrument for it", AT, step.conditions)
    assert stand_of(STAGE_PAIR, "air", left_out).stand is Stand.PASSED_OVER
    # Without it the window of the sink is wider and says so.
    known = SCHOOL.steps(STAGE_PAIR, "left", idle_rail_v(STAGE_PAIR), AIR)
    with_air = next(one for one in known if one.key == "sink").window
    without = steps_of(STAGE_PAIR)["sink"].window
    assert with_air is not None
    assert without is not None
    assert (without.high or 0.0) - (without.low or 0.0) > (with_air.high or 0.0) - (with_air.low or 0.0)
    assert "the air at the bench" in without.estimated
    assert on_the_way(step).startswith("course/")


@pytest.mark.parametrize(
    ("changes", "volts"), [({}, 358.0), ({"pfc": True, "v_pfc_v": 410.0}, 410.0), ({"pfc": True}, 390.0)]
)
def test_what_a_bulk_capacitor_holds_is_of_the_highest_mains_or_the_boost_stage(
    changes: dict[str, object], volts: float
) -> None:
    build = FAMILY["class AB on switcher"]
    assert build.supply.kind == "switcher"
    part = build.supply.switcher.model_copy(update={"pfc": False, "v_pfc_v": None, "v_mains_jumper": 230.0, **changes})
    changed = build.model_copy(update={"supply": build.supply.model_copy(update={"switcher": part})})
    # The crest of 253 V is 357.8 V.
    assert f"holds up to {volts:.0f} V" in steps_of(changed)["jumper"].ask


def test_the_air_that_a_soak_takes_is_said_to_be_assumed() -> None:
    window = steps_of(STAGE_PAIR)["soak_sink_1h"].window
    assert window is not None
    assert window.estimated == ("the air at the bench",)


@pytest.mark.parametrize("name", [*DEMO, *FEW])
def test_a_sink_colder_than_any_air_is_asked_about_and_a_cool_one_is_not(name: str) -> None:
    build = {**DEMO, **FAMILY}[name]
    for step in plan_steps(build, build.channels[0], idle_rail_v(build), {}):
        if step.unit != "°C":
            continue
        assert step.window is not None
        low = step.window.low or 0.0
        for typed, asked in ((0.0, low >= 12.0), (low - 4.0, False), (low + 1.0, False)):
            said = doubt(step, at(step, typed, 600.0))
            assert bool(said) is asked, (step.key, typed)
            assert not asked or "colder than the air" in said
