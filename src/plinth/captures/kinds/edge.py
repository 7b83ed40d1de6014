"""Edges of a square wave or a step: rise, overshoot, settling, slew (levels and times as in IEEE 181)."""

import itertools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, Channel
from plinth.captures.figure import FigureList
from plinth.captures.signal.scatter import of_mean, white_noise

_MOST_EDGES = 400
# An edge begins before its middle: so much of the stretch before it may be part of it already.
_NEXT = 0.07


@dataclass(frozen=True)
class Edge:
    """One transition: first and last row of its stretch, its levels, whether it rises.

    ``whole``: it is followed by another, so that the stretch ends where the level does.
    """

    start: int
    stop: int
    middle: float
    before: float
    after: float
    whole: bool = True

    @property
    def rises(self) -> bool:
        """Whether it goes up."""
        return self.after > self.before

    @property
    def step(self) -> float:
        """From level to level, with its sign."""
        return self.after - self.before


@dataclass(frozen=True)
class EdgeTimes:
    """What one edge shows; None where the record does not reach that far."""

    rise_s: float | None
    overshoot: float
    settle_s: float | None
    u_settle_s: float
    slew: float | None
    u_slew: float
    u_overshoot: float
    ringing_hz: float | None
    droop: float
    droop_known: bool
    fall: float | None


def edges_of(samples: NDArray[np.float64]) -> list[Edge]:
    """The transitions between two levels, each with the stretch up to its neighbours'."""
    low, high = _two_levels(samples)
    swing = high - low
    if swing <= 0.0:
        return []
    upper, lower = low + 0.6 * swing, low + 0.4 * swing
    state = np.zeros(len(samples), dtype=np.int8)
    state[samples > upper] = 1
    state[samples < lower] = -1
    rows = np.flatnonzero(state)
    if len(rows) < 2:
        return []
    turns = np.flatnonzero(np.diff(state[rows]) != 0)
    middle = low + 0.5 * swing
    places = []
    for turn in turns:
        a, b = int(rows[turn]), int(rows[turn + 1])
        stretch = samples[a : b + 1] - middle
        cross = int(np.flatnonzero(np.signbit(stretch[1:]) != np.signbit(stretch[:-1]))[0])
        part = stretch[cross] / (stretch[cross] - stretch[cross + 1])
        places.append(a + cross + float(part))
    bounds = [0.0, *(0.5 * (a + b) for a, b in itertools.pairwise(places)), float(len(samples))]
    edges = []
    for index, place in enumerate(places):
        begin = places[index - 1] if index else 0.0
        end = places[index + 1] if index + 1 < len(places) else float(len(samples))
        # A level is what the wave rests on in the last third before the next edge.
        before = samples[int(place - 0.35 * (place - begin)) : max(int(place - _NEXT * (place - begin)) - 1, 1)]
        after = samples[int(end - 0.35 * (end - place)) : max(int(end - _NEXT * (end - place)) - 1, 1)]
        if len(before) < 3 or len(after) < 3:
            continue
        edges.append(
            Edge(
                int(bounds[index]),
                int(end - _NEXT * (end - place)),
                place,
                float(np.median(before)),
                float(np.median(after)),
                whole=index + 1 < len(places),
            )
        )
    return edges


def add_edge(figures: FigureList, capture: Capture, channel: Channel, drive: Channel | None) -> None:
    """Rise and fall, each the mean over all edges of the record."""
    samples, rate = channel.samples, capture.sample_rate_hz
    edges = edges_of(samples)
    if not edges:
        figures.miss("figures of an edge", "no step from one level to another is in it")
        return
    driven = [] if drive is None else [edge.middle for edge in edges_of(drive.samples)]
    noise = max(white_noise(samples), channel.step / math.sqrt(12.0))
    for word, rising in (("rise", True), ("fall", False)):
        times = [
            _times(samples, rate, edge, _driven_at(edge, driven), noise, channel.step)
            for edge in edges
            if edge.rises == rising
        ][:_MOST_EDGES]
        if not times:
            figures.miss(f"{word}_10_90_s and its like", f"no {'rising' if rising else 'falling'} edge is in it")
            continue
        _add_times(
            figures, word, times=times, channel=channel, rate=rate, edges=edges, noise=noise, with_drive=bool(driven)
        )


