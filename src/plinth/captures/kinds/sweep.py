"""An exponential sweep and what answers it: response, phase, distortion by order, delay."""

import dataclasses
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, CaptureError
from plinth.captures.figure import FigureList
from plinth.captures.options import Options, Sweep
from plinth.captures.signal.decibels import decibels, spread_db
from plinth.captures.signal.deconvolution import Answer, deconvolved, excess_delay_s
from plinth.captures.signal.repeats import Repeats, cuts_of, mean_of, starts_of
from plinth.captures.signal.sweep_shape import MOST_REPEATED_ROWS, SweepShape, first_repeat, shape_seen, sweep_wave

REFERENCE_HZ = 1000.0
_USUAL_HZ = (20.0, 100.0, 10_000.0, 20_000.0)
_POINTS_PER_OCTAVE = 12
_HALF_POWER_DB = 3.0102999566
_STANDS_OUT = 3.0
_ORDERS = (2, 3, 4, 5)
_FEWEST_ROWS = 2000
_CLOCK_LOOKS = 5
# No clock is further off than this; what seems to be does not answer the sweep at all.
_MOST_CLOCK = 0.01
# Decibels that two answers to one sweep may differ by without a word.
_APART_DB = 0.02


def answer_of(capture: Capture, options: Options) -> Answer:
    """The deconvolved record; the mean where its sweep is played several times.

    Raises CaptureError where its sweep is neither stated nor seen.
    """
    return repeats_of(capture, options).mean


def repeats_of(capture: Capture, options: Options) -> Repeats:
    """What answers each time that the sweep is played, and their mean.

    Raises CaptureError where the sweep is neither stated nor seen.
    """
    rate = capture.sample_rate_hz
    if capture.rows < _FEWEST_ROWS:
        raise CaptureError(f"found {capture.rows} samples, expected at least {_FEWEST_ROWS} of a sweep")
    if float(np.ptp(capture.channels[0].samples)) <= 0.0:
        raise CaptureError("found silence in its first channel, expected a sweep")
    response = capture.channels[-1].samples
    if len(capture.channels) > 1:
        stimulus = capture.channels[0].samples
        shape = _shape_beside(stimulus, rate, options)
        reference = first_repeat(stimulus, rate)
        if reference is None and options.sweep is not None:
            reference = sweep_wave(options.sweep.f1_hz, options.sweep.f2_hz, options.sweep.seconds, rate)
        cuts, cut_off = _cuts(stimulus, reference, capture.rows, rate)
        if not cuts:
            return _single(deconvolved(stimulus, response, rate, shape))
        return mean_of([deconvolved(stimulus[a:b], response[a:b], rate, shape) for a, b in cuts], cut_off)
    if options.sweep is None:
        raise CaptureError("found the response alone, expected its sweep beside it: give --sweep F1:F2:SECONDS")
    sweep = options.sweep
    if sweep.f2_hz > 0.5 * rate:
        raise CaptureError(
            f"--sweep: found {sweep.f2_hz:g} Hz at {rate:g} samples a second, expected at most half of that"
        )
    if sweep.seconds * rate > len(response) + 1:
        raise CaptureError(
            f"--sweep: found {sweep.seconds:g} s stated and {len(response) / rate:.3g} s recorded, expected all of it"
        )
    cuts, cut_off = _cuts(response, sweep_wave(sweep.f1_hz, sweep.f2_hz, sweep.seconds, rate), capture.rows, rate)
    if not cuts:
        return _with_one_clock([response], rate, sweep, 0)
    repeats = _with_one_clock([response[a:b] for a, b in cuts], rate, sweep, cut_off)
    later = dataclasses.replace(repeats.mean, arrival_s=repeats.mean.arrival_s + cuts[0][0] / rate)
    return dataclasses.replace(repeats, mean=later)


def _single(answer: Answer) -> Repeats:
    return Repeats(answer, (answer,), 0)


