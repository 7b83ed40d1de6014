import datetime as dt

import pytest

from plinth.bringup import expectations as expect
from plinth.bringup.judging import reading_for_step, understood_words
from plinth.bringup.limited_supply import plan_steps
from plinth.bringup.progress import Stand, due, settled_count, stands
from plinth.bringup.step import Step
from plinth.builds.instruments import unknown_kit
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.predict.solve import idle_rail_v
from plinth.record.reading import Confirmation, Override, Record
from plinth.units.errors import QuantityError

AT = dt.datetime(2026, 10, 10, tzinfo=dt.UTC)
GOOD = {
    "insulation": "20M", "rails_open": "4k1", "emitter_resistor": "0R33", "low_current": "12", "low_dc": "7",
    "full_current": "17 mA", "full_dc": "-9 mV", "bias": "33.5", "warm_bias": "34,6", "discharged": "3.1",
}  # fmt: skip


def steps(readings: dict[str, float] | None = None, build: object = STAGE_PAIR) -> tuple[Step, ...]:
    return plan_steps(build, "left", idle_rail_v(build), readings or {})  # type: ignore[arg-type]


def step(key: str, readings: dict[str, float] | None = None) -> Step:
    return next(one for one in steps(readings) if one.key == key)


def test_there_are_about_ten_steps_from_isolation_to_loudspeaker() -> None:
    keys = [one.key for one in steps()]
    assert keys[0] == "insulation"
    assert keys[-1] == "loudspeaker"
    assert 9 <= len(keys) <= 13
    for one in steps():
        assert one.ask
        assert one.hints
        assert (one.window is not None) == (one.asks_for == "reading")
    chip = [one.key for one in steps(build=REHEARSAL_ROOM)]
    assert "bias" not in chip
    assert "low_current" in chip


def test_windows_are_computed_from_this_build() -> None:
    low = step("low_current").window
    assert low is not None
    # Drivers of 14 mA at 36 V, at 18 V between 7 and 14 mA, 15 % about them, and a tenth of 100 mA left over.
    assert low.low == pytest.approx(0.85 * 0.007)
    assert low.high == pytest.approx(1.15 * (0.014 + 0.010))
    bias = step("bias").window
    assert bias is not None
    assert bias.low == pytest.approx(0.033 * 0.92)
    assert bias.estimated == ("R17",)
    measured = step("bias", {"emitter_resistor": 0.30}).window
    assert measured is not None
    assert measured.high == pytest.approx(0.030 * 1.08)
    assert measured.estimated == ()


def test_the_limit_set_would_stop_a_fault_and_pass_a_healthy_board() -> None:
    setting = expect.supply_setting(STAGE_PAIR, 18.0)
    window = expect.rest_current(STAGE_PAIR, 18.0)
    assert window.high is not None
    assert setting.i_limit_a > window.high
    assert setting.i_limit_a * 2 * 18.0 < 5.0
    assert setting.charge_s == pytest.approx(470e-6 * 18.0 / setting.i_limit_a)
    assert expect.full_rail_v(STAGE_PAIR.module, 99.0) == STAGE_PAIR.module.v_rail_max


def test_warm_bias_follows_the_heat_of_the_resting_stage() -> None:
    warm = expect.warm_bias(STAGE_PAIR.module, STAGE_PAIR.sink, 35.0, 0.033)
    assert warm.rise_k == pytest.approx(2 * 35.0 * 0.114 * 0.48)
    # The bias rises by 0.4 % per kelvin and feeds itself a little, so it takes longer than R C ln 20.
    feeds = 2 * 35.0 * 0.100 * 0.004 * 0.48
    assert warm.wait_s == pytest.approx(0.48 * 900 * 2.9957 / (1 - feeds), rel=1e-3)
    middle = 0.033 * (1 + 0.004 * warm.rise_k)
    assert warm.window.low is not None
    assert warm.window.high is not None
    assert (warm.window.low + warm.window.high) / 2 == pytest.approx(middle)
    unknown = STAGE_PAIR.sink.model_copy(update={"heat_capacity_j_per_k": None})
    assert "heat capacity of the sink" in expect.warm_bias(STAGE_PAIR.module, unknown, 35.0, 0.033).window.estimated


