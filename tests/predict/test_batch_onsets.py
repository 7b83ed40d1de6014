"""Many variants at once against one at a time; the propagated uncertainty against random samples."""

import dataclasses

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STREET_BOX
from plinth.physics.numbers.cancellation import while_wanted
from plinth.physics.numbers.errors import GivenUpError
from plinth.physics.rails.common_period import FINE
from plinth.physics.rails.many_onsets import StoppedError
from plinth.predict.batch_onsets import Choice, choices, clip_map, sampled_clip_power_w
from plinth.predict.circuits import circuit_of
from plinth.predict.inputs import inputs_of
from plinth.predict.mains_unstated import u_without_mains
from plinth.predict.power_state import lay_period, network_onset, plain_onsets
from plinth.predict.solve import solve
from tests.family import FAMILY
from tests.sample_builds import SHARED_PAIR, linear


def choice(build: Build, key: str) -> Choice:
    return next(one for one in choices(build) if one.key == key)


@pytest.mark.parametrize(("across", "up", "f_hz"), [("c", "v_secondary", 1000.0), ("mains_v_rms", "r_load", 50.0)])
def test_a_map_is_what_each_variant_gives_alone(across: str, up: str, f_hz: float) -> None:
    situation = Situation(frequency_hz=f_hz, phase_deg=20.0)
    columns, rows = choice(SHARED_PAIR, across), choice(SHARED_PAIR, up)
    found = clip_map(SHARED_PAIR, situation, columns, rows, columns.values(40), rows.values(30))
    assert found.power_w.shape == (30, 40)
    values = {key: one.value for key, one in inputs_of(SHARED_PAIR).items()}
    circuit = circuit_of(SHARED_PAIR, situation, values)
    for y, x in ((0, 0), (0, 39), (29, 0), (29, 39), (14, 22), (7, 31)):
        here = dataclasses.replace(circuit, **{across: float(found.x[x]), up: float(found.y[y])})  # type: ignore[arg-type]
        alone = min(one.v_peak for one in plain_onsets(here, lay_period(here, f_hz, 20.0, FINE), 2))
        alone = min(alone, here.v_at_limit)
        # Power moves twice as much as volts, for which 5e-4 is asked.
        assert found.power_w[y, x] == pytest.approx(alone**2 / (2 * here.r_load), rel=5e-4)


def test_a_larger_transformer_regulates_better_where_its_regulation_is_estimated() -> None:
    part = linear(REHEARSAL_ROOM).transformer.model_copy(update={"regulation": None})
    build = REHEARSAL_ROOM.model_copy(
        update={
            "supply": linear(REHEARSAL_ROOM).model_copy(update={"transformer": part}),
            # Without a limit of the chip's own, which a large transformer reaches.
            "module": REHEARSAL_ROOM.module.model_copy(update={"i_limit_a": 100.0}),
        }
    )
    assert inputs_of(build)["regulation"].estimated
    va, load = choice(build, "va"), choice(build, "r_load")
    found = clip_map(build, Situation(), va, load, va.values(12), load.values(8))
    assert np.all(np.isfinite(found.power_w))
    assert np.all(np.diff(found.power_w[0]) > 0.0), "into the lowest load a larger transformer always gives more"


def test_variants_that_cannot_run_are_left_empty() -> None:
    volts, load = choice(SHARED_PAIR, "v_secondary"), choice(SHARED_PAIR, "r_load")
    found = clip_map(SHARED_PAIR, Situation(), volts, load, np.array([1.0, 2.0, 25.0]), load.values(4))
    assert np.all(np.isnan(found.power_w[:, 0]))
    assert np.all(found.power_w[:, 2] > 0.0)


@pytest.mark.parametrize("build", [FOYER, STREET_BOX], ids=lambda b: b.name)
def test_builds_of_other_kinds_are_mapped_one_by_one(build: Build) -> None:
    first, load = choices(build)[0], choice(build, "r_load")
    found = clip_map(build, Situation(), first, load, first.values(3), load.values(2))
    circuit = circuit_of(build, Situation(), {key: one.value for key, one in inputs_of(build).items()})
    field = {"v_set": "steady_v"}.get(first.key, first.key)
    here = dataclasses.replace(circuit, **{field: float(found.x[1]), "r_load": float(found.y[1])})  # type: ignore[arg-type]
    alone = network_onset(here, lay_period(here, 1000.0, 0.0, FINE), here.channels).v_peak
    assert found.power_w[1, 1] == pytest.approx(alone**2 / (2 * here.r_load), rel=2e-3)


def test_a_map_can_be_stopped_and_tells_how_far_it_is() -> None:
    c, load = choice(SHARED_PAIR, "c"), choice(SHARED_PAIR, "r_load")
    told: list[float] = []

    def go_on(share: float) -> bool:
        told.append(share)
        return len(told) < 3

    with pytest.raises(StoppedError):
        clip_map(SHARED_PAIR, Situation(), c, load, c.values(90), load.values(90), go_on)
    assert told == sorted(told)
    assert len(told) == 3


@pytest.mark.parametrize("build", [SHARED_PAIR, REHEARSAL_ROOM], ids=lambda b: b.name)
def test_the_propagated_uncertainty_is_that_of_random_samples(build: Build) -> None:
    power = sampled_clip_power_w(build, Situation())
    assert len(power) == 2000
    assert np.all(np.isfinite(power))
    figure = solve(build, Situation())["clip_power_w"]
    u = u_without_mains(figure)
    # The scatter of a standard deviation from 2000 samples is 1.6 %; the estimates add some bend.
    assert float(np.std(power)) == pytest.approx(u, rel=0.08)
    assert float(np.mean(power)) == pytest.approx(figure.value, abs=0.15 * u)
    inside = np.mean(np.abs(power - figure.value) < 2.0 * u)
    assert 0.93 < inside < 0.98


def test_the_same_seed_draws_the_same_samples() -> None:
    a, b, c = (sampled_clip_power_w(SHARED_PAIR, Situation(), 50, seed) for seed in (4, 4, 5))
    assert np.array_equal(a, b)
    assert not np.array_equal(a, c)


def test_what_is_given_up_is_not_taken_for_a_circuit_that_cannot_run() -> None:
    asked = 0

    def enough() -> str:
        nonlocal asked
        asked += 1
        return "nobody waits" if asked > 100 else ""

    with while_wanted(enough), pytest.raises(GivenUpError, match="nobody waits"):
        sampled_clip_power_w(STREET_BOX, Situation(), 100)


def test_a_rail_set_by_hand_is_varied_from_three_fifths_to_half_as_much_again() -> None:
    build = FAMILY["class AB on bench"]
    set_v = build.supply.rough_rail_v
    choice = next(choice for choice in choices(build) if choice.key == "v_set")
    assert (choice.low, choice.high) == pytest.approx((0.6 * set_v, 1.5 * set_v))
    c = next(choice for choice in choices(build) if choice.key == "c")
    assert c.high / c.low == pytest.approx(25.0)
