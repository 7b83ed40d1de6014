"""Lines of a spectrum fitted by weighted least squares: amplitudes, phases and, of those that lead, frequencies.

All lines are fitted at once, so that none leaks into another, and the window keeps out what is not among them. The
variance is that of white noise of the density found beside each line.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import CaptureError
from plinth.captures.signal.frames import Frames, frames_of, project

_ROUNDS = 12
_CLOSE = 1e-9

# A tone is found in so many rows of a longer record where its line lies so many bins up, and is so much stronger.
_SHORT_ROWS, _SHORT_BINS, _TOWERS = 2**16, 16, 1e8


@dataclass(frozen=True)
class LineFit:
    """x = dc + sum Re(phasors_k exp(j omega_k m)), m in samples from ``middle``; one row of ``each`` a frame.

    ``orders`` (lines, bases) says how each line's frequency is made of the ``bases`` (radians a sample).
    """

    dc: float
    phasors: NDArray[np.complex128]
    each: NDArray[np.complex128]
    bases: NDArray[np.float64]
    orders: NDArray[np.int64]
    middle: float
    noise_gain: float
    frequency_gain: float

    @property
    def omega(self) -> NDArray[np.float64]:
        """Frequencies of the lines, radians a sample."""
        return np.asarray(self.orders @ self.bases)

    def values_at(self, rows: NDArray[np.int64]) -> NDArray[np.float64]:
        """The fitted wave at some rows of the record."""
        turns = np.outer(rows - self.middle, self.omega)
        return np.asarray(self.dc + (np.exp(1j * turns) @ self.phasors).real)


def strongest_line(samples: NDArray[np.float64], least_bins: float = 0.7, least: float = 0.0) -> float:
    """Frequency (radians a sample) of the highest line of a record without its mean, to a part of a bin."""
    import scipy.fft

    if len(samples) >= 2 * _SHORT_ROWS and least == 0.0:
        start = (len(samples) - _SHORT_ROWS) // 2
        short = samples[start : start + _SHORT_ROWS]
        weights = frames_of(short).window.weights()
        power = np.abs(scipy.fft.rfft((short - float(np.mean(short))) * weights)) ** 2
        peak = int(np.argmax(power[1:])) + 1
        # A line that towers over all else is the same in a part of the record: the whole of it would find no other.
        if peak > _SHORT_BINS and power[peak] > _TOWERS * float(np.median(power[::16])):
            return 2.0 * math.pi * between_bins(power, peak) / _SHORT_ROWS
    frames = frames_of(samples)
    weights = frames.window.weights()
    power = np.zeros(frames.length // 2 + 1)
    mean = float(np.mean(samples))
    for row in frames.samples[:: max(1, frames.count // 4)]:
        power += np.abs(scipy.fft.rfft((row - mean) * weights)) ** 2
    first = max(1, math.ceil(max(least_bins, least * frames.length / (2.0 * math.pi))))
    peak = first + int(np.argmax(power[first:]))
    return 2.0 * math.pi * between_bins(power, peak) / frames.length


def between_bins(power: NDArray[np.float64], peak: int) -> float:
    """The place of a peak between bins, by a parabola through three logarithms."""
    if not 0 < peak < len(power) - 1:
        return float(peak)
    left, middle, right = np.log(np.maximum(power[peak - 1 : peak + 2], 1e-300))
    bend = left - 2.0 * middle + right
    return float(peak) + (0.0 if bend >= 0.0 else float(np.clip(0.5 * (left - right) / bend, -1.0, 1.0)))


def window_for(cycles: float) -> str:
    """The window whose lobe leaves lines that are ``cycles`` bins apart to themselves."""
    return "blackman_harris" if cycles >= 9.0 else "hann" if cycles >= 4.5 else "rectangle"


def harmonic_fit(samples: NDArray[np.float64], omega: float, most: int) -> LineFit:
    """A fundamental near ``omega`` with its harmonics up to ``most`` (or half the rate)."""
    count = max(1, min(most, int(0.985 * math.pi / omega)))
    frames = frames_of(samples)
    cycles = frames.length * omega / (2.0 * math.pi)
    frames = frames_of(samples, window_for(cycles))
    return fit_lines(frames, np.array([omega]), np.arange(1, count + 1)[:, None])


def fit_lines(frames: Frames, bases: NDArray[np.float64], orders: NDArray[np.int64], *, refine: bool = True) -> LineFit:
    """Lines at sums of the bases; each base is refined by the line that is itself (orders of one 1 and else 0)."""
    bases = np.array(bases, dtype=np.float64)
    weights = frames.window.weights()
    weighted = frames.samples * weights
    along = np.arange(frames.length) - 0.5 * (frames.length - 1)
    sums = frames.window.sums()
    leaders = [int(np.flatnonzero((orders == unit).all(axis=1))[0]) for unit in np.eye(len(bases), dtype=int)]
    each = np.empty((frames.count, 2 * len(orders) + 1), dtype=np.complex128)
    if refine:
        # With few lines beside the leading ones a round is quick; the others move a frequency no more under the window.
        near = sorted(set(leaders) | set(range(min(len(orders), 6))))
        # Of many frames the middle one is near enough: from there on their phases tell the rest.
        middle_rows = slice(None) if frames.count < 4 else slice(frames.count // 2, frames.count // 2 + 1)
        chosen = weighted[middle_rows]
        tilted = chosen * along
        for _ in range(_ROUNDS):
            some = orders[near]
            each = _solved(frames, chosen, some @ bases)
            step = np.zeros(len(bases))
            for base, leader in enumerate(leaders):
                place = near.index(leader)
                pull = _tilted_rest(frames, tilted, each, some @ bases, place)
                line = each[:, len(some) + 1 + place]
                step[base] = float(
                    np.sum((np.conj(line) * pull).imag) / max(np.sum(np.abs(line) ** 2) * sums.second, 1e-300)
                )
            bases = bases + np.clip(step, -0.5 / frames.length, 0.5 / frames.length)
            if np.all(np.abs(step) * frames.length < _CLOSE):
                break
        if frames.count > 1:
            bases = _by_phase(frames, weighted, bases, orders, leaders)
    each = _solved(frames, weighted, orders @ bases)
    lines = len(orders)
    middle = float(np.mean(frames.middles))
    turned = 2.0 * each[:, lines + 1 :] * np.exp(-1j * np.outer(frames.middles - middle, orders @ bases))
    span = float(np.sum((frames.middles - middle) ** 2))
    within = sums.square_second / sums.second**2
    return LineFit(
        dc=float(np.mean(each[:, lines].real)),
        phasors=np.mean(turned, axis=0),
        each=turned,
        bases=bases,
        orders=orders,
        middle=middle,
        # Variance of each quadrature of a phasor is this times the variance of white noise.
        noise_gain=2.0 * sums.square / sums.total**2 / frames.count,
        frequency_gain=(2.0 * sums.square / sums.total**2 / span) if span > 0.0 else 2.0 * within,
    )


def _solved(frames: Frames, weighted: NDArray[np.float64], omega: NDArray[np.float64]) -> NDArray[np.complex128]:
    """Coefficients of exp(j w m) for w = -omega reversed, 0, omega: one row a frame."""
    full = np.concatenate((-omega[::-1], [0.0], omega))
    sums = project(weighted, np.concatenate(([0.0], omega)))
    right = np.concatenate((np.conj(sums[:, :0:-1]), sums), axis=1)
    matrix = frames.window.transform(full[:, None] - full[None, :])
    try:
        return np.asarray(np.linalg.solve(matrix, right.T).T)
    except np.linalg.LinAlgError as error:
        raise CaptureError(
            "found lines that this record cannot part, expected a longer one, or another kind"
        ) from error


def _tilted_rest(
    frames: Frames, tilted: NDArray[np.float64], each: NDArray[np.complex128], omega: NDArray[np.float64], place: int
) -> NDArray[np.complex128]:
    """Sum of w m (x - fit) exp(-j w m) at the line's own frequency, one a frame."""
    full = np.concatenate((-omega[::-1], [0.0], omega))
    own = omega[place]
    rest = project(tilted, np.array([own]))[:, 0]
    # Sum of w m exp(-j v m) is j d transform / d v.
    return np.asarray(rest - each @ (1j * frames.window.slope(own - full)))


def _by_phase(
    frames: Frames, weighted: NDArray[np.float64], bases: NDArray[np.float64], orders: NDArray[np.int64],
    leaders: list[int],
) -> NDArray[np.float64]:  # fmt: skip
    """The bases made finer by how their phases go on from frame to frame."""
    each = _solved(frames, weighted, orders[leaders] @ bases)[:, len(leaders) + 1 :]
    finer = bases.copy()
    for base in range(len(bases)):
        phase = np.unwrap(np.angle(each[:, base] * np.exp(-1j * bases[base] * frames.middles)))
        size = np.abs(each[:, base])
        if np.ptp(phase) < 20.0 and size.min() > 0.2 * size.max():
            finer[base] += np.polyfit(frames.middles - np.mean(frames.middles), phase, 1)[0]
    return finer
