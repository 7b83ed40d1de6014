"""Every rated part: over just above its rating, not over just below. A limit wrong by a factor dies here."""

import dataclasses
from collections.abc import Callable
from typing import Any

import pytest

from plinth.builds.build import Build
from plinth.builds.supplies import LinearSupply
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.judge.making import Rule
from plinth.judge.rules import RULES
from plinth.judge.state import State
from plinth.predict.inputs import inputs_of
from plinth.predict.solve import solve
from tests.family import DEMO, FAMILY

By = Callable[[Build, float], Build]


def rule(name: str) -> Rule:
    return next(one for one in RULES if name in (getattr(one, "key", ""), getattr(one, "__name__", "")))


def at(path: str, scale: float = 1.0) -> By:
    """Sets the field at a dotted path."""

    def put(build: Build, value: float) -> Build:
        document: Any = build.model_dump()
        *steps, last = path.split(".")
        target = document
        for step in steps:
            target = target[step]
        target[last] = value * scale
        return Build.model_validate(document)

    return put


def in_power(build: Build, amperes: float) -> Build:
    """Rates a smoothing resistor by the watts that a current makes in it."""
    assert isinstance(build.supply, LinearSupply)
    assert build.supply.smoothing is not None
    return at("supply.smoothing.p_rated_w")(build, amperes**2 * build.supply.smoothing.r_ohm)


_RESISTOR = at("supply.smoothing.r_ohm")(FAMILY["class AB on linear with chokes"], 0.22).model_copy()
_RESISTOR = Build.model_validate(
    {**_RESISTOR.model_dump(), "supply": {**_RESISTOR.supply.model_dump(), "smoothing": {
        **_RESISTOR.supply.model_dump()["smoothing"], "l_h": None, "p_rated_w": 5.0}}}
)  # fmt: skip

CASES: dict[str, tuple[Build, By]] = {
    "fuse_current": (STAGE_PAIR, at("entry.fuse_a_rms")),
    "fuse_at_switch_on": (STAGE_PAIR, at("entry.fuse_i2t_a2s")),
    "diode_current": (STAGE_PAIR, at("supply.rectifier.i_rated_a")),
    "reservoir_voltage": (STAGE_PAIR, at("supply.reservoir.v_rated")),
    "other_reservoir_voltage": (FOYER, at("supply.smoothing.v_rated")),
    "reservoir_ripple": (STAGE_PAIR, at("supply.reservoir.i_ripple_rated_a")),
    "smoothing_current": (FOYER, at("supply.smoothing.i_rated_a")),
    "regulator_input": (STAGE_PAIR, at("supply.input_supply.regulator.v_in_max")),
    "regulator_heat": (STAGE_PAIR, at("supply.input_supply.regulator.t_junction_max_c")),
    "module_rail_maximum": (STAGE_PAIR, at("module.v_rail_max")),
    "module_current": (STAGE_PAIR, at("module.i_limit_a")),
    "sink_heat": (STAGE_PAIR, at("sink.t_limit_c")),
    "junction_heat": (STAGE_PAIR, at("module.t_junction_max_c")),
    "load_rating": (STAGE_PAIR, at("load.p_rated_w")),
    "dropper_heat": (REHEARSAL_ROOM, at("protection.p_dropper_rated_w")),
    "contact_breaks_rail": (REHEARSAL_ROOM, at("protection.contact_dc_v")),
    "converter_diodes": (STREET_BOX, at("supply.converter.v_diode_rated_v")),
}
# Temperatures, of which no share is meant: held by a test of their own.
_ELSEWHERE = {"sink_heat", "junction_heat"}


@pytest.mark.parametrize("name", [name for name in CASES if name not in _ELSEWHERE])
def test_over_just_above_the_rating_and_not_just_below(name: str) -> None:
    build, rated = CASES[name]
    prediction = solve(build)
    found = rule(name)(build, prediction)
    assert found is not None
    assert found.figure is not None
    value = found.figure.value
    states = {}
    for share in (0.98, 1.02, 2.0):
        margin = rule(name)(rated(build, value * share), prediction)
        assert margin is not None
        assert margin.limit == pytest.approx(value * share, rel=1e-9), "the limit is the rating"
        states[share] = margin.state
    assert states == {0.98: State.OVER, 1.02: State.CLOSE, 2.0: State.CLEAR}


