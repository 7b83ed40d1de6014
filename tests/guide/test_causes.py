"""Causes ranked from readings: faults laid on a build by other means are found, and more readings tell them apart."""

import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, with_part
from plinth.builds.supply_parts import Transformer
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide import fault_bench, precomputed
from plinth.guide.causes import Causes, causes, dangerous, fault_rails, likelihood
from plinth.guide.equipment import Equipment
from plinth.guide.fault_bench import bench_of, healthy
from plinth.guide.faults import FAULTS
from plinth.guide.precomputed import Precomputed
from plinth.guide.school import School
from plinth.guide.schools import every_school, limited_supply, series_lamp, variable_transformer
from plinth.guide.step import Step
from plinth.physics.mains.transformer import estimate_regulation
from plinth.predict.fault_rails import Behind, rail_with, shorted_turn_w, turn_behind_lamp_k
from plinth.predict.lamp_outlook import lamp_outlook, one_channel
from plinth.predict.solve import idle_rail_v, solve
from tests.sample_builds import linear

SCHOOLS = (limited_supply.SCHOOL, series_lamp.SCHOOL, variable_transformer.SCHOOL)


def steps_of(school: School, build: Build) -> tuple[Step, ...]:
    return school.steps(build, build.channels[0], idle_rail_v(build), {})


def ranked(school: School, build: Build, **readings: float) -> Causes:
    steps = steps_of(school, build)
    assert set(readings) <= {step.key for step in steps}
    found = causes(bench_of(build, steps, idle_rail_v(build)), steps, readings)
    assert found is not None
    assert sum(one.share for one in found.ranked) <= 1.0 + 1e-9
    return found


def first(found: Causes) -> str:
    return found.ranked[0].fault.key


def middle(school: School, build: Build, key: str) -> float:
    whole = healthy(next(step for step in steps_of(school, build) if step.key == key))
    assert whole is not None
    return whole.value


@pytest.mark.parametrize("school", SCHOOLS, ids=lambda school: school.key)
@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM, FOYER], ids=lambda build: build.name)
def test_healthy_readings_have_no_causes(school: School, build: Build) -> None:
    steps = steps_of(school, build)
    values = {step.key: whole.value for step in steps if (whole := healthy(step)) is not None}
    assert causes(bench_of(build, steps, idle_rail_v(build)), steps, values) is None
    assert causes(bench_of(build, steps, idle_rail_v(build)), steps, {}) is None


@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM], ids=lambda build: build.name)
def test_a_primary_set_wrong_is_found_by_what_the_full_engine_says_of_it(build: Build) -> None:
    part = part_in(build, "supply.transformer")
    for volts, key in ((460.0, "primary doubled"), (115.0, "primary halved")):
        wrong = with_part(build, "supply.transformer", part.model_copy(update={"v_primary_rms": volts}), changed=True)
        lamp_w = lamp_outlook(build).lamp_w
        rail = solve(one_channel(wrong), Situation(rail_load_a=0.0, lamp_w=lamp_w))["rail_idle_v"].value
        found = ranked(series_lamp.SCHOOL, build, lamp_alone_rail=rail)
        assert key in [one.fault.key for one in found.ranked[:2]], (volts, rail)
        assert found.off_now or key == "primary doubled"
        # Half of the rail may be a shorted turn as well, which burns; that would light the lamp.
        dark = ranked(series_lamp.SCHOOL, build, lamp_alone_rail=rail, lamp_alone_glow=400.0)
        assert dark.off_now == (key == "primary halved")


