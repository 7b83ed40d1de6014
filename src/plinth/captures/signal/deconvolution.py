"""What answers an exponential sweep: its linear response and those of each order (A. Farina, AES 108, 2000)."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.signal.frames import project
from plinth.captures.signal.sweep_shape import SweepShape

_GRID_PER_OCTAVE = 24
# Rows that a look at noise needs; of its span, what must lie where noise can stand.
_FEWEST_GAP_ROWS, _LEAST_SHARE = 192, 0.3


@dataclass(frozen=True)
class Answer:
    """The deconvolved record: ``impulse`` at ``rate_hz``, its linear peak at row 0 (``arrival_s`` taken out).

    ``recorded_s`` the record goes on after the sweep's begin has arrived. ``noise_hz`` and ``noise_density`` tell what
    stands in it where nothing arrives (mean square a hertz).
    """

    impulse: NDArray[np.float64]
    rate_hz: float
    arrival_s: float
    shape: SweepShape
    before_s: float
    after_s: float
    recorded_s: float
    noise_hz: NDArray[np.float64]
    noise_density: NDArray[np.float64]

    def linear(self, frequencies_hz: NDArray[np.float64]) -> NDArray[np.complex128]:
        """The linear response at some frequencies, without ``arrival_s``."""
        return self._at(frequencies_hz, 0.0, self.before_s, self.after_s)

    def at(self, frequency_hz: float) -> complex:
        """The linear response at one frequency."""
        return complex(self.linear(np.array([frequency_hz]))[0])

    def order(self, order: int, frequency_hz: float) -> float:
        """What of order ``order`` a fundamental at ``frequency_hz`` makes, to that fundamental's response."""
        place = -self.shape.ahead_s(order)
        product = self._at(np.array([order * frequency_hz]), place, *self._reach(order))[0]
        return float(abs(product)) / max(abs(self.at(frequency_hz)), 1e-300)

    def u_linear(self, frequency_hz: float) -> float:
        """Standard uncertainty of each quadrature of the linear response from noise."""
        return self._u(frequency_hz, self.before_s, self.after_s)

    def u_order(self, order: int, frequency_hz: float) -> float:
        """Standard uncertainty of a product's size from noise, to the fundamental's."""
        return self._u(order * frequency_hz, *self._reach(order)) / max(abs(self.at(frequency_hz)), 1e-300)

    def _reach(self, order: int) -> tuple[float, float]:
        """How far before and after its arrival an order's response is taken: into the gaps to its neighbours."""
        shape = self.shape
        later = shape.ahead_s(order) - shape.ahead_s(order - 1)
        earlier = shape.ahead_s(order + 1) - shape.ahead_s(order)
        return 0.35 * earlier, 0.55 * later

    def _u(self, frequency_hz: float, before_s: float, after_s: float) -> float:
        density = float(np.interp(frequency_hz, self.noise_hz, self.noise_density))
        rows = round((before_s + after_s) * self.rate_hz)
        weights = _fade(np.linspace(-before_s, after_s, rows, dtype=np.float64), before_s, after_s)
        return math.sqrt(0.25 * density * self.rate_hz * float(np.dot(weights, weights)))

    def _at(
        self, frequencies_hz: NDArray[np.float64], place_s: float, before_s: float, after_s: float
    ) -> NDArray[np.complex128]:
        rate, count = self.rate_hz, len(self.impulse)
        centre = place_s * rate
        rows = np.arange(math.ceil(centre - before_s * rate), math.floor(centre + after_s * rate) + 1)
        along = rows - centre
        taken = self.impulse[rows % count] * _fade(np.asarray(along / rate), before_s, after_s)
        omega = 2.0 * math.pi * np.asarray(frequencies_hz) / rate
        sums = project(taken[None, :], omega)[0]
        return np.asarray(sums * np.exp(-1j * omega * 0.5 * (along[0] + along[-1])))


