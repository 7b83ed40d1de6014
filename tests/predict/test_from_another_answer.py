"""A prediction sought from an earlier one on is the prediction found from nothing, wherever it comes from."""

import math

import pytest

from plinth.builds.build import Build
from plinth.builds.parts import Entry
from plinth.builds.situation import Situation
from plinth.demo.builds import BUILDS, FOYER, REHEARSAL_ROOM, STAGE_PAIR
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from tests.turns import crossed

MOVES = {
    "load": Situation(load_ohm=5.1),
    "reactive load": Situation(load_ohm=7.0, load_phase_deg=25.0),
    "signal": Situation(frequency_hz=40.0),
    "level": Situation(level=0.4),
    "one channel": Situation(channels_driven="one"),
    "hot day": Situation(ambient_c=38.0),
    "phase": Situation(phase_deg=50.0),
    "supply alone": Situation(rail_load_a=0.5),
}


def as_from_nothing(found: Prediction, build: Build, situation: Situation) -> None:
    alone = solve(build, situation)
    for name, figure in found.figures.items():
        if name == "energy_error" or name not in alone.figures:
            continue
        value = alone[name].value
        if math.isfinite(value):
            assert figure.value == pytest.approx(value, rel=2e-5, abs=2e-5), name
        else:
            assert figure.value == value, name


@pytest.mark.parametrize(("build", "move"), crossed(BUILDS, MOVES, 4, row_name=lambda build: build.name))
def test_a_slider_shows_what_a_fresh_start_would(build: Build, move: str) -> None:
    as_from_nothing(solve(build, MOVES[move], solve(build)), build, MOVES[move])


@pytest.mark.parametrize("build", [REHEARSAL_ROOM, FOYER], ids=lambda b: b.name)
def test_so_it_does_with_other_mains_and_with_flattened_ones(build: Build) -> None:
    for situation in (Situation(mains_v_rms=214.0), Situation(third_harmonic=0.04), Situation(mains_hz=60.0)):
        as_from_nothing(solve(build, situation, solve(build)), build, situation)


def test_another_build_gives_no_wrong_start() -> None:
    """The answer of quite another kind of build is of no use, and does no harm."""
    for here in BUILDS:
        for other in BUILDS:
            if other is not here:
                as_from_nothing(solve(here, Situation(), solve(other)), here, Situation())


@pytest.mark.parametrize("build", [REHEARSAL_ROOM, FOYER, STAGE_PAIR], ids=lambda b: b.name)
def test_so_it_does_from_one_without_the_soft_start_that_stays(build: Build) -> None:
    stays = build.model_copy(update={"entry": build.entry.model_copy(
        update={"r_soft_ohm": 4.0, "soft_bypass_s": None, "ntc_beta_k": None}
    )})  # fmt: skip
    as_from_nothing(solve(stays, Situation(), solve(build)), stays, Situation())
    as_from_nothing(solve(build, Situation(), solve(stays)), build, Situation())
    assert solve(stays)["clip_power_w"].value < 0.995 * solve(build)["clip_power_w"].value


def test_a_thermistor_is_found_as_warm_from_either_side() -> None:
    ntc = Entry(name="Inlet", fuse_a_rms=2, fuse_kind="T", r_soft_ohm=10, ntc_beta_k=3000,
                ntc_dissipation_w_per_k=0.02, ntc_heat_capacity_j_per_k=1.2)  # fmt: skip
    build = STAGE_PAIR.model_copy(update={"entry": ntc})
    loud, soft = solve(build), solve(build, Situation(level=0.2))
    for situation, other in ((Situation(), soft), (Situation(level=0.2), loud)):
        found, alone = solve(build, situation, other), solve(build, situation)
        assert found["soft_start_ohm"].value == pytest.approx(alone["soft_start_ohm"].value, rel=0.01)
        assert found["clip_power_w"].value == pytest.approx(alone["clip_power_w"].value, rel=2e-3)


def test_a_build_that_cannot_run_says_so_from_anywhere() -> None:
    before = solve(REHEARSAL_ROOM)
    with pytest.raises(PhysicsError) as fresh:
        solve(REHEARSAL_ROOM, Situation(mains_v_rms=21.0))
    with pytest.raises(PhysicsError) as moved:
        solve(REHEARSAL_ROOM, Situation(mains_v_rms=21.0), before)
    assert str(moved.value) == str(fresh.value)
