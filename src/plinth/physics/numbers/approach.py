"""A reading that approaches its rest: where it ends, how fast, and how long it still takes, from a few readings.

y(t) = end + (y0 - end) exp(-t / tau). ``tau`` is not solved for but averaged over: for each of many values the other
two follow by linear least squares, and each counts by how well it fits and how likely it was beforehand (Bayes' rule,
the two linear ones marginalised with flat priors: A. Gelman et al., Bayesian Data Analysis, linear regression). So two
readings already tell something where the time constant is known, and the spread says how much.
"""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

# Time constants that are looked at: this many, over the spread beforehand to either side in its own units.
_GRID, _REACH = 121, 3.0


@dataclasses.dataclass(frozen=True)
class Approach:
    """``end`` where it comes to rest and its standard uncertainty, ``tau_s`` the likeliest time constant.

    ``off`` how far the end still is from the last reading by this fit, positive above it.
    """

    end: float
    u_end: float
    tau_s: float
    off: float

    @property
    def slope_per_s(self) -> float:
        """How fast it moves at the last reading, positive where it rises."""
        return self.off / self.tau_s

    def left_s(self, within: float) -> float:
        """Seconds after the last reading until it is no more than ``within`` (> 0) from the end; 0 where it is."""
        return 0.0 if abs(self.off) <= within else self.tau_s * math.log(abs(self.off) / within)


def approach(t_s: Array, y: Array, u: float, tau_s: float, tau_spread: float) -> Approach:
    """The approach through ``y`` at ``t_s`` (at least two different times), each of standard uncertainty ``u`` > 0.

    ``tau_s`` the time constant expected, ``tau_spread`` > 1 by which factor it may be off (a standard deviation of its
    logarithm). Raises ValueError for fewer than two different times.
    """
    if len(t_s) < 2 or float(np.ptp(t_s)) <= 0.0:
        raise ValueError("found readings at fewer than two different times, expected two: read once more later")
    t = t_s - t_s[0]
    steps = np.linspace(-_REACH, _REACH, _GRID)
    fits = _fits(t, y, u, tau_s, tau_spread, steps)
    # Once more about what is likely, so that exact readings are not read through a coarse grid.
    middle = float(fits.weight @ steps)
    reach = 5.0 * max(math.sqrt(float(fits.weight @ (steps - middle) ** 2)), steps[1] - steps[0])
    fits = _fits(t, y, u, tau_s, tau_spread, np.linspace(middle - reach, middle + reach, _GRID))
    weight, ends = fits.weight, fits.ends
    end = float(weight @ ends)
    u_end = math.sqrt(float(weight @ (fits.variance + (ends - end) ** 2)))
    likeliest = int(np.argmax(weight))
    return Approach(end, u_end, float(fits.taus[likeliest]), -float(fits.ways[likeliest] * fits.left[likeliest]))


@dataclasses.dataclass(frozen=True)
class _Fits:
    """For each time constant: its weight, the end with its variance, the way from the first reading, the way left."""

    taus: Array
    weight: Array
    ends: Array
    variance: Array
    ways: Array
    left: Array


def _fits(t: Array, y: Array, u: float, tau_s: float, tau_spread: float, steps: Array) -> _Fits:
    taus = tau_s * np.exp(steps * math.log(tau_spread))
    # What is left of the way at each reading.
    left = np.exp(-t[None, :] / taus[:, None])
    n, s, q = float(len(t)), left.sum(axis=1), (left * left).sum(axis=1)
    sy, sly = float(y.sum()), left @ y
    det = np.maximum(n * q - s * s, 1e-300)
    ends = (q * sy - s * sly) / det
    ways = (n * sly - s * sy) / det
    misfit = y[None, :] - ends[:, None] - ways[:, None] * left
    log_weight = -0.5 * (misfit * misfit).sum(axis=1) / (u * u) - 0.5 * np.log(det) - 0.5 * steps * steps
    weight = np.exp(log_weight - log_weight.max())
    return _Fits(taus, weight / weight.sum(), ends, u * u * q / det, ways, left[:, -1])
