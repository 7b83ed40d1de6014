import dataclasses
import datetime as dt

import pytest

from plinth.builds.build import Build
from plinth.builds.instruments import unknown_kit
from plinth.builds.supplies import LinearSupply
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.guide import board_windows as expect
from plinth.guide.bleeding import board_bleed_down
from plinth.guide.judging import doubt, reading_for_step, sentence_of, understood_words, verdict_at
from plinth.guide.progress import Stand, due, settled_count, stands
from plinth.guide.schools.limited_supply import SCHOOL, plan_steps
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.judge.window import judge_reading
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.reading import Confirmation, Override, Reading, Record
from plinth.units.errors import QuantityError
from tests.family import DEMO, FAMILY
from tests.guide.answers import inside, outside
from tests.turns import in_turn

AT = dt.datetime(2026, 10, 10, tzinfo=dt.UTC)
GOOD = {
    "insulation": "20M", "rails_open": "4k1", "rails_output": "38k", "output_open": "12k",
    "emitter_resistor": "0R33", "low_current": "12", "low_dc": "7 mV",
    "full_current": "17 mA", "full_dc": "-9 mV", "bias": "33.5", "warm_bias": "34,6", "discharged": "3.1",
}  # fmt: skip


def steps(readings: dict[str, float] | None = None, build: object = STAGE_PAIR) -> tuple[Step, ...]:
    return plan_steps(build, "left", idle_rail_v(build), readings or {})  # type: ignore[arg-type]


def book(records: dict[str, Record]) -> RecordBook:
    return RecordBook(records.values())


def step(key: str, readings: dict[str, float] | None = None) -> Step:
    return next(one for one in steps(readings) if one.key == key)


def test_the_steps_go_from_isolation_over_the_loudspeaker_to_a_week_of_soak() -> None:
    keys = [one.key for one in steps()]
    assert keys[0] == "insulation"
    assert keys[-1] == "good_loudspeaker"
    order = ["mains_known", "alone_rail", "input_rails", "alone_discharged", "low_current", "bias", "warm_bias",
             "retrim", "discharged", "mains_rail", "mute_delay", "dc_trip", "mains_discharged", "loudspeaker",
             "soak_1h", "soak_168h"]  # fmt: skip
    assert [key for key in keys if key in order] == order
    assert len(set(keys)) == len(keys)
    for one in steps():
        assert one.ask
        assert one.hints
        assert (one.window is not None) == (one.request is not None)
    chip = [one.key for one in steps(build=REHEARSAL_ROOM)]
    assert "bias" not in chip
    assert "low_current" in chip


def test_a_channel_may_be_called_what_it_likes_and_its_steps_keep_their_names() -> None:
    odd = STAGE_PAIR.model_copy(update={"channels": ("bass: left", "right")})
    plain, renamed = (plan_steps(build, build.channels[0], idle_rail_v(build), {}) for build in (STAGE_PAIR, odd))
    assert [step.asks.title for step in renamed] == [step.asks.title for step in plain]
    own = [step for step in renamed if step.asks.place == "Bass: left"]
    assert len(own) > 10
    for step in own:
        assert step.title == f"Bass: left: {step.asks.title}"


def test_windows_are_computed_from_this_build() -> None:
    low = step("low_current").window
    assert low is not None
    # Drivers of 14 mA at 36 V, at 18 V between 7 and 14 mA, 15 % about them, and a tenth of 100 mA left over.
    assert low.low == pytest.approx(0.85 * 0.007)
    assert low.usual_high == pytest.approx(1.15 * (0.014 + 0.010))
    # More than usual is no short yet; what the supply's own limit lets through is taken for one.
    assert low.high == pytest.approx(0.9 * expect.supply_setting(STAGE_PAIR, 18.0).i_limit_a)
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
    warm = expect.warm_bias(STAGE_PAIR, 35.0, 0.033)
    assert warm.rise_k == pytest.approx(2 * 35.0 * 0.114 * 0.48)
    # The bias rises by 0.4 % per kelvin and feeds itself a little, so it takes longer than R C ln 20.
    feeds = 2 * 35.0 * 0.100 * 0.004 * 0.48
    assert warm.wait_s == pytest.approx(0.48 * 900 * 2.9957 / (1 - feeds), rel=1e-3)
    middle = 0.033 * (1 + 0.004 * warm.rise_k)
    assert warm.window.low is not None
    assert warm.window.high is not None
    assert (warm.window.low + warm.window.high) / 2 == pytest.approx(middle)
    unknown = STAGE_PAIR.sink.model_copy(update={"heat_capacity_j_per_k": None})
    blind = STAGE_PAIR.model_copy(update={"sink": unknown})
    assert "heat capacity of the sink" in expect.warm_bias(blind, 35.0, 0.033).window.estimated


