"""Every kind of supply and stage against an independent integration, over generated circuits."""

import dataclasses
import math
import random
from typing import Any

import numpy as np
import pytest

from plinth.physics.rails import supply_flow
from plinth.physics.rails.common_period import FINE, Grid
from plinth.physics.stages.kinds import CLASS_D, STAGES
from plinth.predict.at_rest import at_rest
from plinth.predict.circuit import PowerCircuit
from plinth.predict.operating_points import Drive, solve_points
from plinth.predict.power_state import PowerState, lay_period, level_state, network_onset, output_needs
from tests.predict.circuits import random_circuit
from tests.reference_network import Rail, Reference, Run
from tests.turns import in_turn


def elements(circuit: PowerCircuit) -> list[Rail]:
    """The circuit's rails once more, from its numbers and not from its network."""
    r_winding = circuit.regulation * circuit.v_secondary / (circuit.va / (circuit.halves * circuit.v_secondary))
    own = circuit.steady_r if circuit.steady_v else r_winding * (1 - circuit.primary_share)
    own += 0.0 if circuit.steady_v else circuit.drops * circuit.r_dynamic
    second = {"r_series": circuit.r_series, "l_series": circuit.l_series, "c2": circuit.c2, "esr2": circuit.esr2}
    plus = Rail(own, circuit.c, circuit.esr, circuit.g_bleed, circuit.l_leak, **second)
    minus = plus
    if circuit.c_minus:
        minus = dataclasses.replace(plus, c=circuit.c_minus, esr=circuit.esr_minus, g_bleed=circuit.g_bleed_minus)
    return [plus, minus][: circuit.rails]


def load_of(circuit: PowerCircuit, state: PowerState) -> "object":
    """Rail currents after the definitions, written out a second time."""
    w = 2 * math.pi * state.period.shared.f_signal_hz
    a, z, phi = state.v_peak, circuit.r_load, math.radians(circuit.load_phase_deg)
    n, idle = state.driven, circuit.channels * circuit.i_idle_a
    rest = (circuit.channels - n) * circuit.i_idle_a
    bias, drivers = circuit.i_bias_a, circuit.i_idle_a - circuit.i_bias_a
    start = state.period.angle_start

    def draw(t: float, v: list[float]) -> list[float]:
        out, i = a * math.sin(w * t + start), a / z * math.sin(w * t + start - phi)
        match circuit.stage.name:
            case "class_ab":
                return [idle + n * max(i, 0.0), idle + n * max(-i, 0.0)]
            case "class_ab_bridged":
                return [idle + n * abs(i)] * circuit.rails
            case "class_a":
                if abs(i) <= 2 * bias:
                    return [rest + n * (drivers + bias + i / 2), rest + n * (drivers + bias - i / 2)]
                return [rest + n * (drivers + max(i, 0.0)), rest + n * (drivers + max(-i, 0.0))]
            case "single_ended":
                return [idle + n * max(i, -circuit.i_idle_a), idle]
            case "class_d":
                both = v[0] + v[1]
                duty = (out + circuit.r_out * i + v[1]) / both
                loss = circuit.loss_share * abs(out * i) / both
                return [idle + n * (duty * i + loss), idle + n * (-(1 - duty) * i + loss)]
            case "class_d_bridge":
                p = out * i + circuit.r_out * i * i + circuit.loss_share * abs(out * i)
                return [idle + n * p / v[0]]
        raise AssertionError(circuit.stage.name)

    return draw


def reference(circuit: PowerCircuit, state: PowerState) -> Run:
    w = 2 * math.pi * circuit.mains_hz

    def emf(t: float) -> float:
        if circuit.steady_v:
            return circuit.steady_v
        s = math.sin(w * t) + circuit.third_harmonic * math.sin(3 * w * t)
        return circuit.v_amplitude * abs(s) / math.sqrt(1 + circuit.third_harmonic**2) - circuit.v_drop

    r_winding = circuit.regulation * circuit.v_secondary / (circuit.va / (circuit.halves * circuit.v_secondary))
    shared = circuit.steady_shared_r if circuit.steady_v else circuit.primary_share * r_winding / 2
    system = Reference(elements(circuit), emf, load_of(circuit, state), shared)  # type: ignore[arg-type]
    assert state.network is not None
    # Begin somewhat off, so that the steady state is found and not merely confirmed.
    return system.settle(state.period.shared.seconds, state.network.march.x[0] * 0.999)


