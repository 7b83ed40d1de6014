"""What was set on the boards: bias across which resistor, at which temperature of the sink, and when."""

import dataclasses
import datetime as dt
from collections.abc import Callable, Sequence

from plinth.builds.build import Build
from plinth.record.reading import Reading
from plinth.record.subject import Kind, read_subject
from plinth.report.reading_words import reading_words
from plinth.units.moments import clock
from plinth.units.shown import shown

# Steps of first power by which a bias is set or looked at again.
BIAS_STEPS = ("bias", "warm_bias", "retrim")
_SINKS = ("sink",)
# A sink read so long before or after a bias was as warm then.
NEAR_S = 3600.0


@dataclasses.dataclass(frozen=True)
class SettingRow:
    """One bias as it was read last; ``across`` which resistor, ``current`` in words what that means."""

    label: str
    read: str
    across: str
    current: str
    sink: str
    at: dt.datetime
    gone: str


def setting_rows(build: Build, readings: Sequence[Reading], since: Callable[[Reading], str]) -> tuple[SettingRow, ...]:
    """The last reading of each step that sets a bias, with the sink's temperature nearest to it in time."""
    last: dict[str, Reading] = {}
    for reading in readings:
        about = read_subject(reading.subject)
        if about.kind is Kind.BRINGUP and about.what in BIAS_STEPS:
            last[reading.subject] = reading
    return tuple(_row(build, reading, readings, since(reading)) for reading in last.values())


def _row(build: Build, reading: Reading, readings: Sequence[Reading], gone: str) -> SettingRow:
    point = build.module.bias
    across = current = ""
    if point is not None and reading.unit == "V":
        across = f"{point.label}, {shown(point.r_fitted_ohm, 'ohm')}"
        current = f"{shown(reading.value / point.r_fitted_ohm, 'A')} a pair"
        if point.r_listed_ohm != point.r_fitted_ohm:
            across += f" (listed {shown(point.r_listed_ohm, 'ohm')})"
    return SettingRow(
        reading.label, reading_words(reading), across=across, current=current, sink=_sink_then(reading, readings),
        at=reading.taken_at, gone=gone,
    )  # fmt: skip


def _sink_then(reading: Reading, readings: Sequence[Reading]) -> str:
    """The sink of that channel as it was read within an hour of it; that it was not, else."""
    channel = read_subject(reading.subject).channel
    sinks = [
        other
        for other in readings
        if other.unit == "°C"
        and (about := read_subject(other.subject)).channel == channel
        and about.what.startswith(_SINKS)
        and abs((other.taken_at - reading.taken_at).total_seconds()) <= NEAR_S
    ]
    if not sinks:
        return "not read"
    nearest = min(sinks, key=lambda other: abs((other.taken_at - reading.taken_at).total_seconds()))
    return f"{reading_words(nearest)} at {clock(nearest.taken_at)}"