def test_half_of_the_rail_or_none_are_told_apart() -> None:
    nothing = ranked(series_lamp.SCHOOL, REHEARSAL_ROOM, lamp_alone_rail=0.1)
    assert {cause.fault.key for cause in nothing.ranked[:2]} == {"rail missing", "mains fuse open"}
    # The lamp tells an open fuse from what takes all of the mains.
    assert nothing.next_step is not None
    assert nothing.next_step.key == "lamp_alone_glow"
    dark = ranked(series_lamp.SCHOOL, REHEARSAL_ROOM, lamp_alone_rail=0.1, lamp_alone_glow=400.0)
    assert first(dark) in ("rail missing", "mains fuse open")
    assert not dark.off_now
    lit = ranked(series_lamp.SCHOOL, REHEARSAL_ROOM, lamp_alone_rail=0.8, lamp_alone_glow=2600.0)
    assert first(lit) == "bridge diode"
    assert lit.off_now
    alone = middle(series_lamp.SCHOOL, REHEARSAL_ROOM, "lamp_alone_rail")
    collapsed = ranked(series_lamp.SCHOOL, REHEARSAL_ROOM, lamp_alone_rail=alone, lamp_rail=0.1)
    assert first(collapsed) in ("short", "rail missing")
    assert collapsed.off_now
    # With the output at a rail it is the short rather than a wire.
    behind = middle(series_lamp.SCHOOL, REHEARSAL_ROOM, "lamp_rail")
    on_rail = ranked(series_lamp.SCHOOL, REHEARSAL_ROOM, lamp_alone_rail=alone, lamp_rail=0.1, lamp_dc=-0.9 * behind)
    share = {one.fault.key: one.share for one in on_rail.ranked}
    before = {one.fault.key: one.share for one in collapsed.ranked}
    assert share["short"] > before["short"]


def test_another_resistor_explains_a_bias_that_is_off_by_their_ratio() -> None:
    found = ranked(limited_supply.SCHOOL, STAGE_PAIR, emitter_resistor=0.22, bias=0.022)
    assert first(found) == "other resistor"
    assert found.ranked[0].share > 0.9
    assert not found.off_now
    alone = ranked(limited_supply.SCHOOL, STAGE_PAIR, bias=0.022)
    assert alone.ranked[0].share < found.ranked[0].share


def test_the_supply_in_its_limit_says_off() -> None:
    step = next(one for one in steps_of(limited_supply.SCHOOL, STAGE_PAIR) if one.key == "low_current")
    assert step.limit_a is not None
    found = ranked(limited_supply.SCHOOL, STAGE_PAIR, low_current=step.limit_a)
    assert first(found) in ("short", "bias open")
    assert found.off_now
    assert found.next_step is None or not found.next_step.power


def test_a_warm_bias_that_doubles_points_to_the_sensor() -> None:
    warm = middle(limited_supply.SCHOOL, STAGE_PAIR, "warm_bias")
    cold = middle(limited_supply.SCHOOL, STAGE_PAIR, "bias")
    found = ranked(limited_supply.SCHOOL, STAGE_PAIR, bias=cold, warm_bias=1.9 * warm)
    assert first(found) == "sensor off"
    assert found.off_now


@pytest.mark.parametrize("factor", [10.0, 0.1, 1e3])
def test_a_decimal_slipped_is_among_the_causes(factor: float) -> None:
    cold = middle(limited_supply.SCHOOL, STAGE_PAIR, "bias")
    found = ranked(limited_supply.SCHOOL, STAGE_PAIR, bias=factor * cold)
    assert "slip" in [one.fault.key for one in found.ranked]
    worse = ranked(limited_supply.SCHOOL, STAGE_PAIR, bias=2.7 * cold)
    share = {one.fault.key: one.share for one in worse.ranked}
    assert share.get("slip", 0.0) < next(one.share for one in found.ranked if one.fault.key == "slip")


def test_what_tells_most_apart_is_a_step_not_read_yet_on_which_they_differ() -> None:
    found = ranked(series_lamp.SCHOOL, STAGE_PAIR, lamp_bias=0.06)
    assert found.next_step is not None
    assert found.next_step.key != "lamp_bias"
    assert len(found.tells) >= 2
    values = [value for _, value in found.tells]
    assert max(values) > 1.2 * min(values)


@pytest.mark.parametrize("school", SCHOOLS, ids=lambda school: school.key)
def test_with_a_fault_about_nothing_is_asked_for_that_would_burn(school: School) -> None:
    for step in steps_of(school, STAGE_PAIR):
        window = step.window
        if window is None or not step.reads:
            continue
        for value in (0.3 * (window.low or 0.0), 3.0 * (window.high or 1e6), 0.001):
            found = causes(
                bench_of(STAGE_PAIR, steps_of(school, STAGE_PAIR), 36.0),
                steps_of(school, STAGE_PAIR),
                {step.key: value},
            )
            if found is None or found.next_step is None:
                continue
            on = found.next_step
            assert not on.power or "lamp_w" in on.conditions or on.limit_a is not None
            assert not (found.off_now and on.power)


