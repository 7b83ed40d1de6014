"""The whole allowed space of builds and situations: solved with its energy accounted for, or refused with a reason."""

import itertools
import math
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import HealthCheck, given, reject, settings
from hypothesis import strategies as st

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo import builds as demo
from plinth.demo import shelf
from plinth.judge.rules import judge
from plinth.physics.numbers.cancellation import while_wanted
from plinth.physics.numbers.errors import GivenUpError, PhysicsError
from plinth.predict.figure_values import figure_values
from plinth.predict.inputs import inputs_of
from plinth.predict.solution import Solution
from plinth.predict.solve import solution_of, solve
from tests.sample_builds import SHARED_PAIR


def spread(low: float, high: float) -> st.SearchStrategy[float]:
    """Values spread evenly by ratio."""
    return st.floats(math.log(low), math.log(high)).map(math.exp).map(lambda x: min(high, max(low, x)))


def reservoir(draw: st.DrawFn) -> dict[str, Any]:
    return {
        "name": "any", "maker": "any", "v_rated": 63.0,
        "c_f": draw(spread(1e-6, 2.0) | spread(1e-3, 50e-3)),
        "esr_ohm": draw(st.none() | st.floats(0, 10)),
        "r_bleeder_ohm": draw(st.none() | spread(1, 1e7)),
    }  # fmt: skip


def linear(draw: st.DrawFn, secondaries: str) -> dict[str, Any]:
    found = SHARED_PAIR.supply.model_dump()
    found["transformer"] |= {
        "core": draw(st.sampled_from(["toroid", "ei"])),
        "secondaries": secondaries,
        "va": draw(spread(1, 20_000) | spread(30, 800)),
        "v_secondary_rms": draw(spread(0.5, 300) | spread(10, 60)),
        "regulation": draw(st.none() | spread(0.005, 0.6)),
        "leakage_h": draw(st.none() | st.floats(0, 1e-3)),
        "primary_share": draw(st.none() | st.floats(0, 1)),
    }
    found["rectifier"] |= {
        "bridges": draw(st.sampled_from(["one", "two"])) if secondaries == "two" else "one",
        "diode": draw(st.sampled_from(["silicon", "schottky"])),
        "v_forward_v": draw(st.none() | st.floats(0, 2)),
        "r_dynamic_ohm": draw(st.none() | spread(1e-4, 10)),
    }
    found["reservoir"] |= reservoir(draw)
    if secondaries != "one" and draw(st.booleans()):
        found["reservoir_minus"] = reservoir(draw)
    if draw(st.booleans()):
        found["smoothing"] = reservoir(draw) | {
            "r_ohm": draw(spread(0.01, 20)), "l_h": draw(st.none() | spread(1e-4, 0.1)),
        }  # fmt: skip
        del found["smoothing"]["r_bleeder_ohm"]
    found["per_channel"] = draw(st.booleans())
    return found


def switcher(draw: st.DrawFn, rails: str) -> dict[str, Any]:
    part = shelf.SHUNTER_36.model_dump() | {
        "rails": rails, "v_rail": draw(spread(5, 120)), "droop": draw(st.floats(0, 0.5)),
        "control": draw(st.sampled_from(["regulated", "proportional"])), "p_continuous_w": draw(spread(10, 3000)),
        "efficiency": draw(st.floats(0.4, 0.98)), "c_bulk_f": draw(st.none() | spread(1e-5, 5e-3)),
        "pfc": draw(st.booleans()),
    }  # fmt: skip
    return {"kind": "switcher", "switcher": part, "reservoir": reservoir(draw)}


def battery(draw: st.DrawFn) -> dict[str, Any]:
    converter = shelf.CARTHORSE_300.model_dump() | {
        "v_rail": draw(spread(8, 120)), "droop": draw(st.floats(0, 0.3)),
        "control": draw(st.sampled_from(["regulated", "proportional"])), "p_continuous_w": draw(spread(10, 3000)),
        "cable_m": draw(spread(0.1, 50)),
    }  # fmt: skip
    return {
        "kind": "battery", "battery": shelf.EIGHT_CELLS_20.model_dump(), "converter": converter,
        "reservoir": reservoir(draw), "i_other_a": None,
    }  # fmt: skip


