"""The supply against an independent scipy integration, over generated circuits."""

import dataclasses
import math

import numpy as np
import pytest

from plinth.physics.mains.wave import crest, mains_wave
from plinth.physics.rails import supply_flow
from plinth.physics.rails.common_period import FINE
from plinth.predict.circuit import PowerCircuit
from plinth.predict.operating_points import Drive, OperatingPoints, solve_points
from plinth.predict.power_state import lay_period, level_state, plain_rail, unit_load
from tests.predict.circuits import random_circuit
from tests.reference import ReferenceRail, integrate_rail
from tests.turns import in_turn


def drive(circuit: PowerCircuit, f_hz: float, level: float = 1.0, phase_deg: float = 0.0) -> Drive:
    return Drive(f_hz, phase_deg, circuit.channels, level, 0.5, 1.1)


def reference(points: OperatingPoints, sign: float) -> ReferenceRail:
    circuit, state = points.circuit, points.at_level
    omega = 2 * math.pi * state.period.shared.f_signal_hz
    idle, peak = circuit.channels * circuit.i_idle_a, state.driven * state.v_peak / circuit.r_load
    rail = state.rails[0 if sign > 0 else 1]

    def load(t: float) -> float:
        return idle + peak * max(sign * math.sin(omega * t), 0.0)

    return integrate_rail(
        v_amplitude=circuit.v_amplitude,
        v_drop=circuit.v_drop,
        r_source=circuit.r_winding + circuit.drops * circuit.r_dynamic,
        c=circuit.c,
        esr=circuit.esr,
        g_bleed=circuit.g_bleed,
        f_mains=circuit.mains_hz,
        load=load,
        period_s=state.period.shared.seconds,
        v_start=float(rail.v_cap[0]) - 0.2,
        third_harmonic=circuit.third_harmonic,
    )


@pytest.mark.parametrize("seed", in_turn(range(12), 4))
def test_rails_match_an_independent_integration(seed: int) -> None:
    circuit = random_circuit(seed)
    f_hz = [20.0, 2 * circuit.mains_hz, 1000.0][seed % 3]
    points = solve_points(circuit, drive(circuit, f_hz, level=[1.0, 0.7, 0.3][seed % 3]), FINE)
    for sign, rail in zip((1.0, -1.0), points.at_level.rails, strict=True):
        exact = reference(points, sign)
        assert float(np.mean(exact.v_node[:-1])) == pytest.approx(rail.mean(rail.v_node), rel=1e-4, abs=3e-3)
        assert float(np.min(exact.v_node)) == pytest.approx(rail.v_min, rel=1e-4, abs=3e-3)
        assert float(np.max(exact.v_node)) == pytest.approx(rail.v_max, rel=1e-4, abs=3e-3)
        rms = float(np.sqrt(np.mean(exact.i_diode[:-1] ** 2)))
        assert rail.rms(rail.i_diode_a) == pytest.approx(rms, rel=3e-3)
        assert float(np.max(rail.i_diode_a)) == pytest.approx(float(np.max(exact.i_diode)), rel=5e-3)
        conducting = 180.0 * float(np.mean(exact.i_diode[:-1] > 0))
        assert rail.conduction_angle_deg() == pytest.approx(conducting, abs=0.3)


@pytest.mark.parametrize(("seed", "third"), [(3, 0.04), (4, 0.1), (5, 0.18)])
def test_flat_topped_mains_matches_an_independent_integration(seed: int, third: float) -> None:
    circuit = dataclasses.replace(random_circuit(seed), third_harmonic=third)
    points = solve_points(circuit, drive(circuit, 1000.0), FINE)
    exact, rail = reference(points, 1.0), points.at_level.plus
    assert float(np.mean(exact.v_node[:-1])) == pytest.approx(rail.mean(rail.v_node), abs=5e-3)
    rms = float(np.sqrt(np.mean(exact.i_diode[:-1] ** 2)))
    assert rail.rms(rail.i_diode_a) == pytest.approx(rms, rel=3e-3)
    angle = np.linspace(0, 2 * np.pi, 100_001)
    assert float(np.max(mains_wave(angle, third))) == pytest.approx(crest(third), rel=1e-6)
    assert float(np.sqrt(np.mean(mains_wave(angle[:-1], third) ** 2))) == pytest.approx(math.sqrt(0.5), rel=1e-6)


@pytest.mark.parametrize("seed", in_turn(range(4), 4, offset=1))
def test_power_factor_matches_an_independent_integration(seed: int) -> None:
    circuit = random_circuit(100 + seed)
    points = solve_points(circuit, drive(circuit, 1000.0), FINE)
    plus, minus = reference(points, 1.0), reference(points, -1.0)
    emf = circuit.v_amplitude * np.abs(np.sin(2 * np.pi * circuit.mains_hz * plus.t))
    total = plus.i_diode + minus.i_diode
    p = float(np.mean((emf * total)[:-1]))
    s = circuit.v_oc_rms * float(np.sqrt(np.mean(total[:-1] ** 2)))
    state = points.at_level
    wave = state.period.mains_wave
    current = supply_flow.secondary_current(state.rails, wave, circuit.v_drop)
    flow = supply_flow.mains_side(current, circuit.v_amplitude * wave)
    assert flow.power_factor == pytest.approx(p / s, abs=0.001)
    assert flow.p_w == pytest.approx(p, rel=1e-3)
    assert flow.crest_factor == pytest.approx(float(np.max(total)) / (s / circuit.v_oc_rms), rel=5e-3)


