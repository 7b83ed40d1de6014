"""The rules of switchers, converters, class A and D, protection and loads: each is seen clear, and seen over."""

from typing import Any

import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.stations import with_part
from plinth.demo import shelf
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.judge.margin import Margin
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from tests.turns import rows_in_turn


def changed(build: Build, **values: Any) -> Build:
    """The build with other values at paths, ``__`` for a dot."""
    document = build.model_dump()
    for path, value in values.items():
        *steps, last = path.split("__")
        target = document
        for step in steps:
            target = target[step]
        target[last] = value
    return Build.model_validate(document)


def margin(build: Build, key: str, situation: Situation | None = None) -> Margin:
    return next(m for m in judge(solve(build, situation)) if m.key == key)


CASES: list[tuple[str, Build, dict[str, Any], dict[str, Any]]] = [
    # margin, build, what makes it clear, what makes it over
    ("supply_power", MARKET_BOX, {"supply__switcher__p_continuous_w": 500}, {"supply__switcher__p_continuous_w": 40}),
    ("short_time_power", MARKET_BOX, {"supply__switcher__p_short_w": 900}, {"supply__switcher__p_short_w": 210}),
    ("supply_current", MARKET_BOX, {"supply__switcher__i_limit_a": 25}, {"supply__switcher__i_limit_a": 12}),
    ("mains_range", MARKET_BOX, {"supply__switcher__v_mains_min": 90}, {"supply__switcher__v_mains_min": 210}),
    ("mains_highest", MARKET_BOX, {"supply__switcher__v_mains_max": 300}, {"supply__switcher__v_mains_max": 250}),
    ("hold_up", MARKET_BOX, {"supply__switcher__c_bulk_f": 2e-3}, {"supply__switcher__c_bulk_f": 180e-6}),
    ("battery_lockout", STREET_BOX, {"supply__converter__v_lockout_v": 20}, {"supply__converter__v_lockout_v": 25.5}),
    ("battery_cable", STREET_BOX, {"supply__converter__cable_m": 1}, {"supply__converter__cable_m": 40}),
    ("core_flux", STREET_BOX, {"supply__converter__b_max_t": 0.3}, {"supply__converter__b_max_t": 0.1}),
    (
        "converter_diodes", STREET_BOX,
        {"supply__converter__v_diode_rated_v": 200}, {"supply__converter__v_diode_rated_v": 100},
    ),
    (
        "converter_input", STREET_BOX,
        {"supply__converter__i_in_ripple_rated_a": 30}, {"supply__converter__i_in_ripple_rated_a": 4},
    ),
    (
        "converter_choke", STREET_BOX,
        {"supply__converter__i_choke_rated_a": 40}, {"supply__converter__i_choke_rated_a": 8},
    ),
    ("converter_reach", STREET_BOX, {"supply__battery__v_empty": 23}, {"supply__converter__turns_secondary": 5}),
    (
        "feedback_divider", STREET_BOX,
        {"supply__converter__r_divider_top_ohm": 11_800}, {"supply__converter__r_divider_top_ohm": 15_000},
    ),
    ("strand", STREET_BOX, {"supply__converter__d_wire_m": 0.2e-3}, {"supply__converter__d_wire_m": 1.5e-3}),
    ("pumping", STREET_BOX, {"supply__reservoir__c_f": 60e-3}, {"supply__reservoir__c_f": 3.3e-3}),
    ("filter_peak", STREET_BOX, {"load__r_ohm": 4.05}, {"load__r_ohm": 16.0}),
    ("power_bandwidth", FOYER, {"module__slew_v_per_s": 50e6}, {"module__slew_v_per_s": 1e6}),
    ("bias_runaway", FOYER, {"module__bias__tempco_per_k": 0.002}, {"module__bias__tempco_per_k": 0.06}),
    ("smoothing_current", FOYER, {"supply__smoothing__i_rated_a": 8}, {"supply__smoothing__i_rated_a": 1}),
    ("fuse_at_switch_on", FOYER, {"entry__fuse_i2t_a2s": 14}, {"entry__fuse_i2t_a2s": 0.1}),
    ("regulator_dropout", STAGE_PAIR, {}, {"supply__input_supply__transformer__v_secondary_rms": 9}),
    ("regulator_input", STAGE_PAIR, {"supply__input_supply__regulator__v_in_max": 60},
     {"supply__input_supply__regulator__v_in_max": 25}),
    ("safe_area", REHEARSAL_ROOM, {}, {"load__r_ohm": 2.0, "module__i_limit_a": 20.0}),
    ("dc_trip_time", REHEARSAL_ROOM, {}, {"protection__dc_time_constant_s": 20.0}),
    ("dc_false_trip", REHEARSAL_ROOM, {}, {"protection__dc_time_constant_s": 0.01}),
    ("coil_highest", REHEARSAL_ROOM, {"protection__r_dropper_ohm": 220}, {"protection__coils": 1}),
    ("coil_lowest", REHEARSAL_ROOM, {"protection__r_dropper_ohm": 22}, {"protection__r_dropper_ohm": 470}),
    ("dropper_heat", REHEARSAL_ROOM, {}, {"protection__p_dropper_rated_w": 0.1}),
    ("contact_breaks_rail", REHEARSAL_ROOM, {"protection__contact_dc_v": 60}, {"protection__contact_dc_v": 24}),
]  # fmt: skip


