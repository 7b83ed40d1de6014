"""Faults that practitioners' figures and independent integrations found, each against a reference of its own."""

import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from plinth.builds.build import Build
from plinth.builds.parts import Entry
from plinth.builds.situation import Situation
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.judge.claims import sensitivity_claim
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.mains.lamp import Lamp
from plinth.physics.mains.transformer import estimate_regulation
from plinth.physics.rails.time_course import MainsSource, SoftStart, bridged_peak_a
from plinth.predict.mains_steps import mains_steps
from plinth.predict.solve import solve
from plinth.predict.transients import switch_on
from tests.family import FAMILY
from tests.sample_builds import SHARED_PAIR, linear
from tests.solved import solved
from tests.turns import crossed


def quiet(build: Build, v_half: float, va: float) -> Build:
    """The shared pair on another transformer, with next to no idle current."""
    part = linear(build).transformer.model_copy(
        update={"v_secondary_rms": v_half, "va": va, "regulation": 0.06, "leakage_h": None, "primary_share": None}
    )
    reservoir = linear(build).reservoir.model_copy(update={"r_bleeder_ohm": None, "esr_ohm": 0.02})
    supply = linear(build).model_copy(update={"transformer": part, "reservoir": reservoir})
    module = build.module.model_copy(update={"v_rail_min": 1.0})
    return build.model_copy(update={"supply": supply, "module": module})


def rails_behind_a_lamp(build: Build, lamp: Lamp, i_load: float) -> tuple[float, float]:
    """Mean rail and lamp volts RMS by plain integration of lamp, transformer, rectifier and reservoirs in time."""
    supply = linear(build)
    part, bridge, can = supply.transformer, supply.rectifier, supply.reservoir
    v_oc = part.v_secondary_rms * (1.0 + (part.regulation or 0.0))
    i_rated = part.va / (2.0 * part.v_secondary_rms)
    r_winding = (part.regulation or 0.0) * part.v_secondary_rms / i_rated
    drops = 2 if bridge.bridges == "two" else 1
    v_drop, r_own = drops * (bridge.v_forward_v or 0.0), r_winding + drops * (bridge.r_dynamic_ohm or 0.0)
    ratio = 230.0 / v_oc
    temperature = 1000.0
    for _ in range(60):
        # Both rails draw through the lamp: each sees it twice over, on its side of the transformer.
        r = r_own + 2.0 * lamp.ohm(temperature) / ratio**2

        def slope(t: float, y: np.ndarray, r: float = r) -> list[float]:
            e = math.sqrt(2.0) * v_oc * abs(math.sin(2.0 * math.pi * 50.0 * t)) - v_drop
            node = y[0] - (can.esr_ohm or 0.0) * i_load
            i = max(0.0, (e - node) / (r + (can.esr_ohm or 0.0)))
            return [(i - i_load) / can.c_f, i * i]

        start = 0.3 * math.sqrt(2.0) * v_oc
        found = solve_ivp(slope, (0.0, 3.0), [start, 0.0], method="LSODA", max_step=2e-4, rtol=1e-6, atol=1e-8)
        late = found.t > 2.9
        rail = float(np.trapezoid(found.y[0][late], found.t[late]) / np.ptp(found.t[late]))
        mean_square = float(np.ptp(found.y[1][late]) / np.ptp(found.t[late]))
        i_primary = 2.0 * math.sqrt(mean_square) / ratio
        # Power in against power out moves the filament a part of the way.
        wanted = (i_primary**2 * lamp.ohm(temperature) / lamp.p_rated_w) ** 0.25 * 2700.0
        if abs(wanted - temperature) < 1.0:
            break
        temperature += 0.5 * (wanted - temperature)
    return rail, i_primary * lamp.ohm(temperature)


def test_what_hangs_on_the_rails_warms_the_lamp_too() -> None:
    build = quiet(SHARED_PAIR, 18.0, 300.0)
    found = solved(build, Situation(lamp_w=60.0, rail_load_a=0.5))
    rail, v_lamp = rails_behind_a_lamp(build, Lamp(60.0, 230.0), 0.5)
    assert found["rail_idle_v"].value == pytest.approx(rail, rel=0.02)
    assert found["lamp_v_rms"].value == pytest.approx(v_lamp, rel=0.02)


@pytest.mark.parametrize(
    ("build", "lamp_w"),
    crossed((REHEARSAL_ROOM, STAGE_PAIR, FOYER), (40.0, 60.0, 100.0), 2, row_name=lambda build: build.name),
)
def test_the_lamp_s_volts_are_its_current_times_its_resistance(build: Build, lamp_w: float) -> None:
    found = solved(build, Situation(lamp_w=lamp_w))
    lamp = found.solution.lamp
    assert lamp is not None
    assert found["lamp_v_rms"].value == pytest.approx(found["primary_rms_a"].value * lamp.r_ohm, rel=5e-3)
    assert found["lamp_k"].value < 2700.0
    asleep = found["rail_idle_v"].value < build.module.v_rail_min
    assert asleep == any("need not be a short" in line for line in found.warnings)


