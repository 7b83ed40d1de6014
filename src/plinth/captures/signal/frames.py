"""A long record in frames under a window, and the window's own transform in closed form."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

_LONGEST = 2**18
_BLOCK = 512
# Coefficients a_j of w(m) = sum a_j cos(2 pi j m / (L - 1)), m from the middle. Four terms: F. J. Harris, Proc. IEEE 66
# (1978), side lobes 92 dB down. Seven: H.-H. Albrecht, ICASSP (2001), 180 dB down, so that no line hides noise.
_COEFFICIENTS = {
    "rectangle": (1.0,),
    "hann": (0.5, 0.5),
    "blackman_harris": (0.35875, 0.48829, 0.14128, 0.01168),
    "seven_terms": (
        0.27105140069342,
        0.43329793923448,
        0.21812299954311,
        0.06592544638803,
        0.01081174209837,
        0.00077658482522,
        0.00001388721735,
    ),
}
_HALF_LOBES = {"rectangle": 1.0, "hann": 2.0, "blackman_harris": 4.0, "seven_terms": 7.0}


@dataclass(frozen=True)
class WindowSums:
    """Sums over a window's values w(m), m from its middle: of w, w^2, w^4, w m^2 and w^2 m^2."""

    total: float
    square: float
    fourth: float
    second: float
    square_second: float


@dataclass(frozen=True)
class Window:
    """A symmetric window of ``length`` samples: a sum of cosines about its middle."""

    kind: str
    length: int

    @property
    def half_lobe_bins(self) -> float:
        """From the middle of its main lobe to the first zero, in bins of 1 / length."""
        return _HALF_LOBES[self.kind]

    def weights(self) -> NDArray[np.float64]:
        """Its values."""
        return _weights(self.kind, self.length)

    def sums(self) -> WindowSums:
        """Sums over its values."""
        return _sums(self.kind, self.length)

    def transform(self, omega: NDArray[np.float64]) -> NDArray[np.float64]:
        """Sum of w(m) exp(-j omega m), real as the window is symmetric; ``omega`` in radians a sample."""
        total = np.zeros_like(omega)
        for index, coefficient in enumerate(_COEFFICIENTS[self.kind]):
            shift = 2.0 * np.pi * index / (self.length - 1)
            total += (
                0.5 * coefficient * (_dirichlet(omega - shift, self.length) + _dirichlet(omega + shift, self.length))
            )
        return total

    def slope(self, omega: NDArray[np.float64]) -> NDArray[np.float64]:
        """D transform / d omega: minus the imaginary part of the sum of w(m) m exp(-j omega m), times minus one."""
        total = np.zeros_like(omega)
        for index, coefficient in enumerate(_COEFFICIENTS[self.kind]):
            shift = 2.0 * np.pi * index / (self.length - 1)
            total += (
                0.5 * coefficient
                * (_dirichlet_slope(omega - shift, self.length) + _dirichlet_slope(omega + shift, self.length))
            )  # fmt: skip
        return total


@dataclass(frozen=True)
class Frames:
    """``samples`` (frames, length), unweighted; ``middles`` are their middles in samples from the record's start."""

    samples: NDArray[np.float64]
    window: Window
    middles: NDArray[np.float64]

    @property
    def length(self) -> int:
        """Samples a frame."""
        return int(self.samples.shape[1])

    @property
    def count(self) -> int:
        """How many frames."""
        return int(self.samples.shape[0])


def frames_of(samples: NDArray[Any], kind: str = "blackman_harris", longest: int = _LONGEST) -> Frames:
    """The record in as few equal frames as their greatest length allows, none over another."""
    count = -(-len(samples) // longest)
    length = len(samples) // count
    middles = np.asarray((np.arange(count) + 0.5) * length - 0.5)
    return Frames(samples[: count * length].reshape(count, length), Window(kind, length), middles)


def project(weighted: NDArray[np.float64], omega: NDArray[np.float64]) -> NDArray[np.complex128]:
    """Sums of each row times exp(-j omega m), m from the row's middle: (rows, len(omega)).

    The exponential of a long row is a product of two short ones, so that a row costs one product of matrices.
    """
    rows, length = weighted.shape
    blocks = -(-length // _BLOCK)
    padded = weighted
    if blocks * _BLOCK != length:
        padded = np.zeros((rows, blocks * _BLOCK))
        padded[:, :length] = weighted
    within = np.outer(np.arange(_BLOCK), omega)
    base = np.concatenate((np.cos(within), -np.sin(within)), axis=1)
    parts = padded.reshape(rows * blocks, _BLOCK) @ base
    sums = (parts[:, : len(omega)] + 1j * parts[:, len(omega) :]).reshape(rows, blocks, len(omega))
    starts = np.exp(-1j * np.outer(_BLOCK * np.arange(blocks) - 0.5 * (length - 1), omega))
    return np.asarray(np.einsum("rbk,bk->rk", sums, starts))


@lru_cache(maxsize=4)
def _weights(kind: str, length: int) -> NDArray[np.float64]:
    turn = np.cos(2.0 * np.pi * (np.arange(length) - 0.5 * (length - 1)) / (length - 1))
    # cos(j x) by its recurrence: a cosine of each sample is taken once.
    before, now = np.ones(length), turn
    coefficients = _COEFFICIENTS[kind]
    total = np.full(length, coefficients[0])
    for coefficient in coefficients[1:]:
        total += coefficient * now
        before, now = now, 2.0 * turn * now - before
    total.flags.writeable = False
    return total


@lru_cache(maxsize=16)
def _sums(kind: str, length: int) -> WindowSums:
    weights = _weights(kind, length)
    along = np.arange(length) - 0.5 * (length - 1)
    square = weights**2
    return WindowSums(
        total=float(np.sum(weights)),
        square=float(np.sum(square)),
        fourth=float(np.sum(square**2)),
        second=float(np.sum(weights * along**2)),
        square_second=float(np.sum(square * along**2)),
    )


def _dirichlet(omega: NDArray[np.float64], length: int) -> NDArray[np.float64]:
    half = 0.5 * omega
    bottom = np.sin(half)
    small = np.abs(bottom) < 1e-9
    # At whole turns the ratio of sines is the length, with the sign that the turns give it.
    at_turn = length * np.cos(length * half) * np.cos(half) if small.any() else 0.0
    return np.where(small, at_turn, np.sin(length * half) / np.where(small, 1.0, bottom))


def _dirichlet_slope(omega: NDArray[np.float64], length: int) -> NDArray[np.float64]:
    half = 0.5 * omega
    bottom = np.sin(half)
    small = np.abs(bottom) < 1e-7
    top = length * np.cos(length * half) * bottom - np.sin(length * half) * np.cos(half)
    return np.where(small, 0.0, 0.5 * top / np.where(small, 1.0, bottom) ** 2)
