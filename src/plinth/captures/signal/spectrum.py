"""Power of a record bin by bin, what of it lies in a band, and the density beside lines."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.signal.frames import Frames, frames_of

_MEDIAN_OF = 8000


@dataclass(frozen=True)
class Spectrum:
    """``power`` a bin (mean square; its sum is that of the record under the window), bins ``bin_hz`` apart."""

    power: NDArray[np.float64]
    bin_hz: float
    half_lobe_bins: float
    frames: int
    overlap: float
    """How much wider the scatter of a sum of bins is than that of independent ones (as a variance)."""

    @property
    def frequencies_hz(self) -> NDArray[np.float64]:
        """Of each bin."""
        return np.asarray(np.arange(len(self.power)) * self.bin_hz)

    def beside(self, lines_hz: Iterable[float]) -> NDArray[np.bool_]:
        """Which bins lie under the lobe of none of the lines, nor under that of zero."""
        free = np.ones(len(self.power), dtype=np.bool_)
        half = self.half_lobe_bins + 1.0
        for line in (0.0, *lines_hz):
            place = line / self.bin_hz
            free[max(0, int(np.floor(place - half))) : int(np.ceil(place + half)) + 1] = False
        return free

    def floor(self, free: NDArray[np.bool_]) -> NDArray[np.float64]:
        """The power a bin without the lines: what is free, drawn through where it is not."""
        places = np.flatnonzero(free)
        if len(places) == 0:
            return np.zeros_like(self.power)
        values = self.power[places]
        width = min(len(values), 25)
        sums = np.concatenate(([0.0], np.cumsum(values)))
        inner = (sums[width:] - sums[:-width]) / width
        smooth = np.pad(inner, (width // 2, (width - 1) // 2), mode="edge")
        floor = self.power.copy()
        gaps = np.flatnonzero(~free)
        floor[gaps] = np.interp(gaps, places, smooth)
        return floor

    def density(self, floor: NDArray[np.float64], frequency_hz: float) -> float:
        """Mean square a hertz about a frequency, of a floor without lines."""
        place = round(frequency_hz / self.bin_hz)
        reach = 40
        low, high = max(0, place - reach), min(len(floor), place + reach + 1)
        if low >= high:
            return float(np.mean(floor[-2 * reach :])) / self.bin_hz
        return float(np.mean(floor[low:high])) / self.bin_hz

    def band(self, low_hz: float, high_hz: float) -> NDArray[np.bool_]:
        """Which bins lie in a band."""
        chosen = np.zeros(len(self.power), dtype=np.bool_)
        chosen[self.stretch(low_hz, high_hz)] = True
        return chosen

    def stretch(self, low_hz: float, high_hz: float) -> slice:
        """The bins of a band, from the first to the last."""
        first, end = (math.ceil(edge / self.bin_hz + half) for edge, half in ((low_hz, -0.5), (high_hz, 0.5)))
        return slice(min(max(first, 0), len(self.power)), min(max(end, 0), len(self.power)))

    def u_share(self, floor: NDArray[np.float64], chosen: slice | NDArray[np.bool_]) -> float:
        """Relative standard uncertainty of the power of a floor summed over the chosen bins."""
        values = floor[chosen]
        if len(values) == 0 or values.sum() <= 0.0:
            return 1.0
        # Some thousands of its values tell its median well enough.
        median = float(np.median(values[:: max(1, len(values) // _MEDIAN_OF)]))
        level = np.minimum(values, 8.0 * median) if median > 0.0 else values
        spread = self.overlap * float(np.sum(level**2)) / (1.0 + 1.0 / self.frames) / self.frames
        return float(np.sqrt(spread) / values.sum())


def spectrum_of(samples: NDArray[np.float64], sample_rate_hz: float, kind: str = "blackman_harris") -> Spectrum:
    """The spectrum of a record without its mean, averaged over its frames."""
    return spectrum_of_frames(frames_of(samples, kind), sample_rate_hz)


def spectrum_of_frames(frames: Frames, sample_rate_hz: float) -> Spectrum:
    """The spectrum of frames, each without its own weighted mean."""
    import scipy.fft

    weights, sums = frames.window.weights(), frames.window.sums()
    total, square = sums.total, sums.square
    bins = frames.length // 2 + 1
    power = np.zeros(bins)
    for row in frames.samples:
        centred = (row - np.dot(row, weights) / total) * weights
        lines = scipy.fft.rfft(centred)
        power += lines.real**2 + lines.imag**2
    power *= 2.0 / (square * frames.length * frames.count)
    power[0] *= 0.5
    if frames.length % 2 == 0:
        power[-1] *= 0.5
    overlap = frames.length * sums.fourth / square**2
    return Spectrum(power, sample_rate_hz / frames.length, frames.window.half_lobe_bins, frames.count, overlap)
