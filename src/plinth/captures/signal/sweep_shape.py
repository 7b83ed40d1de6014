"""How an exponential sweep goes: its wave, and its shape as a record shows it."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

# Of the strongest line's steps, how many go up where sweeps follow each other; how far it falls from one to the next.
_RISES, _FALLS_BACK = 0.75, 0.2
# Longer records are taken as one sweep: a transform of all of it would need more than a gigabyte.
MOST_REPEATED_ROWS = 12_000_000


@dataclass(frozen=True)
class SweepShape:
    """An exponential sweep: from, to (hertz), and seconds for each factor e of frequency."""

    f1_hz: float
    f2_hz: float
    per_e_s: float

    def ahead_s(self, order: int) -> float:
        """How much earlier than the linear one the response of an order arrives."""
        return self.per_e_s * math.log(order)


def sweep_wave(f1_hz: float, f2_hz: float, seconds: float, rate_hz: float) -> NDArray[np.float64]:
    """An exponential sweep of peak 1, its phase 0 at the start."""
    per_e = seconds / math.log(f2_hz / f1_hz)
    t = np.arange(round(seconds * rate_hz)) / rate_hz
    return np.asarray(np.sin(2.0 * math.pi * f1_hz * per_e * np.expm1(t / per_e)))


def shape_seen(stimulus: NDArray[np.float64], rate_hz: float) -> SweepShape | None:
    """The shape of a recorded sweep, from how its strongest line rises; None where it does not, exponentially.

    Where the same is played several times at one interval, that of the first.
    """
    at, places = _strongest_lines(stimulus, rate_hz)
    if len(at) < 8:
        return None
    steps = np.diff(places)
    if np.mean(steps >= 0.0) > _RISES and np.any(places[1:] < _FALLS_BACK * places[:-1]):
        first = first_repeat(stimulus, rate_hz)
        if first is not None:
            stimulus = first
            at, places = _strongest_lines(stimulus, rate_hz)
            if len(at) < 8:
                return None
    slope, base = np.polyfit(at, np.log(places), 1)
    off = np.log(places) - (slope * at + base)
    rises = np.mean(np.diff(places) >= 0.0)
    if slope <= 0.0 or float(np.median(np.abs(off))) > 0.12 or rises < 0.9 or np.ptp(np.log(places)) < 1.0:
        return None
    amplitude = np.abs(stimulus) > 0.05 * np.max(np.abs(stimulus))
    rows = np.flatnonzero(amplitude)
    first_s, last_s = rows[0] / rate_hz, rows[-1] / rate_hz
    return SweepShape(
        float(math.exp(base + slope * first_s)),
        float(min(math.exp(base + slope * last_s), 0.5 * rate_hz)),
        float(1.0 / slope),
    )


def _strongest_lines(stimulus: NDArray[np.float64], rate_hz: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Times, and the frequency of the strongest line at each where something sounds that can be told."""
    import scipy.signal

    length = max(256, 2 ** int(math.log2(max(len(stimulus) / 80, 256))))
    if len(stimulus) < 6 * length:
        return np.empty(0), np.empty(0)
    frequencies, times, power = scipy.signal.spectrogram(
        stimulus, fs=rate_hz, nperseg=length, noverlap=length // 2, window="hann"
    )
    energy = power.sum(axis=0)
    if not energy.max() > 0.0:
        return np.empty(0), np.empty(0)
    active = energy > 0.02 * np.median(energy[energy > 0.01 * energy.max()])
    places = frequencies[np.argmax(power, axis=0)][active]
    sound = (places > 3.0 * rate_hz / length) & (places < 0.45 * rate_hz)
    return times[active][sound], places[sound]


def first_repeat(stimulus: NDArray[np.float64], rate_hz: float) -> NDArray[np.float64] | None:
    """The first of several that are alike and come at one interval, without what follows; None where none come again.

    The interval is the highest peak of the autocorrelation beyond a twentieth of a second.
    """
    import scipy.fft

    if len(stimulus) > MOST_REPEATED_ROWS:
        return None
    size = scipy.fft.next_fast_len(2 * len(stimulus), real=True)
    alike = scipy.fft.irfft(np.abs(scipy.fft.rfft(stimulus, size)) ** 2, size)[: len(stimulus)]
    least = max(int(0.05 * rate_hz), 64)
    if len(alike) <= 2 * least or not alike[0] > 0.0:
        return None
    period = least + int(np.argmax(alike[least:]))
    if alike[period] < 0.4 * alike[0]:
        return None
    loud = np.abs(stimulus) > 0.05 * float(np.max(np.abs(stimulus)))
    first = int(np.argmax(loud))
    part = np.flatnonzero(loud[first : first + period - least // 8])
    return stimulus[first : first + int(part[-1]) + 1]
