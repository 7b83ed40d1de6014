"""An incandescent lamp in series with the mains: filament resistance, temperature and glow.

R ~ T^1.2 and radiated power ~ T^4 around the rated point; a filament of 2700 K at its rated voltage. Sources: H. A.
Jones and I. Langmuir, General Electric Review 30 (1927), for tungsten; exponents fitted over 300 to 3000 K.
"""

import dataclasses
import math
from collections.abc import Callable

from plinth.physics.numbers.roots import bracketed

RATED_K = 2700.0
ROOM_K = 298.0
# Shares of a lamp's rating so small that what is left to warm it does not matter.
NEARLY = 1e-5
# Joules per kelvin and watt of rating: a filament that cools from 2700 K in some tenths of a second.
HEAT_PER_WATT = 9e-5


@dataclasses.dataclass(frozen=True)
class Lamp:
    """Rated watts at rated volts RMS."""

    p_rated_w: float
    v_rated: float

    @property
    def r_rated_ohm(self) -> float:
        """Resistance when it glows as rated."""
        return self.v_rated**2 / self.p_rated_w

    @property
    def heat_capacity_j_per_k(self) -> float:
        """Of the filament, J/K (an estimate)."""
        return HEAT_PER_WATT * self.p_rated_w

    def ohm(self, t_k: float) -> float:
        """Resistance at a filament temperature (kelvin)."""
        return float(self.r_rated_ohm * (t_k / RATED_K) ** 1.2)

    def radiated_w(self, t_k: float) -> float:
        """What it radiates at a filament temperature, less what the room gives back."""
        share = (t_k**4 - ROOM_K**4) / (RATED_K**4 - ROOM_K**4)
        return self.p_rated_w * share

    def settled_near_k(self, current_a: Callable[[float], float], t_k: float) -> float:
        """As ``settled_k``, sought from the temperature of a similar case on: secants, some three currents.

        Where they do not close in, the whole range is searched.
        """
        at, step = self._left_over(current_a, t_k), 0.01 * t_k
        for _ in range(6):
            if abs(at) < 0.1 * NEARLY:
                return t_k
            tried = min(max(t_k + step, ROOM_K), 1.3 * RATED_K)
            there = self._left_over(current_a, tried)
            if there == at or tried == t_k:
                break
            step = -there * (tried - t_k) / (there - at)
            if abs(step) > 0.3 * tried:
                break
            t_k, at = tried, there
        return t_k if abs(at) < NEARLY else self.settled_k(current_a)

    def resting_points_k(self, current_a: Callable[[float], float], count: int = 10) -> list[float]:
        """All temperatures at which it can rest, coldest first, told apart by ``count`` looks over the whole range.

        Only stable ones: above each the filament loses more than it gets.
        """
        grid = [ROOM_K + k * (1.05 * RATED_K - ROOM_K) / count for k in range(count + 1)]
        left = [self._left_over(current_a, t) for t in grid]
        at_rest_k = [grid[0]] if left[0] <= 0.0 else []
        for k in range(count):
            if left[k] > 0.0 >= left[k + 1]:
                share = left[k] / (left[k] - left[k + 1])
                at_rest_k.append(grid[k] + share * (grid[k + 1] - grid[k]))
        return at_rest_k

    def _left_over(self, current_a: Callable[[float], float], t_k: float) -> float:
        """What is left to warm it at a temperature, as a share of its rating."""
        r = self.ohm(t_k)
        return (current_a(r) ** 2 * r - self.radiated_w(t_k)) / self.p_rated_w

    def settled_k(self, current_a: Callable[[float], float]) -> float:
        """Temperature at which I^2 R = radiated, where the circuit passes ``current_a`` (RMS) at a resistance.

        What is left to warm it falls as it warms, so a bracket closes on the one answer, on a scale of T^2, on which
        it is nearly straight.
        """
        low, high = ROOM_K, 1.3 * RATED_K
        at_low, at_high = self._left_over(current_a, low), self._left_over(current_a, high)
        if at_low <= 0.0 or at_high >= 0.0:
            return low if at_low <= 0.0 else high
        square = bracketed(
            lambda t2: self._left_over(current_a, math.sqrt(t2)), (low**2, at_low), (high**2, at_high), 0.1 * NEARLY
        )
        return math.sqrt(square)

    def warmed_k(self, t_k: float, p_w: float, seconds: float) -> float:
        """Temperature after some time under a steady power: steps of at most a fiftieth of it."""
        left = seconds
        while left > 0.0:
            net = p_w - self.radiated_w(t_k)
            step = min(left, 0.02 * t_k * self.heat_capacity_j_per_k / max(abs(net), 1e-12))
            t_k, left = max(ROOM_K, t_k + net * step / self.heat_capacity_j_per_k), left - step
        return t_k


# Up to which temperature (kelvin) a filament looks how.
_GLOWS = (
    (850.0, "dark"), (1100.0, "a dull red"), (1500.0, "orange"), (2000.0, "yellow"), (2450.0, "nearly white"),
    (math.inf, "at full brightness"),
)  # fmt: skip
# What an eye says of it, and kelvin in the middle of what looks so.
_SEEN = {
    "dark": 500.0, "off": 500.0, "red": 975.0, "dull red": 975.0, "a dull red": 975.0, "orange": 1300.0,
    "yellow": 1750.0, "white": 2225.0, "nearly white": 2225.0, "bright": 2650.0, "at full brightness": 2650.0,
}  # fmt: skip


def glow(t_k: float) -> str:
    """What the eye sees of a filament."""
    return next(words for limit, words in _GLOWS if t_k < limit)


def seen_k(words: str) -> float | None:
    """Kelvin for what an eye says of a filament (``dull red``, ``white``, ``bright``); None for what it never says."""
    return _SEEN.get(" ".join(words.lower().split()))
