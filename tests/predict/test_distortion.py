"""Clip power at a stated distortion: against a sine that is clipped flat, and against the moving rails."""

import dataclasses
import math

import numpy as np
import pytest
from scipy.optimize import brentq

from plinth.builds.situation import Situation
from plinth.demo.builds import MARKET_BOX, REHEARSAL_ROOM
from plinth.predict.circuits import circuit_of, drive_of
from plinth.predict.distortion import can_overdrive, power_at_thd
from plinth.predict.inputs import inputs_of
from tests.predict.circuits import random_circuit
from tests.reference_network import Rail, Reference
from tests.sample_builds import SHARED_PAIR


def flat(over: float) -> tuple[float, float]:
    """THD and power, over that of onset, of a sine ``over`` times as large as where it is clipped."""
    angle = 2 * np.pi * np.arange(40_000) / 40_000
    out = np.clip(over * np.sin(angle), -1.0, 1.0)
    lines = np.abs(np.fft.rfft(out))[1:21]
    return float(np.sqrt(np.sum(lines[1:] ** 2)) / lines[0]), float(np.mean(out**2) / 0.5)


@pytest.mark.parametrize("thd", [0.01, 0.10])
def test_on_stiff_rails_it_is_a_sine_clipped_flat(thd: float) -> None:
    stiff = dataclasses.replace(
        random_circuit(5), steady_v=40.0, steady_r=1e-3, c=1.0, esr=0.0, r_load=8.0, r_out=0.2, v_sat=2.0
    )
    drive = dataclasses.replace(drive_of(SHARED_PAIR, Situation()), driven=1)
    onset, (found,) = power_at_thd(stiff, drive, (thd,))
    over = brentq(lambda x: flat(x)[0] - thd, 1.001, 3.0)
    assert onset == pytest.approx(((40.0 - 2.0) / 1.025) ** 2 / 16.0, rel=2e-3)
    assert found.power_w / onset == pytest.approx(flat(over)[1], rel=5e-3)


@pytest.mark.parametrize("thd", [0.01, 0.10])
def test_on_moving_rails_an_integration_clips_as_much(thd: float) -> None:
    circuit = circuit_of(SHARED_PAIR, Situation(), {key: one.value for key, one in inputs_of(SHARED_PAIR).items()})
    onset, (found,) = power_at_thd(circuit, drive_of(SHARED_PAIR, Situation()), (thd,))
    assert found.thd == pytest.approx(thd, rel=0.02)
    assert found.power_w > onset
    rail = Rail(circuit.r_winding + circuit.drops * circuit.r_dynamic, circuit.c, circuit.esr, circuit.g_bleed)
    k, r, idle = 1.0 + circuit.r_out / circuit.r_load, circuit.r_load, 2 * circuit.i_idle_a

    def output(t: float, v: list[float]) -> float:
        asked = found.amplitude_v * math.sin(2 * math.pi * 1000.0 * t)
        return min(max(asked, -(v[1] - circuit.v_sat) / k), (v[0] - circuit.v_sat) / k)

    def draw(t: float, v: list[float]) -> list[float]:
        i = 2 * output(t, v) / r
        return [idle + max(i, 0.0), idle + max(-i, 0.0)]

    def emf(t: float) -> float:
        return circuit.v_amplitude * abs(math.sin(2 * math.pi * 50.0 * t)) - circuit.v_drop

    run = Reference([rail, rail], emf, draw).settle(0.01, np.full(2, 31.0))
    out = np.array([output(float(t), list(v)) for t, v in zip(run.t, run.v, strict=True)])[:-1]
    lines = np.abs(np.fft.rfft(out))[10::10][:20]
    assert float(np.sqrt(np.sum(lines[1:] ** 2)) / lines[0]) == pytest.approx(thd, rel=0.03)
    assert float(np.mean(out**2)) / r == pytest.approx(found.power_w, rel=3e-3)


def test_only_stages_whose_clipped_wave_is_known_are_driven_over() -> None:
    found = {}
    for build in (REHEARSAL_ROOM, MARKET_BOX):
        circuit = circuit_of(build, Situation(), {key: one.value for key, one in inputs_of(build).items()})
        found[build.name] = can_overdrive(circuit)
    assert found == {"Rehearsal room": True, "Market box": False}