def test_discharge_is_estimated_where_nobody_stated_a_path() -> None:
    stated = expect.board_bleed_down(STAGE_PAIR.module, 35.0)
    assert not stated.estimated
    assert stated.volts_after(stated.seconds) == pytest.approx(5.0)
    unstated = expect.board_bleed_down(REHEARSAL_ROOM.module, 24.0)
    assert unstated.estimated
    assert unstated.seconds > 0.0


def test_a_good_reading_is_inside_and_shows_its_spread() -> None:
    reading = reading_for_step(step("bias", {"emitter_resistor": 0.33}), "33.5", BENCH, AT)
    assert reading.value == pytest.approx(0.0335)
    assert reading.state is State.CLEAR
    assert understood_words(reading) == "33.5 ±0.5 mV"
    blind = reading_for_step(step("bias"), "33.5", unknown_kit(), AT)
    assert blind.u is None
    assert "not stated" in understood_words(blind)


def test_the_listing_s_figure_is_recognised_when_it_is_wrong_here() -> None:
    reading = reading_for_step(step("bias", {"emitter_resistor": 0.33}), "22 mV", BENCH, AT)
    assert reading.state is State.OVER
    assert "listing's figure" in reading.sentence


def test_an_outside_reading_leads_to_what_to_check() -> None:
    reading = reading_for_step(step("low_current"), "88", BENCH, AT)
    assert reading.state is State.OVER
    assert "Stop. A short" in reading.sentence
    with pytest.raises(QuantityError, match="in V"):
        reading_for_step(step("low_current"), "88 mV", BENCH, AT)


def test_the_gate_opens_step_by_step_and_never_by_an_outside_reading() -> None:
    records: dict[str, Record] = {}
    values: dict[str, float] = {}
    plan = steps(values)
    assert [s.stand for s in stands(plan, records)].count(Stand.HELD) == len(plan) - 1
    for index in range(len(plan)):
        plan = steps(values)
        now_due = due(stands(plan, records))
        assert now_due is not None
        assert now_due.step.key == plan[index].key
        if now_due.step.asks_for == "word":
            records[now_due.step.subject] = Confirmation(now_due.step.subject, AT)
            continue
        wrong = reading_for_step(now_due.step, "0.2" if now_due.step.unit == "ohm" else "99 V" if
                                 now_due.step.unit == "V" else "9 A", BENCH, AT)  # fmt: skip
        records[now_due.step.subject] = wrong
        still = due(stands(steps(values), records))
        assert still is not None
        assert still.step.key == now_due.step.key
        assert still.stand is Stand.OUTSIDE
        good = reading_for_step(now_due.step, GOOD[now_due.step.key], BENCH, AT)
        assert good.state is not State.OVER
        records[now_due.step.subject] = good
        values[now_due.step.key] = good.value
    final = stands(steps(values), records)
    assert due(final) is None
    assert settled_count(final) == len(final)


def test_a_confirmation_does_not_stand_for_a_reading() -> None:
    plan = steps()
    records: dict[str, Record] = {plan[0].subject: Confirmation(plan[0].subject, AT)}
    assert stands(plan, records)[0].stand is Stand.DUE


def test_a_written_reason_passes_a_step_and_the_next_says_what_it_waits_for() -> None:
    plan = steps()
    records: dict[str, Record] = {plan[0].subject: Override(plan[0].subject, "plastic tabs", AT)}
    found = stands(plan, records)
    assert found[0].stand is Stand.PASSED_OVER
    assert found[1].stand is Stand.DUE
    assert found[2].why == f"waits for: {plan[1].title}"
