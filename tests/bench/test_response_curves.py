"""The frequency response as it is drawn."""

import numpy as np
import pytest

from plinth.bench.frequency_response import evaluate, predicted_db
from plinth.bench.response_curves import response_curves
from plinth.demo.builds import STAGE_PAIR
from tests.family import FAMILY


def test_a_filter_without_load_is_drawn_to_twelve_decibels_and_no_further() -> None:
    build = FAMILY["class D half bridge on linear"]
    drawn = response_curves(build, evaluate({}), [])
    alone = next(curve for curve in drawn.curves if curve.name == "without load")
    peak = max(predicted_db(build, float(f), float("inf")) for f in np.geomspace(1e4, 5e4, 400))
    assert np.max(alone.y) == pytest.approx(min(peak, 12.0), abs=0.3)
    assert drawn.most_db == pytest.approx(min(peak, 13.0), abs=1.0)
    assert len(alone.x) >= 90, "a peak between two points would not be seen"


def test_what_was_read_lies_within_the_view_with_its_corner() -> None:
    volts = {f: 2.0 / (1.0 + (f / 1e4) ** 2) ** 0.5 for f in (100.0, 1e3, 5e3, 1e4, 2e4, 5e4)}
    drawn = response_curves(STAGE_PAIR, evaluate(volts), [])
    read = next(curve for curve in drawn.curves if curve.name == "read")
    assert drawn.least_db < np.min(read.y) < np.max(read.y) < drawn.most_db
    corners = [float(curve.x[0]) for curve in drawn.curves if curve.label.startswith("−3 dB, ")]
    # The level is told relative to 1 kHz, where this filter has lost 0.04 dB already.
    assert corners == [pytest.approx(1e4, rel=0.02)]
