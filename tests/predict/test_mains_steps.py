"""Steps of a variable transformer against the full prediction and against the unloaded crest."""

import math

import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import BUILDS, MARKET_BOX
from plinth.physics.errors import PhysicsError
from plinth.predict.inputs import inputs_of
from plinth.predict.mains_steps import mains_steps
from plinth.predict.solve import solve
from tests.sample_builds import SHARED_PAIR, linear

LINEAR = [b for b in BUILDS if b.supply.kind == "linear"]


@pytest.mark.parametrize("build", LINEAR, ids=lambda b: b.name)
def test_the_last_step_is_the_build_at_rest(build: Build) -> None:
    steps = mains_steps(build, Situation())
    assert [s.mains_v_rms for s in steps] == sorted(s.mains_v_rms for s in steps)
    rest, last = solve(build, Situation(level=0.0)), steps[-1]
    assert last.awake
    assert last.rail_v == pytest.approx(rest["rail_idle_v"].value, rel=1e-3)
    assert last.u_rail_v == pytest.approx(rest["rail_idle_v"].u, rel=0.05)
    if build.supply.kind == "linear" and build.supply.input_supply is None:
        assert last.primary_rms_a == pytest.approx(rest["primary_rms_a"].value, rel=0.02)
    # The rails rise with every step, and no module works below what it needs.
    assert [s.rail_v for s in steps] == sorted(s.rail_v for s in steps)
    assert all(s.rail_v >= build.module.v_rail_min for s in steps if s.awake)
    assert not steps[0].awake
    assert steps[0].dwell_s < last.dwell_s


def test_modules_asleep_leave_the_rail_at_the_crest_less_the_drops() -> None:
    part, values = linear(SHARED_PAIR).transformer, {k: o.value for k, o in inputs_of(SHARED_PAIR).items()}
    (step,) = mains_steps(SHARED_PAIR, Situation(), (0.25,))
    open_circuit = values["v_secondary"] * (1.0 + values["regulation"]) * 0.25 * 230.0 / part.v_primary_rms
    # Only the bleeder loads it, so that hardly anything is lost in the copper.
    drops = 2 if linear(SHARED_PAIR).rectifier.bridges == "two" else 1
    crest = math.sqrt(2.0) * open_circuit - drops * values["v_forward"]
    assert crest - 0.1 < step.rail_v <= crest
    assert step.primary_rms_a < 0.02


def test_a_switcher_is_not_turned_up_slowly() -> None:
    with pytest.raises(PhysicsError, match="a switcher starts all at once"):
        mains_steps(MARKET_BOX, Situation())
