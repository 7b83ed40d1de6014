"""The responses of sides over each other: kept points, and what the module's corners say where there are none."""

import math

import numpy as np

from plinth.bench import frequency_response as response
from plinth.decide.side import ROLES, Side
from plinth.drawing.series import Series
from plinth.physics.stages.response import band_gain
from plinth.record.reading import Reading
from plinth.record.subject import Kind, read_subject


def response_series(sides: tuple[Side, ...], letters: str) -> tuple[Series, ...]:
    """One curve a side, in decibels to 1 kHz: read where points were kept, else predicted from stated corners."""
    series = []
    for place, side in enumerate(sides):
        if side.listing:
            continue
        f_hz, db, read = _points(side)
        if not f_hz:
            continue
        name = f"{letters[place]} {'read' if read else 'predicted'}"
        role = ROLES[place % len(ROLES)] if read else "pred"
        series.append(
            Series(name, np.array(f_hz), np.array(db), role, "dB", label=letters[place], label_at="start", discs=read)
        )  # fmt: skip
    return tuple(series)


def _points(side: Side) -> tuple[list[float], list[float], bool]:
    build, channel = side.build, side.build.channels[0]
    volts: dict[float, float] = {}
    for subject in side.book:
        about = read_subject(subject)
        if about.kind is not Kind.RESPONSE or about.channel != build.key_of(channel):
            continue
        f_hz, run = response.read_what(about.what)
        record = side.book.counting(subject, response.conditions_of(build))
        if not run and isinstance(record, Reading) and not record.bound.one_sided:
            volts[f_hz] = record.value
    points = response.evaluate(volts).points
    if points:
        return [point.f_hz for point in points], [point.db for point in points], True
    low, high = build.module.f_low_hz, build.module.f_high_hz
    if low is None and high is None:
        return [], [], False
    grid = np.geomspace(response.FREQUENCIES_HZ[0], response.FREQUENCIES_HZ[-1], 60)
    level = band_gain(1000.0, low, high)
    return list(map(float, grid)), [20.0 * math.log10(band_gain(float(f), low, high) / level) for f in grid], False
