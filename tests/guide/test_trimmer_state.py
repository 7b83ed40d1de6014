"""A reading that only a board set before shows asks which board this is, in every school and on every kind of build."""

import datetime as dt

import pytest

from plinth.demo.shelf import BENCH
from plinth.guide.causes import causes
from plinth.guide.fault_bench import bench_of
from plinth.guide.judging import reading_for_step, sentence_of, verdict_at
from plinth.guide.schools.every_school import SCHOOLS
from plinth.guide.step import Step
from plinth.guide.trimmer_state import parted, step_as_read
from plinth.judge.state import State
from plinth.predict.solve import idle_rail_v
from plinth.record.reading import Reading
from plinth.units.errors import AmbiguousError
from tests.family import DEMO, FAMILY, FEW
from tests.turns import in_turn

AT = dt.datetime(2026, 10, 10, 12, 0, tzinfo=dt.UTC)
BUILDS = {**DEMO, **{name: FAMILY[name] for name in FEW}}


def with_two_states(name: str) -> list[tuple[Step, float, list[Step]]]:
    """Steps that look otherwise on a board set before, a value that only such a one shows, all steps of the school."""
    build, found = BUILDS[name], []
    for school in SCHOOLS:
        if school.why_not(build):
            continue
        steps = list(school.steps(build, "left", idle_rail_v(build), {}))
        for step in steps:
            window = step.window
            if window is None:
                continue
            if window.usual_low is not None:
                assert window.low is not None
                found.append((step, 0.5 * (window.low + window.usual_low), steps))
            if window.usual_high is not None and window.usual_high < (window.high or 0.0):
                assert window.high is not None
                found.append((step, 0.5 * (window.high + window.usual_high), steps))
    return found


def asked(step: Step, typed: str) -> AmbiguousError:
    with pytest.raises(AmbiguousError) as caught:
        reading_for_step(step, typed, BENCH, AT)
    return caught.value


@pytest.mark.parametrize("name", in_turn(BUILDS, 2))
def test_which_state_is_asked_and_either_answer_is_judged_by_its_own_window(name: str) -> None:
    cases = with_two_states(name)
    assert bool(cases) == (BUILDS[name].module.bias is not None)
    for step, value, steps in cases:
        question = asked(step, f"{value:.5g} {step.unit}")
        assert question.asks == "Set before, or at its least?"
        assert step.window is not None
        less = step.window.usual_low is not None and value < step.window.usual_low
        assert f"is {'less' if less else 'more'} than a board shows" in str(question)
        before, least = (reading_for_step(step, text, BENCH, AT) for text in question.texts)
        assert before.value == least.value == pytest.approx(value, rel=1e-4)
        assert before.state is State.CLOSE, step.key
        assert "its least" in verdict_at(step, before).further
        assert "Said with it: set before." in sentence_of(before)
        assert least.state is State.OVER, step.key
        said = verdict_at(step, least)
        assert said.words == ("Below the window" if value < (least.low or 0.0) else "Above the window")
        assert "Said with it: trimmer at its least." in said.further
        assert said.expected in sentence_of(least)
        as_read = step_as_read(step, least)
        ranked = causes(bench_of(BUILDS[name], steps, idle_rail_v(BUILDS[name]), trimmer_at_least=True),
                        [as_read if one is step else one for one in steps], {step.key: value})  # fmt: skip
        assert ranked is not None
        assert [one.key for one in ranked.outside] == [step.key]
        assert "set before" not in [one.fault.key for one in ranked.ranked]


@pytest.mark.parametrize("name", BUILDS)
def test_nothing_is_asked_of_a_usual_reading_nor_of_one_on_the_way(name: str) -> None:
    for step, value, _ in with_two_states(name):
        assert step.window is not None
        low, high = step.window.usual_low, step.window.usual_high
        usual = low * 1.02 if low is not None else 0.98 * (high or 0.0)
        assert reading_for_step(step, f"{usual:.6g} {step.unit}", BENCH, AT).state is State.CLEAR
        on_the_way = reading_for_step(step, f"{value:.6g} {step.unit}", BENCH, AT, on_the_way=True)
        assert on_the_way.state is State.CLOSE
        # A bound is no reading that a state could be read from.
        bound = reading_for_step(step, f"about {value:.6g} {step.unit}", BENCH, AT)
        assert isinstance(bound, Reading)


@pytest.mark.parametrize(
    ("typed", "plain", "state"),
    [
        ("38.2 V, set before", "38.2 V", "set"), ("38.2 set before", "38.2", "set"),
        ("38.2 V; at its least", "38.2 V", "least"), ("22 mA, trimmer at least", "22 mA", "least"),
        ("38.2 V", "38.2 V", ""), ("set", "set", ""),
    ],
)  # fmt: skip
def test_a_state_is_typed_behind_the_reading(typed: str, plain: str, state: str) -> None:
    assert parted(typed) == (plain, state)