def test_no_fault_explains_everything_and_none_is_ruled_out_by_one_reading() -> None:
    steps = steps_of(series_lamp.SCHOOL, STAGE_PAIR)
    bench = bench_of(STAGE_PAIR, steps, idle_rail_v(STAGE_PAIR))
    for step in steps:
        if step.window is None or not step.reads:
            continue
        for fault in FAULTS:
            for value in (0.0, 1e-3, 0.5, 30.0, 1e6):
                assert 0.0 < likelihood(bench, fault, step, value) <= 1.0
    assert {fault.key for fault in FAULTS if fault.burns} < {fault.key for fault in FAULTS}


def test_rails_with_faults_are_those_of_physics() -> None:
    lamp = Behind(lamp_w=60.0)
    whole = rail_with(REHEARSAL_ROOM, "none", lamp)
    assert whole is not None
    assert rail_with(REHEARSAL_ROOM, "rail missing", lamp) == 0.0
    leaking, leaky_alone = rail_with(REHEARSAL_ROOM, "leaking", lamp), Behind(lamp_w=60.0, board=False)
    assert leaking is not None
    assert leaking < whole
    assert (rail_with(REHEARSAL_ROOM, "leaking", leaky_alone) or 0.0) < (
        rail_with(REHEARSAL_ROOM, "none", leaky_alone) or 0.0
    )
    mains = Behind(board=False)
    once, half = rail_with(REHEARSAL_ROOM, "none", mains), rail_with(REHEARSAL_ROOM, "primary doubled", mains)
    assert once is not None
    assert half is not None
    # Twice the primary is half the volts, less the drop of the diodes, which stays.
    assert half == pytest.approx(once / 2.0, abs=1.5)
    assert (rail_with(STAGE_PAIR, "bias open", Behind(lamp_w=60.0)) or 0.0) < 0.6 * (
        rail_with(STAGE_PAIR, "none", Behind(lamp_w=60.0)) or 0.0
    )


SOLVERS = ("own_rails", "wall_at_rest", "lamp_outlook", "mains_steps", "reforming")


