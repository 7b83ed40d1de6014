"""What a column of times tells: the rate, and where the times jump."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class TimeBase:
    """Seconds from sample to sample, the rows that lie evenly (start to stop), and what is to be said.

    ``u_share``: relative standard uncertainty of the step, from the digits that the stamps are written with.
    """

    step_s: float
    start: int
    stop: int
    remarks: tuple[str, ...]
    uneven: bool = False
    u_share: float = 0.0


def looks_like_times(values: NDArray[np.float64]) -> bool:
    """Whether a column rises all the way in nearly even steps."""
    sound = values[np.isfinite(values)]
    if len(sound) < 8:
        return False
    steps = np.diff(sound)
    middle = float(np.median(steps))
    return bool(middle > 0.0 and np.mean((steps > -0.01 * middle) & (steps < 2.5 * middle)) > 0.98)


def rows_of_nothing(times_s: NDArray[np.float64]) -> NDArray[np.int64]:
    """Rows without a time where none is missing: lines of words between two samples that follow each other."""
    sound = np.flatnonzero(np.isfinite(times_s))
    if len(sound) < 8 or len(sound) == len(times_s):
        return np.empty(0, dtype=np.int64)
    middle = float(np.median(np.diff(times_s[sound])))
    if not middle > 0.0:
        return np.empty(0, dtype=np.int64)
    dropped: list[int] = []
    for place in np.flatnonzero(np.diff(sound) > 1):
        before, after = int(sound[place]), int(sound[place + 1])
        room = round(float(times_s[after] - times_s[before]) / middle) - 1
        dropped += range(before + 1 + max(room, 0), after)
    return np.array(dropped, dtype=np.int64)


def time_base(times_s: NDArray[np.float64], first_line: int) -> TimeBase | None:
    """The time base of a column of times, or None where they do not rise; a missing time lies between two others."""
    sound = np.isfinite(times_s)
    if sound.sum() < 8:
        return None
    rows = np.arange(len(times_s), dtype=np.float64)
    times = times_s if sound.all() else np.interp(rows, rows[sound], times_s[sound])
    steps = np.diff(times)
    span = times[-1] - times[0]
    middle = float(np.median(steps))
    mean = span / (len(times) - 1)
    # Stamps written with few digits repeat, or come in two sizes: their last digit is the most that they are off.
    digit = _last_digit(steps)
    expected = mean if middle <= 0.0 or digit > 0.3 * middle else middle
    if not expected > 0.0:
        expected = float(np.mean(steps[steps > 0.0])) if np.any(steps > 0.0) else 0.0
    if not expected > 0.0:
        return None
    jumps = np.flatnonzero((steps > 1.5 * expected + 1.05 * digit) | (steps < min(0.0, -0.01 * expected)))
    remarks: list[str] = []
    start, stop = 0, len(times)
    if len(jumps):
        if len(jumps) > max(5.0, 0.01 * len(steps)):
            even = np.sort(steps)[len(steps) // 2]
            return TimeBase(
                float(span / (len(times) - 1)) if span > 0.0 else float(even), 0, len(times),
                ("The times are uneven in many places; the values were laid on even steps.",), uneven=True,
            )  # fmt: skip
        edges = np.concatenate(([0], jumps + 1, [len(times)]))
        longest = int(np.argmax(np.diff(edges)))
        start, stop = int(edges[longest]), int(edges[longest + 1])
        where = ", ".join(str(first_line + int(jump) + 1) for jump in jumps[:3])
        remarks.append(
            f"The times jump at {'line' if len(jumps) == 1 else 'lines'} {where}{' ...' if len(jumps) > 3 else ''}: "
            f"used is the longest even stretch, rows {start + 1} to {stop} of {len(times)}."
        )
    stretch = times[start:stop]
    step = _slope(stretch)
    if not step > 0.0:
        return None
    off = stretch - (stretch[0] + step * np.arange(len(stretch)))
    uneven = bool(len(stretch) > 2 and np.max(np.abs(off - np.mean(off))) > max(0.6 * step, 1.05 * digit))
    if uneven:
        remarks.append("The times are uneven by more than half a step; the values were laid on even steps.")
    u_step = digit / (len(stretch) ** 1.5 * step)
    return TimeBase(step, start, stop, tuple(remarks), uneven, u_step)


def _slope(times: NDArray[np.float64]) -> float:
    """Least squares over all stamps: what each is rounded by averages out."""
    places = np.arange(len(times)) - 0.5 * (len(times) - 1)
    return float(np.dot(places, times - np.mean(times)) / np.dot(places, places))


def _last_digit(steps: NDArray[np.float64]) -> float:
    """What the stamps are rounded to, seen from how their steps differ; 0 where they do not."""
    sizes = np.unique(np.round(np.abs(steps[:20000]), 15))
    sizes = sizes[sizes > 0.0]
    if len(sizes) < 2 or len(sizes) > 50:
        return 0.0
    gaps = np.diff(np.concatenate(([0.0], sizes)))
    gaps = gaps[gaps > 1e-6 * sizes[-1]]
    return float(gaps.min()) if len(gaps) else 0.0
