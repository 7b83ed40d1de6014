"""A relay supply against an integration of its bridge and can; rail, trigger and soft start against closed forms."""

import math
from typing import Any

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from plinth.builds.auxiliaries import RelaySupply, Trigger
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from tests.family import FAMILY
from tests.solved import Solved, solved
from tests.turns import in_turn

ON_RAIL = RelaySupply(
    name="Small regulator", maker="–", v_out=12, v_dropout_v=2.2, i_max_a=0.5, i_boards_a=0.02, v_in_max=35,
    r_junction_air_k_per_w=30, t_junction_max_c=125,
)  # fmt: skip
ON_WINDING = ON_RAIL.model_copy(
    update={
        "taken_from": "winding of its own", "v_winding_rms": 14.0, "winding_regulation": 0.2, "c_f": 1e-3,
    }
)  # fmt: skip
COILS = {"coil_v": 12.0, "coil_ohm": 240.0, "coils": 2, "coil_wiring": "parallel"}


def with_supply(build: Build, part: RelaySupply, **guard: object) -> Build:
    protection = build.protection.model_copy(update=COILS | guard)
    return build.model_copy(update={"protection": protection, "relay_supply": part})


def integrated_input(v_rms: float, c_f: float, i_a: float, drop_v: float) -> tuple[float, float]:
    """Mean and lowest volts of a can behind an ideal bridge of stiff diodes at a steady current, marched by scipy."""

    def slope(t: float, v: Any) -> list[float]:
        ahead = abs(math.sqrt(2.0) * v_rms * math.sin(2.0 * math.pi * 50.0 * t)) - drop_v
        return [(max(0.0, ahead - v[0]) / 0.05 - i_a) / c_f]

    end = 0.2
    run = solve_ivp(slope, (0.0, end), [math.sqrt(2.0) * v_rms - drop_v], max_step=2e-5, method="LSODA", rtol=1e-8)
    last = run.t > end - 0.02
    return float(np.trapezoid(run.y[0][last], run.t[last]) / 0.02), float(run.y[0][last].min())


def test_a_winding_of_its_own_is_what_an_integration_of_bridge_and_can_gives() -> None:
    build = with_supply(STAGE_PAIR, ON_WINDING)
    found = solve(build)
    i_a = 2 * 12.0 / 240.0 + 0.02
    assert found["relay_supply_a"].value == pytest.approx(i_a, rel=1e-9)
    mean, _ = integrated_input(14.0, 1e-3, i_a + 0.005, 1.7)
    # The closed form lets the can fall for a whole half cycle: a volt of ripple a tenth too deep.
    assert found["relay_supply_in_v"].value == pytest.approx(mean, abs=0.15)
    _, lowest = integrated_input(14.0 * 0.9, 1e-3, i_a + 0.005, 1.7)
    headroom = found["relay_supply_headroom_v"].value
    assert headroom <= lowest - 12.0 - 2.2
    assert headroom == pytest.approx(lowest - 12.0 - 2.2, abs=0.35)
    assert found["relay_supply_high_v"].value == pytest.approx(math.sqrt(2.0) * 14.0 * 1.2 * 1.1 - 1.2, rel=1e-9)


def test_heat_and_junction_are_the_whole_drop_and_the_regulators_own_draw() -> None:
    found = solve(with_supply(STAGE_PAIR, ON_RAIL), Situation(ambient_c=31.0))
    high, i_a = found["relay_supply_high_v"].value, found["relay_supply_a"].value
    # What goes in and does not come out: energy in less energy out.
    heat = high * (i_a + 0.005) - 12.0 * i_a
    assert found["relay_supply_heat_w"].value == pytest.approx(heat, rel=1e-9)
    assert found["relay_supply_junction_c"].value == pytest.approx(31.0 + 30.0 * heat, rel=1e-9)
    assert high == pytest.approx(found["rail_no_load_high_v"].value, rel=1e-9)


