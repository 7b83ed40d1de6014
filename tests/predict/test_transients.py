"""Courses of whole builds: they begin and end where the steady figures say."""

import dataclasses

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.modules import ClassDModule
from plinth.builds.parts import Entry
from plinth.builds.situation import Situation
from plinth.builds.stations import with_part
from plinth.demo.builds import BUILDS, FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.physics.mains.lamp import ROOM_K, Lamp
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict import bass_note as bass_note_module
from plinth.predict import transients
from plinth.predict.bass_note import bass_note, note_hz
from plinth.predict.circuits import supplies_in_all
from plinth.predict.estimates import DEVICE_J_PER_K
from plinth.predict.solve import solve
from plinth.predict.source_chain import staying_soft_start
from plinth.predict.warm_up import warm_up
from tests.family import FAMILY
from tests.sample_builds import SHARED_PAIR
from tests.solved import solved

WITH_SWITCH_ON = [b for b in BUILDS if b.supply.kind == "linear"]


@pytest.mark.parametrize("build", WITH_SWITCH_ON, ids=lambda b: b.name)
def test_switch_on_ends_at_the_resting_rails(build: Build) -> None:
    prediction = solve(build)
    assert transients.can_switch_on(prediction.solution)
    course = transients.switch_on(prediction.solution, 3.0)
    last = course.v_plus[course.t_s > 2.9]
    assert float(np.mean(last)) == pytest.approx(prediction["rail_idle_v"].value, rel=1e-3)
    assert course.v_plus[0] < 1.0
    assert course.i_primary_a is not None
    assert float(np.max(course.i_primary_a)) <= 1.005 * prediction["inrush_peak_a"].value
    assert transients.fuse_i2t_a2s(prediction.solution, 400) == pytest.approx(
        prediction["inrush_i2t_a2s"].value, rel=0.01
    )


@pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.name)
def test_a_note_settles_at_the_steady_state_of_that_note(build: Build) -> None:
    if isinstance(build.module, ClassDModule):
        # Which a steady state does not know.
        build = build.model_copy(update={"module": build.module.model_copy(update={"v_ov_lockout_v": None})})
    prediction = solved(build, Situation(level=0.7))
    course = bass_note(prediction.solution, 1.6)
    amplitude = prediction.state.v_peak
    f_hz = note_hz(prediction.solution)
    alone = solved(build, Situation(level=1.0, frequency_hz=f_hz))
    # The same amplitude at the note's own frequency, as a share of what clips there.
    same = solved(
        build,
        Situation(level=amplitude / alone["clip_v_peak"].value, frequency_hz=f_hz),
    )
    end = course.t_s > course.t_s[-1] - same.state.period.shared.seconds * 2
    assert float(np.min(course.v_plus[end])) == pytest.approx(same.state.plus.v_min, rel=2e-3)
    assert course.v_output is not None
    assert float(np.max(course.v_output)) == pytest.approx(amplitude, rel=1e-3)
    before = course.t_s < 0.0
    assert float(np.mean(course.v_plus[before])) == pytest.approx(prediction["rail_idle_v"].value, rel=2e-3)


@pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.name)
def test_power_off_falls_from_rest_to_a_safe_rail(build: Build) -> None:
    prediction = solved(build)
    course = transients.switch_off(prediction.solution)
    assert course.v_plus[0] == pytest.approx(prediction["rail_idle_v"].value, rel=1e-6)
    assert np.all(np.diff(course.v_plus) <= 0.0)
    assert course.v_plus[-1] < 5.0
    assert transients.switch_off(prediction.solution, 2.0).t_s[-1] == 2.0


@pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.name)
def test_warming_up_ends_where_the_resting_sink_does(build: Build) -> None:
    prediction = solve(build)
    course = warm_up(prediction.solution)
    assert course is not None
    bare = prediction["sink_idle_c"].value - 25.0
    loop = prediction.get("bias_loop_gain")
    # Only the output devices' share of the resting heat drifts, not that of the drivers.
    share = build.module.i_quiescent_a / (build.module.i_quiescent_a + build.module.driver_a)
    feeds = 0.0 if loop is None else loop.value * share
    assert course.sink_c[-1] - 25.0 == pytest.approx(bare / (1.0 - feeds), rel=0.012)
    # It is shown until nothing more happens, and no longer: half-way it still lacks some per cent.
    half = float(np.interp(0.5 * course.t_s[-1], course.t_s, course.sink_c))
    assert 0.90 < (half - 25.0) / (course.sink_c[-1] - 25.0) < 0.97
    assert np.all(course.device_c >= course.sink_c)
    assert (course.bias_a is None) == (loop is None)
    cold = build.model_copy(update={"sink": build.sink.model_copy(update={"heat_capacity_j_per_k": None})})
    assert warm_up(solve(cold).solution) is None