@pytest.mark.parametrize("name", ["sink_heat", "junction_heat"])
def test_temperatures_are_over_a_kelvin_above_their_limit(name: str) -> None:
    build, rated = CASES[name]
    prediction = solve(build)
    start = rule(name)(rated(build, 150.0), prediction)
    assert start is not None
    assert start.figure is not None
    for limit, state in ((start.figure.value - 1.0, State.OVER), (start.figure.value + 1.0, State.CLOSE)):
        margin = rule(name)(rated(build, limit), prediction)
        assert margin is not None
        assert margin.state is state


@pytest.mark.parametrize("name", ["Stage pair", "class AB on dual mono", "class A on linear with chokes", "Foyer"])
def test_a_fuse_far_too_large_for_its_transformers_is_over(name: str) -> None:
    build = {**DEMO, **FAMILY}[name]
    assert isinstance(build.supply, LinearSupply)
    prediction = solve(build)
    part, small = build.supply.transformer, build.supply.input_supply
    count = len(build.channels) if build.one_supply_per_channel else 1
    rated = count * part.va / part.v_primary_rms
    rated += 0.0 if small is None else small.transformer.va / small.transformer.v_primary_rms
    states = {}
    for times in (1.5, 2.9, 3.1, 6.0):
        entry = build.entry.model_copy(update={"fuse_a_rms": times * rated})
        margin = rule("fuse_protects")(build.model_copy(update={"entry": entry}), prediction)
        assert margin is not None
        assert margin.limit == pytest.approx(3.0 * rated)
        states[times] = margin.state
    assert states == {1.5: State.CLEAR, 2.9: State.CLOSE, 3.1: State.OVER, 6.0: State.OVER}


def test_a_supply_without_a_transformer_has_no_winding_to_protect() -> None:
    assert rule("fuse_protects")(STREET_BOX, solve(STREET_BOX)) is None


@pytest.mark.parametrize(("inside_c", "state"), [(130.0, State.UNKNOWN), (145.0, State.CLOSE), (177.0, State.OVER)])
def test_a_junction_that_passes_the_usual_limit_warns_though_nobody_states_one(inside_c: float, state: State) -> None:
    silent = STAGE_PAIR.module.model_copy(update={"t_junction_max_c": None})
    build = STAGE_PAIR.model_copy(update={"module": silent})
    prediction = solve(build)
    cold = prediction["junction_c"]
    figure = dataclasses.replace(cold, value=inside_c, u=0.1)
    moved = dataclasses.replace(prediction, figures={**prediction.figures, "junction_c": figure})
    margin = rule("junction_heat")(build, moved)
    assert margin is not None
    assert margin.state is state, figure.value
    assert ("150 °C (assumed)" in margin.limit_words) == (state is not State.UNKNOWN)
    # A limit that is assumed is never spoken of as theirs.
    assert margin.sentence.startswith("No highest junction temperature is stated")
    assert ("usual ones" in margin.sentence) == (state is not State.UNKNOWN)


def test_a_smoothing_resistor_is_rated_by_its_watts() -> None:
    prediction = solve(_RESISTOR)
    found = rule("smoothing_current")(_RESISTOR, prediction)
    assert found is not None
    assert found.figure is not None
    for share, state in ((0.98, State.OVER), (1.02, State.CLOSE)):
        margin = rule("smoothing_current")(in_power(_RESISTOR, share * found.figure.value), prediction)
        assert margin is not None
        assert margin.state is state


def test_the_lower_rated_of_two_further_capacitors_counts() -> None:
    unequal = FAMILY["class AB on linear, unequal"]
    highest = solve(unequal)["rail_no_load_high_v"].value
    for share, state in ((0.98, State.OVER), (1.02, State.CLOSE)):
        changed = at("supply.reservoir_minus.v_rated")(unequal, share * highest)
        margin = rule("other_reservoir_voltage")(changed, solve(unequal))
        assert margin is not None
        assert margin.state is state


@pytest.mark.parametrize("pairs", [1, 2, 4])
def test_the_usual_package_is_shared_by_all_output_devices(pairs: int) -> None:
    """1.5 K/W a package with its pad: two beside each other for each pair, one for a chip."""
    module = STAGE_PAIR.module.model_copy(update={"r_junction_sink_k_per_w": None, "output_pairs": pairs})
    found = inputs_of(STAGE_PAIR.model_copy(update={"module": module}))["r_junction"]
    assert found.value == pytest.approx(1.5 / (2 * pairs))
    assert found.estimated
    chip = REHEARSAL_ROOM.module.model_copy(update={"r_junction_sink_k_per_w": None})
    assert inputs_of(REHEARSAL_ROOM.model_copy(update={"module": chip}))["r_junction"].value == pytest.approx(1.5)