@pytest.mark.parametrize("name", in_turn(FAMILY, 9))
def test_on_the_rail_it_sees_what_the_rail_is_on_every_kind_of_build(name: str) -> None:
    build = with_supply(FAMILY[name], ON_RAIL)
    found: Solved = solved(build)
    rail = found["rail_plus_mean_v"].value
    assert found["relay_supply_in_v"].value == pytest.approx(rail, rel=1e-9)
    low = found["rail_plus_min_v"].value
    if build.supply.follows_mains:
        low *= 0.9
    assert found["relay_supply_headroom_v"].value == pytest.approx(low - 12.0 - 2.2, rel=1e-6, abs=1e-6)
    # The coils see the regulator, not the rail.
    assert found["coil_v"].value == found["coil_high_v"].value == pytest.approx(12.0)


@pytest.mark.parametrize(("wiring", "each"), [("series", 6.0), ("parallel", 12.0)])
def test_coils_share_the_regulators_volts(wiring: str, each: float) -> None:
    found = solved(with_supply(STAGE_PAIR, ON_RAIL, coil_wiring=wiring))
    assert found["coil_v"].value == pytest.approx(each)
    amperes = each / 240.0 * (1 if wiring == "series" else 2) + 0.02
    assert found["relay_supply_a"].value == pytest.approx(amperes)


def test_without_one_the_coils_hang_on_the_rail_and_nothing_is_said_of_a_supply() -> None:
    build = STAGE_PAIR.model_copy(
        update={"protection": STAGE_PAIR.protection.model_copy(update=COILS | {"r_dropper_ohm": 220.0})}
    )
    found = solved(build)
    rail = found["rail_plus_mean_v"].value
    # Two coils of 240 ohm beside each other behind 220 ohm.
    assert found["coil_v"].value == pytest.approx(rail * 120.0 / 340.0)
    assert not [name for name in found.values if name.startswith("relay_supply")]


def test_a_regulation_that_nobody_states_is_an_estimate_and_widens_the_highest_input() -> None:
    stated = solve(with_supply(STAGE_PAIR, ON_WINDING))
    guessed = solve(with_supply(STAGE_PAIR, ON_WINDING.model_copy(update={"winding_regulation": None})))
    assert not stated.inputs["relay_regulation"].estimated
    assert guessed.inputs["relay_regulation"].estimated
    # A fifth is usual for a small winding, as is stated of the other one.
    assert guessed["relay_supply_high_v"].value == pytest.approx(stated["relay_supply_high_v"].value, rel=1e-9)
    assert guessed["relay_supply_high_v"].u > 2.0 * stated["relay_supply_high_v"].u > 0.0


def test_a_winding_needs_its_volts_its_can_and_mains() -> None:
    for left_out in ("v_winding_rms", "c_f"):
        with pytest.raises(ValueError, match="found a relay supply on a winding of its own without its volts"):
            RelaySupply.model_validate(ON_WINDING.model_dump() | {left_out: None})
    battery = next(build for build in FAMILY.values() if build.mains is None)
    document = battery.model_dump() | {"relay_supply": ON_WINDING.model_dump()}
    with pytest.raises(ValueError, match="found a relay supply on a winding of its own without mains"):
        Build.model_validate(document)


def test_trigger_and_soft_start_are_ohms_law() -> None:
    trigger = Trigger(name="Switch-on relay", maker="–", coil_v=12, coil_ohm=300)
    entry = STAGE_PAIR.entry.model_copy(update={"r_soft_ohm": 22.0, "soft_bypass_s": 0.4})
    found = solved(STAGE_PAIR.model_copy(update={"trigger": trigger, "entry": entry}))
    assert found["trigger_a"].value == pytest.approx(0.04)
    assert found["soft_stuck_w"].value == pytest.approx(22.0 * found["primary_rms_a"].value ** 2)
    stays = entry.model_copy(update={"soft_bypass_s": None})
    assert "soft_stuck_w" not in solved(STAGE_PAIR.model_copy(update={"entry": stays})).values


def judged(build: Build) -> dict[str, Any]:
    prediction: Prediction = solve(build)
    return {margin.key: margin for margin in judge(prediction)}


