"""The frequency response drawn: what is predicted as a band, what was read as discs, other runs, -3 dB."""

import dataclasses
import math
from collections.abc import Sequence

import numpy as np

from plinth.bench.frequency_response import (
    FREQUENCIES_HZ,
    MeasuredResponse,
    predicted_band_db,
    predicted_db,
)
from plinth.builds.build import Build
from plinth.drawing.series import Series
from plinth.units.frequency import hertz_as_set

POINTS = 90
# What is drawn at the most above the level at 1 kHz: a filter without load peaks far beyond.
MOST_DB = 12.0
VIEW_HZ = (8.0, 65e3)


@dataclasses.dataclass(frozen=True)
class ResponseCurves:
    """Curves in dB over Hz, and the levels between which they lie."""

    curves: tuple[Series, ...]
    least_db: float
    most_db: float


def response_curves(build: Build, measured: MeasuredResponse, others: Sequence[Series]) -> ResponseCurves:
    """What was read over what is predicted; ``others`` besides."""
    grid = np.geomspace(FREQUENCIES_HZ[0], FREQUENCIES_HZ[-1], POINTS)
    bands = np.array([predicted_band_db(build, float(f)) for f in grid])
    middle, half = bands.mean(axis=1), (bands[:, 1] - bands[:, 0]) / 2 + 0.02
    series = [
        Series("predicted", grid, middle, role="pred", unit="dB", label="predicted", label_at="below", spread=half)
    ]
    if build.module.output_filter is not None:
        alone = np.array([predicted_db(build, float(f), math.inf) for f in grid])
        series.append(
            Series(
                "without load",
                grid,
                np.minimum(alone, MOST_DB),
                role="zero",
                unit="dB",
                label="without load",
                label_at="above",
            )
        )
    series += others
    if measured.points:
        f_hz = np.array([point.f_hz for point in measured.points])
        series.append(Series("read", f_hz, np.array([point.db for point in measured.points]), "ink", "dB", discs=True))
    for f in (crossing.f_hz for crossing in measured.minus_3_db):
        at, side = np.array([f, f * 1.0001]), "right" if f < 200.0 else "below"
        words = f"−3 dB, {hertz_as_set(float(f'{f:.2g}'))}"
        series.append(Series("−3 dB", at, np.array([-3.0, -3.0]), role="ink", unit="dB", label=words, label_at=side))
    series.append(Series("−3 dB", np.array([grid[0], grid[-1]]), np.array([-3.0, -3.0]), "zero", "dB"))
    lowest = min([-6.0, *(point.db for point in measured.points)])
    highest = max(
        [2.0, *(point.db + 1.0 for point in measured.points), *(float(np.max(curve.y)) for curve in series[1:])]
    )
    return ResponseCurves(tuple(series), lowest - 1.0, min(highest, MOST_DB + 1.0))