def test_two_supplies_draw_through_one_soft_start() -> None:
    soft = STAGE_PAIR.entry.model_copy(update={"r_soft_ohm": 20.0, "soft_bypass_s": 1.0})
    both = solve(STAGE_PAIR.model_copy(update={"entry": soft}))
    one = solve(SHARED_PAIR.model_copy(update={"entry": soft.model_copy(update={"r_soft_ohm": 40.0})}))
    # Seen from each of two supplies the one resistor counts double.
    assert both["inrush_peak_a"].value == pytest.approx(2 * one["inrush_peak_a"].value, rel=1e-6)
    hard = solve(STAGE_PAIR)
    assert both["inrush_peak_a"].value < 0.6 * hard["inrush_peak_a"].value
    assert both["inrush_i2t_a2s"].value < hard["inrush_i2t_a2s"].value
    assert both["switch_on_s"].value > hard["switch_on_s"].value


def test_a_thermistor_that_stays_is_as_warm_as_the_level_makes_it() -> None:
    ntc = Entry(name="Inlet", fuse_a_rms=2, fuse_kind="T", r_soft_ohm=10, ntc_beta_k=3000,
                ntc_dissipation_w_per_k=0.02, ntc_heat_capacity_j_per_k=1.2)  # fmt: skip
    build = STAGE_PAIR.model_copy(update={"entry": ntc})
    loud, soft = solved(build), solved(build, Situation(level=0.3))
    assert loud["soft_start_c"].value > soft["soft_start_c"].value > 25.0
    assert loud["soft_start_w"].value == pytest.approx(0.02 * (loud["soft_start_c"].value - 25.0), rel=1e-3)


def test_a_thermistor_that_stays_lowers_the_rails_as_a_resistor_of_its_warmth_does() -> None:
    ntc = Entry(name="Inlet", fuse_a_rms=2, fuse_kind="T", r_soft_ohm=10, ntc_beta_k=3000,
                ntc_dissipation_w_per_k=0.02, ntc_heat_capacity_j_per_k=1.2)  # fmt: skip
    found = solved(STAGE_PAIR.model_copy(update={"entry": ntc}))
    warm_ohm = found["soft_start_ohm"].value
    assert 0.3 < warm_ohm < 2.0
    plain = Entry(name="Inlet", fuse_a_rms=2, fuse_kind="T", r_soft_ohm=warm_ohm)
    same = solved(STAGE_PAIR.model_copy(update={"entry": plain}))
    assert found["clip_power_w"].value == pytest.approx(same["clip_power_w"].value, rel=1e-3)
    assert found["soft_start_w"].value == pytest.approx(same["soft_start_w"].value, rel=0.01)
    assert any("Nothing bridges the soft start" in line and "gets hot" in line for line in found.warnings)
    assert abs(found["energy_error"].value) < 5e-4
    bridged = Entry(name="Inlet", fuse_a_rms=2, fuse_kind="T", r_soft_ohm=10, soft_bypass_s=1.0)
    free = solved(STAGE_PAIR.model_copy(update={"entry": bridged}))
    assert found["clip_power_w"].value < 0.995 * free["clip_power_w"].value
    assert not any("Nothing bridges" in line for line in free.warnings)
    # At switch-on it is cold, as is the resistor that a relay bridges later.
    assert found["inrush_peak_a"].value == pytest.approx(free["inrush_peak_a"].value, rel=1e-9)


@pytest.mark.parametrize("lamp_w", [40, 100])
def test_behind_a_lamp_the_energy_is_the_mains_less_the_lamp(lamp_w: float) -> None:
    prediction = solved(REHEARSAL_ROOM, Situation(lamp_w=lamp_w, level=0.0))
    lamp = prediction.solution.lamp
    assert lamp is not None
    v_lamp, bare = prediction["lamp_v_rms"].value, solved(REHEARSAL_ROOM, Situation(level=0.0))
    assert prediction["lamp_w"].value == pytest.approx(v_lamp * lamp.i_rms_a, rel=1e-6)
    # The current that the build then draws is that which keeps the filament as warm.
    assert prediction["primary_rms_a"].value == pytest.approx(lamp.i_rms_a, rel=0.01)
    assert abs(prediction["energy_error"].value) < 5e-4
    assert prediction["rail_idle_v"].value < bare["rail_idle_v"].value
    assert any("lamp is in series" in line for line in prediction.warnings)


def test_a_larger_lamp_stays_darker_and_gives_more_rail() -> None:
    found = [solved(STAGE_PAIR, Situation(lamp_w=w, level=0.0)) for w in (40, 60, 100)]
    assert [p["lamp_k"].value for p in found] == sorted((p["lamp_k"].value for p in found), reverse=True)
    assert [p["rail_idle_v"].value for p in found] == sorted(p["rail_idle_v"].value for p in found)


