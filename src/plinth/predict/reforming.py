"""Re-forming old reservoirs on a variable transformer: for how long, behind which resistor, and what it should drop."""

import dataclasses
import functools
import math

from plinth.builds.build import Build
from plinth.builds.properties import How, how_known
from plinth.builds.situation import Situation
from plinth.builds.supply_parts import Reservoir
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.numbers.preferred import nearest
from plinth.physics.rails.reforming import held_v, mean_current_a, sound_leakage_a
from plinth.predict.circuits import circuit_of
from plinth.predict.estimates import OLD_AFTER_YEARS, USUAL_AGE_YEARS
from plinth.predict.inputs import inputs_of
from plinth.predict.source_chain import turned

# Shares of the mains, rising.
SHARES = (0.2, 0.4, 0.6, 0.8, 1.0)
# Practice, not physics: hours at each step by the age of the can, in years.
HOURS_BY_AGE = ((2.0, 0.25), (10.0, 1.0), (25.0, 2.0), (math.inf, 4.0))
# What the resistor drops of the rail where all is sound.
DROPPED = 0.03


@dataclasses.dataclass(frozen=True)
class ReformingStep:
    """What to expect at ``mains_v``, held for ``hours``.

    The rail, and what a DC meter shows across the resistor: with no leakage, and with the most that a sound can has.
    """

    mains_v: float
    rail_v: float
    dropped_least_v: float
    dropped_most_v: float
    hours: float


@dataclasses.dataclass(frozen=True)
class Reforming:
    """``r_ohm`` in series with each reservoir, ``p_w`` what it takes with a shorted one; how their age is known."""

    r_ohm: float
    p_w: float
    hours_each: float
    age_years: float
    age_known: How
    steps: tuple[ReformingStep, ...]

    @property
    def age_estimated(self) -> bool:
        """Whether nobody stands for their age."""
        return not self.age_known.trusted

    @property
    def hours_in_all(self) -> float:
        """From the first turn up to the end of the last hold, which is at full mains without the resistors."""
        return (len(self.steps) + 1) * self.hours_each


def is_old(can: Reservoir, this_year: int) -> bool:
    """Whether a can wants to be brought back slowly: old by its year, or nobody knows its age."""
    return can.year is None or this_year - can.year >= OLD_AFTER_YEARS


def cans_are_old(build: Build, this_year: int) -> bool:
    """Whether any reservoir of a build is an old one."""
    supply = build.supply
    cans = [supply.reservoir, *([supply.reservoir_minus] if supply.reservoir_minus is not None else [])]
    return any(is_old(can, this_year) for can in cans)


def hours_at_each(age_years: float) -> float:
    """How long each step is held, by the age of the can."""
    return next(hours for most, hours in HOURS_BY_AGE if age_years <= most)


@functools.lru_cache(maxsize=32)
def reforming(
    build: Build, this_year: int, from_share: float | None = None, hours_in_all: float | None = None
) -> Reforming:
    """The schedule for a build's reservoirs: five steps up to the mains, and as long again without the resistors.

    ``from_share`` of the mains it begins at, ``hours_in_all`` that it takes; None: from a fifth, by the cans' age.
    Raises PhysicsError for a supply without a transformer.
    """
    supply = build.supply
    if supply.transformer is None:
        raise PhysicsError("found no mains transformer, expected one: there is nothing to turn up slowly")
    cans = [supply.reservoir, *([supply.reservoir_minus] if supply.reservoir_minus is not None else [])]
    dated = [can for can in cans if can.year is not None]
    oldest = min(dated, key=lambda can: can.year or this_year, default=None)
    known = How.UNKNOWN if oldest is None else how_known(oldest, "year")
    age = USUAL_AGE_YEARS if oldest is None or oldest.year is None else float(max(this_year - oldest.year, 0))
    mains = Situation().mains_rms(build)
    begin, rise = (SHARES[0] if from_share is None else from_share), len(SHARES) - 1
    shares = (*(begin + (1.0 - begin) * k / rise for k in range(rise)), 1.0)
    values = {key: quantity.value for key, quantity in inputs_of(build).items()}
    crests = {
        share: max(circuit.v_crest - circuit.v_drop, 0.0)
        for share in shares
        for circuit in [circuit_of(build, turned(Situation(), share * mains), values)]
    }
    top = crests[1.0]
    largest = max(cans, key=lambda can: _most_a(can, top))
    r = nearest(DROPPED * top / _most_a(largest, top))
    hours = hours_at_each(age) if hours_in_all is None else hours_in_all / (len(SHARES) + 1)
    return Reforming(
        r, top * top / r, hours, age, known,
        tuple(_step(share * mains, crest, r, cans, hours) for share, crest in crests.items() if crest > 0.0),
    )  # fmt: skip


def _most_a(can: Reservoir, v: float) -> float:
    """What a sound can with its bleeder takes at the most."""
    bleeder = 0.0 if can.r_bleeder_ohm is None else v / can.r_bleeder_ohm
    return bleeder + sound_leakage_a(can.c_f * (1.0 + can.c_tol), can.v_rated, v)


def _step(mains_v: float, crest: float, r: float, cans: list[Reservoir], hours: float) -> ReformingStep:
    rails, least, maximum = [], [], []
    for can in cans:
        dry = held_v(crest, r, can.r_bleeder_ohm, 0.0)
        wet = held_v(crest, r, can.r_bleeder_ohm, sound_leakage_a(can.c_f * (1.0 + can.c_tol), can.v_rated, crest))
        rails.append(0.5 * (dry + wet))
        least.append(r * mean_current_a(crest, dry, r))
        maximum.append(r * mean_current_a(crest, wet, r))
    return ReformingStep(mains_v, min(rails), min(least), max(maximum), hours)
