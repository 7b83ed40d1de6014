"""What stands ahead of the rails, as one chain from the wall: the mains, a lamp, a soft start.

A variable transformer only turns the mains; a lamp is as warm as the build at rest keeps it; of a soft start that
nothing bridges stays its resistance, a thermistor's as warm as the current keeps it.
"""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.parts import Entry
from plinth.builds.situation import Situation
from plinth.physics.mains.lamp import ROOM_K
from plinth.physics.rails.time_course import SoftStart, Thermistor
from plinth.predict.circuits import supplies_in_all
from plinth.predict.lamp_ahead import LampAhead
from plinth.predict.supply_kinds.numbers import Values

# Rounds of a thermistor and its current, and the share of its resistance by which the last may differ from the next.
MOST_WARMINGS = 6
WARM = 3e-3


@dataclasses.dataclass(frozen=True)
class Ahead:
    """The chain: ``lamp`` in series, ``soft`` start that stays, with the ``r_soft_ohm`` it has now.

    Both None: the mains meets the primaries themselves. Ohms ahead of all supplies together.
    """

    lamp: LampAhead | None = None
    soft: SoftStart | None = None
    r_soft_ohm: float = 0.0

    def before(self, values: Values) -> dict[str, float]:
        """The values of a build with what its supplies see ahead of them."""
        return {
            **values,
            "r_ahead": (0.0 if self.lamp is None else self.lamp.r_main_ohm) + self.r_soft_ohm,
            "input_r_ahead": 0.0 if self.lamp is None else self.lamp.r_input_ohm,
        }

    @property
    def warms(self) -> bool:
        """Whether its resistance depends on the current through it."""
        return self.soft is not None and self.soft.ntc is not None

    def warmed(self, i_rms_a: float, ambient_c: float) -> "Ahead":
        """The chain with its soft start as warm as this current keeps it."""
        if self.soft is None or self.soft.ntc is None:
            return self
        return dataclasses.replace(self, r_soft_ohm=self.soft.ntc.steady(i_rms_a, ambient_c)[1])

    def like(self, other: "Ahead") -> bool:
        """Whether a round more would hardly change its soft start."""
        return abs(other.r_soft_ohm - self.r_soft_ohm) < WARM * other.r_soft_ohm


def ahead_of(build: Build, lamp: LampAhead | None = None, near: Ahead | None = None) -> Ahead:
    """The chain ahead of a build; its thermistor as warm as that of ``near``.

    Where that has none, it begins as if it were not there: its first current is then hardly off.
    """
    soft = staying_soft_start(build.entry) if build.supply.transformer is not None else None
    if soft is None:
        return Ahead(lamp)
    if soft.ntc is None:
        return Ahead(lamp, soft, soft.r_ohm)
    return Ahead(lamp, soft, near.r_soft_ohm if near is not None and near.warms else 0.0)


def at_switch_on(build: Build, lamp: LampAhead | None) -> SoftStart | None:
    """What stands ahead of the primary when power comes on, as each of several like supplies sees it."""
    count = supplies_in_all(build)
    if lamp is None:
        return soft_start_of(build.entry, count)
    # All draw through the one lamp: to each it is one of that share of its rating. It outweighs a soft start.
    each = dataclasses.replace(lamp.lamp, p_rated_w=lamp.lamp.p_rated_w / count)
    return SoftStart(each.ohm(ROOM_K), lamp=each)


def turned(situation: Situation, mains_v_rms: float) -> Situation:
    """The situation with a variable transformer at the wall, as low as it goes: no bounds of a house's mains."""
    return situation.model_copy(update={"mains_v_rms": mains_v_rms})


def soft_start_of(entry: Entry, supplies: int = 1) -> SoftStart | None:
    """The soft start of an entry, None without one; as each of several like supplies behind it sees it."""
    if entry.r_soft_ohm is None:
        return None
    ntc = None
    if entry.ntc_beta_k is not None:
        assert entry.ntc_dissipation_w_per_k is not None, "held by validation"
        assert entry.ntc_heat_capacity_j_per_k is not None, "held by validation"
        # All draw through the one part: each sees it as many times over, and warms it with its share.
        ntc = Thermistor(
            entry.r_soft_ohm * supplies, entry.ntc_beta_k, entry.ntc_dissipation_w_per_k / supplies,
            entry.ntc_heat_capacity_j_per_k / supplies,
        )  # fmt: skip
    return SoftStart(entry.r_soft_ohm * supplies, math.inf if entry.soft_bypass_s is None else entry.soft_bypass_s, ntc)


def staying_soft_start(entry: Entry) -> SoftStart | None:
    """A soft start that nothing bridges: its resistance stays ahead of the primary. None where there is none."""
    soft = soft_start_of(entry)
    return soft if soft is not None and math.isinf(soft.bypass_s) else None