def _fade(along_s: NDArray[np.float64], before_s: float, after_s: float) -> NDArray[np.float64]:
    """1 in the middle; ends that fade over a third, so that nothing rings."""
    fade_in = np.clip((along_s + before_s) / max(0.3 * before_s, 1e-9), 0.0, 1.0)
    fade_out = np.clip((after_s - along_s) / max(0.3 * after_s, 1e-9), 0.0, 1.0)
    return np.asarray(np.sin(0.5 * math.pi * fade_in) ** 2 * np.sin(0.5 * math.pi * fade_out) ** 2)


def deconvolved(
    stimulus: NDArray[np.float64], response: NDArray[np.float64], rate_hz: float, shape: SweepShape
) -> Answer:
    """The response to the stimulus as an impulse; beyond the sweep's ends its edge values are carried on."""
    import scipy.fft

    length = max(len(stimulus), len(response))
    size = scipy.fft.next_fast_len(2 * length, real=True)
    x, y = scipy.fft.rfft(stimulus, size), scipy.fft.rfft(response, size)
    frequencies = np.arange(len(x)) * rate_hz / size
    inside = (frequencies >= shape.f1_hz) & (frequencies <= min(shape.f2_hz, 0.4995 * rate_hz))
    power = np.abs(x) ** 2
    # Inside the sweep the ratio as it stands; a bin in which the stimulus happens to hold next to nothing is bounded.
    least = 1e-6 * float(np.median(power[inside]))
    ratio = np.where(inside, y * np.conj(x) / np.maximum(power, least), 0.0)
    rough = scipy.fft.irfft(ratio, size)
    peak = int(np.argmax(np.abs(rough)))
    arrival = peak - size if peak > size // 2 else peak
    ratio = ratio * np.exp(2j * math.pi * np.arange(len(x)) * arrival / size)
    ratio = _carried_on(ratio, np.flatnonzero(inside))
    impulse = scipy.fft.irfft(ratio, size)
    total = size / rate_hz
    seconds = shape.per_e_s * math.log(shape.f2_hz / shape.f1_hz)
    before = min(0.45 * shape.ahead_s(2), 0.25 * total)
    after = min(max(0.3, 12.0 / shape.f1_hz), 0.8 * seconds, 0.2 * total)
    begin = int(np.argmax(np.abs(stimulus) > 0.05 * float(np.max(np.abs(stimulus)))))
    recorded = (len(response) - begin - arrival) / rate_hz
    noise_hz, density = noise_of(impulse, rate_hz, shape, after, recorded)
    return Answer(
        impulse,
        rate_hz,
        arrival_s=arrival / rate_hz,
        shape=shape,
        before_s=before,
        after_s=after,
        recorded_s=recorded,
        noise_hz=noise_hz,
        noise_density=density,
    )