@pytest.mark.parametrize("seed", in_turn(range(6), 3, offset=2))
def test_output_at_onset_just_touches_the_integrated_rail(seed: int) -> None:
    circuit = random_circuit(200 + seed)
    points = solve_points(
        circuit, drive(circuit, [1000.0, 20.0][seed % 2], phase_deg=[0.0, 50.0, 130.0][seed % 3]), FINE
    )
    state = points.at_level
    omega, phase = 2 * math.pi * state.period.shared.f_signal_hz, math.radians([0.0, 50.0, 130.0][seed % 3])
    peak = state.driven * state.v_peak / circuit.r_load
    margins = []
    for sign in (1.0, -1.0):

        def load(t: float, sign: float = sign) -> float:
            return circuit.channels * circuit.i_idle_a + peak * max(sign * math.sin(omega * t + phase), 0.0)

        exact = integrate_rail(
            v_amplitude=circuit.v_amplitude,
            v_drop=circuit.v_drop,
            r_source=circuit.r_winding + circuit.drops * circuit.r_dynamic,
            c=circuit.c,
            esr=circuit.esr,
            g_bleed=circuit.g_bleed,
            f_mains=circuit.mains_hz,
            load=load,
            period_s=state.period.shared.seconds,
            v_start=float(state.plus.v_cap[0]),
        )
        needed = circuit.v_sat + (1 + circuit.r_out / circuit.r_load) * state.v_peak * np.maximum(
            sign * np.sin(omega * exact.t + phase), 0.0
        )
        margins.append(float(np.min(exact.v_node - needed)))
    # 0.05 % of the amplitude is what onset is promised to.
    assert min(margins) == pytest.approx(0.0, abs=5e-4 * state.v_peak)


@pytest.mark.parametrize("seed", range(30))
def test_energy_balances(seed: int) -> None:
    circuit = random_circuit(300 + seed)
    f_hz = [20.0, 60.0, 1000.0, 1013.0, 7000.0][seed % 5]
    state = solve_points(circuit, drive(circuit, f_hz, level=[1.0, 0.5, 0.0][seed % 3]), FINE).at_level
    balance = supply_flow.energy_balance(
        state.rails, circuit.v_drop, circuit.r_winding, 0.0, circuit.drops * circuit.r_dynamic
    )
    assert balance.p_in_w > 0.0
    assert abs(balance.error) < 5e-4


def test_both_onsets_are_bracketed_by_plain_bisection() -> None:
    """The joint Newton finds what halving the interval over whole steady states finds."""
    from plinth.physics.rails import clip_onset

    circuit = random_circuit(7)
    points = solve_points(circuit, drive(circuit, 20.0, phase_deg=33.0), FINE)
    period = points.at_level.period
    for onset, towards in zip(points.onsets, (1.0, -1.0), strict=True):
        rail = plain_rail(circuit, period)
        args = (
            rail,
            unit_load(circuit, period, towards).scaled(circuit.channels),
            circuit.channels * circuit.i_idle_a,
            np.maximum(towards * period.signal_sine, 0.0),
            circuit.output_limit,
        )
        most = (rail.crest - circuit.v_sat) / circuit.output_limit.volts_per_volt
        slow = clip_onset.bisected(*args, most)
        assert onset.v_peak == pytest.approx(slow.v_peak, abs=1e-4)


@pytest.mark.parametrize("share", [0.3, 2 / math.pi, 0.95])
def test_heat_on_stiff_rails_is_that_of_an_ideal_class_b_stage(share: float) -> None:
    """2 V_cc V / (pi R) - V^2 / (2 R), largest at V = 2 V_cc / pi, where it is 2 V_cc^2 / (pi^2 R)."""
    stiff = dataclasses.replace(
        random_circuit(1), va=20_000, regulation=0.005, r_dynamic=1e-4, c=1.0, esr=0.0, g_bleed=0.0, i_idle_a=0.0,
        channels=1, r_load=8.0, v_sat=0.0, r_out=0.0,
    )  # fmt: skip
    period = lay_period(stiff, 1000.0, 0.0, FINE)
    v_cc = stiff.v_crest - stiff.v_drop
    state = level_state(stiff, period, 1, share * v_cc)
    v_rail, v = state.plus.mean(state.plus.v_node), share * v_cc
    assert state.p_heat_w == pytest.approx(2 * v_rail * v / (math.pi * 8.0) - v * v / 16.0, rel=2e-3)
    if share == 2 / math.pi:
        assert state.p_heat_w == pytest.approx(2 * v_cc**2 / (math.pi**2 * 8.0), rel=0.02)
