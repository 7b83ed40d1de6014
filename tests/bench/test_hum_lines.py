"""Lines of a hum against the whole of it: they add as squares, and together are no more than the whole."""

import math

import numpy as np
import pytest

from plinth.bench.hum_noise import ripple_through_v
from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.judge.state import State
from plinth.predict.solve import solve
from tests.bench.typed_bench import TypedBench


@pytest.mark.parametrize(("over", "said"), [(0.1, False), (0.3, True)])
def test_lines_somewhat_over_the_whole_are_meters_and_far_over_it_a_slip(over: float, said: bool) -> None:
    bench = TypedBench("hum", STAGE_PAIR)
    taken = bench.understand("whole", "0.8 mV").taken
    assert taken is not None
    bench.keep(taken, "0.8 mV")
    part = 0.8 * math.sqrt((1.0 + over) / 2.0)
    for key in ("one", "two"):
        understood = bench.understand(key, f"{part:.5f} mV")
        bench.keep(understood.taken or understood.choices[0], f"{part:.5f} mV")
    found = bench.outcomes()
    assert ("The lines" in found and found["The lines"].state is State.OVER) is said


def test_full_output_over_what_is_left_is_in_decibels() -> None:
    bench = TypedBench("hum", STAGE_PAIR)
    taken = bench.understand("whole", "1 mV").taken
    assert taken is not None
    reading = bench.keep(taken, "1 mV")
    full = solve(STAGE_PAIR, Situation())["clip_v_rms"].value
    words = bench.outcomes()["Below full output"].words
    assert float(words.split()[0]) == pytest.approx(20.0 * math.log10(full / reading.value), abs=1.5)


def test_what_ripple_leaves_at_the_output_is_the_first_line_of_a_saw_tooth_behind_the_rejection() -> None:
    module = STAGE_PAIR.module.model_copy(update={"rejection_db": 60.0})
    build = STAGE_PAIR.model_copy(update={"module": module})
    rest = solve(build, Situation(level=0.0))
    height = rest["rail_idle_ripple_v_pp"].value
    saw = height * (np.arange(4096) / 4096 - 0.5)
    first_rms = 2.0 * abs(np.fft.rfft(saw)[1]) / 4096 / math.sqrt(2.0)
    # Both rails' add at worst, each a thousandth.
    assert ripple_through_v(build, rest) == pytest.approx(2.0 * first_rms / 1000.0, rel=1e-3)
    silent = build.model_copy(update={"module": module.model_copy(update={"rejection_db": None})})
    assert ripple_through_v(silent, rest) is None
