"""The period that the rectified mains and the signal share."""

import dataclasses
import fractions
import functools

MOST_HALF_CYCLES_ABOVE = 8
MOST_HALF_CYCLES_BELOW = 40
# Far above the audio band the phase against the mains no longer matters: fewer half cycles, so not more cycles.
MOST_SIGNAL_CYCLES = 250
# And where one half cycle alone holds more, fewer steps for each: the rails do not follow them.
COARSE_STEPS = 16


@dataclasses.dataclass(frozen=True)
class Grid:
    """How finely time is cut: steps per mains half cycle, and at least so many per signal cycle.

    ``near_v`` how near to the periodic state an answer must be, V.
    """

    per_half_cycle: int
    per_signal_cycle: int
    near_v: float = 1e-5


FINE = Grid(500, 40)
# For differences between neighbouring designs: the grid's own error is nearly the same in both and cancels.
COARSE = Grid(160, 16)
# For many designs at a glance, each within 1 %: the last step of Newton is left out.
QUICK = Grid(160, 16, near_v=2e-3)


@dataclasses.dataclass(frozen=True)
class CommonPeriod:
    """Whole mains half cycles that hold whole signal cycles.

    ``half_cycles`` mains half cycles of ``1 / (2 f_mains)`` s hold ``signal_cycles`` of the signal;
    ``f_signal_hz`` is the frequency computed with, which differs from the one asked for only where the
    exact common period would be too long.
    """

    f_mains_hz: float
    f_signal_hz: float
    half_cycles: int
    signal_cycles: int

    @property
    def seconds(self) -> float:
        """Length of the period, s."""
        return self.half_cycles / (2.0 * self.f_mains_hz)

    def steps(self, grid: "Grid") -> int:
        """Steps in the period, fine enough for both the charging pulses and the signal."""
        each = grid.per_signal_cycle
        if self.signal_cycles > MOST_SIGNAL_CYCLES:
            each = min(each, COARSE_STEPS)
        return max(self.half_cycles * grid.per_half_cycle, self.signal_cycles * each)


@functools.lru_cache(maxsize=64)
def common_period(f_mains_hz: float, f_signal_hz: float) -> CommonPeriod:
    """The shared period of ``|sin|`` at mains frequency and a sine of ``f_signal_hz`` (both > 0).

    Exactly 1 / gcd(2 f_mains, f_signal) where that is at most 40 half cycles (8 for signals above
    2 f_mains, fewer where they would hold more than 250 signal cycles), else that of the nearest frequency for which
    it is.
    """
    ratio = fractions.Fraction(f_signal_hz / (2.0 * f_mains_hz))
    maximum = MOST_HALF_CYCLES_BELOW
    if f_signal_hz >= 2.0 * f_mains_hz:
        maximum = max(1, min(MOST_HALF_CYCLES_ABOVE, int(MOST_SIGNAL_CYCLES / float(ratio))))
    near = ratio.limit_denominator(maximum)
    if near <= 0:
        near = fractions.Fraction(1, maximum)
    return CommonPeriod(
        f_mains_hz=f_mains_hz,
        f_signal_hz=float(near) * 2.0 * f_mains_hz,
        half_cycles=near.denominator,
        signal_cycles=near.numerator,
    )