def test_each_limit_turns_where_its_figure_passes_it() -> None:
    found = judged(with_supply(STAGE_PAIR, ON_RAIL))
    # Rails of some 38 V on a high day against an absolute maximum of 35 V.
    assert found["relay_supply_input"].state is State.OVER
    assert found["relay_supply_input"].limit == 35.0
    assert found["relay_supply_headroom"].state is State.CLEAR
    assert found["relay_supply_current"].state is State.CLEAR
    assert found["relay_coil_least"].state is found["relay_coil_most"].state is State.CLEAR
    assert not {"coil_highest", "coil_lowest"} & set(found)
    hot = judged(with_supply(STAGE_PAIR, ON_RAIL.model_copy(update={"i_boards_a": 0.3, "t_junction_max_c": None})))
    assert hot["relay_supply_heat"].state is State.OVER
    assert hot["relay_supply_heat"].limit == 125.0
    assert "assumed" in hot["relay_supply_heat"].limit_words
    low = judged(with_supply(STAGE_PAIR, ON_WINDING.model_copy(update={"v_winding_rms": 10.0})))
    assert low["relay_supply_headroom"].state is State.OVER
    wrong = judged(with_supply(STAGE_PAIR, ON_RAIL.model_copy(update={"v_out": 24.0})))
    # 24 V on coils of 12 V: 1.2 times is too much.
    assert wrong["relay_coil_most"].state is State.OVER
    assert wrong["relay_coil_most"].limit == pytest.approx(14.4)
    weak = judged(with_supply(STAGE_PAIR, ON_RAIL, coil_v=24.0))
    assert weak["relay_coil_least"].state is State.OVER
    assert weak["relay_coil_least"].limit == pytest.approx(18.0)


def test_what_nobody_states_of_a_relay_is_unknown_never_clear() -> None:
    bare = RelaySupply(name="Bare", maker="–", v_out=12, v_dropout_v=2.5, r_junction_air_k_per_w=10)
    trigger = Trigger(name="Bare", maker="–", coil_ohm=300)
    entry = STAGE_PAIR.entry.model_copy(update={"r_soft_ohm": 22.0, "soft_bypass_s": 0.4})
    found = judged(with_supply(STAGE_PAIR, bare).model_copy(update={"trigger": trigger, "entry": entry}))
    for key in (
        "relay_supply_input", "relay_supply_current", "trigger_current", "trigger_coil", "trigger_contact",
        "soft_never_bridged", "soft_contact",
    ):  # fmt: skip
        assert found[key].state is State.UNKNOWN, key
        assert found[key].fix


@pytest.mark.parametrize("part", [ON_RAIL, ON_WINDING], ids=["rail", "winding"])
def test_a_coil_that_nobody_states_leaves_current_and_heat_unknown(part: RelaySupply) -> None:
    build = with_supply(STAGE_PAIR, part, coil_ohm=None)
    figures = solved(build).values
    assert not {"relay_supply_a", "relay_supply_heat_w", "relay_supply_junction_c"} & set(figures)
    assert ("relay_supply_headroom_v" in figures) == (part is ON_RAIL)
    found = judged(build)
    for key in ("relay_supply_current", "relay_supply_heat"):
        assert found[key].state is State.UNKNOWN
        assert "coil" in found[key].fix
    assert found["relay_supply_headroom"].state is (State.CLEAR if part is ON_RAIL else State.UNKNOWN)
    bare = Trigger(name="Bare", maker="–", i_max_a=0.1)
    assert judged(STAGE_PAIR.model_copy(update={"trigger": bare}))["trigger_current"].state is State.UNKNOWN


def test_a_trigger_and_a_soft_start_are_judged_by_what_is_stated() -> None:
    trigger = Trigger(
        name="Switch-on relay", maker="–", i_max_a=0.03, coil_v=24, coil_ohm=300, contact_peak_a=5
    )  # fmt: skip
    entry = STAGE_PAIR.entry.model_copy(
        update={"r_soft_ohm": 22.0, "soft_bypass_s": 0.4, "p_soft_w": 5.0, "soft_contact_peak_a": 500.0}
    )
    found = judged(STAGE_PAIR.model_copy(update={"trigger": trigger, "entry": entry}))
    assert found["trigger_current"].state is State.OVER
    assert found["trigger_coil"].state is State.OVER
    assert found["trigger_coil"].limit == pytest.approx(18.0)
    assert found["trigger_contact"].state is State.OVER
    assert found["soft_never_bridged"].state is State.OVER
    assert found["soft_contact"].state is State.CLEAR
