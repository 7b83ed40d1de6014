"""What a meter makes of a value: an error of its own that stays, noise, the last digit."""

import math
from dataclasses import dataclass

import numpy as np

from plinth.simulated_bench.clock import BenchClock

WARM_AFTER_S, _COLD = 600.0, 0.3


@dataclass(frozen=True)
class Accuracy:
    """``share`` of the reading and ``of_range`` of the range at most; ``digits`` counts in a range."""

    share: float
    of_range: float
    digits: int


class MeterError:
    """One meter's own error, drawn once within half of what is stated, more until it is warm, and its noise."""

    def __init__(self, accuracy: Accuracy, dice: np.random.Generator, clock: BenchClock) -> None:
        self.accuracy, self._dice, self._clock = accuracy, dice, clock
        self._slope, self._offset = (float(dice.uniform(-0.5, 0.5)) for _ in range(2))

    def of(self, value: float, scale: float) -> float:
        """The value as it is shown in a range of ``scale``."""
        kind = self.accuracy
        slope = self._slope + _COLD * math.exp(-self._clock.now() / WARM_AFTER_S)
        off = value * kind.share * slope + scale * kind.of_range * self._offset
        noise = 0.1 * scale * kind.of_range * float(self._dice.standard_normal())
        step = scale / kind.digits
        return round((value + off + noise) / step) * step