def direct(draw: st.DrawFn, rails: str) -> dict[str, Any]:
    source = shelf.BENCH_PAIR.model_dump() | {
        "rails": rails, "v_rail": draw(spread(2, 100)), "r_source_ohm": draw(st.none() | st.floats(0, 5)),
    }  # fmt: skip
    return {"kind": "direct", "source": source, "reservoir": reservoir(draw)}


def module(draw: st.DrawFn, kind: str) -> dict[str, Any]:
    found = {
        "class_ab": shelf.STAGEHAND_60, "class_a": shelf.CANDLE_12, "single_ended": shelf.CANDLE_12,
        "half": shelf.LANTERN_100, "full": shelf.PARADE_150,
    }[kind].model_dump()  # fmt: skip
    found |= {"i_driver_a": draw(st.floats(0, 1) | st.floats(0, 0.05)), "own_rectifier": draw(st.booleans())}
    if kind in ("half", "full"):
        return found | {
            "r_on_ohm": draw(st.floats(0, 2)), "modulation_max": draw(st.floats(0.5, 1.0)),
            "efficiency": draw(st.floats(0.6, 1.0)),
        }  # fmt: skip
    found |= {"v_sat_v": draw(st.floats(0, 20) | st.floats(0, 4)), "r_out_ohm": draw(st.none() | st.floats(0, 10))}
    if kind != "class_ab":
        found |= {
            "topology": "push_pull" if kind == "class_a" else "single_ended",
            "i_quiescent_stated_a": draw(st.floats(0.05, 5)),
        }  # fmt: skip
    return found


@st.composite
def builds(draw: st.DrawFn) -> Build:
    kind = draw(st.sampled_from(["class_ab", "class_ab", "bridged", "class_a", "single_ended", "half", "full"]))
    single = kind == "full" or (kind == "bridged" and draw(st.booleans()))
    document: dict[str, Any] = SHARED_PAIR.model_dump()
    rails = "single" if single else "dual"
    source = draw(st.sampled_from(["linear", "linear", "switcher", "battery", "direct"]))
    if source == "battery" and single:
        source = "switcher"
    if source == "linear":
        secondaries = "one" if single else draw(st.sampled_from(["centre_tap", "two"]))
        document["supply"] = linear(draw, secondaries)
    else:
        document["supply"] = {
            "switcher": lambda: switcher(draw, rails),
            "battery": lambda: battery(draw),
            "direct": lambda: direct(draw, rails),
        }[source]()
    if source in ("battery", "direct"):
        document["mains"] = None
    document["wiring"] = "bridged" if kind == "bridged" else "single"
    document["module"] = module(draw, "class_ab" if kind == "bridged" else kind)
    document["channels"] = ["a", "b", "c"][: draw(st.integers(1, 3))]
    document["load"] = {"name": "any", "r_ohm": draw(spread(0.5, 10_000))}
    if draw(st.booleans()):
        document["entry"] |= {"r_soft_ohm": draw(spread(1, 500)), "soft_bypass_s": draw(st.none() | st.floats(0, 2))}
    return Build.model_validate(document)


situations = st.builds(
    Situation,
    mains_v_rms=st.none() | st.floats(20, 500),
    mains_hz=st.sampled_from([40.0, 50.0, 60.0, 70.0]),
    third_harmonic=st.sampled_from([0.0, 0.04, 0.2]),
    load_ohm=st.none() | spread(0.5, 10_000),
    load_phase_deg=st.none() | st.floats(-60, 60),
    channels_driven=st.sampled_from(["one", "all"]),
    level=st.sampled_from([0.0, 0.3, 1.0]),
    frequency_hz=spread(5, 100_000),
    antiphase=st.booleans(),
    phase_deg=st.floats(-360, 360),
    crest_db=st.floats(3.01, 30),
    ambient_c=st.floats(-40, 60),
)