KINDS = {
    "shared primary": {"primary_share": 0.5},
    "leakage": {"l_leak": 60e-6},
    "leakage and shared primary": {"l_leak": 150e-6, "primary_share": 0.3},
    "resistor stage": {"r_series": 0.22, "c2": 4.7e-3, "esr2": 0.03},
    "choke stage": {"r_series": 0.15, "l_series": 1.5e-3, "c2": 10e-3, "esr2": 0.02},
    "choke and leakage": {"r_series": 0.15, "l_series": 2.2e-3, "c2": 10e-3, "esr2": 0.02, "l_leak": 40e-6},
    "unequal rails": {"c_minus": 3.3e-3, "esr_minus": 0.05, "g_bleed_minus": 1 / 1500},
    "class A": {"stage": STAGES["class_a"], "i_idle_a": 1.0, "i_bias_a": 0.95},
    "single-ended": {"stage": STAGES["single_ended"], "i_idle_a": 1.1},
    "bridged": {"stage": STAGES["class_ab_bridged"]},
    "loudspeaker": {"load_phase_deg": 35.0},
    "class D": {"stage": CLASS_D, "loss_share": 0.05, "v_sat": 0.0, "modulation": 0.95},
    "class D on chokes": {
        "stage": CLASS_D, "loss_share": 0.05, "v_sat": 0.0, "modulation": 0.95, "r_series": 0.1, "l_series": 1e-3,
        "c2": 4.7e-3, "esr2": 0.02,
    },
    "class D, bridge, single rail": {
        "stage": STAGES["class_d_bridge"], "rails": 1, "halves": 1, "drops": 2, "loss_share": 0.04, "v_sat": 0.0,
        "modulation": 0.95,
    },
    "class D on a steady source": {
        "stage": CLASS_D, "steady_v": 32.0, "steady_r": 0.15, "loss_share": 0.05, "v_sat": 0.0, "modulation": 0.95,
    },
    "bench supplies": {"steady_v": 30.0, "steady_r": 0.05},
    "proportional converter": {"steady_v": 32.0, "steady_r": 0.1, "steady_shared_r": 0.08},
}  # fmt: skip


# Each kind by turns with a fast signal and with one of the two that beat with the mains; the others are slow.
@pytest.mark.parametrize(
    ("kind", "seed"),
    [
        pytest.param(kind, seed, marks=() if seed == (k % 3) and k % 6 == 1 else pytest.mark.slow)
        for k, kind in enumerate(KINDS)
        for seed in (0, 1, 2)
    ],
)
def test_rails_currents_and_energy_match_an_independent_integration(kind: str, seed: int) -> None:
    circuit = dataclasses.replace(random_circuit(1000 + 31 * seed + len(kind)), **KINDS[kind])  # type: ignore[arg-type]
    f_hz = [1000.0, 2 * circuit.mains_hz, 60.0 if circuit.mains_hz == 60.0 else 50.0][seed]
    period = lay_period(circuit, f_hz, [0.0, 40.0, 0.0][seed], FINE)
    clip = network_onset(circuit, period, circuit.channels).v_peak
    state = level_state(circuit, period, circuit.channels, [0.95, 0.7, 0.4][seed] * clip)
    exact = reference(circuit, state)
    for r, rail in enumerate(state.rails):
        v, i_source, i_cap = exact.v[:, r], exact.i_source[:, r], exact.i_cap[:, r]
        assert rail.mean(rail.v_node) == pytest.approx(float(np.mean(v[:-1])), rel=1e-4, abs=3e-3)
        assert rail.v_min == pytest.approx(float(np.min(v)), rel=1e-4, abs=3e-3)
        assert rail.v_max == pytest.approx(float(np.max(v)), rel=1e-4, abs=3e-3)
        assert rail.rms(rail.i_diode_a) == pytest.approx(float(np.sqrt(np.mean(i_source[:-1] ** 2))), rel=3e-3)
        assert float(np.max(rail.i_diode_a)) == pytest.approx(float(np.max(i_source)), rel=5e-3)
        ripple = float(np.sqrt(np.mean(i_cap[:-1] ** 2)))
        assert rail.rms(rail.i_cap_a) == pytest.approx(ripple, rel=3e-3, abs=1e-3)
    balance = supply_flow.energy_balance(
        state.rails,
        circuit.v_drop,
        circuit.steady_r if circuit.steady_v else circuit.r_own,
        circuit.steady_shared_r if circuit.steady_v else circuit.r_shared,
        0.0 if circuit.steady_v else circuit.drops * circuit.r_dynamic,
    )
    assert abs(balance.error) < 5e-4


@pytest.mark.parametrize("kind", in_turn(KINDS, 8))
def test_onset_just_touches_the_integrated_rails(kind: str) -> None:
    circuit = dataclasses.replace(random_circuit(2000 + len(kind)), **KINDS[kind])  # type: ignore[arg-type]
    f_hz = [1000.0, 50.0][len(kind) % 2]
    period = lay_period(circuit, f_hz, 25.0, FINE)
    found = network_onset(circuit, period, circuit.channels)
    needs = output_needs(circuit, period)
    state = level_state(circuit, period, circuit.channels, found.v_peak)
    exact = reference(circuit, state)
    angle = period.angle_start + 2 * np.pi * period.shared.f_signal_hz * exact.t
    out, i = np.sin(angle), np.sin(angle - circuit.load_phase_rad) / circuit.r_load
    a, m = found.v_peak, circuit.modulation
    match circuit.stage.name:
        case "class_ab_bridged":
            left = exact.v - circuit.v_sat - a * np.abs(0.5 * out + circuit.r_out * i)[:, None]
        case "class_d":
            inside = a * (out + circuit.r_out * i)
            far, back = (1 + m) / 2, (1 - m) / 2
            left = np.stack(
                [
                    far * exact.v[:, 0] - back * exact.v[:, 1] - inside,
                    far * exact.v[:, 1] - back * exact.v[:, 0] + inside,
                ],
                axis=1,
            )
        case "class_d_bridge":
            left = m * exact.v - a * np.abs(out + circuit.r_out * i)[:, None]
        case _:
            inside = a * (out + circuit.r_out * i)
            left = exact.v - circuit.v_sat - np.stack([np.maximum(inside, 0), np.maximum(-inside, 0)], axis=1)
    if circuit.stage is STAGES["single_ended"] and found.v_peak == pytest.approx(needs.most_v):
        assert float(np.min(left)) > 0.0
        return
    assert float(np.min(left)) == pytest.approx(0.0, abs=5e-4 * a)