def test_discharge_is_estimated_where_nobody_stated_a_path() -> None:
    stated = board_bleed_down(STAGE_PAIR.module, 35.0)
    assert not stated.estimated
    assert stated.volts_after(stated.seconds) == pytest.approx(5.0)
    unstated = board_bleed_down(REHEARSAL_ROOM.module, 24.0)
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
    bias = step("bias", {"emitter_resistor": 0.33})
    reading = reading_for_step(bias, "22 mV", BENCH, AT)
    assert reading.state is State.OVER
    assert "listing's figure" in verdict_at(bias, reading).sentence
    assert "listing's figure" in sentence_of(reading)


def test_an_outside_reading_leads_to_what_to_check() -> None:
    reading = reading_for_step(step("low_current"), "88", BENCH, AT)
    assert reading.state is State.OVER
    assert "Stop. A short" in verdict_at(step("low_current"), reading).sentence
    with pytest.raises(QuantityError, match="in V"):
        reading_for_step(step("low_current"), "88 mV", BENCH, AT)


def test_the_gate_opens_step_by_step_and_never_by_an_outside_reading() -> None:
    records: dict[str, Record] = {}
    values: dict[str, float] = {}
    plan = steps(values)
    assert [s.stand for s in stands(plan, book(records))].count(Stand.HELD) == len(plan) - 1
    for index in range(len(plan)):
        plan = steps(values)
        now_due = due(stands(plan, book(records)))
        assert now_due is not None
        assert now_due.step.key == plan[index].key, now_due.stale
        if now_due.step.request is None:
            records[now_due.step.subject] = Confirmation(now_due.step.subject, AT, now_due.step.conditions)
            continue
        wrong = reading_for_step(now_due.step, outside(now_due.step), BENCH, AT)
        records[now_due.step.subject] = wrong
        still = due(stands(steps(values), book(records)))
        assert still is not None
        assert still.step.key == now_due.step.key
        assert still.stand is Stand.OUTSIDE
        at = AT + dt.timedelta(seconds=now_due.step.due_after_s)
        good = reading_for_step(now_due.step, GOOD.get(now_due.step.key) or inside(now_due.step), BENCH, at)
        assert good.state is not State.OVER
        if now_due.step.rounds > 1:
            # What is trimmed in rounds is due until all of them lie inside: tried for itself.
            records[now_due.step.subject] = Override(now_due.step.subject, "elsewhere", AT, now_due.step.conditions)
            continue
        records[now_due.step.subject] = good
        values[now_due.step.key] = good.value
    final = stands(steps(values), book(records))
    assert due(final) is None
    assert settled_count(final) == len(final)


def test_a_confirmation_does_not_stand_for_a_reading() -> None:
    plan = steps()
    records: dict[str, Record] = {plan[0].subject: Confirmation(plan[0].subject, AT, plan[0].conditions)}
    assert stands(plan, book(records))[0].stand is Stand.DUE


def test_a_written_reason_passes_a_step_and_the_next_says_what_it_waits_for() -> None:
    plan = steps()
    records: dict[str, Record] = {plan[0].subject: Override(plan[0].subject, "plastic tabs", AT, plan[0].conditions)}
    found = stands(plan, book(records))
    assert found[0].stand is Stand.PASSED_OVER
    assert found[1].stand is Stand.DUE
    assert found[2].why == f"waits for: {plan[1].title}"


# After the fact, and at the edges


def preset(i_driver_a: float, i_quiescent_a: float) -> Build:
    """The stage pair with another board's currents."""
    bias = STAGE_PAIR.module.bias
    assert bias is not None
    listed = bias.model_copy(update={"listed_mv": 1000.0 * i_quiescent_a * bias.r_listed_ohm})
    module = STAGE_PAIR.module.model_copy(update={"i_driver_a": i_driver_a, "bias": listed})
    return STAGE_PAIR.model_copy(update={"module": module})