def refused(reason: str) -> None:
    assert len(reason.split()) > 6, reason


# Runs of marches that one build may take: some twenty times what a usual one does. Counted, so that no clock decides.
MOST_RUNS = 6_000


def patience() -> Callable[[], str]:
    runs = itertools.count()
    return lambda: "" if next(runs) < MOST_RUNS else "it takes more marches than one example is worth"


def check_values(build: Build, situation: Situation) -> None:
    """All figures of a build, without their uncertainty."""
    values = {key: one.value for key, one in inputs_of(build, situation).items()}
    try:
        with while_wanted(patience()):
            solution = solution_of(build, situation, values)
            figures = figure_values(solution)
    except GivenUpError:
        reject()
    except PhysicsError as error:
        refused(str(error))
        return
    assert not [name for name, value in figures.items() if math.isnan(value)]
    assert figures["clip_v_peak"] > 0.0
    assert figures["rail_plus_min_v"] > 0.0
    assert abs(figures["energy_error"]) < 5e-3 + _stored_and_not_known(solution)


# To what share the volts are known at which a period begins and ends: those of a farad change by less in a third of a
# millisecond.
VOLTS_KNOWN_TO = 2e-7


def _stored_and_not_known(solution: Solution) -> float:
    """What the reservoirs may take or give in a period without being seen to, as a share of what flows in it."""
    state = solution.points.at_level
    stored = sum(state.circuit.c * rail.mean(rail.v_node) ** 2 for rail in state.rails)
    return VOLTS_KNOWN_TO * stored / max(state.p_rails_w * state.period.shared.seconds, 1e-12)


def test_what_is_stored_and_not_known_counts_for_absurd_reservoirs_only() -> None:
    for build in (demo.STAGE_PAIR, demo.MARKET_BOX):
        values = {key: one.value for key, one in inputs_of(build).items()}
        assert _stored_and_not_known(solution_of(build, Situation(), values)) < 1e-4


def check(build: Build, situation: Situation) -> None:
    """A whole prediction: figures with uncertainty, and every margin."""
    try:
        prediction = solve(build, situation)
    except PhysicsError as error:
        refused(str(error))
        return
    for figure in prediction.figures.values():
        assert not math.isnan(figure.u), figure.name
    assert prediction["clip_v_peak"].value > 0.0
    assert abs(prediction["energy_error"].value) < 5e-3
    assert len({m.key for m in judge(prediction)}) > 10


# Each example is many marches, which takes longer than hypothesis expects of one.
ANY_TIME = {"deadline": None, "suppress_health_check": [HealthCheck.too_slow, HealthCheck.filter_too_much]}


# The ordinary run is the same each time; the slow one looks elsewhere every time.
@settings(max_examples=30, derandomize=True, **ANY_TIME)  # type: ignore[arg-type]
@given(builds(), situations)
def test_any_build_is_solved_or_refused_with_a_reason(build: Build, situation: Situation) -> None:
    check_values(build, situation)


@settings(max_examples=5, derandomize=True, **ANY_TIME)  # type: ignore[arg-type]
@given(builds(), situations)
def test_any_build_is_judged(build: Build, situation: Situation) -> None:
    check(build, situation)


@pytest.mark.slow
@settings(max_examples=60, derandomize=True, **ANY_TIME)  # type: ignore[arg-type]
@given(builds(), situations)
def test_sixty_builds_are_judged(build: Build, situation: Situation) -> None:
    check(build, situation)


@pytest.mark.slow
@settings(max_examples=2000, **ANY_TIME)  # type: ignore[arg-type]
@given(builds(), situations)
def test_two_thousand_builds_are_solved_or_refused_with_a_reason(build: Build, situation: Situation) -> None:
    check_values(build, situation)


def test_the_demo_builds_are_inside_the_space_that_is_searched() -> None:
    for build in demo.BUILDS:
        check_values(build, Situation())