def test_at_switch_on_the_lamp_flashes_while_the_reservoirs_fill() -> None:
    prediction = solved(REHEARSAL_ROOM, Situation(lamp_w=60, level=0.0))
    course = transients.switch_on(prediction.solution, 0.4)
    assert course.lamp_k is not None
    assert course.i_primary_a is not None
    bare = solved(REHEARSAL_ROOM, Situation(level=0.0))
    # Nothing beyond what a cold filament lets through.
    cold_ohm = Lamp(60.0, 230.0).ohm(ROOM_K)
    assert float(np.max(course.i_primary_a)) < 230.0 * np.sqrt(2) / cold_ohm
    assert prediction["inrush_peak_a"].value < 0.5 * bare["inrush_peak_a"].value
    assert course.lamp_k[0] == pytest.approx(ROOM_K, abs=1.0)
    assert float(np.max(course.lamp_k)) > 600.0
    assert transients.switch_on(bare.solution, 0.1).lamp_k is None


def test_a_lamp_is_refused_where_it_does_not_work() -> None:
    with pytest.raises(PhysicsError, match="a lamp in series works with a transformer"):
        solved(STREET_BOX, Situation(lamp_w=60))
    # Far too small a lamp leaves the class A pair asleep on a few volts: said, not taken for a short.
    found = solved(FOYER, Situation(lamp_w=25))
    assert found["rail_idle_v"].value < FOYER.module.v_rail_min
    assert any("need not be a short" in line for line in found.warnings)
    assert found["lamp_v_rms"].value < 230.0


def test_a_smaller_transformer_in_place_of_the_real_one_lowers_every_rail() -> None:
    from plinth.demo.shelf import TRIAL_10

    trial = with_part(REHEARSAL_ROOM, "supply.transformer", TRIAL_10)
    found = solve(trial, Situation(level=0.0))
    assert found["rail_idle_v"].value < solve(REHEARSAL_ROOM, Situation(level=0.0))["rail_idle_v"].value
    # 10 VA regulate at a quarter and more, so that without load it is far above its label.
    assert found["rail_no_load_v"].value > 1.2 * 12.0 * np.sqrt(2) - 1.0
    assert "transformer regulation" in found["rail_no_load_v"].estimated


def test_a_course_of_one_supply_is_the_same_however_finely_it_is_marched() -> None:
    solution = solved(SHARED_PAIR).solution
    coarse, fine = transients.switch_on(solution, 0.3, 100), transients.switch_on(solution, 0.3, 800)
    at = np.linspace(0.01, 0.29, 15)
    assert np.interp(at, coarse.t_s, coarse.v_plus) == pytest.approx(np.interp(at, fine.t_s, fine.v_plus), rel=2e-3)
    assert dataclasses.astuple(coarse)[3] is None


@pytest.mark.parametrize(
    ("situation", "amperes"),
    [(Situation(rail_load_a=0.0), 0.0), (Situation(rail_load_a=1.5), 1.5), (Situation(rail_load_ohm=22.0), None)],
)
def test_a_supply_alone_stands_under_what_hangs_on_it(situation: Situation, amperes: float | None) -> None:
    prediction = solved(SHARED_PAIR, situation)
    rail = prediction["rail_plus_mean_v"].value
    drawn = prediction["rail_plus_load_mean_a"].value
    assert drawn == pytest.approx(rail / 22.0 if amperes is None else amperes, rel=1e-4, abs=1e-9)
    assert prediction["output_power_w"].value == 0.0
    assert abs(prediction["energy_error"].value) < 5e-4
    assert prediction["clip_power_w"].value == pytest.approx(solved(SHARED_PAIR)["clip_power_w"].value, rel=1e-4)
    assert any("in place of the modules" in line for line in prediction.warnings)
    if amperes == 0.0:
        assert prediction["rail_plus_max_v"].value == pytest.approx(prediction["rail_no_load_v"].value, rel=1e-3)


def test_two_loads_on_the_rails_are_refused() -> None:
    with pytest.raises(ValueError, match="leave the other out"):
        Situation(rail_load_a=1.0, rail_load_ohm=8.0)


def test_a_rail_without_a_bleeder_never_counts_as_safe() -> None:
    bare = SHARED_PAIR.supply.reservoir.model_copy(update={"r_bleeder_ohm": None})
    supply = SHARED_PAIR.supply.model_copy(update={"reservoir_minus": bare})
    prediction = solved(SHARED_PAIR.model_copy(update={"supply": supply}))
    assert np.isinf(prediction["bleed_s"].value)
    assert np.isfinite(solved(SHARED_PAIR)["bleed_s"].value)
    assert any("No bleeder is fitted to a rail" in line for line in prediction.warnings)
    course = transients.switch_off(prediction.solution)
    assert course.v_minus is not None
    assert course.v_minus[-1] > 5.0


