"""Steps of a variable transformer against the full prediction and against the unloaded crest."""

import math

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.parts import Entry
from plinth.builds.situation import Situation
from plinth.builds.stations import with_part
from plinth.demo.builds import BUILDS, MARKET_BOX
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.batch_onsets import choices, clip_map, is_quick, sampled_clip_power_w
from plinth.predict.inputs import inputs_of
from plinth.predict.mains_steps import mains_steps
from plinth.predict.mains_unstated import u_without_mains
from plinth.predict.solve import solve
from plinth.predict.wall import cores_stated
from tests.sample_builds import SHARED_PAIR, linear

LINEAR = [b for b in BUILDS if b.supply.kind == "linear"]


@pytest.mark.parametrize("build", LINEAR, ids=lambda b: b.name)
def test_the_last_step_is_the_build_at_rest(build: Build) -> None:
    steps = mains_steps(build, Situation())
    assert [s.mains_v_rms for s in steps] == sorted(s.mains_v_rms for s in steps)
    rest, last = solve(build, Situation(level=0.0)), steps[-1]
    assert last.awake
    assert last.rail_v == pytest.approx(rest["rail_idle_v"].value, rel=1e-3)
    assert last.u_rail_v == pytest.approx(u_without_mains(rest["rail_idle_v"]), rel=0.05)
    # One function tells the current from the wall, whoever asks: with the input stages' supplies too.
    assert last.primary_rms_a == pytest.approx(rest["primary_rms_a"].value, rel=0.02)
    # The rails rise with every step, and no module works below what it needs.
    assert [s.rail_v for s in steps] == sorted(s.rail_v for s in steps)
    assert all(s.rail_v >= build.module.v_rail_min for s in steps if s.awake)
    assert not steps[0].awake
    assert steps[0].dwell_s < last.dwell_s


def test_modules_below_their_lowest_rail_draw_in_proportion_to_it() -> None:
    part, values = linear(SHARED_PAIR).transformer, {k: o.value for k, o in inputs_of(SHARED_PAIR).items()}
    (step,) = mains_steps(SHARED_PAIR, Situation(), (0.25,))
    open_circuit = values["v_secondary"] * (1.0 + values["regulation"]) * 0.25 * 230.0 / part.v_primary_rms
    # Only the bleeder loads it, so that hardly anything is lost in the copper.
    drops = 2 if linear(SHARED_PAIR).rectifier.bridges == "two" else 1
    crest = math.sqrt(2.0) * open_circuit - drops * values["v_forward"]
    # Modules below their lowest rail draw in proportion to it, and the bleeder a little.
    assert 0.9 * crest < step.rail_v < crest
    part_awake = SHARED_PAIR.module.i_quiescent_a + SHARED_PAIR.module.driver_a
    drawn = 2 * part_awake * step.rail_v / SHARED_PAIR.module.v_rail_min
    # Whatever its shape, a current's RMS is above its mean: turns ratio times what both rails take.
    ratio = 0.25 * 230.0 / open_circuit
    assert step.primary_rms_a > 2.0 * drawn / ratio
    assert step.primary_rms_a < 8.0 * drawn / ratio


def test_a_switcher_is_not_turned_up_slowly() -> None:
    with pytest.raises(PhysicsError, match="a switcher starts all at once"):
        mains_steps(MARKET_BOX, Situation())


def test_what_the_cores_take_is_in_the_current_where_it_is_stated() -> None:
    core = linear(SHARED_PAIR).transformer.model_copy(update={"p_core_w": 4.0, "i_magnetising_a": 0.05})
    fitted = with_part(SHARED_PAIR, "supply.transformer", core)
    bare, full = (mains_steps(b, Situation(), (0.02, 0.5)) for b in (SHARED_PAIR, fitted))
    assert (cores_stated(SHARED_PAIR), cores_stated(fitted)) == (False, True)
    # Too little mains to open a diode: nothing but the core, in proportion to the volts.
    assert bare[0].primary_rms_a == 0.0
    assert full[0].primary_rms_a == pytest.approx(0.02 * math.hypot(4.0 / 230.0, 0.05), rel=1e-3)
    # Pulses at the crest and a magnetising current that passes 0 there: their squares add up, core loss aside.
    squares = math.hypot(bare[1].primary_rms_a, 0.5 * 0.05)
    assert squares < full[1].primary_rms_a < squares + 0.5 * 4.0 / 230.0
    assert full[1].rail_v == pytest.approx(bare[1].rail_v)


def test_a_soft_start_that_stays_lowers_every_step_the_map_and_the_samples() -> None:
    entry = Entry(name="Inlet", fuse_a_rms=2, fuse_kind="T", r_soft_ohm=22.0)
    build = SHARED_PAIR.model_copy(update={"entry": entry})
    stays, free = mains_steps(build, Situation())[-1], mains_steps(SHARED_PAIR, Situation())[-1]
    rest = solve(build, Situation(level=0.0))
    assert stays.rail_v == pytest.approx(rest["rail_idle_v"].value, rel=1e-3)
    assert stays.rail_v < free.rail_v - 0.2
    assert (is_quick(SHARED_PAIR, Situation()), is_quick(build, Situation())) == (True, False)
    found = solve(build)
    sampled = sampled_clip_power_w(build, Situation(), 120)
    assert float(np.mean(sampled)) == pytest.approx(found["clip_power_w"].value, rel=0.02)
    c, load = (next(one for one in choices(build) if one.key == key) for key in ("c", "r_load"))
    values = {key: one.value for key, one in inputs_of(build).items()}
    here = clip_map(build, Situation(), c, load, np.array([values["c"]]), np.array([values["r_load"]]))
    assert float(here.power_w[0, 0]) == pytest.approx(found["clip_power_w"].value, rel=2e-3)
    assert found["clip_power_w"].value < 0.9 * solve(SHARED_PAIR)["clip_power_w"].value
