"""A heat run on its way: whether more readings could still change the verdict, and the curve that goes on from them."""

import math

import numpy as np
import pytest

from plinth.bench import heat_run
from plinth.demo.builds import STAGE_PAIR
from plinth.judge.state import State
from plinth.predict.estimates import HOT_DAY_C
from tests.bench.typed_bench import TypedBench

AIR, BEGIN = 22.0, 22.5


def run_to(end: float, minutes: tuple[float, ...]) -> TypedBench:
    """Readings of an exact approach to ``end`` with the time constant of the sink."""
    tau = heat_run.time_constant(STAGE_PAIR)[0]
    bench = TypedBench("heat", STAGE_PAIR)
    assert bench.type_in("air", f"{AIR:.2f}") is not None
    assert bench.type_in("start", f"{BEGIN:.2f}") is not None
    for at in minutes:
        value = end + (BEGIN - end) * math.exp(-60.0 * at / tau)
        assert bench.type_in("sink", f"{value:.2f} at {at:g} min") is not None
    return bench


@pytest.mark.parametrize(
    ("beyond_k", "state", "words"),
    [(-25.0, State.CLEAR, "yes"), (0.0, State.CLOSE, "not yet"), (25.0, State.CLEAR, "yes")],
)
def test_it_is_enough_once_the_whole_band_lies_on_one_side_of_the_limit(
    beyond_k: float, state: State, words: str
) -> None:
    limit = STAGE_PAIR.sink.t_limit_c
    tau_min = heat_run.time_constant(STAGE_PAIR)[0] / 60.0
    # On a hot day it would be so far beyond its limit.
    end = limit + beyond_k - (HOT_DAY_C - AIR)
    bench = run_to(end, tuple(round(share * tau_min, 1) for share in (0.3, 0.7, 1.1, 1.5, 1.9)))
    enough = bench.outcomes()["Enough?"]
    assert (enough.state, enough.words) == (state, words), enough.say
    hot = bench.outcomes()[f"In air of {HOT_DAY_C:g} °C"]
    assert float(hot.words.split()[0]) == pytest.approx(limit + beyond_k, abs=2.0)


def test_at_rest_nothing_more_is_to_be_read() -> None:
    tau_min = heat_run.time_constant(STAGE_PAIR)[0] / 60.0
    bench = run_to(50.0, tuple(round(share * tau_min, 1) for share in (1.0, 2.0, 4.0, 6.0, 7.0)))
    assert bench.outcomes()["Enough?"].words == "at rest"


def test_the_curve_goes_through_the_readings_and_on_to_rest() -> None:
    tau = heat_run.time_constant(STAGE_PAIR)[0]
    minutes = tuple(round(share * tau / 60.0, 1) for share in (0.3, 0.7, 1.1, 1.6))
    bench = run_to(58.0, minutes)
    graph = bench.sheet.graph(bench.readings)
    assert graph is not None
    curves = {curve.name: curve for curve in graph.curves}
    fitted, read = curves["fitted"], curves["read"]
    assert len(read.x) == len(minutes) + 1
    for at, value in zip(read.x, read.y, strict=True):
        assert float(np.interp(at, fitted.x, fitted.y)) == pytest.approx(float(value), abs=0.4)
    assert float(fitted.y[0]) == pytest.approx(BEGIN, abs=0.4)
    assert float(fitted.y[-1]) == pytest.approx(58.0, abs=1.0)
    # The band opens from where it begins, and is widest at rest.
    band = np.broadcast_to(np.asarray(fitted.spread), fitted.y.shape)
    assert band[0] == 0.0
    assert np.all(np.diff(band) >= 0.0)
    assert float(curves["limit"].y[0]) == STAGE_PAIR.sink.t_limit_c
    predicted = curves["predicted"]
    assert float(predicted.y[0]) == pytest.approx(BEGIN, abs=1e-6)