def test_a_class_a_stage_behind_a_lamp_is_asleep_and_not_shorted() -> None:
    rails = [solved(FOYER, Situation(lamp_w=w))["rail_idle_v"].value for w in (40.0, 60.0, 100.0, 150.0)]
    assert rails == sorted(rails)
    assert 3.0 < rails[0] < FOYER.module.v_rail_min


def test_power_ends_at_the_module_s_own_limit_where_that_comes_first() -> None:
    chip = REHEARSAL_ROOM.module.model_copy(update={"i_limit_a": 7.0})
    part = linear(REHEARSAL_ROOM).transformer.model_copy(update={"v_secondary_rms": 24.0, "va": 400.0})
    supply = linear(REHEARSAL_ROOM).model_copy(update={"transformer": part})
    build = REHEARSAL_ROOM.model_copy(update={"module": chip, "supply": supply})
    found = solve(build, Situation(load_ohm=2.0))
    assert found["clip_power_w"].value == pytest.approx(7.0**2 * 2.0 / 2.0)
    assert found["clip_worst_power_w"].value == pytest.approx(49.0)
    # The limit is known to a tenth, and power goes with its square.
    assert found["clip_power_w"].u == pytest.approx(49.0 * 2.0 * 0.10 / math.sqrt(3.0), rel=0.04)
    assert any("own current limit of 7 A" in line for line in found.warnings)
    margin = next(m for m in judge(found) if m.key == "module_current")
    assert margin.state is State.OVER
    easy = solve(build, Situation(load_ohm=8.0))
    assert easy["output_i_peak_a"].value < 7.0
    assert not any("own current limit" in line for line in easy.warnings)


def test_the_power_shown_is_that_of_the_worst_phase() -> None:
    for phase in (0.0, 40.0, 90.0):
        found = solve(SHARED_PAIR, Situation(frequency_hz=20.0, mains_hz=60.0, phase_deg=phase))
        assert found["clip_worst_power_w"].value <= found["clip_power_w"].value * (1.0 + 1e-6)
        worst = found["clip_worst_power_w"].value
    others = [
        solve(SHARED_PAIR, Situation(frequency_hz=20.0, mains_hz=60.0, phase_deg=p))["clip_power_w"].value
        for p in np.arange(0.0, 180.0, 22.5)
    ]
    assert worst == pytest.approx(min(others), rel=0.01)
    assert max(others) > 1.01 * min(others)


def test_the_surge_when_a_soft_start_is_bridged_is_a_figure() -> None:
    entry = Entry(name="Soft", fuse_a_rms=2, fuse_kind="T", r_soft_ohm=100.0, soft_bypass_s=0.2)
    build = quiet(SHARED_PAIR, 35.0, 300.0).model_copy(update={"entry": entry})
    found = solved(build)
    circuit = found.solution.bare_circuit
    second = found["bridged_peak_a"].value
    assert second > found["inrush_peak_a"].value
    # At the crest all that holds the current is the copper, the diodes and the capacitor's ESR.
    course = switch_on(found.solution, 0.2)
    v = float(course.v_plus[-1])
    r = circuit.rail.r_source_ohm + circuit.esr
    expected = 2.0 * (circuit.v_crest - circuit.v_drop - v) / r / circuit.turns_ratio
    assert second == pytest.approx(expected, rel=0.05)
    bare = bridged_peak_a(
        circuit.network, MainsSource(circuit.v_amplitude, circuit.v_drop, 50.0), circuit.turns_ratio,
        SoftStart(100.0, 10.0), 0.0,
    )  # fmt: skip
    assert bare < 0.1 * second, "after ten seconds the rails are up and nothing is left to surge"


def test_every_way_to_ask_for_the_current_from_the_wall_gives_one_answer() -> None:
    rest = solved(STAGE_PAIR, Situation(level=0.0))["primary_rms_a"].value
    assert mains_steps(STAGE_PAIR, Situation())[-1].primary_rms_a == pytest.approx(rest, rel=5e-3)


def test_a_power_factor_stage_is_not_perfect() -> None:
    corrected = FAMILY["class D full bridge on corrected switcher"]
    for level in (1.0, 0.6):
        found = solve(corrected, Situation(level=level))["power_factor"]
        assert 0.92 < found.value < 0.995
        assert found.u > 0.0005
        assert found.estimated
    light = solve(corrected, Situation(level=0.1))["power_factor"].value
    assert light < solve(corrected)["power_factor"].value