def _cuts(
    lead: NDArray[np.float64], reference: NDArray[np.float64] | None, rows: int, rate: float
) -> tuple[list[tuple[int, int]], int]:
    """Spans of rows, one about each sweep; none where it is played but once."""
    if reference is None or len(reference) < _FEWEST_ROWS or rows > MOST_REPEATED_ROWS:
        return [], 0
    starts = starts_of(lead, reference)
    return ([], 0) if len(starts) < 2 else cuts_of(starts, len(reference), rows, rate)


def _shape_beside(stimulus: NDArray[np.float64], rate: float, options: Options) -> SweepShape:
    """The shape of a recorded stimulus, stated or seen. Raises CaptureError where it is neither, or both differ."""
    seen = shape_seen(stimulus, rate)
    if options.sweep is None:
        if seen is None:
            raise CaptureError(
                "found no exponential sweep in its first channel, expected one: give --sweep F1:F2:SECONDS"
            )
        return seen
    sweep = options.sweep
    shape = SweepShape(sweep.f1_hz, sweep.f2_hz, sweep.seconds / math.log(sweep.f2_hz / sweep.f1_hz))
    if seen is not None and not 0.9 < shape.per_e_s / seen.per_e_s < 1.1:
        raise CaptureError(
            f"--sweep: found one that takes {seen.per_e_s * math.log(2.0):.3g} s an octave in the record, "
            f"stated are {shape.per_e_s * math.log(2.0):.3g} s"
        )
    return shape


def _with_one_clock(parts: Sequence[NDArray[np.float64]], rate: float, sweep: Sweep, cut_off: int) -> Repeats:
    """The answers to a stated sweep whose player's clock may differ from the recorder's by some parts in a thousand.

    The clock is drawn from their mean: alone, each would be off by its own noise.
    """
    stretch = 1.0
    for _ in range(_CLOCK_LOOKS):
        # Played by a clock that is slower by a part, every frequency is lower by it and lasts longer by it.
        f1, f2, seconds = sweep.f1_hz / stretch, sweep.f2_hz / stretch, sweep.seconds * stretch
        wave = sweep_wave(f1, f2, seconds, rate)
        shape = SweepShape(f1, f2, seconds / math.log(f2 / f1))
        repeats = mean_of([deconvolved(wave, part, rate, shape) for part in parts], cut_off)
        off = _clock_off(repeats.mean)
        if abs(off) < 2e-8 or abs(stretch * (1.0 + off) - 1.0) > _MOST_CLOCK:
            break
        stretch *= 1.0 + off
    return repeats


def _clock_off(answer: Answer) -> float:
    """By what share the sweep was played too slowly.

    Late frequencies arrive later then, in proportion to when they were played: the group delay rises with the
    logarithm of frequency, and the phase holds f ln f. A corner below leaves 1/f in it, one above f cubed.
    """
    shape = answer.shape
    low, high = max(2.0 * shape.f1_hz, 100.0), min(0.4 * shape.f2_hz, 8000.0)
    grid = np.geomspace(low, high, 240)
    phase = np.unwrap(np.angle(answer.linear(grid)))
    terms = np.stack((np.ones(len(grid)), grid, grid * np.log(grid), 1.0 / grid, grid**3), axis=1)
    scale = np.abs(terms).max(axis=0)
    part = float((np.linalg.lstsq(terms / scale, phase, rcond=None)[0] / scale)[2])
    return -part / (2.0 * math.pi) / shape.per_e_s