def noise_of(
    impulse: NDArray[np.float64], rate_hz: float, shape: SweepShape, after_s: float, recorded_s: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Frequencies and density (mean square a hertz) of the noise about the arrival of an impulse.

    It is looked at where nothing arrives any more. Deconvolved, noise of a frequency stands only as late as the record
    went on after the sweep had passed it (``recorded_s`` after its begin): what of the look lies later counts not, and
    where most of it does, the gap ahead of the arrival is taken, before which the orders stand.
    """
    import scipy.signal

    start = int(after_s * rate_hz)
    end = max(int(0.45 * len(impulse)), start + 512)
    late = impulse[start:end]
    noise_hz, density = scipy.signal.welch(late, rate_hz, nperseg=min(len(late), 4096))
    last_s = recorded_s - shape.per_e_s * np.log(np.maximum(noise_hz, shape.f1_hz) / shape.f1_hz)
    share = np.clip((last_s * rate_hz - start) / (end - start), 0.0, 1.0)
    gap_rows = shape.ahead_s(2) * rate_hz
    ahead = impulse[len(impulse) - int(0.45 * gap_rows) : len(impulse) - int(0.05 * gap_rows)]
    if len(ahead) < _FEWEST_GAP_ROWS:
        return noise_hz, density / np.maximum(share, _LEAST_SHARE)
    ahead_hz, ahead_density = scipy.signal.welch(ahead, rate_hz, nperseg=min(len(ahead) // 3, 4096))
    beside = np.interp(noise_hz, ahead_hz, ahead_density)
    return noise_hz, np.where(share > _LEAST_SHARE, density / np.maximum(share, _LEAST_SHARE), beside)


def _carried_on(ratio: NDArray[np.complex128], inside: NDArray[np.int64]) -> NDArray[np.complex128]:
    """The ratio with its value at each end carried on, so that the edge of the sweep does not ring."""
    first, last = int(inside[0]), int(inside[-1])
    out = ratio.copy()
    width = max(2, min(12, (last - first) // 50))
    if first > 1:
        # The response towards zero frequency: mirrored about the edge, so that value and slope go on.
        mirrored = ratio[np.minimum(2 * first - np.arange(first), last)]
        out[:first] = 2.0 * np.mean(ratio[first : first + width]) - mirrored
        out[0] = out[0].real
    if last + 1 < len(out):
        high = np.arange(last + 1, len(out))
        edge = ratio[last]
        out[last + 1 :] = edge * np.exp(-(((high - last) / max(0.2 * last, 1.0)) ** 2))
    return out


def excess_delay_s(answer: Answer, low_hz: float, high_hz: float) -> tuple[float, float]:
    """What delay is left beyond that of the least phase that goes with the response's size; how far it may be off.

    A first order at the top is taken out by its closed form, as most of its phase belongs to sizes above the sweep;
    the rest follows from the sizes by H. W. Bode's integral (1940).
    """
    low_hz = max(low_hz, 1.0)
    grid = np.geomspace(low_hz, high_hz, max(8, int(_GRID_PER_OCTAVE * math.log2(high_hz / low_hz))))
    values = answer.linear(grid)
    corner = _corner_hz(grid, np.abs(values))
    pole = np.ones(len(grid), dtype=np.complex128) if corner is None else 1.0 / (1.0 + 1j * grid / corner)
    rest = values / pole
    middle = (grid > max(2.0 * low_hz, 300.0)) & (grid < min(0.6 * high_hz, 12_000.0))
    if middle.sum() < 6:
        middle = np.ones(len(grid), dtype=np.bool_)
    excess = np.unwrap(np.angle(rest)) - least_phase(grid, np.abs(rest))
    # Beside the delay: a turned sign, and what the unknown sizes below the band leave, which falls with frequency.
    f = grid[middle]
    terms = np.stack((f, np.ones(len(f)), 1.0 / f), axis=1)
    scale = np.abs(terms).max(axis=0)
    slope = float((np.linalg.lstsq(terms / scale, excess[middle], rcond=None)[0] / scale)[0])
    own = 0.0 if corner is None else 1.0 / (2.0 * math.pi * corner)
    return -slope / (2.0 * math.pi), 0.03 * own + 0.02 / answer.rate_hz


def _corner_hz(grid_hz: NDArray[np.float64], sizes: NDArray[np.float64]) -> float | None:
    """The corner of the first order whose fall over the top of the band this is, or None where it does not fall."""
    top = float(grid_hz[-1])
    low = float(np.interp(0.35 * top, grid_hz, sizes))
    share = (float(sizes[-1]) / low) ** 2
    if not 0.1 < share < 0.9999:
        return None
    square = (share * top**2 - (0.35 * top) ** 2) / (1.0 - share)
    return math.sqrt(square) if square > 0.0 else None


def least_phase(grid_hz: NDArray[np.float64], sizes: NDArray[np.float64]) -> NDArray[np.float64]:
    """Phase (radians) of the network of least phase with these sizes: flat above them, their slope going on below."""
    logs = np.log(np.maximum(sizes, 1e-12))
    along = np.log(grid_hz)
    bottom = along < along[0] + 0.35
    rise = float(np.polyfit(along[bottom], logs[bottom], 1)[0])
    step = 0.01
    full = np.arange(along[0] - 4.6, along[-1] + 4.6, step)
    curve = np.interp(full, along, logs)
    curve = np.where(full < along[0], logs[0] + rise * (full - along[0]), curve)
    slope = np.gradient(curve, step)
    phases = np.empty(len(grid_hz))
    for index, place in enumerate(along):
        away = np.maximum(np.abs(full - place), 0.18 * step)
        phases[index] = float(np.sum(slope * np.log(1.0 / np.tanh(0.5 * away))) * step) / math.pi
    return phases
