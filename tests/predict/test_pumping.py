"""A half bridge pumps its rails in the bass: clipping against rails that the output itself pumps.

Against marching in time, step by step and with nothing but the duty of each instant, until periods repeat.
"""

import math

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo import shelf
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.rails.common_period import COARSE
from plinth.predict.bass_note import bass_note
from plinth.predict.circuit import PowerCircuit
from plinth.predict.figure_values import lockout_after_s
from plinth.predict.inputs import inputs_of
from plinth.predict.solve import solution_of, solve
from tests.family import FAMILY
from tests.sample_builds import SHARED_PAIR
from tests.solved import solved

BASS = Situation(frequency_hz=20.0, load_ohm=4.0)


def half_bridge(c_f: float) -> Build:
    """25-0-25, 225 VA, two half bridges without a lock-out."""
    document = SHARED_PAIR.model_dump()
    document["supply"]["transformer"] |= {"v_secondary_rms": 25.0, "va": 225.0}
    document["supply"]["reservoir"] |= {"c_f": c_f, "v_rated": 100.0}
    document["module"] = shelf.LANTERN_100.model_copy(
        update={"v_rail_max": 60.0, "v_ov_lockout_v": None, "i_limit_a": 100.0}
    ).model_dump()
    return Build.model_validate(document)


def marched(
    circuit: PowerCircuit, amplitude: float, f_hz: float = 20.0, periods: int = 8
) -> list[tuple[float, float, float]]:
    """(volts of output, + rail, - rail) over the last period, by small steps in time."""
    plus = minus = 0.9 * circuit.v_amplitude
    rail, step, found = circuit.rail, 2e-5, []
    n = round(1.0 / f_hz / step)
    for k in range(periods * n):
        t = k * step
        e = circuit.v_amplitude * abs(math.sin(2.0 * math.pi * circuit.mains_hz * t)) - circuit.v_drop
        out = amplitude * math.sin(2.0 * math.pi * f_hz * t)
        i = out / circuit.r_load
        across = plus + minus
        shared = circuit.channels * (
            (out + circuit.r_out * i) / across * i + circuit.loss_share * abs(out * i) / across
        )
        loads = (
            circuit.channels * (circuit.i_idle_a + minus / across * i) + shared,
            circuit.channels * (circuit.i_idle_a - plus / across * i) + shared,
        )
        nodes = []
        moved = []
        for v, load in zip((plus, minus), loads, strict=True):
            # The capacitor behind its ESR, the source behind its resistance: one node.
            open_node = v - circuit.esr * (load + circuit.g_bleed * v)
            source = max(0.0, (e - open_node) / (rail.r_source_ohm + circuit.esr))
            nodes.append(open_node + circuit.esr * source)
            moved.append(v + step / circuit.c * (source - load - circuit.g_bleed * v))
        if k >= (periods - 1) * n:
            found.append((out, nodes[0], nodes[1]))
        plus, minus = moved
    return found


@pytest.mark.parametrize("c_f", [10e-3, pytest.param(3.3e-3, marks=pytest.mark.slow), 2.2e-3, 1e-3])
def test_at_the_onset_the_output_just_touches_the_rails_that_it_pumps(c_f: float) -> None:
    found = solved(half_bridge(c_f), BASS)
    circuit, onset = found.points.circuit, found["clip_v_peak"].value
    m = circuit.modulation
    room = []
    for out, plus, minus in marched(circuit, onset):
        inside = out * (1.0 + circuit.r_out / circuit.r_load)
        far, back = (1.0 + m) / 2.0, (1.0 - m) / 2.0
        room += [far * plus - back * minus - inside, far * minus - back * plus + inside]
    assert min(room) == pytest.approx(0.0, abs=0.02 * onset)
    highest = max(plus for _, plus, _ in marched(circuit, onset))
    assert found["rail_plus_max_v"].value == pytest.approx(highest, rel=0.01)


def test_clip_power_falls_without_a_jump_as_the_capacitors_shrink() -> None:
    sizes = [10e-3, 4.7e-3, 2.7e-3, 2.2e-3, 1e-3]
    powers = [solved(half_bridge(c), BASS)["clip_power_w"].value for c in sizes]
    assert powers == sorted(powers, reverse=True)
    for c, power in ((sizes[0], powers[0]), (sizes[-1], powers[-1])):
        in_full = solve(half_bridge(c), BASS)["clip_power_w"]
        assert in_full.value == pytest.approx(power, rel=1e-6)
        assert in_full.spread < 0.6 * power, "a spread that means something"
    # Over a step of a fifth in the capacitor no power falls by more than a third.
    for a, b, more, less in zip(powers, powers[1:], sizes, sizes[1:], strict=False):
        assert math.log(a / b) < 1.3 * math.log(more / less)


def with_lockout(build: Build, v: float | None) -> Build:
    return build.model_copy(update={"module": build.module.model_copy(update={"v_ov_lockout_v": v})})


def test_a_note_that_pumps_a_rail_to_the_lock_out_ends_there() -> None:
    build = half_bridge(2.2e-3)
    free = bass_note(solved(with_lockout(build, None), BASS).solution)
    assert free.v_minus is not None
    assert free.locked_s is None
    highest = np.maximum(free.v_plus, free.v_minus)
    limit = 0.5 * (float(highest[0]) + float(np.max(highest)))
    held = bass_note(solved(with_lockout(build, limit), BASS).solution)
    assert held.locked_s is not None
    assert held.v_output is not None
    assert held.v_minus is not None
    # Until then both are the same note.
    assert held.locked_s == pytest.approx(float(free.t_s[np.argmax(highest > limit)]), abs=2e-4)
    after = held.t_s > held.locked_s + 1e-3
    assert np.all(held.v_output[after] == 0.0)
    assert np.max(np.maximum(held.v_plus, held.v_minus)) < limit * 1.02


def test_the_margin_says_when_the_lock_out_comes() -> None:
    bass = solve(with_lockout(half_bridge(2.2e-3), 45.0), BASS)
    margin = next(m for m in judge(bass) if m.key == "pumping")
    assert margin.state is State.OVER
    seconds = lockout_after_s(bass.solution, 45.0, 20.0)
    assert 0.0 < seconds < 0.025
    assert f"silent {1000.0 * seconds:.2g} ms into a beat" in margin.sentence
    # Against each other the channels cancel: nothing is pumped and nothing shuts down.
    turned = solve(with_lockout(half_bridge(2.2e-3), 45.0), BASS.model_copy(update={"antiphase": True}))
    assert math.isinf(lockout_after_s(turned.solution, 45.0, 20.0))
    assert next(m for m in judge(turned) if m.key == "pumping").state is State.CLEAR
    with pytest.raises(ValueError, match="only a half bridge"):
        lockout_after_s(solve(SHARED_PAIR).solution, 45.0, 20.0)


@pytest.mark.parametrize("h", [0.02, 0.05])
def test_a_solution_that_misleads_does_not_refuse_a_neighbour(h: float) -> None:
    """Pumped rails rest elsewhere on another mains: sought from the old ones alone nothing was found."""
    build = FAMILY["class D half bridge on linear"]
    values = {key: one.value for key, one in inputs_of(build).items()}
    known = solution_of(build, Situation(), values, COARSE)
    near = solution_of(build, Situation(third_harmonic=h), values, COARSE, known)
    alone = solution_of(build, Situation(third_harmonic=h), values, COARSE)
    assert near.points.clip_v_peak == pytest.approx(alone.points.clip_v_peak, rel=1e-4)
    assert near.points.at_level.plus.v_max == pytest.approx(alone.points.at_level.plus.v_max, rel=1e-3)
