"""Uncertainty on functions whose answer is known."""

import math
from collections.abc import Mapping

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.physics.numbers.errors import NoSwingError, PhysicsError
from plinth.predict.figure import Contribution, Figure, Origin
from plinth.predict.input import Input, from_tolerance
from plinth.predict.propagate import as_contributions, combined, contributions


def inputs(**values: tuple[float, float]) -> dict[str, Input]:
    return {key: Input(key, value, "V", u) for key, (value, u) in values.items()}


@given(st.floats(-5, 5), st.floats(-5, 5), st.floats(0.01, 2), st.floats(0.01, 2))
def test_a_linear_figure_has_the_exact_spread(a: float, b: float, u_x: float, u_y: float) -> None:
    def compute(values: Mapping[str, float]) -> dict[str, float]:
        return {"f": a * values["x"] + b * values["y"]}

    found = contributions(compute, inputs(x=(3.0, u_x), y=(7.0, u_y)))
    assert combined(found["f"]) == pytest.approx(math.hypot(a * u_x, b * u_y), rel=1e-9, abs=1e-12)


def test_inputs_that_do_not_matter_are_not_listed() -> None:
    found = contributions(lambda v: {"f": v["x"], "g": 1.0}, inputs(x=(1.0, 0.1), y=(2.0, 0.5), z=(3.0, 0.0)))
    assert [one.label for one, _ in found["f"]] == ["x"]
    assert found["g"] == []
    assert combined(found["g"]) == 0.0


def test_at_the_edge_of_what_can_run_the_other_side_is_used() -> None:
    def compute(values: Mapping[str, float]) -> dict[str, float]:
        if values["x"] > 1.0:
            raise NoSwingError("beyond the edge")
        return {"f": 2.0 * values["x"]}

    found = contributions(compute, inputs(x=(1.0, 0.1)))
    assert found["f"][0][1] == pytest.approx(0.2)


def test_a_figure_between_two_edges_is_refused() -> None:
    def compute(values: Mapping[str, float]) -> dict[str, float]:
        if values["x"] != 1.0:
            raise NoSwingError("beyond the edge")
        return {"f": 1.0}

    with pytest.raises(PhysicsError, match="edge"):
        contributions(compute, inputs(x=(1.0, 0.1)))


def test_contributions_come_largest_first_and_name_their_input() -> None:
    rows = as_contributions([(Input("small", 1, "V", 0.1), 0.1), (Input("large", 2, "A", 0.2, True), -3.0)])
    assert [row.label for row in rows] == ["large", "small"]
    assert rows[0] == Contribution("large", 2, "A", 0.2, -3.0, True)


def test_tolerances_are_rectangular() -> None:
    assert from_tolerance(10.0, 0.2) == pytest.approx(2.0 / math.sqrt(3))
    assert from_tolerance(-10.0, 0.2) > 0.0


def test_only_estimates_that_matter_are_named() -> None:
    rows = (
        Contribution("regulation", 0.07, "", 0.01, 1.0, True),
        Contribution("ESR", 0.02, "ohm", 0.01, 0.01, True),
        Contribution("secondary", 25.0, "V", 0.3, 0.5, False),
    )
    figure = Figure("f", "f", 10.0, "V", math.sqrt(1.2501), Origin("", ""), rows)
    assert figure.estimated == ("regulation",)
    assert figure.low == pytest.approx(10.0 - 2 * figure.u)
    assert figure.high - figure.value == pytest.approx(figure.spread)
    assert not Figure("f", "f", math.nan, "V", 0.0, Origin("", "")).known
