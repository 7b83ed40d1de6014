"""Something that is switched on: how far it departs from where it rested, and how long until it rests again."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Channel
from plinth.captures.figure import FigureList

# Means over these leave no hum of 50 or 60 Hz; a step at an output is looked at over the short one.
_CYCLES_S, _STEP_S = (1.0 / 50.0, 1.0 / 60.0), 0.001
# At rest within this share of the largest departure.
REST_SHARE = 0.02
_QUIET_S, _LAST_SHARE = 0.02, 0.1
_STANDS_OUT, _FEWEST_PARTS = 10.0, 8


@dataclasses.dataclass(frozen=True)
class SwitchOn:
    """A departure from rest at ``begin`` (a row), and the row from which it rests again (None where it does not yet).

    ``before`` and ``after`` are where it rests, ``step`` the largest departure from ``before`` (with its sign, over a
    mean of 1 ms), ``u_step`` its standard uncertainty, ``off_rows`` how far ``rest`` may be off.
    """

    begin: int
    rest: int | None
    before: float
    after: float
    step: float
    u_step: float
    off_rows: float


def switch_on_of(samples: NDArray[np.float64], rate_hz: float) -> SwitchOn | None:
    """The departure from rest in a record that begins at rest; None where it begins otherwise, or nothing happens."""
    quiet, short = int(_QUIET_S * rate_hz), max(int(_STEP_S * rate_hz), 1)
    if quiet < 8 or len(samples) < _FEWEST_PARTS * 2 * quiet:
        return None
    parts = samples[: len(samples) // short * short].reshape(-1, short).mean(axis=1)
    still = parts[: max(quiet // short, 4)]
    if not float(np.max(np.abs(parts - np.mean(still)))) > 0.8 * _STANDS_OUT * float(np.ptp(still)):
        return None
    brief = _mean_over(samples, short)
    before = float(np.mean(samples[:quiet]))
    scatter = float(np.ptp(brief[:quiet]))
    away = np.abs(brief - before)
    top = int(np.argmax(away))
    least = max(3.0 * scatter, REST_SHARE * float(away[top]))
    if not away[top] > max(_STANDS_OUT * scatter, 0.0):
        return None
    begin = int(np.argmax(away > least))
    if begin <= quiet:
        return None
    # A mean over a stretch tells of it at its middle: the first of it stands half a stretch later in the samples.
    late = np.flatnonzero(np.abs(samples[begin : begin + short] - before) > least)
    begin += int(late[0]) if len(late) else 0
    calm = samples
    for cycle_s in _CYCLES_S:
        calm = _mean_over(calm, max(round(cycle_s * rate_hz), 1))
    last = calm[len(calm) - max(int(_LAST_SHARE * len(calm)), 2 * quiet) : len(calm) - quiet]
    after = float(np.mean(last))
    departure = max(float(np.max(np.abs(calm - before))), abs(after - before))
    # A hum of the record's own, and what still drifts at its end, leave the last value in doubt.
    drift = abs(float(np.mean(last[len(last) // 2 :]) - np.mean(last[: len(last) // 2])))
    doubt = float(np.ptp(last)) + drift
    width = REST_SHARE * departure
    rest = _stays_within(calm, after, max(width, 1.5 * doubt))
    seen = SwitchOn(
        begin=begin, rest=rest, before=before, after=after, step=float(brief[top]) - before, u_step=0.5 * scatter,
        off_rows=0.0,
    )  # fmt: skip
    if drift > width or rest is None or rest > len(samples) * (1.0 - _LAST_SHARE):
        return dataclasses.replace(seen, rest=None, off_rows=0.0)
    near = [
        found for share in (max(width - doubt, 0.5 * width), width + doubt)
        if (found := _stays_within(calm, after, max(share, 1.5 * doubt))) is not None
    ]  # fmt: skip
    off = max((abs(row - rest) for row in near), default=0) + 0.25 * sum(_CYCLES_S) * rate_hz
    return dataclasses.replace(seen, rest=max(rest, begin + 1), off_rows=off)


def _mean_over(samples: NDArray[np.float64], width: int) -> NDArray[np.float64]:
    """A mean over ``width`` rows about each; at the ends the first and the last value go on."""
    if width < 2:
        return samples
    left = width // 2
    padded = np.concatenate((np.full(left, samples[0]), samples, np.full(width - 1 - left, samples[-1])))
    along = np.concatenate(([0.0], np.cumsum(padded)))
    return np.asarray((along[width:] - along[:-width]) / width)


def _stays_within(calm: NDArray[np.float64], value: float, width: float) -> int | None:
    """The row from which it stays within ``width`` of ``value``; None where it never does."""
    outside = np.flatnonzero(np.abs(calm - value) > width)
    if len(outside) == 0:
        return 0
    return None if outside[-1] >= len(calm) - 1 else int(outside[-1]) + 1


def add_switch_on(figures: FigureList, channel: Channel, rate_hz: float) -> SwitchOn | None:
    """Add the step and the time to rest where something is switched on; what was found of it."""
    seen = switch_on_of(channel.samples, rate_hz)
    if seen is None:
        return None
    unit = channel.unit
    figures.add(
        "step_v", seen.step, 2.0 * seen.u_step + channel.step + 0.002 * abs(seen.step), unit,
        "largest departure from where it rested before, as a mean over 1 ms",
    )  # fmt: skip
    if seen.rest is None:
        figures.miss("rest_s", "it is still on its way where the record ends")
        return seen
    figures.add(
        "rest_s", (seen.rest - seen.begin) / rate_hz, (seen.off_rows + 2.0) / rate_hz, "s",
        f"from its first departure to where it stays within {100.0 * REST_SHARE:g} % of it about its last value, as "
        "means over whole cycles of 50 and 60 Hz",
    )  # fmt: skip
    figures.add(
        "rest_v", seen.after, 2.0 * seen.u_step / math.sqrt(10.0) + channel.step + 0.05 * REST_SHARE * abs(seen.step),
        unit, "where it rests at the end",
    )  # fmt: skip
    return seen