def test_what_the_board_s_own_currents_add_up_to_is_no_short() -> None:
    plan = {one.key: one for one in steps(build=preset(0.080, 0.020))}
    full = plan["full_current"]
    reading = reading_for_step(full, "100, set before", BENCH, AT)
    assert reading.state is State.CLOSE
    assert "short" not in verdict_at(full, reading).sentence.lower()
    assert "not at its least" in verdict_at(full, reading).sentence
    assert full.limit_a is not None
    at_limit = reading_for_step(full, f"{1000 * full.limit_a:.0f}", BENCH, AT)
    assert at_limit.state is State.OVER
    assert "Stop. A short" in verdict_at(full, at_limit).sentence


@pytest.mark.parametrize("name", in_turn([*FAMILY, *DEMO], 6))
def test_order_room_and_limits_for_every_build(name: str) -> None:
    build = (FAMILY | DEMO)[name]
    idle = idle_rail_v(build)
    plan = plan_steps(build, build.channels[0], idle, {})
    rails = {one.key: one.conditions.get("rail_v") for one in plan}
    full = rails["full_current"]
    assert isinstance(full, float)
    assert build.module.v_rail_min <= full <= idle + 1e-9
    low = rails.get("low_current")
    if low is not None:
        assert isinstance(low, float)
        assert build.module.v_rail_min <= low <= 0.8 * full
    limits = [one.limit_a for one in plan if one.key in ("full_current", "bias", "warm_bias")]
    assert all(limit is not None for limit in limits)
    for one in plan:
        if one.key == "bias":
            assert one.limit_a is not None
            whole = build.modules_per_channel * (build.module.i_quiescent_a + build.module.driver_a)
            assert one.limit_a > 1.08 * whole, "the bias could not be turned up to its window"
            assert "limit" in one.ask
        if one.key in ("low_current", "full_current"):
            assert one.window is not None
            assert one.window.high is not None
            assert one.limit_a is not None
            assert one.window.high < one.limit_a, "a short would read as healthy"
        assert ("−" in one.ask.replace("output −", "").replace("−3", "")) <= (not build.supply.single_rail), one.ask


def test_a_nominal_36_board_on_12_v_is_begun_at_its_full_rail() -> None:
    module = STAGE_PAIR.module.model_copy(update={"v_rail_min": 10.0})
    build = STAGE_PAIR.model_copy(update={"module": module})
    keys = {one.key: one.conditions.get("rail_v") for one in plan_steps(build, "left", 11.9, {})}
    assert "low_current" not in keys
    assert keys["full_current"] == 11.0


def settled_book(build: Build) -> RecordBook:
    """A whole bring-up of the left channel, every reading in the middle of its window."""
    found, idle = RecordBook(), idle_rail_v(build)
    while True:
        plan = plan_steps(build, "left", idle, SCHOOL.counting_values(build, "left", idle, found))
        now_due = due(stands(plan, found))
        if now_due is None:
            return found
        one = now_due.step
        if one.window is None:
            found = found.adding(Confirmation(one.subject, AT, one.conditions))
            continue
        # A look at the soak counts when its time has passed.
        at = AT + dt.timedelta(seconds=one.due_after_s)
        found = found.adding(reading_for_step(one, inside(one), BENCH, at))


def all_settled(build: Build, found: RecordBook) -> bool:
    idle = idle_rail_v(build)
    return (
        due(stands(plan_steps(build, "left", idle, SCHOOL.counting_values(build, "left", idle, found)), found)) is None
    )


def test_a_bring_up_belongs_to_the_board_it_was_made_with() -> None:
    found = settled_book(STAGE_PAIR)
    assert all_settled(STAGE_PAIR, found)
    another = STAGE_PAIR.with_mark("module", "b2")
    stand = stands(plan_steps(another, "left", idle_rail_v(another), {}), found)
    assert stand[0].stand is Stand.DUE
    assert "does not count any more: the module is another one now" in stand[0].stale
    assert not all_settled(another, found)
    supply = STAGE_PAIR.with_mark("supply.transformer", "t2")
    assert not all_settled(supply, found), "the loudspeaker was allowed on another supply"
    assert stands(plan_steps(supply, "left", idle_rail_v(supply), {}), found)[0].stand is Stand.DONE


