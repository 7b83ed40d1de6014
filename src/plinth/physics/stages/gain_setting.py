"""Resistors that set a gain: the value wanted, what can be bought for it alone or as a pair, and the gain that makes.

Non-inverting G = 1 + R_f / R_g, inverting G = R_f / R_in, a divider ahead of the input G = R_b / (R_a + R_b) of what
stands behind it. Source: the ideal feedback amplifier.
"""

import dataclasses
import itertools
import math
from typing import Literal

Arrangement = Literal["feedback to ground", "feedback to output", "inverting input", "divider top", "divider bottom"]
# How far apart from the wanted value those of a pair may be, and how many values a decade count as dense.
FAR_SPREAD, NEAR_SPREAD, DENSE = 100.0, 10.0, 24


def resistor_for(arrangement: Arrangement, gain: float, fixed_ohm: float) -> float:
    """Ohm of the resistor that is chosen, for a gain beside the one that stays (``fixed_ohm``).

    ``feedback to ground`` R_g beside R_f, ``feedback to output`` R_f beside R_g; ``inverting input`` R_in beside R_f;
    ``divider top`` R_a beside R_b and ``divider bottom`` R_b beside R_a, for a gain below 1. Raises ValueError for a
    gain that the arrangement cannot have.
    """
    if fixed_ohm <= 0.0 or gain <= 0.0:
        raise ValueError(f"found a gain of {gain:g} beside {fixed_ohm:g} ohm, expected both above 0")
    if arrangement in ("feedback to ground", "feedback to output"):
        if gain <= 1.0:
            raise ValueError(f"found a gain of {gain:g}, expected more than 1: such feedback gives no less")
        return fixed_ohm / (gain - 1.0) if arrangement == "feedback to ground" else fixed_ohm * (gain - 1.0)
    if arrangement == "inverting input":
        return fixed_ohm / gain
    if gain >= 1.0:
        raise ValueError(f"found a gain of {gain:g}, expected less than 1: a divider only takes away")
    return fixed_ohm * (1.0 / gain - 1.0) if arrangement == "divider top" else fixed_ohm / (1.0 / gain - 1.0)


def gain_with(arrangement: Arrangement, r_ohm: float, fixed_ohm: float) -> float:
    """The gain with a chosen resistor beside the one that stays."""
    match arrangement:
        case "feedback to ground":
            return 1.0 + fixed_ohm / r_ohm
        case "feedback to output":
            return 1.0 + r_ohm / fixed_ohm
        case "inverting input":
            return fixed_ohm / r_ohm
        case "divider top":
            return fixed_ohm / (r_ohm + fixed_ohm)
        case "divider bottom":
            return r_ohm / (r_ohm + fixed_ohm)


@dataclasses.dataclass(frozen=True)
class Made:
    """A resistance made of one value, or of two in series or in parallel: ``parts`` and ``how`` they are joined."""

    parts: tuple[float, ...]
    how: Literal["", "series", "parallel"]
    ohm: float


def made_near(wanted_ohm: float, series: tuple[float, ...], pairs: bool, most: int = 4) -> tuple[Made, ...]:
    """What comes nearest to ``wanted_ohm`` (> 0) from a series of values a decade, by ratio; the nearest first.

    Pairs of values within a factor of a hundred of the wanted one, of ten in a dense series. Of several that make the
    same, the one whose values are nearest to each other.
    """
    decade = math.floor(math.log10(wanted_ohm))
    values = [float(f"{step * 10.0**power:.3g}") for power in range(decade - 2, decade + 3) for step in series]
    settings = [Made((value,), "", value) for value in values]
    if pairs:
        spread = FAR_SPREAD if len(series) <= DENSE else NEAR_SPREAD
        low, high = wanted_ohm / spread, wanted_ohm * spread
        near = [value for value in values if low <= value <= high]
        settings += [Made((a, b), "series", a + b) for a, b in itertools.combinations_with_replacement(near, 2)]
        settings += [
            Made((a, b), "parallel", a * b / (a + b)) for a, b in itertools.combinations_with_replacement(near, 2)
        ]
    settings.sort(
        key=lambda setting: (
            round(abs(math.log(setting.ohm / wanted_ohm)), 9),
            len(setting.parts),
            max(setting.parts) / min(setting.parts),
        )
    )
    distinct = {f"{setting.ohm:.6g}": setting for setting in reversed(settings[: 40 * most])}
    return tuple(setting for setting in settings[: 40 * most] if distinct[f"{setting.ohm:.6g}"] is setting)[:most]