def test_the_network_and_the_quick_way_agree() -> None:
    pick = random.Random(8)
    for seed in range(6):
        circuit = random_circuit(pick.randrange(10_000))
        drive = Drive([1000.0, 20.0][seed % 2], 15.0, circuit.channels, 1.0, 0.5, 1.1)
        for grid, near in ((FINE, 1e-4), (Grid(4000, 40), 1e-6)):
            points = solve_points(circuit, drive, grid)
            period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, grid)
            found = network_onset(circuit, period, circuit.channels)
            assert found.v_peak == pytest.approx(points.clip_v_peak, rel=near)


def test_a_shared_primary_drops_what_the_regulation_says_with_both_halves_loaded() -> None:
    circuit = dataclasses.replace(random_circuit(3), primary_share=0.6)
    assert circuit.r_own + 2 * circuit.r_shared == pytest.approx(circuit.r_winding)
    whole = dataclasses.replace(circuit, primary_share=0.0)
    period = lay_period(circuit, 1000.0, 0.0, FINE)
    # At 1 kHz both rails charge alike, so it does not matter where the copper sits.
    ratio = network_onset(circuit, period, 1).v_peak / network_onset(whole, period, 1).v_peak
    assert ratio == pytest.approx(1.0, abs=5e-4)


@pytest.mark.parametrize("further", [{}, {"l_leak": 4e-4}, {"r_series": 0.2, "c2": 4.7e-3, "esr2": 0.02}])
@pytest.mark.parametrize(
    "load", [{}, {"rail_load_a": 0.4}, {"rail_load_ohm": 68.0}, {"idle_rise": 0.6, "v_idle": 30.0}]
)
def test_like_rails_at_rest_are_those_of_the_whole_network(
    further: dict[str, Any], load: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    """One of two like rails is solved for both where nothing tells them apart."""
    for seed in range(4):
        circuit = dataclasses.replace(random_circuit(seed), primary_share=0.5, r_ahead=12.0, **further, **load)
        both = at_rest(circuit, FINE)
        with monkeypatch.context() as apart:
            # Next to nothing is all that makes these two rails unlike.
            plus = circuit.network.rails[0]
            minus = dataclasses.replace(plus, esr_ohm=plus.esr_ohm + 1e-12)
            apart.setattr(PowerCircuit, "network", dataclasses.replace(circuit.network, rails=(plus, minus)))
            whole = at_rest(circuit, FINE)
        for one, other in zip(both.rails, whole.rails, strict=True):
            assert one.mean(one.v_node) == pytest.approx(other.mean(other.v_node), abs=1e-6)
            assert one.v_min == pytest.approx(other.v_min, abs=1e-5)
            assert one.rms(one.i_diode_a) == pytest.approx(other.rms(other.i_diode_a), rel=1e-4)
            assert one.mean(one.i_load_a) == pytest.approx(other.mean(other.i_load_a), rel=1e-6)
            assert one.conduction_angle_deg() == pytest.approx(other.conduction_angle_deg(), abs=0.2)


@pytest.mark.parametrize("shared_ohm", [0.02, 0.2, 1.0])
@pytest.mark.parametrize("phase_deg", [-90.0, -1.0, 0.0, 1.0, 130.0])
def test_of_two_rails_that_share_a_source_only_those_conduct_that_can(shared_ohm: float, phase_deg: float) -> None:
    """At the period's start too: a rail that the other one pulls down below it draws nothing, and no power is lost."""
    circuit = dataclasses.replace(
        random_circuit(1), steady_v=90.0, steady_r=1e-3, steady_shared_r=shared_ohm, c=1.0, esr=2e-4, channels=1
    )
    period = lay_period(circuit, 5.0, phase_deg, FINE)
    state = level_state(circuit, period, 1, 20.0)
    balance = supply_flow.energy_balance(state.rails, 0.0, 1e-3, shared_ohm, 0.0)
    assert balance.error == pytest.approx(0.0, abs=2e-5)
    for rail in state.rails:
        assert rail.i_diode_a[0] == pytest.approx(rail.i_diode_a[-1], abs=0.02 * float(np.max(rail.i_diode_a)))
