"""A sine cut off at two limits, in harmonics: what it looks like, and the limits that explain a wave."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

_POINTS = 1024
_TABLE = 400


@dataclass(frozen=True)
class CutSine:
    """A sine of peak ``amplitude`` held between ``-lower`` and ``upper`` (both above 0)."""

    amplitude: float
    upper: float
    lower: float
    rest: float
    """What of the wave's harmonics this leaves unexplained, as a share of their size."""


_TURNS = 2.0 * math.pi * (np.arange(_POINTS) + 0.5) / _POINTS
_SINE = np.sin(_TURNS)


def cut_phasors(amplitude: float, upper: float, lower: float, count: int) -> NDArray[np.complex128]:
    """Phasors of the sine harmonics 1 to ``count``: x = mean + sum Im phasor exp(j h q)."""
    orders = np.arange(1, count + 1)
    lines = np.fft.rfft(np.clip(amplitude * _SINE, -lower, upper))[1 : count + 1]
    return np.asarray(2j * lines * np.exp(-1j * math.pi * orders / _POINTS) / _POINTS)


def distortion_of(amplitude: float, upper: float, lower: float, count: int) -> float:
    """Harmonics 2 to ``count`` of a cut sine, root sum square, to its fundamental."""
    sizes = np.abs(cut_phasors(amplitude, upper, lower, count))
    return float(np.sqrt(np.sum(sizes[1:] ** 2)) / sizes[0])


def rms_of(amplitude: float, upper: float, lower: float) -> float:
    """Root mean square of a cut sine about its mean."""
    return float(np.std(np.clip(amplitude * _SINE, -lower, upper)))


@lru_cache(maxsize=32)
def _tables(count: int) -> tuple[NDArray[np.float64], ...]:
    """Over limit / amplitude: distortion, fundamental and rms of a unit sine that is cut alike on both sides."""
    ratios = np.concatenate(([1.0], 1.0 - np.geomspace(1e-5, 0.9, _TABLE)))
    distortion, first, rms = np.zeros(len(ratios)), np.zeros(len(ratios)), np.zeros(len(ratios))
    for index, ratio in enumerate(ratios):
        lines = cut_phasors(1.0, float(ratio), float(ratio), max(count, 60))
        sizes = np.abs(lines)
        first[index] = sizes[0]
        distortion[index] = math.sqrt(float(np.sum(sizes[1:count] ** 2))) / sizes[0]
        rms[index] = math.sqrt(0.5 * float(np.sum(sizes**2)))
    distortion[0] = 0.0
    return ratios, distortion, first, rms


def limit_of(fundamental: float, distortion: float, count: int) -> float:
    """The limit (peak) at which a sine cut alike on both sides has this fundamental (peak) and distortion."""
    ratios, table, first, _ = _tables(count)
    ratio = float(np.interp(distortion, table, ratios))
    return fundamental / float(np.interp(distortion, table, first)) * ratio


def rms_at(limit: float, distortion: float, count: int) -> float:
    """Root mean square of a sine cut at ``limit`` on both sides until it has this distortion."""
    ratios, table, _, rms = _tables(count)
    ratio = float(np.interp(distortion, table, ratios))
    return limit / ratio * float(np.interp(distortion, table, rms))


def fitted_cut(phasors: NDArray[np.complex128]) -> CutSine | None:
    """The cut sine whose harmonics come nearest to those of a wave (sine phasors, the fundamental's phase 0)."""
    import scipy.optimize

    count = len(phasors)
    first = abs(phasors[0])
    turned = phasors * np.exp(-1j * np.angle(phasors[0]) * np.arange(1, count + 1))
    size = float(np.sqrt(np.sum(np.abs(turned[1:]) ** 2)))
    if count < 4 or size <= 0.0:
        return None
    start = limit_of(first, size / first, count)
    best: CutSine | None = None

    def rest(place: NDArray[np.float64]) -> NDArray[np.float64]:
        lines = cut_phasors(float(place[0]), float(place[1]), float(place[2]), count)
        off = (lines - turned) / size
        return np.concatenate((off.real, off.imag))

    for upper, lower in ((start, start), (0.97 * start, 1.2 * start), (1.2 * start, 0.97 * start)):
        answer = scipy.optimize.least_squares(
            rest, [1.05 * first, upper, lower], bounds=([0.5 * first, 0.05 * first, 0.05 * first], [8.0 * first] * 3),
            x_scale=first, diff_step=1e-6, max_nfev=60,
        )  # fmt: skip
        left = float(np.sqrt(2.0 * answer.cost))
        if best is None or left < best.rest:
            amplitude, top, bottom = (float(value) for value in answer.x)
            best = CutSine(amplitude, top, bottom, left)
        if best.rest < 0.02:
            break
    return best