def add_sweep(figures: FigureList, capture: Capture, options: Options) -> None:
    """Gain and phase where asked, ends of the band, distortion by order, delay."""
    repeats = repeats_of(capture, options)
    answer = repeats.mean
    low, high = answer.shape.f1_hz, min(answer.shape.f2_hz, 0.49 * capture.sample_rate_hz)
    if not low * 1.05 < REFERENCE_HZ < high * 0.95:
        raise CaptureError(f"found a sweep from {low:.4g} to {high:.4g} Hz, expected one that passes 1 kHz")
    reference = answer.at(REFERENCE_HZ)
    if abs(reference) <= 3.0 * answer.u_linear(REFERENCE_HZ):
        raise CaptureError(
            "found nothing that answers the sweep at 1 kHz, expected a response: is the channel connected?"
        )
    _say_repeats(figures, repeats)
    delay = _add_delay(figures, answer, low, high)
    u_reference = answer.u_linear(REFERENCE_HZ) / abs(reference)
    figures.add(
        "gain_1k_db", decibels(abs(reference)), spread_db(2.0 * u_reference) + 0.002, "dB",
        "second channel over first at 1 kHz" if len(capture.channels) > 1 else "response to a sweep of peak 1",
    )  # fmt: skip
    for frequency in options.at_hz or _USUAL_HZ:
        _add_at(figures, answer, frequency, (low, high), (reference, u_reference), delay)
    _add_ends(figures, answer, low, high, abs(reference), u_reference)
    for frequency in dict.fromkeys((REFERENCE_HZ, *options.at_hz)):
        _add_orders(figures, answer, frequency, low, high)


def _say_repeats(figures: FigureList, repeats: Repeats) -> None:
    """How many were averaged, and whether they are alike."""
    count = len(repeats.answers)
    if count < 2:
        if repeats.cut_off:
            figures.say(f"one sweep is whole in it; {repeats.cut_off} more not whole in the record and left out.")
        return
    left_out = f"; {repeats.cut_off} more not whole in the record and left out" if repeats.cut_off else ""
    figures.say(f"{count} sweeps are in it, and the figures are those of their mean{left_out}.")
    apart_db, noise_db = repeats.apart_db(REFERENCE_HZ)
    if apart_db > noise_db + _APART_DB:
        figures.say(
            f"the sweeps differ by {apart_db:.2f} dB at 1 kHz, more than their noise: something changed between them."
        )


def _name(frequency: float) -> str:
    return f"{frequency:g}" if frequency < 1e5 else str(round(frequency))


def _add_delay(figures: FigureList, answer: Answer, low: float, high: float) -> tuple[float, float]:
    """The delay beyond the least phase, with its doubt; 0 where it is too short to be one of its own."""
    left, doubt = excess_delay_s(answer, low * 1.1, high * 0.9)
    delay = answer.arrival_s + left
    step = 1.0 / answer.rate_hz
    taken_out = abs(delay) > 1.5 * step
    figures.add(
        "delay_s", delay, doubt, "s",
        "what the phase holds beyond the least that goes with the response's size",
    )  # fmt: skip
    return delay if taken_out else 0.0, doubt if taken_out else 0.0


def _add_at(
    figures: FigureList, answer: Answer, frequency: float, band: tuple[float, float],
    reference: tuple[complex, float], taken_out: tuple[float, float],
) -> None:  # fmt: skip
    name, (delay, doubt) = _name(frequency), taken_out
    if not band[0] * 0.9995 <= frequency <= band[1] * 1.0005:
        figures.miss(f"gain_{name}hz_db_re_1k", f"the sweep goes from {band[0]:.4g} to {band[1]:.4g} Hz")
        return
    value = answer.at(frequency)
    u = math.hypot(answer.u_linear(frequency) / max(abs(value), 1e-300), reference[1])
    # At the ends of the sweep the response beyond them is not known, and part of it stands in the value.
    edge = _edge_db(answer, frequency, band)
    figures.add(
        f"gain_{name}hz_db_re_1k", decibels(abs(value) / abs(reference[0])), spread_db(min(2.0 * u, 0.9)) + edge,
        "dB", f"response at {name} Hz to that at 1 kHz",
    )  # fmt: skip
    left_in = 2.0 * math.pi * frequency * (delay - answer.arrival_s)
    turn = float(np.angle(value * np.exp(1j * left_in)))
    off = math.degrees(2.0 * u + 2.0 * math.pi * frequency * doubt)
    words = f"a delay of {delay * 1e3:.6g} ms taken out" if delay else "no delay taken out"
    figures.add(
        f"phase_{name}hz_deg", math.degrees(turn), off + 0.02 + 12.0 * edge, "deg", f"phase of the response, {words}"
    )