def test_a_kept_reading_is_judged_by_today_s_window() -> None:
    found = settled_book(STAGE_PAIR)
    bias = STAGE_PAIR.module.bias
    assert bias is not None
    smaller = STAGE_PAIR.module.model_copy(update={"bias": bias.model_copy(update={"r_fitted_ohm": 0.22})})
    build = STAGE_PAIR.model_copy(update={"module": smaller})
    assert not all_settled(build, found)
    idle = idle_rail_v(build)
    now_due = due(stands(plan_steps(build, "left", idle, SCHOOL.counting_values(build, "left", idle, found)), found))
    assert now_due is not None
    assert now_due.step.key == "emitter_resistor"
    assert now_due.stand is Stand.OUTSIDE
    assert isinstance(now_due.record, Reading)
    assert now_due.record.state is State.OVER


def test_neither_a_simulated_reading_nor_one_without_conditions_opens_a_gate() -> None:
    plan = steps()
    good = reading_for_step(plan[0], "20M", BENCH, AT)
    assert stands(plan, book({plan[0].subject: good}))[0].stand is Stand.DONE
    for other, why in (
        ({"origin": ReadingOrigin(Giver.SIMULATED)}, "simulated"),
        ({"conditions": None}, "conditions were not kept"),
    ):
        odd = dataclasses.replace(good, **other)
        stand = stands(plan, book({plan[0].subject: odd}))[0]
        assert stand.stand is Stand.DUE
        assert why in stand.stale


@pytest.mark.parametrize(
    ("key", "text", "stand"),
    [
        ("insulation", "OL", Stand.DONE), ("insulation", ">20M", Stand.DONE), ("insulation", "<20M", Stand.DUE),
        ("insulation", "<10k", Stand.OUTSIDE), ("insulation", "about 30M", Stand.DONE),
    ],
)  # fmt: skip
def test_bounds_count_as_far_as_they_tell(key: str, text: str, stand: Stand) -> None:
    plan = steps()
    one = next(one for one in plan if one.key == key)
    reading = reading_for_step(one, text, BENCH, AT)
    assert stands(plan, book({one.subject: reading}))[plan.index(one)].stand is stand
    assert shown_bound(reading) in understood_words(reading)


def shown_bound(reading: Reading) -> str:
    assert reading.bound
    return str(reading.bound)


def test_a_reading_beyond_what_can_be_there_is_asked_about() -> None:
    plan = {one.key: one for one in steps()}
    asked = doubt(plan["low_dc"], reading_for_step(plan["low_dc"], "12 V", BENCH, AT))
    assert asked == ""
    asked = doubt(plan["low_dc"], reading_for_step(plan["low_dc"], "33.5 V", BENCH, AT))
    assert "more than there can be here (18.0 V)" in asked
    assert "Was it 33.5 mV, a thousandth of it?" in asked


def test_a_reading_on_the_very_edge_of_its_window_is_inside() -> None:
    one = step("bias", {"emitter_resistor": 0.33})
    assert one.window is not None
    assert one.window.high is not None
    at_edge = judge_reading(one.window.high * (1 + 1e-12), None, one.window)
    assert at_edge.state is State.CLOSE
    assert judge_reading(one.window.high * 1.001, None, one.window).state is State.OVER


@pytest.mark.parametrize(("primary", "held"), [(230.0, False), (115.0, True), (240.0, False)])
def test_a_wrong_primary_holds_the_loudspeaker_back_whatever_was_read(primary: float, held: bool) -> None:
    supply = STAGE_PAIR.supply
    assert isinstance(supply, LinearSupply)
    part = supply.transformer.model_copy(update={"v_primary_rms": primary, "v_secondary_rms": 25.0 * primary / 230.0})
    build = STAGE_PAIR.model_copy(update={"supply": supply.model_copy(update={"transformer": part})})
    last = next(one for one in plan_steps(build, "left", 35.0, {}) if one.key == "loudspeaker")
    assert bool(last.blocked) == held
    stand = stands((last,), book({last.subject: Confirmation(last.subject, AT, last.conditions)}))[0]
    assert stand.settled != held
    if held:
        assert "set for 115 V and the mains has 230 V" in stand.why
