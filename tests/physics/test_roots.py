"""Roots, last good places and resting places against closed forms and scipy."""

import math
from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from plinth.physics.numbers.roots import bracketed, last_had, resting_place

FUNCTIONS: dict[str, tuple[Callable[[float], float], float, float]] = {
    "line": (lambda x: 3.0 * x - 1.0, -4.0, 9.0),
    "cubic": (lambda x: x**3 - 7.0, 0.0, 5.0),
    "steep": (lambda x: math.exp(12.0 * x) - 40.0, 0.0, 1.0),
    "falling": (lambda x: 2.0 - math.sqrt(x), 0.0, 30.0),
    "kinked": (lambda x: min(x - 1.0, 40.0 * (x - 1.0)), 0.0, 3.0),
}


@pytest.mark.parametrize("name", FUNCTIONS)
def test_a_root_between_two_places_is_scipy_s(name: str) -> None:
    f, low, high = FUNCTIONS[name]
    found = bracketed(f, (low, f(low)), (high, f(high)), 1e-10)
    assert found == pytest.approx(brentq(f, low, high, xtol=1e-13), abs=1e-8)


def test_ends_of_like_signs_are_refused() -> None:
    with pytest.raises(ValueError, match="unlike signs"):
        bracketed(lambda x: x, (1.0, 1.0), (2.0, 2.0), 1e-9)


@given(st.floats(0.01, 0.99))
def test_the_last_place_where_something_is_had(edge: float) -> None:
    found = last_had(lambda x: 2.0 * x if x <= edge else None, 0.0, 1.0, 1e-6)
    assert found is not None
    assert found[0] == pytest.approx(edge, abs=2e-6)
    assert found[0] <= edge
    assert found[1] == 2.0 * found[0]
    assert last_had(lambda _x: None, 0.0, 1.0, 1e-6) is None


@given(st.floats(-0.9, 0.999), st.floats(1.0, 50.0), st.floats(0.05, 0.95))
def test_a_linear_map_rests_where_it_must_after_one_step(slope: float, rest: float, start: float) -> None:
    asked: list[float] = []

    def after(x: float) -> tuple[float, float, float]:
        asked.append(x)
        return (slope - 1.0) * (x - rest), slope, x

    found, count = resting_place(after, start * 100.0, 0.0, 100.0, lambda gap, _slope: abs(gap) < 1e-9, 40)
    assert found == pytest.approx(rest, rel=1e-6)
    assert count == len(asked) <= 3


def test_steps_that_lead_astray_are_held_and_the_patience_has_an_end() -> None:
    def after(x: float) -> tuple[float, float, float]:
        # The slope told is nonsense: only the side of the rest is right.
        return 30.0 - x, 1.0, x

    found, count = resting_place(after, 90.0, 0.0, 100.0, lambda gap, _slope: abs(gap) < 1e-6, 60)
    assert found == pytest.approx(30.0, abs=1e-5)
    assert count < 40
    _, few = resting_place(after, 90.0, 0.0, 100.0, lambda gap, _slope: abs(gap) < 1e-6, 5)
    assert few == 5