def _edge_db(answer: Answer, frequency: float, band: tuple[float, float]) -> float:
    """Decibels that a value may be off by: what is carried on beyond the sweep's ends, and what is cut off ahead.

    Ahead of the linear response stand those of the orders: the shorter the sweep, the less of it is taken there.
    """
    width = 1.5 / answer.after_s
    ends = 0.06 * (math.exp(-(frequency - band[0]) / width) + math.exp(-(band[1] - frequency) / (4.0 * width)))
    ahead = 0.9 * math.exp(-frequency * answer.before_s)
    folded = 0.06 if frequency > 0.15 * answer.rate_hz else 0.01 if frequency > 0.08 * answer.rate_hz else 0.0
    return 0.006 + ends + ahead + folded


def _add_ends(
    figures: FigureList, answer: Answer, low: float, high: float, reference: float, u_reference: float
) -> None:
    target = reference * 10.0 ** (-_HALF_POWER_DB / 20.0)
    for word, end in (("lo", low * 1.002), ("hi", high * 0.998)):
        count = max(4, int(_POINTS_PER_OCTAVE * abs(math.log2(end / REFERENCE_HZ))))
        grid = np.geomspace(REFERENCE_HZ, end, count + 1)
        for _ in range(2):
            sizes = np.abs(answer.linear(grid))
            below = np.flatnonzero(sizes < target)
            if len(below) == 0:
                break
            # Once more between the last above and the first below.
            grid = np.geomspace(grid[max(int(below[0]) - 1, 0)], grid[below[0]], 25)
        if len(below) == 0:
            figures.miss(
                f"minus_3db_{word}_hz", f"it does not fall by 3 dB {'down' if word == 'lo' else 'up'} to {end:.4g} Hz"
            )
            continue
        sizes = np.abs(answer.linear(grid))
        place = float(np.exp(np.interp(-target, -sizes, np.log(grid))))
        near = np.abs(answer.linear(np.array([0.98 * place, 1.02 * place])))
        slope = max(abs(math.log(near[1] / near[0])) / 0.04, 0.02)
        u = math.hypot(answer.u_linear(place) / target, u_reference) / slope
        edge = _edge_db(answer, place, (low, high)) / 8.686 / slope
        figures.add(
            f"minus_3db_{word}_hz", place, place * (2.0 * u + 1e-4 + edge), "Hz", "where it is 3.01 dB below 1 kHz"
        )


def _add_orders(figures: FigureList, answer: Answer, frequency: float, low: float, high: float) -> None:
    below = []
    for order in _ORDERS:
        name = f"h{order}_at_{_name(frequency)}hz_db"
        if not (low <= frequency and order * frequency <= high):
            if order <= 3:
                figures.miss(name, f"the sweep goes from {low:.4g} to {high:.4g} Hz")
            continue
        share, u = answer.order(order, frequency), answer.u_order(order, frequency)
        if share < _STANDS_OUT * u:
            below.append(name)
            continue
        # Noise adds to the size of any line; what other orders leave here is a small part of theirs.
        size = math.sqrt(max(share**2 - 2.0 * u**2, 0.1 * share**2))
        figures.add(
            name, decibels(size), spread_db(min(3.0 * u / size, 0.9)) + 0.06, "dB",
            f"product of order {order} at {order * frequency:g} Hz to the fundamental at {frequency:g} Hz",
        )  # fmt: skip
    if below:
        figures.miss(", ".join(below), f"{'it lies' if len(below) == 1 else 'they lie'} in the noise of this record")