def _two_levels(samples: NDArray[np.float64]) -> tuple[float, float]:
    """Low and high state: the medians below and above the middle of all but the rarest values."""
    stride = max(1, len(samples) // 500_000)
    some = samples[::stride]
    low, high = (float(value) for value in np.percentile(some, (1.0, 99.0)))
    if high <= low:
        low, high = float(np.min(samples)), float(np.max(samples))
    middle = 0.5 * (low + high)
    below, above = some[some < middle], some[some >= middle]
    if len(below) == 0 or len(above) == 0:
        return low, high
    return float(np.median(below)), float(np.median(above))


def _driven_at(edge: Edge, driven: list[float]) -> float | None:
    """Where the drive passed the middle of its own step, for this edge."""
    before = [place for place in driven if place <= edge.middle + 2.0]
    return min(before, key=lambda place: abs(place - edge.middle), default=None)


def _times(
    samples: NDArray[np.float64], rate: float, edge: Edge, driven: float | None, noise: float, step: float
) -> EdgeTimes:
    wave = (samples[edge.start : edge.stop] - edge.before) / edge.step
    middle = edge.middle - edge.start
    share = noise / abs(edge.step)
    at_10, at_90 = _crossing(wave, 0.1, middle, share), _crossing(wave, 0.9, middle, share)
    rise = None if at_10 is None or at_90 is None else (at_90 - at_10) / rate
    after = wave[int(middle) :]
    width = max(1, int((rise or 0.0) * rate / 8.0))
    smooth = np.convolve(after, np.ones(width) / width, "same") if width > 2 and share > 1e-3 else after
    left = share / math.sqrt(width) if width > 2 and share > 1e-3 else share
    inner = smooth[: len(smooth) - width] if len(smooth) > 4 * width else smooth
    peak = int(np.argmax(inner)) if len(inner) else 0
    excess = left * math.sqrt(2.0 * math.log(max(len(inner), 3))) if left > 0.0 else 0.0
    top = _parabola_top(inner, peak) - 1.0
    # In noise the highest value of a level at rest lies above it, and one that still rises is highest at its end.
    resting = top <= 1.6 * excess + 1.01 * step / abs(edge.step) or peak > 0.8 * len(inner)
    overshoot = 0.0 if resting else top - 0.3 * excess
    settle = _settled(samples, edge, driven, rate, noise, step)
    slew = _steepest(wave, at_10, at_90, share)
    # Of what overshoots by less the second swing is lost, and with it how often it swings.
    ringing = _ringing_hz(smooth - 1.0, rate) if overshoot > max(5.0 * left, 0.04) else None
    tail = after[int(0.5 * len(after)) :]
    early = after[int(0.25 * len(after)) : int(0.5 * len(after))]
    # A tilt shows only where the edge itself is long over.
    known = len(early) > 3 and len(tail) > 3 and rise is not None and 8.0 * rise * rate < 0.25 * len(after)
    droop = float(np.mean(early) - np.mean(tail)) if known else 0.0
    return EdgeTimes(
        rise, overshoot,
        settle_s=None if settle is None else settle[0], u_settle_s=0.0 if settle is None else settle[1],
        slew=None if slew is None else slew[0] * abs(edge.step) * rate,
        u_slew=0.0 if slew is None else slew[1] * abs(edge.step) * rate,
        u_overshoot=excess if resting else 0.7 * excess + left, ringing_hz=ringing, droop=droop,
        droop_known=known, fall=_fall(after) if known and edge.whole else None,
    )  # fmt: skip


def _fall(after: NDArray[np.float64]) -> float:
    """How far a level falls from its edge to the next, as a share of the whole step; ``after`` ends just before that.

    By a parabola through all of it but its beginning. Both levels do the same, about the middle between them (0.5).
    """
    x = np.arange(len(after)) * (1.0 - _NEXT) / len(after)
    late = x >= 0.15
    line = np.polynomial.Polynomial.fit(x[late], after[late], 2)
    begin, end = float(line(0.0)), float(line(1.0))
    return (begin - end) / (begin + end - 1.0)


def _crossing(wave: NDArray[np.float64], level: float, middle: float, share: float) -> float | None:
    """Where the wave passes a level next to the middle of its edge, between samples."""
    start = int(middle)
    if level < 0.5:
        rows = np.flatnonzero(wave[: start + 1] <= level)
        if len(rows) == 0:
            return None
        row = int(rows[-1])
    else:
        rows = np.flatnonzero(wave[start:] >= level)
        if len(rows) == 0:
            return None
        row = start + int(rows[0]) - 1
    if row < 0 or row + 1 >= len(wave):
        return None
    first, second = float(wave[row]), float(wave[row + 1])
    place = float(row) if second == first else row + (level - first) / (second - first)
    for _ in range(3):
        # In noise the first sample beyond a level comes early: a curve through those about it instead.
        slope = abs(level - 0.5) / max(abs(place - middle), 0.5)
        reach = round(min(5.0 * share / slope + 1.0, 0.35 * abs(place - middle)))
        if share <= 0.0 or reach < 2:
            break
        low, high = max(0, round(place) - reach), min(len(wave), round(place) + reach + 1)
        along = np.arange(low, high) - place
        if len(along) < 4:
            break
        fit = np.polyfit(along, wave[low:high] - level, 2 if len(along) > 8 else 1)
        roots = np.roots(fit)
        near = [float(root.real) for root in roots if abs(root.imag) < 1e-9 and abs(root.real) <= reach]
        if not near:
            break
        place += min(near, key=abs)
    return place


def _parabola_top(values: NDArray[np.float64], peak: int) -> float:
    if not 0 < peak < len(values) - 1:
        return float(values[peak]) if len(values) else 1.0
    left, middle, right = (float(value) for value in values[peak - 1 : peak + 2])
    bend = left - 2.0 * middle + right
    # Where it only reaches a level and stays, or comes straight from the edge, the corner is no top.
    if right >= middle or left >= middle or bend >= 0.0 or min(left, right) <= 1.0:
        return middle
    return middle - (left - right) ** 2 / (8.0 * bend)


def _settled(
    samples: NDArray[np.float64], edge: Edge, driven: float | None, rate: float, noise: float, step: float
) -> tuple[float, float] | None:
    """From the edge (the drive's, where there is one) to where the wave stays within 1 % of the step; its doubt."""
    begin = edge.middle if driven is None else driven
    wave = (samples[int(edge.middle) : edge.stop] - edge.after) / edge.step
    share, rounding = noise / abs(edge.step), 0.5 * step / abs(edge.step)
    width = 1
    if share > 0.002:
        width = min(int((share / 0.0015) ** 2) | 1, max(len(wave) // 40, 1) | 1)
        wave = np.convolve(wave, np.ones(width) / width, "valid")
        share /= math.sqrt(width)
    off = 2.5 * share + rounding
    if len(wave) < 4 or off > 0.008:
        return None
    # A wave that just touches the bounds once more is said to be doubtful by where it would rest for other bounds.
    places = [_last_beyond(wave, bound) for bound in (0.01 + off, 0.01, 0.01 - off)]
    if any(place is None or place > 0.92 * len(wave) for place in places):
        return None
    early, place, late = (
        max((int(edge.middle) + 0.5 * (width - 1) + at - begin) / rate, 0.0) for at in places if at is not None
    )
    return place, max(late - place, place - early) + 0.5 * width / rate


def _last_beyond(wave: NDArray[np.float64], bound: float) -> float | None:
    """Where the wave last comes within a bound of zero, between samples."""
    outside = np.flatnonzero(np.abs(wave) > bound)
    if len(outside) == 0:
        return 0.0
    last = int(outside[-1])
    if last + 1 >= len(wave):
        return None
    a, b = abs(float(wave[last])), abs(float(wave[last + 1]))
    return last + ((a - bound) / (a - b) if a > b else 0.0)


def _steepest(
    wave: NDArray[np.float64], at_10: float | None, at_90: float | None, share: float
) -> tuple[float, float] | None:
    """Its steepest slope in steps a sample, of a line over a part of it; what noise may have added."""
    if at_10 is None or at_90 is None:
        return None
    length = at_90 - at_10
    width = int(max(2.0, 0.12 * length, min(0.4 * length, (60.0 * share * length) ** (2.0 / 3.0))))
    low, high = max(0, int(at_10 - 0.4 * length) - 1), min(len(wave), int(at_90 + 0.2 * length) + 3)
    part = wave[low:high]
    if len(part) <= width:
        return None
    if width < 4:
        slopes = (part[width:] - part[:-width]) / width
        noise = share * math.sqrt(2.0) / width
    else:
        along = np.arange(width) - 0.5 * (width - 1)
        slopes = np.convolve(part, along[::-1], "valid") / float(np.sum(along**2))
        noise = share / math.sqrt(float(np.sum(along**2)))
    # The highest of several slopes in noise lies above the steepest.
    added = noise * math.sqrt(2.0 * math.log(max(length / width, 1.5)))
    return float(np.max(slopes)) - 0.6 * added, added + noise


def _ringing_hz(wave: NDArray[np.float64], rate: float) -> float | None:
    """From the first crossings of the level after the peak."""
    crossings = np.flatnonzero(np.signbit(wave[1:]) != np.signbit(wave[:-1]))
    peak = int(np.argmax(wave))
    crossings = crossings[crossings > peak][:3]
    if len(crossings) < 2:
        return None
    places = [float(row + wave[row] / (wave[row] - wave[row + 1])) for row in crossings]
    return rate * (len(places) - 1) / 2.0 / (places[-1] - places[0])


def _add_times(
    figures: FigureList, word: str, times: list[EdgeTimes], channel: Channel, rate: float, edges: list[Edge],
    noise: float, *, with_drive: bool,
) -> None:  # fmt: skip
    edges = [edge for edge in edges if edge.rises == (word == "rise")]
    step = abs(float(np.median([edge.step for edge in edges])))
    share = noise / step
    rises = np.array([at.rise_s for at in times if at.rise_s is not None])
    over = "one edge" if len(times) == 1 else f"mean of {len(times)} edges"
    if len(rises):
        rise = float(np.mean(rises))
        samples_in = rise * rate
        if samples_in < 1.5:
            figures.miss(f"{word}_10_90_s, {word}_slew_v_per_s", "the edge is steeper than one and a half samples")
        else:
            # Between samples the wave is drawn straight; noise moves each crossing by its share of the slope.
            inside = max(share * samples_in, 1.0)
            u = math.hypot(0.3 / samples_in / max(samples_in, 1.0), 1.8 * share / math.sqrt(inside)) * rise
            rounding = (1e-4 + 2.0 * channel.step / step) * rise + 0.1 / rate / samples_in
            figures.add(
                f"{word}_10_90_s", rise, 2.0 * math.hypot(u, of_mean(rises)) + rounding, "s",
                f"from 10 % to 90 % of the step ({over})",
            )  # fmt: skip
    else:
        figures.miss(f"{word}_10_90_s", "it does not pass 10 % and 90 % within the record")
    overshoots = np.array([at.overshoot for at in times])
    points = max((float(np.mean(rises)) if len(rises) else 0.0) * rate, 1.0)
    figures.add(
        f"{word}_overshoot_pct", 100.0 * float(np.mean(overshoots)),
        100.0 * 2.0 * math.hypot(of_mean(overshoots), float(np.mean([at.u_overshoot for at in times])))
        + 100.0 * float(np.mean(overshoots)) * min(0.5 / points**2, 0.5) + 100.0 * channel.step / step + 0.02, "",
        f"highest value beyond the level at rest, in % of the step ({over})",
    )  # fmt: skip
    settled = np.array([at.settle_s for at in times if at.settle_s is not None])
    if len(settled) == len(times):
        figures.add(
            f"{word}_settle_1pct_s", float(np.mean(settled)),
            2.0 * of_mean(settled) + 1.0 / rate + float(np.mean([at.u_settle_s for at in times])), "s",
            f"from the {'drive' if with_drive else 'output'}'s middle until it stays within 1 % of the step ({over})",
        )  # fmt: skip
    else:
        figures.miss(f"{word}_settle_1pct_s", "noise or the record's end hides when it comes to rest within 1 %")
    slews = np.array([at.slew for at in times if at.slew is not None])
    if len(slews) and f"{word}_10_90_s" in figures:
        slew = float(np.mean(slews))
        figures.add(
            f"{word}_slew_v_per_s", slew,
            2.0 * of_mean(slews) + 0.8 * float(np.mean([at.u_slew for at in times if at.slew is not None]))
            + slew * (0.008 + 0.5 / max(points, 1.0) ** 1.5) + 4.0 * slew * channel.step / step, f"{channel.unit}/s",
            f"steepest slope, over an eighth of the edge or as much as its noise wants ({over})",
        )  # fmt: skip
    if all(at.droop_known for at in times):
        tilts = np.array([at.droop for at in times])
        figures.add(
            f"{word}_tilt_pct", 100.0 * float(np.mean(tilts)),
            200.0 * of_mean(tilts) + 300.0 * share / math.sqrt(max(0.2 * len(channel.samples) / len(times), 1.0))
            + 30.0 * channel.step / step, "",
            f"fall of the level from its second quarter to its second half, in % of the step ({over})",
        )  # fmt: skip
    falls = np.array([at.fall for at in times if at.fall is not None])
    if len(falls):
        figures.add(
            f"{word}_droop_pct", 100.0 * float(np.mean(falls)),
            200.0 * of_mean(falls) + 900.0 * share / math.sqrt(max(0.8 * len(channel.samples) / len(times), 1.0))
            + 60.0 * channel.step / step, "",
            f"fall of the level from its edge to the next, in % of the step ({over})",
        )  # fmt: skip
    ringing = np.array([at.ringing_hz for at in times if at.ringing_hz is not None])
    if len(ringing):
        figures.add(
            f"{word}_ringing_hz", float(np.mean(ringing)),
            2.0 * of_mean(ringing) + float(np.mean(ringing)) * 0.02, "Hz", f"from the crossings of the level ({over})",
        )  # fmt: skip
        figures.add(
            f"{word}_damping", _damping(float(np.mean(overshoots))), 0.02, "",
            "damping ratio of a second-order stage with this overshoot",
        )  # fmt: skip


def _damping(overshoot: float) -> float:
    log = math.log(max(overshoot, 1e-6))
    return -log / math.hypot(math.pi, log)