@pytest.mark.parametrize(("key", "build", "clear", "over"), rows_in_turn(CASES, 2))
def test_a_rule_is_clear_and_over_where_it_must_be(
    key: str, build: Build, clear: dict[str, Any], over: dict[str, Any]
) -> None:
    good, bad = margin(changed(build, **clear), key), margin(changed(build, **over), key)
    assert good.state is State.CLEAR, good.sentence
    assert good.fix == ""
    assert bad.state is State.OVER, bad.sentence
    assert bad.fix
    assert bad.sentence != good.sentence
    assert bad.room < 0.0 < good.room


@pytest.mark.parametrize(
    ("key", "build", "missing"),
    [
        ("dropper_heat", REHEARSAL_ROOM, {"protection__p_dropper_rated_w": None}),
        ("contact_breaks_rail", REHEARSAL_ROOM, {"protection__contact_dc_v": None}),
        ("converter_input", STREET_BOX, {"supply__converter__i_in_ripple_rated_a": None}),
        ("converter_choke", STREET_BOX, {"supply__converter__i_choke_rated_a": None}),
        ("pumping", STREET_BOX, {"module__v_ov_lockout_v": None, "supply__converter__v_ov_lockout_v": None}),
        ("safe_area", REHEARSAL_ROOM, {"module__safe_area": ()}),
    ],
)  # fmt: skip
def test_what_is_not_stated_is_unknown_and_never_safe(key: str, build: Build, missing: dict[str, Any]) -> None:
    found = margin(changed(build, **missing), key)
    assert found.state is State.UNKNOWN
    assert found.fix


def test_a_jumper_allows_what_its_own_winding_stands() -> None:
    """Of 300 V that the switcher stands in all, set for 230 V it stands 15 % more than those."""
    plenty = {"supply__switcher__v_mains_max": 300}
    right, low = (
        margin(changed(MARKET_BOX, **plenty, supply__switcher__v_mains_jumper=volts), "mains_highest")
        for volts in (230.0, 210.0)
    )
    # A high day is 253 V.
    assert right.limit == pytest.approx(264.5)
    assert right.state is State.CLOSE
    assert low.limit == pytest.approx(241.5)
    assert low.state is State.OVER
    free = margin(changed(MARKET_BOX, **plenty, supply__switcher__v_mains_jumper=None), "mains_highest")
    assert free.limit == 300.0
    assert free.state is State.CLEAR


def test_rules_that_do_not_apply_to_a_kind_are_silent() -> None:
    market, foyer = ({m.key for m in judge(solve(b))} for b in (MARKET_BOX, FOYER))
    assert "winding_current" in foyer - market
    assert "supply_power" in market - foyer
    assert "pumping" not in market, "a full bridge pumps nothing"
    assert "dc_trip_time" not in foyer, "its time constant is not stated"


