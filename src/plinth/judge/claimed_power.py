"""The most power that a swing can give into a load, by what a listing means with power."""

import dataclasses
import math

from plinth.judge.claims import THD_OF
from plinth.physics.stages.clipped_sine import power_ratio_at
from plinth.physics.stages.levels import power_w
from plinth.units.shown import shown


@dataclasses.dataclass(frozen=True)
class MostPower:
    """``power_w`` with nothing lost; ``ratio`` what its distortion adds to a clean sine; ``arithmetic`` in words."""

    power_w: float
    ratio: float
    arithmetic: str


def most_power(swing_v_peak: float, r_load_ohm: float, definition: str = "unstated") -> MostPower:
    """The most that ``swing_v_peak`` gives into ``r_load_ohm``: U^2 / (2 R), more where the sine may be clipped.

    Where nobody says how clipping is meant, the kindest meaning is taken: 10 % of distortion.
    """
    share = THD_OF.get(definition, 0.10 if definition == "unstated" else 0.0)
    ratio = power_ratio_at(share)
    maximum = power_w(swing_v_peak / math.sqrt(2.0), r_load_ohm) * ratio
    meant = f" × {ratio:.2f} at {100.0 * share:g} % distortion" if share else ""
    return MostPower(
        maximum, ratio, f"{shown(swing_v_peak, 'V')}² / (2 × {r_load_ohm:g} Ω){meant} = {shown(maximum, 'W')}"
    )