@pytest.mark.parametrize(
    ("va", "kind", "expected"),
    [(10.0, "toroid", 0.30), (100.0, "toroid", 0.115), (300.0, "toroid", 0.064), (500.0, "toroid", 0.048)],
)
def test_regulation_is_what_its_docstring_says(va: float, kind: str, expected: float) -> None:
    assert estimate_regulation(va, kind)[0] == pytest.approx(expected, rel=0.02)


def test_small_cores_of_both_kinds_are_told_apart_down_to_a_few_va() -> None:
    assert estimate_regulation(6.0, "ei")[0] > estimate_regulation(6.0, "toroid")[0] > 0.30


def test_a_duty_limit_has_a_spread() -> None:
    found = solve(FAMILY["class D full bridge on bench"])["clip_v_peak"]
    assert found.u / found.value > 0.02 / math.sqrt(3.0) * 0.9


def test_a_listing_that_contradicts_itself_is_told_so() -> None:
    module = STAGE_PAIR.module.model_copy(update={"sensitivity_v_rms": 1.9, "gain": 24.0, "v_rail_max": 47.0})
    words = sensitivity_claim(module, solve(STAGE_PAIR)["drive_v_rms"])
    assert words is not None
    assert "contradicts itself" in words
    assert "45.6 V rms" in words
    assert "turn the source down" not in words


def test_a_divider_twice_off_is_asked_about() -> None:
    converter = STREET_BOX.supply.model_copy(deep=True)
    part = converter.converter
    assert part is not None
    for factor in (2.0, 0.5):
        top = (factor * part.v_rail / 2.5 - 1.0) * 1000.0
        changed = part.model_copy(
            update={"r_divider_top_ohm": top, "r_divider_bottom_ohm": 1000.0, "v_reference_v": 2.5}
        )
        build = STREET_BOX.model_copy(update={"supply": converter.model_copy(update={"converter": changed})})
        margin = next(m for m in judge(solve(build)) if m.key == "feedback_divider")
        assert margin.state is State.UNKNOWN
        assert margin.sentence.endswith("Which is it?")


@pytest.mark.parametrize(("mains", "words"), [(115.0, "does not start"), (500.0, "destroys it at once")])
def test_a_wrong_jumper_changes_what_is_predicted(mains: float, words: str) -> None:
    supply = MARKET_BOX.supply
    part = supply.switcher.model_copy(update={"v_mains_jumper": 230.0})  # type: ignore[union-attr]
    build = MARKET_BOX.model_copy(update={"supply": supply.model_copy(update={"switcher": part})})
    with pytest.raises(ValueError, match=words):
        solved(build, Situation(mains_v_rms=mains))
    right = judge(solve(build))
    assert next(m for m in right if m.key == "primary").state is State.CLEAR
    # A high day of exactly what it is rated for is on its limit, not over it.
    rated = part.model_copy(update={"v_mains_max": 253.0})
    build = build.model_copy(update={"supply": supply.model_copy(update={"switcher": rated})})
    assert next(m for m in judge(solve(build)) if m.key == "mains_highest").state is State.CLOSE


@pytest.mark.parametrize(("mains", "wound"), [(120.0, 230.0), (230.0, 115.0)])
def test_a_wrong_primary_is_named_first(mains: float, wound: float) -> None:
    part = linear(SHARED_PAIR).transformer.model_copy(update={"v_primary_rms": wound})
    build = SHARED_PAIR.model_copy(update={"supply": linear(SHARED_PAIR).model_copy(update={"transformer": part})})
    margins = judge(solve(build, Situation(mains_v_rms=mains, level=0.0)))
    assert margins[0].key == "primary"
    assert margins[0].state is State.OVER
    assert "all that is" in margins[0].sentence


@pytest.mark.parametrize("share", [0.0, 0.5, 0.9])
@pytest.mark.parametrize("frequency_hz", [20.0, 50.0, 1000.0])
def test_diodes_conduct_as_long_as_their_own_currents_say(share: float, frequency_hz: float) -> None:
    """In copper that both halves share, the other rail's current takes of what drives a diode."""
    part = linear(REHEARSAL_ROOM).transformer.model_copy(update={"primary_share": share, "leakage_h": None})
    supply = linear(REHEARSAL_ROOM).model_copy(update={"transformer": part})
    found = solved(REHEARSAL_ROOM.model_copy(update={"supply": supply}), Situation(frequency_hz=frequency_hz))
    for key, rail in (("plus", found.state.plus), ("minus", found.state.minus)):
        assert rail is not None
        flows = (rail.i_diode_a > 0.0).astype(float)
        counted = 180.0 * float(np.mean(0.5 * (flows[:-1] + flows[1:])))
        # Each beginning and end lies somewhere within a step.
        within = 180.0 * float(np.mean(np.abs(np.diff(flows))))
        assert found[f"rail_{key}_conduction_deg"].value == pytest.approx(counted, abs=within)