def test_antiphase_channels_cancel_the_pumping_and_bridged_pairs_have_none() -> None:
    alone = solve(STREET_BOX)["pumped_20hz_v"].value
    against = solve(STREET_BOX, Situation(antiphase=True))["pumped_20hz_v"].value
    assert against < alone - 5.0
    assert against == pytest.approx(solve(STREET_BOX)["rail_no_load_v"].value, abs=0.5)
    bridged = changed(STREET_BOX, wiring="bridged")
    assert solve(bridged).get("pumped_20hz_v") is None


def test_a_load_of_resistors_is_judged_by_its_hottest() -> None:
    even = with_part(REHEARSAL_ROOM, "load", shelf.FOUR_IN_ALL)
    assert even.load.p_carried_w == pytest.approx(200.0)
    assert margin(even, "load_network").state is State.CLEAR
    uneven = changed(even, load__network="3.9+8.2||8.2", load__r_ohm=8.0, load__p_each_w=10)
    assert uneven.load.p_carried_w == pytest.approx(10.0 / (3.9 / 8.0))
    found = margin(uneven, "load_network")
    assert found.figure is not None
    assert found.figure.value == pytest.approx(solve(uneven)["output_power_w"].value * 3.9 / 8.0)
    power = solve(uneven)["output_power_w"]
    assert found.figure.u / found.figure.value == pytest.approx(power.u / power.value)
    assert found.figure.estimated == power.estimated
    with pytest.raises(ValueError, match="agree within 10 %"):
        changed(even, load__network="8.2+8.2")


def test_a_power_factor_stage_beside_a_linear_supply_of_the_same_load() -> None:
    corrected = changed(MARKET_BOX, supply__switcher__pfc=True)
    with_stage, without = solve(corrected), solve(MARKET_BOX)
    linear = solve(STAGE_PAIR)
    assert with_stage["power_factor"].value > 0.99
    assert without["power_factor"].value < 0.75
    assert linear["power_factor"].value < 0.75
    assert with_stage["primary_rms_a"].value < 0.7 * without["primary_rms_a"].value
    # The load is the same; what differs is lost by the pulses in the line.
    i, r_line = without["primary_rms_a"].value, without.inputs["r_line"].value
    assert without["mains_power_w"].value - with_stage["mains_power_w"].value == pytest.approx(i**2 * r_line, rel=0.6)


def test_a_module_with_its_own_bridge_loses_another_drop() -> None:
    own = changed(STAGE_PAIR, module__own_rectifier=True)
    lost = solve(STAGE_PAIR)["clip_v_peak"].value - solve(own)["clip_v_peak"].value
    # One diode less the sag that it spares, over 1 + R_out / R_L.
    assert 0.5 < lost < 0.8


def test_a_loudspeaker_is_heavier_to_drive_than_its_resistor() -> None:
    cone = with_part(REHEARSAL_ROOM, "load", shelf.PAPER_CONE)
    at_resonance = solve(cone, Situation(frequency_hz=58.0))
    assert at_resonance["output_i_peak_a"].value < 0.4 * solve(REHEARSAL_ROOM)["output_i_peak_a"].value
    reactive = solve(cone, Situation(frequency_hz=40.0))
    same_size = solve(
        REHEARSAL_ROOM, Situation(frequency_hz=40.0, load_ohm=Situation(frequency_hz=40.0).impedance(cone)[0])
    )
    assert reactive["heat_w"].value > same_size["heat_w"].value, "the phase turns power into heat in the stage"


def test_parts_of_another_kind_bring_their_kind_of_supply() -> None:
    switched = with_part(STAGE_PAIR, "supply.transformer", shelf.SHUNTER_45)
    assert switched.supply.kind == "switcher"
    assert switched.supply.reservoir == STAGE_PAIR.supply.reservoir
    assert solve(switched)["clip_power_w"].value > 0.0
    bench = with_part(switched, "supply.switcher", shelf.BENCH_PAIR)
    assert bench.supply.kind == "direct"
    assert solve(bench)["rail_idle_v"].value == pytest.approx(30.0, abs=0.2)
    again = with_part(bench, "supply.source", shelf.RING_225)
    assert again.supply.kind == "linear"
    # One bridge over both secondaries in series: one diode's drop less than two bridges.
    assert again.supply.rectifier.bridges == "one"
    one_drop = solve(STAGE_PAIR)["rail_idle_v"].value
    assert 0.2 < solve(again)["rail_idle_v"].value - one_drop < 1.2