@pytest.mark.parametrize(
    "school", [school for school in every_school.SCHOOLS if school.precompute is not None], ids=lambda s: s.key
)
def test_nothing_is_solved_once_it_is_precomputed(school: School, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever caches hold: what was computed aside is handed to the steps and to the causes."""
    small = Transformer.model_validate(
        REHEARSAL_ROOM.supply.transformer.model_dump() | {"name": "Small", "va": 15.0}  # type: ignore[union-attr]
    )
    known = Precomputed(REHEARSAL_ROOM, Equipment(lamp_w=60.0, small=small))
    assert school.precompute is not None
    school.precompute(known)
    idle = idle_rail_v(REHEARSAL_ROOM)
    steps = school.steps(REHEARSAL_ROOM, "left", idle, {}, known)
    rails = fault_rails(bench_of(REHEARSAL_ROOM, steps, idle), steps)

    def solved(*_args: object, **_named: object) -> None:
        raise AssertionError("it is solved on the window's thread")

    for name in SOLVERS:
        monkeypatch.setattr(precomputed, name, solved)
    monkeypatch.setattr(fault_bench, "rail_with", solved)
    assert school.steps(REHEARSAL_ROOM, "right", idle, {"emitter_resistor": 0.22}, known)
    bench = bench_of(REHEARSAL_ROOM, steps, idle, known=rails)
    read = {one.key: 0.3 * (one.window.low or 1.0) for one in steps if one.window is not None and one.reads == "rail"}
    assert (causes(bench, steps, read) is not None) == bool(read)


def test_another_resistor_than_a_listing_knows_of_is_thought_of_too() -> None:
    bias = FOYER.module.bias
    assert bias is not None
    assert bias.r_listed_ohm == bias.r_fitted_ohm
    cold = middle(limited_supply.SCHOOL, FOYER, "bias")
    twice = ranked(limited_supply.SCHOOL, FOYER, emitter_resistor=2.1 * bias.r_fitted_ohm, bias=2.1 * cold)
    assert "other resistor" in [one.fault.key for one in twice.ranked[:2]]


def step_named(school: School, build: Build, key: str) -> Step:
    return next(step for step in steps_of(school, build) if step.key == key)


@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM, FOYER], ids=lambda build: build.name)
@pytest.mark.parametrize("share", [0.02, 0.08, 0.3])
def test_a_supply_alone_far_too_low_is_off_and_never_sent_on_to_the_board(build: Build, share: float) -> None:
    rail = share * middle(series_lamp.SCHOOL, build, "lamp_alone_rail")
    found = ranked(series_lamp.SCHOOL, build, lamp_alone_rail=rail)
    assert found.next_step is None or found.next_step.reads == "glow_alone"
    if share > 0.02:
        assert found.off_now
        assert first(found) != "primary doubled"
    # What is not connected yet is not blamed.
    assert all("supply" in cause.fault.where for cause in found.ranked)


def test_one_shorted_output_device_is_named_though_the_rails_look_open() -> None:
    """From rail to 0 V it does not show: that reading does not speak against it."""
    open_rails = {"rails_open": 4100.0, "insulation": 2e7}
    for build in (STAGE_PAIR, REHEARSAL_ROOM, FOYER):
        limit = step_named(limited_supply.SCHOOL, build, "low_current").limit_a
        assert limit is not None
        by_ohms = ranked(limited_supply.SCHOOL, build, **open_rails, rails_output=0.9)
        assert first(by_ohms) == "device shorted"
        assert not by_ohms.off_now, "nothing is under power"
        by_current = ranked(limited_supply.SCHOOL, build, **open_rails, low_current=limit)
        assert by_current.off_now
        share = {cause.fault.key: cause.share for cause in by_current.ranked}
        assert share["device shorted"] > 0.15
        seen = ranked(limited_supply.SCHOOL, build, **open_rails, rails_output=5e4, output_open=5e4, low_current=limit)
        assert "device shorted" not in {cause.fault.key for cause in seen.ranked[:2]}


@pytest.mark.parametrize(
    ("key", "value"), [("emitter_resistor", 0.47), ("insulation", 3.0), ("rails_open", 2.0), ("rails_output", 1.0)]
)
def test_no_off_from_a_step_without_power(key: str, value: float) -> None:
    for school in SCHOOLS:
        found = ranked(school, STAGE_PAIR, **{key: value})
        assert not found.off_now
        assert found.ranked
    assert first(ranked(limited_supply.SCHOOL, STAGE_PAIR, emitter_resistor=0.47)) == "other resistor"
    assert first(ranked(limited_supply.SCHOOL, STAGE_PAIR, insulation=3.0)) == "torn pad"


def test_where_no_fault_explains_it_none_is_shown() -> None:
    healthy_ohms = {"insulation": 2e7, "rails_open": 4100.0, "rails_output": 5e4, "output_open": 5e4}
    found = ranked(limited_supply.SCHOOL, STAGE_PAIR, **healthy_ohms, emitter_resistor=0.33, low_current=0.0035)
    assert found.ranked == () or "slip" not in first(found)
    # Half of what an ohmmeter needs, on a board of which every fault known shows less or more.
    strange = ranked(limited_supply.SCHOOL, STAGE_PAIR, output_open=24.0)
    assert strange.ranked == ()
    assert not strange.off_now
    assert [step.key for step in strange.outside] == ["output_open"]


@pytest.mark.parametrize("build", [STAGE_PAIR, FOYER], ids=lambda build: build.name)
def test_some_readings_are_off_whatever_is_behind_them(build: Build) -> None:
    sink = step_named(limited_supply.SCHOOL, build, "sink")
    assert sink.window is not None
    assert sink.window.high is not None
    hot = ranked(limited_supply.SCHOOL, build, sink=sink.window.high + 21.0)
    assert hot.off_now
    assert "hotter" in hot.off_words
    warm = causes(bench_of(build, [sink], 36.0), [sink], {"sink": sink.window.high + 0.1})
    assert warm is not None
    bias = step_named(limited_supply.SCHOOL, build, "bias").window
    assert bias is not None
    assert bias.high is not None
    eight = ranked(limited_supply.SCHOOL, build, bias=8.0 * bias.high / 1.08)
    assert eight.off_now
    assert not ranked(limited_supply.SCHOOL, build, bias=1.1 * bias.high).off_now
    rail = step_named(limited_supply.SCHOOL, build, "mains_rail").window
    assert rail is not None
    assert rail.high is not None
    assert ranked(limited_supply.SCHOOL, build, mains_rail=1.4 * rail.high).off_now
    dc = step_named(limited_supply.SCHOOL, build, "low_dc")
    assert dc.most is not None
    for volts in (0.6 * dc.most, -0.6 * dc.most):
        assert ranked(limited_supply.SCHOOL, build, low_dc=volts).off_now


def test_high_ripple_is_a_dried_reservoir_before_it_is_oscillation() -> None:
    for build in (STAGE_PAIR, REHEARSAL_ROOM):
        ripple = middle(limited_supply.SCHOOL, build, "ripple")
        for factor in (2.6, 4.0):
            order = [cause.fault.key for cause in ranked(limited_supply.SCHOOL, build, ripple=factor * ripple).ranked]
            assert order[0] == "dried-out reservoir"


def test_a_bias_at_its_highest_is_not_told_to_be_left_on() -> None:
    for build in (STAGE_PAIR, FOYER):
        volts = rail_with(build, "bias open", Behind(lamp_w=lamp_outlook(build).lamp_w))
        assert volts is not None
        found = ranked(series_lamp.SCHOOL, build, lamp_rail=volts)
        assert found.off_now
        assert not any("Leave" in cause.fault.check for cause in found.ranked)


def test_a_shorted_turn_takes_what_its_winding_lets_through() -> None:
    """Of a winding of N turns and R ohms, a turn takes (V/N)^2 / (R/N); R of one half from the rated regulation."""
    for build in (STAGE_PAIR, REHEARSAL_ROOM):
        part = linear(build).transformer
        regulation = part.regulation if part.regulation is not None else estimate_regulation(part.va, part.core)[0]
        turns = 4.0 * part.v_secondary_rms
        r = 0.5 * regulation * part.v_secondary_rms**2 / (part.va / 2.0)
        expected = (part.v_secondary_rms / turns) ** 2 / (r / turns)
        assert shorted_turn_w(build) == pytest.approx(expected, rel=1e-6)
        lamp, turn = Behind(lamp_w=60.0, board=False), "shorted turn"
        behind, alone = rail_with(build, turn, lamp), rail_with(build, turn, Behind(board=False))
        whole = rail_with(build, "none", Behind(board=False))
        assert behind is not None
        assert alone is not None
        assert whole is not None
        assert behind < 0.96 * whole
        assert 0.9 * whole < alone < whole
        t_k = turn_behind_lamp_k(build, lamp)
        assert t_k is not None
        assert t_k > 850.0, "an eye sees it"


@pytest.mark.parametrize("build", [STAGE_PAIR, FOYER], ids=lambda build: build.name)
@pytest.mark.parametrize(
    ("key", "edge"),
    [
        ("bias", 2.5),
        ("warm_bias", 2.5),
        ("mains_rail", 1.3),
        ("alone_rail", 1.3),
        ("low_current", 0.9),
        ("low_dc", 0.5),
    ],
)
def test_what_is_dangerous_by_itself_begins_at_its_limit(build: Build, key: str, edge: float) -> None:
    step = step_named(limited_supply.SCHOOL, build, key)
    assert step.window is not None
    whole = {"low_current": step.limit_a, "low_dc": step.most}.get(key, step.window.high)
    assert whole is not None
    assert dangerous(step, 1.01 * edge * whole)
    assert not dangerous(step, 0.99 * edge * whole)


def test_a_sink_is_dangerous_twenty_kelvin_above_its_window() -> None:
    step = step_named(limited_supply.SCHOOL, FOYER, "sink")
    assert step.window is not None
    assert step.window.high is not None
    assert dangerous(step, step.window.high + 20.5)
    assert not dangerous(step, step.window.high + 19.5)


def test_a_dried_out_reservoir_is_one_of_a_quarter() -> None:
    small = STAGE_PAIR.supply.reservoir.c_f * 0.25
    reservoir = STAGE_PAIR.supply.reservoir.model_copy(update={"c_f": small})
    dried = STAGE_PAIR.model_copy(update={"supply": STAGE_PAIR.supply.model_copy(update={"reservoir": reservoir})})
    behind = Behind(bias_set=True)
    assert rail_with(STAGE_PAIR, "dried-out reservoir", behind) == pytest.approx(
        rail_with(dried, "none", behind), abs=1e-3
    )
    assert rail_with(dried, "none", behind) != pytest.approx(rail_with(STAGE_PAIR, "none", behind), abs=1e-2)
