"""Clip power at a stated distortion: against a sine that is clipped flat, and against the moving rails."""

import dataclasses
import math
from typing import Any

import numpy as np
import pytest
from scipy.optimize import brentq

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import BUILDS
from plinth.physics.stages.kinds import CLASS_D_BRIDGED, SINGLE_ENDED, STAGES
from plinth.predict.circuits import circuit_of, drive_of
from plinth.predict.distortion import GRID, _Overdrive, can_overdrive, power_at_thd
from plinth.predict.inputs import inputs_of
from plinth.predict.power_state import lay_period, network_onset
from tests.predict.circuits import random_circuit
from tests.reference_network import Rail, Reference
from tests.sample_builds import SHARED_PAIR
from tests.turns import in_turn


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


@pytest.mark.parametrize("thd", in_turn([0.10, 0.01], 2))
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


STIFF: dict[str, dict[str, Any]] = {
    "class_ab_bridged": {},
    "class_a": {"i_bias_a": 1.0, "i_idle_a": 1.1},
    "class_d": {"modulation": 0.94, "loss_share": 0.05, "v_sat": 0.0},
    "class_d_bridged": {"modulation": 0.94, "loss_share": 0.05, "v_sat": 0.0},
    "class_d_bridge": {"modulation": 0.94, "loss_share": 0.05, "v_sat": 0.0, "rails": 1},
}


@pytest.mark.parametrize("stage", STIFF)
def test_on_stiff_rails_every_stage_clips_the_sine_flat(stage: str) -> None:
    common: dict[str, Any] = {"steady_v": 40.0, "steady_r": 1e-3, "c": 1.0, "esr": 0.0, "r_load": 8.0, "r_out": 0.2}
    stiff = dataclasses.replace(random_circuit(5), **{**common, "v_sat": 2.0, "stage": STAGES[stage], **STIFF[stage]})
    drive = dataclasses.replace(drive_of(SHARED_PAIR, Situation()), driven=1)
    onset, found = power_at_thd(stiff, drive, (0.01, 0.10))
    for thd, one in zip((0.01, 0.10), found, strict=True):
        over = brentq(lambda x, thd=thd: flat(x)[0] - thd, 1.001, 3.0)
        assert one.power_w / onset == pytest.approx(flat(over)[1], rel=5e-3)


def test_a_single_ended_stage_clips_one_side_first() -> None:
    """A follower at its rail above, a current source that runs dry below: the lower of the two clips, with a dip."""
    stage = dataclasses.replace(
        random_circuit(5), steady_v=40.0, steady_r=1e-3, c=1.0, esr=0.0, r_load=8.0, r_out=0.0, v_sat=2.0,
        stage=SINGLE_ENDED, i_idle_a=2.0,
    )  # fmt: skip
    drive = dataclasses.replace(drive_of(SHARED_PAIR, Situation()), driven=1)
    onset, (found,) = power_at_thd(stage, drive, (0.10,))
    assert onset == pytest.approx(16.0**2 / 16.0, rel=1e-3), "2 A in 8 ohm"
    angle = 2 * np.pi * np.arange(40_000) / 40_000

    def one_sided(peak: float) -> tuple[float, float]:
        out = np.maximum(peak * np.sin(angle), -16.0)
        lines = np.abs(np.fft.rfft(out))[1:21]
        return float(np.sqrt(np.sum(lines[1:] ** 2)) / lines[0]), float(np.mean(out**2)) / 8.0

    peak = brentq(lambda x: one_sided(x)[0] - 0.10, 16.01, 37.9)
    assert found.amplitude_v == pytest.approx(peak, rel=5e-3)
    assert found.power_w == pytest.approx(one_sided(peak)[1], rel=5e-3)


@pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.name)
def test_at_a_distortion_the_rails_give_what_the_load_and_the_losses_take(build: Build) -> None:
    """Energy of the overdriven state: rails = loads + losses, whatever the stage; and more than at onset."""
    circuit = circuit_of(build, Situation(), {key: one.value for key, one in inputs_of(build).items()})
    drive = drive_of(build, Situation())
    assert can_overdrive(circuit)
    onset, (found,) = power_at_thd(circuit, drive, (0.10,))
    assert found.thd == pytest.approx(0.10, rel=0.01)
    assert 1.1 * onset < found.power_w < 1.5 * onset
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, GRID)
    rest = network_onset(circuit, period, drive.driven)
    over = _Overdrive(circuit, period, drive.driven, rest.state)
    again = over.driven_to(found.amplitude_v)
    assert again.power_w == pytest.approx(found.power_w, rel=2e-3)
    waves, mean = over.state.waves, over.state.i_load_mean
    given = float(np.sum(np.mean(mean * 0.5 * (waves.v_load[:-1] + waves.v_load[1:]), axis=0)))
    if circuit.stage.name.startswith("class_d"):
        idle = circuit.channels * circuit.i_idle_a * float(np.sum(np.mean(waves.v_load[:-1], axis=0)))
        path = circuit.r_out / circuit.r_load * (2.0 if circuit.stage is CLASS_D_BRIDGED else 1.0)
        taken = idle + drive.driven * again.power_w * (1.0 + circuit.loss_share + path)
        assert given == pytest.approx(taken, rel=3e-3)
    else:
        assert given > drive.driven * again.power_w


def test_only_an_output_in_phase_with_its_current_is_driven_over() -> None:
    values = {key: one.value for key, one in inputs_of(SHARED_PAIR).items()}
    assert can_overdrive(circuit_of(SHARED_PAIR, Situation(), values))
    assert not can_overdrive(circuit_of(SHARED_PAIR, Situation(load_phase_deg=30.0), values))
    assert not can_overdrive(circuit_of(SHARED_PAIR, Situation(rail_load_a=1.0), values))