@pytest.mark.parametrize("build", [STREET_BOX, MARKET_BOX], ids=lambda b: b.name)
def test_a_supply_far_from_its_limit_moves_as_its_network_does(build: Build, monkeypatch: pytest.MonkeyPatch) -> None:
    prediction = solved(build, Situation(level=0.3))
    limited = bass_note(prediction.solution, 0.3)
    assert limited.limited_s == 0.0
    monkeypatch.setattr(bass_note_module, "current_limit_of", lambda _build: None)
    free = bass_note(prediction.solution, 0.3)
    assert limited.v_plus == pytest.approx(free.v_plus, abs=0.06)


def test_a_switcher_at_its_limit_lets_the_bass_note_down() -> None:
    assert MARKET_BOX.supply.kind == "switcher"
    part = MARKET_BOX.supply.switcher
    found = {}
    for kind in ("fold_back", "hiccup"):
        weak = part.model_copy(update={"i_limit_a": 0.35 * part.i_limit_a, "limit": kind})
        prediction = solved(with_part(MARKET_BOX, "supply.switcher", weak))
        found[kind] = bass_note(prediction.solution, 0.45)
    strong = bass_note(solved(MARKET_BOX).solution, 0.45)
    assert strong.v_output is not None
    for course in found.values():
        assert course.limited_s > 0.05
        assert np.min(course.v_plus) < np.min(strong.v_plus) - 2.0
        assert course.clips
        assert course.v_output is not None
        assert np.max(np.abs(course.v_output)) <= np.max(np.abs(strong.v_output)) + 1e-6
    # One that cuts out takes the modules below their lowest rail; while they are silent the rail no longer falls fast.
    assert found["hiccup"].silent_s > 0.1
    assert found["hiccup"].limited_s > found["fold_back"].silent_s


def test_an_output_that_clips_is_seen_clipped() -> None:
    loud = bass_note(solved(REHEARSAL_ROOM).solution)
    assert loud.clips, "clip at 40 Hz lies below that at 1 kHz"
    assert loud.v_output is not None
    assert loud.v_minus is not None
    assert np.all(loud.v_output <= loud.v_plus)
    assert np.all(-loud.v_output <= loud.v_minus)
    quiet = bass_note(solved(REHEARSAL_ROOM, Situation(level=0.7)).solution)
    assert not quiet.clips


@pytest.mark.parametrize(
    "build",
    [FAMILY["class AB on linear"], FAMILY["class AB, bridged on linear"], FAMILY["class D half bridge on battery"]],
    ids=lambda b: b.name,
)
def test_devices_warm_up_as_all_of_their_masses_together(build: Build) -> None:
    """Two masses in a row, integrated by scipy: every module's devices count, and the sink they share."""
    from scipy.integrate import solve_ivp

    module = build.module
    flat = build.model_copy(
        update={
            "module": module.model_copy(
                update={"bias": None if module.bias is None else module.bias.model_copy(update={"tempco_per_k": None})}
            )
        }
    )
    solution = solved(flat).solution
    course = warm_up(solution)
    assert course is not None
    modules = len(build.channels) * build.modules_per_channel
    r_device = (solution.values["r_junction"] + flat.under_device_k_per_w) / modules
    r_sink, capacity = solution.values["r_sink"], build.sink.heat_capacity_j_per_k or 0.0
    heat = supplies_in_all(flat) * solution.points.idle.p_rails_w

    def slope(_t: float, rise: np.ndarray) -> list[float]:
        passed = (rise[0] - rise[1]) / r_device
        return [(heat - passed) / (modules * DEVICE_J_PER_K), (passed - rise[1] / r_sink) / capacity]

    early = course.t_s[course.t_s < 6.0 * r_device * modules * DEVICE_J_PER_K]
    run = solve_ivp(slope, (0.0, float(course.t_s[-1])), [0.0, 0.0], t_eval=course.t_s, rtol=1e-8, atol=1e-8)
    assert len(early) >= 3
    assert course.device_c - solution.situation.ambient_c == pytest.approx(run.y[0], rel=1e-4, abs=1e-4)
    assert course.sink_c - solution.situation.ambient_c == pytest.approx(run.y[1], rel=1e-4, abs=1e-4)


def test_what_nothing_bridges_stands_ahead_with_its_own_ohms() -> None:
    soft = STAGE_PAIR.entry.model_copy(update={"r_soft_ohm": 33.0, "soft_bypass_s": None})
    staying = staying_soft_start(soft)
    assert staying is not None
    assert staying.r_ohm == 33.0
    assert staying_soft_start(soft.model_copy(update={"soft_bypass_s": 0.4})) is None
    assert staying_soft_start(STAGE_PAIR.entry.model_copy(update={"r_soft_ohm": None})) is None
