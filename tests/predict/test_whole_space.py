"""The whole allowed space of builds and situations: solved with its energy accounted for, or refused with a reason."""

import math
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.rules import judge
from plinth.physics.errors import PhysicsError
from plinth.predict.solve import solve
from tests.sample_builds import SHARED_PAIR


def spread(low: float, high: float) -> st.SearchStrategy[float]:
    """Values spread evenly by ratio."""
    return st.floats(math.log(low), math.log(high)).map(math.exp).map(lambda x: min(high, max(low, x)))


@st.composite
def builds(draw: st.DrawFn) -> Build:
    document: dict[str, Any] = SHARED_PAIR.model_dump()
    supply, module = document["supply"], document["module"]
    tapped = draw(st.booleans())
    supply["transformer"] |= {
        "core": draw(st.sampled_from(["toroid", "ei"])),
        "secondaries": "centre_tap" if tapped else "two",
        "va": draw(spread(1, 20_000) | spread(30, 800)),
        "v_secondary_rms": draw(spread(0.5, 300) | spread(10, 60)),
        "regulation": draw(st.none() | spread(0.005, 0.6)),
    }
    supply["rectifier"] |= {
        "bridges": "one" if tapped else draw(st.sampled_from(["one", "two"])),
        "diode": draw(st.sampled_from(["silicon", "schottky"])),
        "v_forward_v": draw(st.none() | st.floats(0, 2)),
        "r_dynamic_ohm": draw(st.none() | spread(1e-4, 10)),
    }
    supply["reservoir"] |= {
        "c_f": draw(spread(1e-6, 2.0) | spread(1e-3, 50e-3)),
        "esr_ohm": draw(st.none() | st.floats(0, 10)),
        "r_bleeder_ohm": draw(st.none() | spread(1, 1e7)),
    }
    module |= {
        "v_sat_v": draw(st.floats(0, 20) | st.floats(0, 4)),
        "r_out_ohm": draw(st.none() | st.floats(0, 10)),
        "i_driver_a": draw(st.floats(0, 1) | st.floats(0, 0.05)),
    }
    document["channels"] = ["a", "b", "c"][: draw(st.integers(1, 3))]
    document["load"]["r_ohm"] = draw(spread(0.5, 10_000))
    return Build.model_validate(document)


situations = st.builds(
    Situation,
    mains_v_rms=st.none() | st.floats(20, 500),
    mains_hz=st.sampled_from([40.0, 50.0, 60.0, 70.0]),
    third_harmonic=st.sampled_from([0.0, 0.04, 0.2]),
    load_ohm=st.none() | spread(0.5, 10_000),
    channels_driven=st.sampled_from(["one", "all"]),
    level=st.sampled_from([0.0, 0.3, 1.0]),
    frequency_hz=spread(5, 100_000),
    phase_deg=st.floats(-360, 360),
    crest_db=st.floats(3.01, 30),
    ambient_c=st.floats(-40, 60),
)


def check(build: Build, situation: Situation) -> None:
    reason = ""
    try:
        prediction = solve(build, situation)
    except PhysicsError as error:
        reason = str(error)
    if reason:
        assert len(reason.split()) > 6
        return
    for figure in prediction.figures.values():
        assert not math.isnan(figure.u), figure.name
    assert prediction["clip_v_peak"].value > 0.0
    assert prediction["rail_plus_min_v"].value > 0.0
    assert abs(prediction["energy_error"].value) < 5e-3
    assert len({m.key for m in judge(prediction)}) > 10


# Each example is a whole prediction, which takes longer than hypothesis expects of one.
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(builds(), situations)
def test_any_build_is_solved_or_refused_with_a_reason(build: Build, situation: Situation) -> None:
    check(build, situation)


@pytest.mark.slow
@settings(max_examples=2000, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(builds(), situations)
def test_two_thousand_builds_are_solved_or_refused_with_a_reason(build: Build, situation: Situation) -> None:
    check(build, situation)
