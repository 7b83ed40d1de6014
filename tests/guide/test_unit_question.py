"""A bare number that may stand in two units is asked about, on every kind of build and in every school."""

import datetime as dt

import pytest

from plinth.demo.builds import STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.guide.judging import reading_for_step
from plinth.guide.schools.every_school import SCHOOLS
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.predict.solve import idle_rail_v
from plinth.units.errors import AmbiguousError
from tests.family import DEMO, FAMILY, FEW
from tests.turns import in_turn

AT = dt.datetime(2026, 10, 10, 12, 0, tzinfo=dt.UTC)
BUILDS = {**DEMO, **{name: FAMILY[name] for name in FEW}}


def steps_of(name: str) -> list[Step]:
    build = BUILDS[name]
    idle = idle_rail_v(build)
    return [
        step for school in SCHOOLS if not school.why_not(build) for step in school.steps(build, "left", idle, {})
    ]  # fmt: skip


def asked_about(step: Step, typed: str) -> AmbiguousError | None:
    try:
        reading_for_step(step, typed, BENCH, AT)
    except AmbiguousError as error:
        return error
    return None


@pytest.mark.parametrize("name", BUILDS)
def test_volts_of_a_fault_are_never_taken_for_millivolts(name: str) -> None:
    """A meter that shows most of a rail, its number typed bare: never inside the window."""
    asked = 0
    for step in steps_of(name):
        if step.request is None or (step.unit, step.request.bare_prefix) != ("V", "m") or step.window is None:
            continue
        assert step.most is not None, step.key
        volts = 0.7 * step.most
        for typed in (f"{volts:.1f}", f"-{volts:.1f}"):
            question = asked_about(step, typed)
            if question is None:
                # Taken at once only where it is no good reading in either unit, or just what is expected.
                narrow = step.window.low is not None and step.window.low > 0.0
                assert reading_for_step(step, typed, BENCH, AT).state is State.OVER or narrow, (step.key, typed)
                continue
            asked += 1
            assert any(abs(value) == pytest.approx(volts, abs=0.06) for value in question.values)
            for text, value in zip(question.texts, question.values, strict=True):
                assert reading_for_step(step, text, BENCH, AT).value == pytest.approx(value)
    assert asked >= 2


@pytest.mark.parametrize("name", in_turn(BUILDS, 3))
def test_amperes_are_never_taken_for_milliamperes(name: str) -> None:
    for step in steps_of(name):
        if (
            step.request is None
            or (step.unit, step.request.bare_prefix) != ("A", "m")
            or step.window is None
            or step.window.high is None
        ):
            continue
        amperes = 0.5 * ((step.window.low or 0.0) + step.window.high)
        with pytest.raises(AmbiguousError, match="without a unit"):
            reading_for_step(step, f"{amperes:.4g}", BENCH, AT)
        assert reading_for_step(step, f"{amperes:.4g} A, set before", BENCH, AT).state is not State.OVER


def step_of(key: str) -> Step:
    return next(one for one in steps_of(STAGE_PAIR.name) if one.key == key)


@pytest.mark.parametrize(
    ("key", "typed", "texts"),
    [
        ("low_dc", "19.2", ("19.2 mV", "19.2 V")),
        ("low_dc", "-19.2", ("-19.2 mV", "-19.2 V")),
        ("low_dc", "> 5", ("> 5 mV", "> 5 V")),
        ("bias", "0.12", ("0.12 mV", "0.12 V")),
        ("rails_open", "4.1", ("4.1 Ω", "4.1 kΩ", "4.1 MΩ")),
        ("insulation", "20", ("20 Ω", "20 MΩ")),
    ],
)
def test_what_may_be_meant_is_offered(key: str, typed: str, texts: tuple[str, ...]) -> None:
    with pytest.raises(AmbiguousError) as caught:
        reading_for_step(step_of(key), typed, BENCH, AT)
    assert caught.value.texts == texts
    assert all(text in str(caught.value) for text in texts)


@pytest.mark.parametrize(
    ("key", "typed", "value"),
    [
        ("low_dc", "19.2 mV", 0.0192),
        ("low_dc", "19.2V", 19.2),
        ("low_dc", "0", 0.0),  # the same in every unit
        ("low_dc", "480", 0.48),  # no rail here has 480 V
        ("bias", "33.5", 0.0335),  # just what is expected
        ("bias", "22", 0.022),  # the listing's, near what is expected
        ("emitter_resistor", "0.33", 0.33),
        ("emitter_resistor", "0.47", 0.47),
        ("low_current", "12", 0.012),  # no limit is set to 12 A
        ("rails_open", "4k1", 4100.0),
    ],
)
def test_what_can_only_be_meant_in_one_way_is_taken(key: str, typed: str, value: float) -> None:
    assert reading_for_step(step_of(key), typed, BENCH, AT).value == pytest.approx(value)


def test_how_near_is_near_enough_to_be_meant() -> None:
    """Within a factor of three of what is expected the unit is the one asked for; further away it is asked about."""
    bias = step_of("bias")
    assert bias.window is not None
    assert bias.window.low is not None
    assert bias.most is not None
    low_mv = 1000.0 * bias.window.low
    assert asked_about(bias, f"{low_mv / 2.9:.4g}") is None
    assert asked_about(bias, f"{low_mv / 3.1:.4g}") is not None
    # What no rail here has was not meant in volts.
    dc = step_of("low_dc")
    assert dc.most is not None
    assert asked_about(dc, f"{1.19 * dc.most:.4g}") is not None
    assert asked_about(dc, f"{1.21 * dc.most:.4g}") is None


def test_no_wall_current_is_taken_beyond_what_the_fuse_lets_pass() -> None:
    step = step_of("wall_current")
    assert step.most == pytest.approx(4.0 * STAGE_PAIR.entry.fuse_a_rms)
