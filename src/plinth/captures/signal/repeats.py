"""One sweep played several times: where each begins, and the mean of what answers them."""

import dataclasses
import itertools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from plinth.captures.signal.deconvolution import Answer, noise_of

# Of the strongest, what still is the same sweep once more; and how near two of them may begin, in sweeps.
_ALIKE, _APART = 0.5, 0.95
_MOST = 200
_QUIET_BEFORE_S = 0.25


@dataclasses.dataclass(frozen=True)
class Repeats:
    """The mean of ``answers`` to the same sweep; ``cut_off`` more of them are not whole in the record."""

    mean: Answer
    answers: tuple[Answer, ...]
    cut_off: int

    def apart_db(self, frequency_hz: float) -> tuple[float, float]:
        """From the least to the most of their sizes at a frequency, and what noise alone would do there (95 %), dB."""
        sizes = [abs(answer.at(frequency_hz)) for answer in self.answers]
        u = max(answer.u_linear(frequency_hz) / size for answer, size in zip(self.answers, sizes, strict=True))
        # The range of up to some ten normal values stays below about five of their standard deviations.
        return 20.0 * math.log10(max(sizes) / min(sizes)), 8.686 * 5.0 * u


def starts_of(lead: NDArray[np.float64], reference: NDArray[np.float64]) -> tuple[int, ...]:
    """Rows of ``lead`` at which a sweep like ``reference`` begins, in order; where there is but one, that one.

    What answers each is as short as what it passed through; a row may lie before the record, where one is cut off.
    """
    import scipy.fft

    size = scipy.fft.next_fast_len(len(lead) + len(reference), real=True)
    x = scipy.fft.rfft(reference, size)
    power = np.abs(x) ** 2
    strong = power > 1e-3 * float(np.max(power))
    ratio = np.where(strong, scipy.fft.rfft(lead, size) * np.conj(x) / np.maximum(power, 1e-300), 0.0)
    sizes = np.abs(scipy.fft.irfft(ratio, size))
    apart = int(_APART * len(reference))
    found: list[int] = []
    highest = float(np.max(sizes))
    while len(found) < _MOST:
        row = int(np.argmax(sizes))
        if not sizes[row] > _ALIKE * highest:
            break
        found.append(row - size if row > len(lead) else row)
        sizes[max(0, row - apart) : row + apart + 1] = 0.0
        if row < apart:
            sizes[size - (apart - row) :] = 0.0
        elif row + apart >= size:
            sizes[: row + apart + 1 - size] = 0.0
    return tuple(sorted(found))


def mean_of(answers: Sequence[Answer], cut_off: int = 0) -> Repeats:
    """Their mean, each moved by the part of a sample that it arrives earlier or later than the first."""
    import scipy.fft

    first = answers[0]
    if len(answers) == 1:
        return Repeats(first, (first,), cut_off)
    size = len(first.impulse)
    shape = first.shape
    grid = np.geomspace(max(2.0 * shape.f1_hz, 60.0), max(0.3 * shape.f2_hz, 3.0 * shape.f1_hz), 48)
    own = first.linear(grid)
    bins = 2j * math.pi * np.arange(size // 2 + 1) / size
    total = np.zeros(size)
    moved = []
    for answer in answers:
        turn = np.angle(answer.linear(grid) * np.conj(own))
        # A delay turns in proportion to frequency; the highest tell it best.
        late_rows = -float(np.dot(grid, turn) / np.dot(grid, grid)) * answer.rate_hz / (2.0 * math.pi)
        impulse = scipy.fft.irfft(scipy.fft.rfft(answer.impulse) * np.exp(bins * late_rows), size)
        total += impulse
        moved.append(dataclasses.replace(answer, impulse=impulse))
    mean = total / len(answers)
    noise_hz, density = noise_of(mean, first.rate_hz, shape, first.after_s, first.recorded_s)
    return Repeats(
        dataclasses.replace(first, impulse=mean, noise_hz=noise_hz, noise_density=density), tuple(moved), cut_off
    )


def cuts_of(starts: Sequence[int], sweep_rows: int, rows: int, rate_hz: float) -> tuple[list[tuple[int, int]], int]:
    """A span of rows about each sweep that is whole in the record, all of one length; how many are not."""
    gaps = [later - start - sweep_rows for start, later in itertools.pairwise(starts)]
    before = min([round(_QUIET_BEFORE_S * rate_hz), *(max(0, gap) // 2 for gap in gaps)])
    whole = [start for start in starts if start >= 0 and start + sweep_rows <= rows]
    if not whole:
        return [], len(starts)
    before = min(before, whole[0])
    ends = [later - before for later in starts[1:]] + [rows]
    length = min(
        end - (start - before) for start, end in zip(starts, ends, strict=True) if start in whole
    )  # fmt: skip
    return [(start - before, start - before + length) for start in whole], len(starts) - len(whole)
